"""The figures of one face as they are written down: one column each, one value a patch."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.colour import lab_to_linear, linear_to_lab
from rezept.core.photo.course import course_of
from rezept.core.photo.flat import LUMINANCE
from rezept.core.photo.measure import Measured
from rezept.core.plan import Plate
from rezept.core.reading import BELOW_ALIKE, GROUND_ASSUMED, NARROW, SPOILING

Floats = NDArray[np.float64]
Lab = tuple[float, float, float]

# Where nothing is known of the ground: a pale, nearly grey one, said to be assumed.
ASSUMED_GROUND: Lab = (75.0, 0.0, 0.0)
DIGITS = {"lightness": 2, "a": 2, "b": 2, "lightness_unsure": 2, "contrast": 2}


@dataclass(frozen=True)
class Figures:
    """Columns ``(n,)`` over all patches of a plate; NaN where there is nothing to say.

    ratio : linear luminance, patch over ground
    lightness, a, b : CIELAB (D65, 2 degrees) of that ratio on the ground's colour; `lightness_unsure` one standard
        deviation of L*; `contrast` L* minus the ground's
    evenness : scatter of L* within the patch; banding : scatter of its lines' means, as a share
    open : share of the inside one sees through; open_outline : of the outline, and outline_unsure : what
        of it may or may not be; bridge_mm : longest stretch that holds
    kerf_mm, halo_mm, soot, edge_mm : see `Measured`
    flags : for each patch what spoils its figures
    """

    ratio: Floats
    lightness: Floats
    a: Floats
    b: Floats
    lightness_unsure: Floats
    contrast: Floats
    evenness: Floats
    banding: Floats
    open: Floats
    open_outline: Floats
    outline_unsure: Floats
    bridge_mm: Floats
    kerf_mm: Floats
    halo_mm: Floats
    soot: Floats
    edge_mm: Floats
    flags: tuple[tuple[str, ...], ...]

    def without(self, left_out: NDArray[np.bool_], flag: str) -> Figures:
        """The same without the figures of some patches ``(n,)``, which are flagged instead."""
        columns = {key: np.where(left_out, np.nan, getattr(self, key)) for key in COLUMNS}
        flags = tuple((flag,) if out else own for out, own in zip(left_out, self.flags, strict=True))
        return Figures(**columns, flags=flags)

    def flagged(self, which: NDArray[np.bool_], flag: str) -> Figures:
        """The same with some patches ``(n,)`` flagged."""
        return replace(
            self, flags=tuple((*own, flag) if one else own for one, own in zip(which, self.flags, strict=True))
        )

    def row(self, i: int) -> dict[str, Any]:
        """One patch's figures, None where there is none."""
        return {key: written(getattr(self, key)[i], DIGITS.get(key, 4)) for key in COLUMNS} | {
            "flags": list(self.flags[i])
        }


COLUMNS = tuple(field.name for field in fields(Figures) if field.name != "flags")


def written(value: float, digits: int = 4) -> float | None:
    return None if np.isnan(value) else round(float(value), digits)


def figures_of_rows(plate: Plate, rows: Mapping[str, Mapping[str, Any]]) -> Figures:
    """Figures that were written down, by patch."""

    def column(key: str) -> Floats:
        found = (rows.get(patch, {}).get(key) for patch in plate.elements.ids)
        return np.array([np.nan if value is None else value for value in found], float)

    flags = tuple(tuple(rows.get(patch, {}).get("flags", ())) for patch in plate.elements.ids)
    return Figures(**{key: column(key) for key in COLUMNS}, flags=flags)


def ground_of(plate: Plate, by_card: Lab | None = None) -> tuple[Lab, bool]:
    """L*, a*, b* of the bare material, and whether they are assumed: as the shop knows it, else as the reference card
    in the picture has it."""
    known = plate.trial.material.ground_lab
    if known is not None:
        light, red, yellow = known
        return (light, red, yellow), False
    return (ASSUMED_GROUND, True) if by_card is None else (by_card, False)


def figures_of(plate: Plate, measured: Measured, by_card: Lab | None = None) -> Figures:
    """Measurements put onto the ground's known colour."""
    ground, assumed = ground_of(plate, by_card)
    on_ground = lab_to_linear(ground)
    lab = linear_to_lab(np.clip(measured.ratio, 0, None) * on_ground)
    # dL*/dY = 116/3 Y^(-2/3): what a share of Y is in L*.
    luminance = np.maximum(measured.luminance * float(on_ground @ LUMINANCE), 0.004)
    a_share = 116 / 3 * np.cbrt(luminance)
    relative = measured.spread / np.maximum(measured.luminance, 0.02)
    marks = [(name, getattr(measured, name)) for name in sorted(SPOILING)]
    narrow = course_of(plate).narrow
    flags: Sequence[tuple[str, ...]] = [
        (GROUND_ASSUMED,) * assumed
        + (NARROW,) * narrow
        + (BELOW_ALIKE,) * bool(measured.below_alike[i])
        + tuple(name for name, marked in marks if marked[i])
        if burns
        else ()
        for i, burns in enumerate(plate.elements.burn.tolist())
    ]
    return Figures(
        ratio=measured.luminance,
        lightness=lab[:, 0],
        a=lab[:, 1],
        b=lab[:, 2],
        lightness_unsure=a_share * measured.unsure,
        contrast=lab[:, 0] - ground[0],
        evenness=a_share * relative,
        banding=measured.banding,
        open=measured.open_inside,
        open_outline=measured.open_outline,
        outline_unsure=measured.outline_unsure,
        bridge_mm=measured.bridge_mm,
        kerf_mm=measured.kerf_mm,
        halo_mm=measured.halo_mm,
        soot=measured.soot,
        edge_mm=measured.edge_mm,
        flags=tuple(flags),
    )
