"""What may go wrong with single patches although the machine can do it: heat, stripes, burned ground."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import line_dose, power_w
from rezept.core.plan.elements import Step, box_corners
from rezept.core.plan.ground import overlaps
from rezept.core.plan.place import to_piece
from rezept.core.plan.plate import Plate
from rezept.core.plan.trial import Trial
from rezept.core.typical import FAR_OVER, LONG_S, OVER, typical_dose
from rezept.core.wording import rounded

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]
HOT_OVER_START = 2.2
HOT_SPAN = 4.0
HOT_SHARE = 0.1
STRIPES_FROM_SPOTS = 1.5
CORNERS_FROM_RISE = 3.0


@dataclass(frozen=True)
class Caution:
    """One check's result over all patches. `sentence` gets the patch's value and completes its name.

    unburned : it is about patches that do not burn, which otherwise cannot go wrong
    once : it is said once for all of them, not patch by patch
    setting : the one it is about, where it is about one as such
    """

    kind: str
    level: str
    path: str
    bad: Mask
    value: Floats
    limit: Floats
    sentence: Callable[[float, float], str]
    unburned: bool = False
    once: bool = False
    setting: str = ""


def hot_end_finding(trial: Trial, step: Step) -> Caution | None:
    """The slow-and-strong end of the array, on materials that can burn.

    With a starting dose, everything above 2.2 times it. Without one, the top tenth of the patches (at least
    one; equals of the last one too) where the doses span more than 4 : 1; patches that are left out count among
    them, so that leaving the hot end out settles it.
    """
    if not trial.material.can_burn:
        return None
    material, unit, dose = trial.material.title, step.process.dose_unit, step.dose
    if trial.starting_dose is not None and step.process is trial.process:
        limit = HOT_OVER_START * trial.starting_dose
        bad = dose > limit * (1 + 1e-9)
        start = trial.starting_dose

        def sentence(value: float, _limit: float) -> str:
            return (
                f"{material} may catch fire: {rounded(value)} {unit} is {rounded(value / start, 2)} times the starting"
                f" dose of {rounded(start)}. Leave it out, or go faster there."
            )

    else:
        if dose.max() <= HOT_SPAN * dose.min():
            return None
        count = max(1, math.ceil(HOT_SHARE * len(dose) - 1e-9))
        limit = float(np.sort(dose)[-count])
        bad = dose >= limit * (1 - 1e-9)

        def sentence(value: float, _limit: float) -> str:
            return (
                f"{material} may catch fire: {rounded(value)} {unit} is among the strongest tenth of this plate, and"
                " no starting dose is known. Leave it out, or burn the weakest first and stop in time."
            )

    return Caution("hot_end", "warning", "dose", bad, dose, np.full(len(dose), limit), sentence)


def fire_finding(trial: Trial, step: Step) -> Caution | None:
    """Doses out of all proportion to what such work usually takes, whatever the rest of the plate has.

    `FAR_OVER` times what is usual (`core.typical`); `OVER` times it where a patch is burned for `LONG_S` or longer.
    """
    material, process, dose = trial.material, step.process, step.dose
    usual = typical_dose(process, material.family, material.thickness_mm)
    if usual is None:
        return None
    bad = (dose > FAR_OVER * usual) | ((dose > OVER * usual) & (step.seconds >= LONG_S))
    danger = f"{material.title} may catch fire" if material.can_burn else "look at these figures again"

    def sentence(value: float, limit: float) -> str:
        return (
            f"{danger}: {rounded(value)} {process.dose_unit} is {rounded(value / limit, 2)} times what {process.doing}"
            f" {material.family} usually takes (about {rounded(limit, 2)}). Leave it out, or go faster there."
        )

    return Caution("fire", "warning", "dose", bad, dose, np.full(len(dose), usual), sentence)


FIRE_KINDS = ("fire", "hot_end")


def fire_words(plate: Plate) -> str | None:
    """The plan's warnings of fire in a sentence: the gravest patch in full, and how many more."""
    found = [
        (index, warning)
        for index, warnings in enumerate(plate.patch_warnings)
        for warning in warnings
        if warning.kind in FIRE_KINDS and plate.elements.burn[index]
    ]
    if not found:
        return None
    _, worst = max(found, key=lambda one: float(plate.judged.dose[one[0]]))
    more = len(found) - 1
    return (
        worst.sentence
        if more == 0
        else f"{worst.sentence} {more} more {'patch is' if more == 1 else 'patches are'} like it."
    )


