"""What work on a material usually takes: one table of our own, by process and family.

The figures are round ones. They were reasoned from what it takes to heat and gasify such a material (its density times
its heat, some 2 to 6 J/mm3 for what burns, more for what melts), over the width of a line of about 0.2 mm, and set
against the laws of the bench (`docs/physics.md`); none comes from a machine's papers. They are good to find what is
out of all proportion, not to plan by: results lie within `SPREAD` times of them, either way.
"""

from __future__ import annotations

from collections.abc import Mapping

from rezept.core.process import Process

# Line dose in J/mm for each mm of thickness.
CUT_J_MM_A_MM: Mapping[str, float] = {
    "wood": 0.65,
    "paper": 0.5,
    "leather": 1.0,
    "textile": 0.35,
    "plastic": 1.2,
    "rubber": 1.2,
    "linoleum": 1.2,
    "other": 0.8,
}
# Line dose in J/mm of a line that stays on the surface.
LINE_J_MM: Mapping[str, float] = {
    "wood": 0.06,
    "paper": 0.03,
    "leather": 0.06,
    "textile": 0.04,
    "plastic": 0.08,
    "rubber": 0.1,
    "linoleum": 0.1,
    "metal": 0.1,
    "coated metal": 0.03,
    "stone": 0.1,
    "glass": 0.1,
    "ceramic": 0.1,
    "other": 0.06,
}
# Area dose in J/mm2.
AREA_J_MM2: Mapping[str, float] = {
    "wood": 0.6,
    "paper": 0.25,
    "leather": 0.7,
    "textile": 0.3,
    "plastic": 0.5,
    "rubber": 0.9,
    "linoleum": 0.9,
    "metal": 1.5,
    "coated metal": 0.3,
    "stone": 0.7,
    "glass": 0.7,
    "ceramic": 0.7,
    "other": 0.6,
}
SPREAD = 2.5
# So many times what is usual is out of all proportion; half of it is, where the beam stays in one patch for long.
FAR_OVER = 6.0
OVER, LONG_S = 3.0, 5.0


def typical_dose(process: Process, family: str, thickness_mm: float | None) -> float | None:
    """What a process usually takes on a material: J/mm for cuts and lines, J/mm2 for all that is filled.

    None where nothing is known: a cut of a sheet whose thickness nobody has said, or of what is not cut by light.
    """
    if process.passes_through:
        a_mm = CUT_J_MM_A_MM.get(family)
        return None if a_mm is None or thickness_mm is None else a_mm * thickness_mm
    if process.draws_lines:
        return LINE_J_MM.get(family)
    area = AREA_J_MM2.get(family)
    return None if area is None else area * process.layers
