"""What could go wrong with a plate, found before it burns.

Each check works on arrays over the patches and gives a mask, the values and a sentence; nothing is clipped.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import quoted
from rezept.core.machine import Machine
from rezept.core.material import NEVER_BURN
from rezept.core.parameters import Settings
from rezept.core.path.lettering import lacking
from rezept.core.plan.cautions import (
    Caution,
    burn_through_finding,
    burned_ground_finding,
    corner_finding,
    dropped_finding,
    fire_finding,
    hot_end_finding,
    stripes_finding,
)
from rezept.core.plan.elements import Step
from rezept.core.plan.limits import rounding_warnings, unshown_findings
from rezept.core.plan.plate import Plate, Warning
from rezept.core.plan.plate_words import patch_words, step_words
from rezept.core.wording import counted

# A letter of so many spots is six strokes and the ground between them high.
LEGIBLE_SPOTS = 8.0


def step_findings(plate: Plate, step: Step) -> list[Caution]:
    """What the machine can do in one step and one may still not want."""
    trial = plate.trial
    fire, hot = fire_finding(trial, step), hot_end_finding(trial, step)
    if fire is not None and hot is not None:
        # One sentence about fire is enough for an element: the graver one.
        hot = replace(hot, bad=hot.bad & ~fire.bad)
    found = [
        dropped_finding(trial, step),
        fire,
        hot,
        burn_through_finding(trial, step),
        stripes_finding(trial, step),
        burned_ground_finding(plate),
        corner_finding(step),
        *unshown_findings(trial, step.settings),
    ]
    return [finding for finding in found if finding is not None and finding.bad.any()]


def per_element(
    names: Sequence[str], burn: NDArray[np.bool_], findings: Sequence[Caution]
) -> tuple[tuple[Warning, ...], ...]:
    """The findings, sorted to the elements they are about; elements switched off cannot go wrong."""
    found: list[list[Warning]] = [[] for _ in names]
    for finding in findings:
        for i in np.flatnonzero(finding.bad & (burn | finding.unburned)).tolist():
            value, limit = float(finding.value[i]), float(finding.limit[i])
            found[i].append(
                Warning(
                    finding.kind,
                    finding.level,
                    f"{names[i]}: {finding.sentence(value, limit)}",
                    finding.path,
                    value,
                    limit if math.isfinite(limit) else None,
                )
            )
    return tuple(tuple(warnings) for warnings in found)


def _spelled_otherwise(texts: Sequence[str]) -> list[Warning]:
    """Letters of names for which the stroke font has nothing."""
    missing = lacking("".join(texts))
    if not missing:
        return []
    sentence = f"There are no strokes for {quoted(missing)}: a ? is burned in their place. Another spelling helps."
    return [Warning("spelling", "warning", sentence, "labels")]


def plate_warnings(plate: Plate) -> list[Warning]:
    """What is about the plate as a whole: hazards, the labels, settings the machine is not told."""
    trial = plate.trial
    warnings = [
        Warning(
            "hazard",
            "warning",
            f"{trial.material.title} {NEVER_BURN[hazard]}. A technician answers for it; extraction on, nobody beside"
            " the smoke.",
            "material.hazards",
        )
        for hazard in trial.material.hazards
        if hazard in trial.accepted_hazards
    ]
    warnings += [*_label_warnings(plate), *_spelled_otherwise([text.text for text in plate.texts])]
    warnings += [*_figure_warnings(plate), *rounding_warnings(trial)]
    for step in plate.steps:
        warnings += _pulse_warnings(trial.machine, step.settings)
    return warnings


def _figure_warnings(plate: Plate) -> list[Warning]:
    """What does not close, is not filled or overlaps in a figure somebody brought."""
    own = plate.trial.patch.own
    if own is None:
        return []
    warnings = []
    brought = own.brought
    count = len(brought.open)
    if count and any(step.process.fills for step in plate.trial.steps):
        (x, y), gap = brought.open[0].ends[0], brought.open[0].gap_mm
        sentence = (
            f"{counted(count, 'line of the figure does', 'lines of the figure do')} not close and"
            f" {'is' if count == 1 else 'are'} not filled; the first ends at {x:.4g}, {y:.4g} with a gap of {gap:.3g}"
            " mm."
        )
        warnings.append(Warning("open", "warning", sentence, "patch.figure", float(count), 0.0))
    if brought.crossings:
        x, y = brought.crossings[0]
        sentence = (
            f"Outlines of the figure cross or touch, first at {x:.4g}, {y:.4g} of it: what lies in two of them counts"
            " as a hole."
        )
        warnings.append(Warning("crossing", "note", sentence, "patch.figure"))
    return warnings


def _pulse_warnings(machine: Machine, settings: Settings) -> list[Warning]:
    warnings = []
    if machine.frequency_range(None) is not None and "frequency_khz" not in settings:
        warnings.append(
            Warning(
                "unset",
                "note",
                f"No frequency is set; {machine.name} will use whatever it was left at. Hold one to be sure.",
                "hold.frequency_khz",
            )
        )
    widths = {width.ns: width for width in machine.pulse_widths or ()}
    if "pulse_width_ns" in settings and "frequency_khz" in settings:
        pairs = zip(settings["pulse_width_ns"].tolist(), settings["frequency_khz"].tolist(), strict=True)
        weak = [khz for ns, khz in pairs if ns in widths and widths[ns].low_khz <= khz < widths[ns].full_power_from_khz]
        if weak:
            warnings.append(
                Warning(
                    "power_falls",
                    "note",
                    f"{counted(len(weak), 'patch lies', 'patches lie')} below the frequency from which {machine.name}"
                    " gives its full power, and less is burned there than the dose says. Raise the frequency, or judge"
                    " by eye.",
                    "frequency_khz",
                    min(weak),
                )
            )
    return warnings


def _left_out(plate: Plate) -> tuple[int, int]:
    """How many values beside the patches have no room, and how many there are."""
    trial, blocks = plate.trial, plate.trial.grid.blocks
    if not trial.labels.numbers:
        return 0, 0
    across, up = (1, 1) if blocks is None else (blocks.columns, blocks.rows)
    wanted = len(step_words(trial, "x")) * across + len(step_words(trial, "y")) * up
    there = sum(text.kind in ("row", "column") for text in plate.texts)
    if patch_words(trial):
        return 0, wanted
    return max(wanted - there, 0), wanted


def _nameless(plate: Plate) -> list[Warning]:
    """Says how many parts are too small to carry their name."""
    names = {text.text for text in plate.texts if text.kind == "id"}
    elements = plate.elements
    small = [name for name, burns in zip(elements.ids, elements.burn, strict=True) if burns and name not in names]
    if not plate.trial.labels.ids or not small:
        return []
    sentence = f"{counted(len(small), 'patch is', 'patches are')} too small to carry a name."
    return [Warning("labels", "warning", f"{sentence} Take larger ones.", "labels.ids", float(len(small)), 0.0)]


def _label_warnings(plate: Plate) -> list[Warning]:
    trial = plate.trial
    if not trial.labels.lettered:
        return _nameless(plate)
    machine = trial.machine
    left_out, wanted = _left_out(plate)
    touching = [
        Warning(
            "labels",
            "warning",
            f"{counted(left_out, 'value')} of {wanted} beside the patches {'is' if left_out == 1 else 'are'} left out,"
            " since they would touch. Take larger patches or smaller letters.",
            "labels.height_mm",
            float(left_out),
            0.0,
        )
        for _ in range(int(left_out > 0))
    ]
    legible = LEGIBLE_SPOTS * (machine.head.spot_mm or 0.0)
    height = trial.labels.height_mm
    return [*_nameless(plate), *touching] + [
        Warning(
            "labels",
            "warning",
            f"Letters of {height:g} mm are hardly legible with a spot of {machine.head.spot_mm:g} mm;"
            f" take {legible:.2g} mm or more.",
            "labels.height_mm",
            height,
            legible,
        )
        for _ in range(int(height < legible))
    ]
