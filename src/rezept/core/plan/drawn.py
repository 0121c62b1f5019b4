"""What is drawn on a plate beside its patches: lettering, code and marks first, hang hole and cut-out last."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.motion import hatch_seconds, strokes_seconds, travel_seconds
from rezept.core.path.outlines import arc, rectangle
from rezept.core.plan.layout import Layout
from rezept.core.plan.marks import QR_SIDE, code_lines, code_modules, corner_mark
from rezept.core.plan.parts import CutOut
from rezept.core.plan.trial import Trial

Floats = NDArray[np.float64]
BASELINE_KEYS = ("x_mm", "y_mm", "height_mm")
NO_LINES = np.zeros((0, 2, 2))


@dataclass(frozen=True)
class Drawn:
    """One line of lettering, a mark, or a cut of the plate itself, mm on the plate.

    kind : ``label``, ``mark`` or ``outline``
    role : for drawings: axis, column, row, block, title, corner, distinct, qr, hang-hole, cut-out
    ways : polylines ``(k, 2)``, each gone along `passes` times before the next
    lines : hatch lines ``(N, 2, 2)``, all of them again for every pass
    last : burned after the patches
    baseline : for lettering, where its baseline begins and how high its capitals are: x, y, height in mm
    """

    name: str
    kind: str
    role: str
    settings: Mapping[str, float]
    points: Floats
    begins: NDArray[np.bool_]
    lines: Floats
    last: bool = False
    baseline: tuple[float, float, float] | None = None

    @property
    def ways(self) -> list[Floats]:
        return np.split(self.points, np.flatnonzero(self.begins)[1:]) if len(self.points) else []

    @property
    def start(self) -> Floats:
        first: Floats = self.points[0] if len(self.points) else self.lines[0, 0]
        return first

    @property
    def end(self) -> Floats:
        last: Floats = self.points[-1] if len(self.points) else self.lines[-1, 1]
        return last

    @property
    def passes(self) -> int:
        return int(self.settings["passes"])

    def document(self) -> dict[str, Any]:
        """As it stands in a plate file."""
        document: dict[str, Any] = {
            "name": self.name,
            "kind": self.kind,
            "role": self.role,
            "when": "after_patches" if self.last else "before_patches",
            "settings": dict(self.settings),
            "ways": [way.tolist() for way in self.ways],
            "lines": self.lines.tolist(),
        }
        if self.baseline is not None:
            document |= dict(zip(BASELINE_KEYS, self.baseline, strict=True))
        return document


def of_ways(name: str, kind: str, role: str, settings: Mapping[str, float], ways: list[Floats]) -> Drawn:
    """A drawn part of polylines only."""
    begins = np.concatenate([np.arange(len(way)) == 0 for way in ways])
    return Drawn(name, kind, role, settings, np.concatenate(ways), begins, NO_LINES, kind == "outline")


def _with_air(settings: Mapping[str, float], trial: Trial, unsaid: float | None) -> Mapping[str, float]:
    """Settings with the air the patches are burned with, where they do not say their own; `unsaid` where that is
    varied, or nobody has said it, on a machine whose program switches it."""
    key = "air_kpa" if trial.machine.air == "pressure" else "air_level"
    if not settings or trial.machine.air == "none" or key in settings:
        return settings
    held = trial.hold.get(key)
    if held is None and trial.machine.air == "on_off":
        held = unsaid
    return settings if held is None else {**settings, key: held}


def hang_hole_ring(centre: tuple[float, float] | None, cut_out: CutOut) -> Floats | None:
    """The hole to hang a plate by as a closed way; None where it has none."""
    if centre is None:
        return None
    radius = cut_out.hang_hole_mm / 2
    ring = arc(centre, (radius, radius), -90.0, 270.0, 0.02)
    ring[-1] = ring[0]
    return ring


def label_ways(trial: Trial, layout: Layout) -> tuple[Drawn, ...]:
    """Everything of a plate that is not a patch, in burn order."""
    labels = replace(trial.labels, settings=_with_air(trial.labels.settings, trial, None))
    # A cut without air chars, and may burn.
    cut_out = replace(trial.cut_out, settings=_with_air(trial.cut_out.settings, trial, 1.0))
    drawn: list[Drawn] = []
    for text in layout.texts:
        points, begins = text.points()
        if len(points):
            baseline = (text.x_mm, text.y_mm, text.height_mm)
            drawn.append(
                Drawn(text.text, "label", text.kind, labels.settings, points, begins, NO_LINES, baseline=baseline)
            )
    for mark in layout.marks:
        if mark.kind == "qr":
            spacing = trial.machine.head.spot_or_usual_mm
            lines = code_lines(
                code_modules(trial.code), mark.size_mm / QR_SIDE, spacing, trial.material.mark == "lighter"
            )
            corner = np.array([mark.x_mm, mark.y_mm]) - mark.size_mm / 2
            nothing = np.zeros((0, 2)), np.zeros(0, bool)
            drawn.append(Drawn("code", "mark", "qr", labels.settings, *nothing, lines + corner))
        else:
            drawn.append(of_ways(f"mark {mark.kind}", "mark", mark.kind, labels.settings, list(corner_mark(mark))))
    ring = hang_hole_ring(layout.hang_hole, cut_out)
    if ring is not None:
        drawn.append(of_ways("hang hole", "outline", "hang-hole", cut_out.settings, [ring]))
    if cut_out.on:
        around = rectangle(layout.width_mm, layout.height_mm)
        drawn.append(of_ways("cut-out", "outline", "cut-out", cut_out.settings, [around]))
    return tuple(drawn)


def drawn_seconds(trial: Trial, drawn: Sequence[Drawn]) -> float:
    """Time of what is drawn with the same settings beside the patches, with the moves inside each part.

    A stroke is repeated at once, pass after pass; only then comes the hop to the next.
    """
    machine = trial.machine
    seconds = 0.0
    parts = [part for part in drawn if len(part.points)]
    if parts:
        settings = parts[0].settings
        passes = settings["passes"]
        points = np.concatenate([part.points for part in parts])
        begins = np.concatenate([part.begins for part in parts])
        first = np.flatnonzero(begins)
        final = np.append(first[1:], len(points)) - 1
        burning = strokes_seconds(machine, points, begins, settings["speed_mm_s"]).sum() * passes
        back = travel_seconds(machine, np.linalg.norm(points[first] - points[final], axis=1)).sum()
        part_first = np.cumsum([0] + [len(part.points) for part in parts[:-1]])
        inside = np.setdiff1d(first, part_first)
        hops = travel_seconds(machine, np.linalg.norm(points[inside] - points[inside - 1], axis=1)).sum()
        pierce = settings.get("pierce_dwell_ms", 0.0) / 1000.0 * len(first) * passes
        seconds += float(burning + back * (passes - 1) + hops + pierce)
    for part in drawn:
        if len(part.lines):
            once = float(hatch_seconds(machine, part.lines, part.settings["speed_mm_s"])[0])
            back = float(travel_seconds(machine, np.linalg.norm(part.lines[0, 0] - part.lines[-1, 1])))
            seconds += once * part.passes + back * (part.passes - 1)
    return seconds