def dropped(trial: Trial, dose: Floats) -> Mask:
    """``(n,)`` patches outside the limits of dose the trial sets itself; what is added one by one is meant as it is."""
    floor, ceiling = trial.dose_limits
    outside = dose < (floor or 0.0) * (1 - 1e-9)
    if ceiling is not None:
        outside |= dose > ceiling * (1 + 1e-9)
    outside[len(trial.grid) :] = False
    return outside


def dropped_finding(trial: Trial, step: Step) -> Caution | None:
    """Says which patches the limits of dose leave out, and which limit it was; they are those of the trial's own
    process."""
    if step.process is not trial.process:
        return None
    dose = step.dose
    bad = dropped(trial, dose)
    if not bad.any():
        return None
    floor, ceiling = trial.dose_limits
    limit = np.where(dose < (floor or 0.0), floor or 0.0, ceiling or math.inf)
    unit = trial.process.dose_unit

    def sentence(value: float, against: float) -> str:
        side = "less than the least" if value < against else "more than the greatest"
        return f"left out: {value:.3g} {unit} is {side} dose wanted here ({against:.3g})."

    return Caution("dropped", "note", "dose", bad, dose, limit, sentence, unburned=True)


def burn_through_finding(trial: Trial, step: Step) -> Caution | None:
    """Marks that put as much into a line as is known to cut this material on this machine.

    Lines closer than the spot heat one another: the line dose counts ``spot / spacing`` times there.
    """
    known, settings = trial.cuts_at, step.settings
    if known is None or step.process.passes_through:
        return None
    power = power_w(trial.machine.rated_power_w, settings["power_pct"])
    dose = line_dose(power, settings["speed_mm_s"], settings["passes"])
    spot = trial.machine.head.spot_mm
    if spot is not None and "line_spacing_mm" in settings:
        dose = dose * np.maximum(1.0, spot / settings["line_spacing_mm"])
    title = trial.material.title

    def sentence(value: float, limit: float) -> str:
        return (
            f"this will probably burn through: {title} is cut by {rounded(limit)} J/mm, and this gives"
            f" {rounded(value)}. Go faster, or leave it out."
        )

    return Caution("burn_through", "warning", "dose", dose >= known, dose, np.full(len(dose), known), sentence)


def stripes_finding(trial: Trial, step: Step) -> Caution | None:
    """Hatch lines so far apart that bare ground stays between them."""
    spot = trial.machine.head.spot_mm
    spacing = step.settings.get("line_spacing_mm")
    if spot is None or spacing is None:
        return None
    limit = STRIPES_FROM_SPOTS * spot

    def sentence(value: float, _limit: float) -> str:
        return (
            f"lines {value:.3g} mm apart leave stripes: the spot is {spot:.3g} mm."
            " Take a spacing near the spot, or mean it."
        )

    count = len(spacing)
    return Caution("stripes", "warning", "line_spacing_mm", spacing > limit, spacing, np.full(count, limit), sentence)


def corner_finding(step: Step) -> Caution:
    """Corners that get far more than the straights, since the head slows there at constant power."""
    rise = step.corner_rise
    pairs = zip(rise.tolist(), step.corner_slowing_mm.tolist(), strict=True)
    longest = {round(value, 6): way for value, way in pairs}

    def sentence(value: float, _limit: float) -> str:
        way = longest[round(value, 6)]
        return (
            f"at the corners {value:.2g} times the dose: the head slows over the last {way:.2g} mm."
            " Go slower, or judge the straights."
        )

    limit = np.full(len(rise), CORNERS_FROM_RISE)
    return Caution("corner_heat", "note", "speed_mm_s", rise >= CORNERS_FROM_RISE, rise, limit, sentence)


def burned_ground_finding(plate: Plate) -> Caution | None:
    """Elements on ground that has been burned before: an unfair test."""
    trial = plate.trial
    if not trial.burned_ground or trial.piece is None:
        return None
    corners = box_corners(plate.elements.boxes)
    placed = to_piece(corners, trial.place, trial.piece, plate.width_mm, plate.height_mm)
    bad = np.any([overlaps(placed, polygon) for polygon in trial.burned_ground], axis=0)

    def sentence(_value: float, _limit: float) -> str:
        return "lies on ground that was burned before, which is no fair test; move the plate or leave the patch out."

    nothing = np.zeros(len(bad))
    return Caution("burned_ground", "warning", "place", bad, nothing, nothing, sentence)
