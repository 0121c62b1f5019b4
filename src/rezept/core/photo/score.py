"""From the figures of a plate's faces to the scores a person gives, each with how sure it is."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.colour import lab_to_linear, linear_to_lab
from rezept.core.photo.figures import Figures
from rezept.core.photo.openings import FALLEN
from rezept.core.plan import Plate
from rezept.core.process import Face
from rezept.core.reading import BELOW_ALIKE, GROUND_ASSUMED, NARROW, PLACE_DOUBTFUL, SPOILING
from rezept.core.scales import BLACKEST, SCALES, WHITEST

Floats = NDArray[np.float64]

# Shares of the outline that is through from which a part comes out with a push, and is cut partly; in between a photo
# is unsure by the last.
WITH_A_PUSH, PARTLY, OUTLINE_UNSURE = 0.81, 0.09, 0.03
# However much of the outline is through: with a bridge of this length, mm, no push gets it out. Bridges of less than a
# millimetre that lie side by side are seen as one; it is unsure by the second.
LONGEST_BRIDGE_MM, BRIDGE_UNSURE_MM = 3.0, 0.5
# A share of the inside that is open, of a part that has fallen out, is unsure by this.
FALLEN_UNSURE = 0.1
# Where below looks like the sheet, or the faces contradict each other, nothing is surer.
NOT_SURE = 0.8
# A bridge is worth naming from this length on.
LEAST_BRIDGE_MM = 0.6
MOST_DARK = int(SCALES["darkness"].high)
# A mark is plainly lighter than its ground where others are darker, or the other way round, from this difference of L*
# on; and of another colour where a* and b* are so far off: more than scorched wood, leather and card brown.
OTHER_WAY_L, OFF_HUE = 4.0, 25.0
# Shares of the layer that are off up to which it is still on, and from which it is off, unsure by the third; what lies
# below is hurt where the colour is so far (CIELAB) from every mixture of the two, unsure by the second. Two colours
# nearer than `LEAST_APART` say nothing.
STILL_ON, ALL_OFF, OFF_UNSURE = 0.12, 0.88, 0.04
HURT_FROM, HURT_UNSURE, LEAST_APART = 14.0, 3.0, 20.0
# Scatter of L* within a patch up to which it is even, fair, uneven; more is blotchy.
EVEN = (2.5, 5.0, 9.0)
# Darkened ground beside a cut, mm, and by what share of its light the ground further out is darker, from which a
# degree begins.
CHAR_FROM_MM = (0.3, 0.6, 1.0)
SOOT_FROM = (0.08, 0.18, 0.32)
# Times this is a confidence where something spoils the photo.
SPOILED = 0.6


@dataclass(frozen=True)
class Scored:
    """Scores of every patch ``(n,)``, NaN where there is none; `confidence` 0 to 1 is of the one that decides.

    turned : what a mark did to its ground, where that is not what marks on the material do
    """

    through: Floats
    layer: Floats
    char: Floats
    soot: Floats
    darkness: Floats
    turned: Floats
    evenness: Floats
    confidence: Floats


def _sure(value: Floats, edges: tuple[float, ...], doubt: Floats | float) -> Floats:
    """How far from the nearest edge between two scores, counted in doubts: 0.5 on it, nearly 1 three doubts away."""
    away = np.min([np.abs(value - edge) for edge in edges], axis=0) / doubt
    return np.asarray(1 - 0.5 * np.exp(-(away**1.2)))


def _degree(value: Floats, edges: tuple[float, ...]) -> Floats:
    """0 below the first edge, 1 from it on, and so forth; NaN stays."""
    return np.where(np.isnan(value), np.nan, np.searchsorted(edges, np.nan_to_num(value), side="right").astype(float))


def through_scores(back: Figures, front: Figures | None, pushed: bool = False) -> tuple[Floats, Floats]:
    """0 not, 1 partly, 2 with a push, 3 drops out, as the back shows it; the front shows the same hole once more.

    pushed : parts had been pushed out before it was taken; what is missing then says nothing
    """
    inside, outline, bridge = back.open, back.open_outline, back.bridge_mm
    with np.errstate(invalid="ignore"):
        fell, all_round = inside >= FALLEN, (outline >= WITH_A_PUSH) & (bridge < LONGEST_BRIDGE_MM)
        score = np.select(
            [np.isnan(inside) | np.isnan(outline), fell, all_round, outline >= PARTLY], [np.nan, 3.0, 2.0, 1.0], 0.0
        )
        by_outline = _sure(outline, (WITH_A_PUSH, PARTLY), OUTLINE_UNSURE + back.outline_unsure / 4)
        by_bridge = np.where(outline >= WITH_A_PUSH, _sure(bridge, (LONGEST_BRIDGE_MM,), BRIDGE_UNSURE_MM), 1.0)
        by_inside = _sure(inside, (FALLEN,), FALLEN_UNSURE)
        sure = np.where(fell, by_inside, np.minimum(np.minimum(by_outline, by_bridge), by_inside))
        if front is not None:
            sure = np.where((front.open >= FALLEN) != fell, np.minimum(sure, NOT_SURE), sure)
    score = np.where(fell & pushed, np.nan, score)
    doubtful = [BELOW_ALIKE in flags or NARROW in flags for flags in back.flags]
    sure = np.where(doubtful, np.minimum(sure, NOT_SURE), sure)
    return score, np.where(np.isnan(score), np.nan, sure)


def holding_mm(bridge_mm: float | None, outline: float | None, inside: float | None) -> float | None:
    """The longest bridge by which a part that is partly cut still holds; None where it fell out, was not cut, or holds
    by less than a photograph shows."""
    if bridge_mm is None or bridge_mm <= LEAST_BRIDGE_MM or (outline or 0.0) < PARTLY or (inside or 0.0) >= FALLEN:
        return None
    return bridge_mm


def darkness_scores(plate: Plate, front: Figures) -> tuple[Floats, Floats, Floats]:
    """How far each mark is from bare (0) to as dark, or as white, as it gets (5), in even steps of L*, how sure that
    is, and what it turned where that is not what marks on the material do (`SCALES["turned"]`), else NaN.

    A mark that is plainly lighter where others are darker, or darker where they are lighter, has turned the other way;
    one whose hue leaves the line from the ground to black and white has taken on a colour.
    """
    ground = front.lightness - front.contrast
    usually_lighter = plate.trial.material.mark == "lighter"
    away = front.contrast if usually_lighter else -front.contrast
    with np.errstate(invalid="ignore"):
        other_way = away < -np.maximum(OTHER_WAY_L, 3 * front.lightness_unsure)
        lighter = other_way != usually_lighter
        room = np.maximum(np.where(lighter, WHITEST - ground, ground - BLACKEST), 1.0)
        share = np.clip(np.where(other_way, -away, away) / room, 0, 1) * MOST_DARK
        off_hue = _off_hue(plate, front)
        coloured = off_hue > OFF_HUE
        score = np.floor(share + 0.5)
        turned = np.where(other_way, np.where(lighter, 2.0, 1.0), np.nan)
        # A colour is seen however light it is.
        turned = np.where(coloured, 3.0, turned)
        score = np.where(coloured, np.clip(np.floor(2 * off_hue / OFF_HUE), score, MOST_DARK), score)
    edges = tuple(k + 0.5 for k in range(MOST_DARK))
    doubt = np.hypot(0.15, front.lightness_unsure / room * MOST_DARK)
    return score, _sure(share, edges, doubt), np.where(np.isnan(score) | (score < 1), np.nan, turned)


def _off_hue(plate: Plate, front: Figures) -> Floats:
    """``(n,)`` how far a* and b* are from the straight line that leads from the ground to black and to white; NaN where
    the ground's own are not known."""
    known = plate.trial.material.ground_lab
    assumed = np.array([GROUND_ASSUMED in flags for flags in front.flags])
    red, yellow = (0.0, 0.0) if known is None else known[1:]
    ground = np.maximum(front.lightness - front.contrast, 1.0)
    share = np.where(
        front.contrast > 0, (100 - front.lightness) / np.maximum(100 - ground, 1.0), front.lightness / ground
    )
    off = np.hypot(front.a - share * red, front.b - share * yellow)
    return np.asarray(off if known is not None else np.where(assumed, off, np.nan))


def layer_scores(plate: Plate, front: Figures) -> tuple[Floats, Floats]:
    """0 still on, 1 partly off, 2 off, 3 hurt below, by where a patch's light lies on the straight line from the
    layer's to that of what lies below, and how far it is from that; NaN where nobody has said both colours, or they are
    too much alike."""
    nothing = np.full(len(front.lightness), np.nan)
    cap, core = plate.trial.material.ground_lab, plate.trial.material.below_lab
    if cap is None or core is None:
        return nothing, nothing
    if float(np.linalg.norm(np.array(cap) - core)) < LEAST_APART:
        return nothing, nothing
    from_light, to_light = lab_to_linear(cap), lab_to_linear(core)
    lab = np.column_stack([front.lightness, front.a, front.b])
    way = to_light - from_light
    off = (lab_to_linear(lab) - from_light) @ way / (way @ way)
    mixed = linear_to_lab(from_light + np.clip(off, 0, 1)[:, None] * way)
    astray = np.linalg.norm(lab - mixed, axis=1)
    with np.errstate(invalid="ignore"):
        hurt = astray > HURT_FROM
        score = np.select([np.isnan(off), hurt, off >= ALL_OFF, off > STILL_ON], [np.nan, 3.0, 2.0, 1.0], 0.0)
        sure = np.minimum(_sure(off, (STILL_ON, ALL_OFF), OFF_UNSURE), _sure(astray, (HURT_FROM,), HURT_UNSURE))
        # What is scorched where nothing is off yet may be the layer as well as what lies below it.
        sure = np.where(hurt & (off <= STILL_ON), np.minimum(sure, NOT_SURE), sure)
    return score, np.where(np.isnan(score), np.nan, sure)


# So much of the inside is no sheet where a piece has left its place.
GONE_FROM = 0.4


def gone_pieces(ids: Sequence[str], open_front: Sequence[float | None]) -> frozenset[str]:
    """Patches whose piece has left its place where the front was photographed, so that what stayed on it is not seen.

    open_front : share of each inside that is no sheet, as what was cut shows on the front
    """
    pairs = zip(ids, open_front, strict=True)
    return frozenset(name for name, share in pairs if share is not None and share >= GONE_FROM)


def scored(plate: Plate, front: Figures | None, back: Figures | None, pushed: Collection[Face] = ()) -> Scored:
    """Every patch's scores from what its faces show. A cut is decided by its back, and without it not at all.

    pushed : faces whose photo was taken after parts had been pushed out
    """
    nothing = np.full(len(plate.elements.ids), np.nan)
    unscored = Scored(**{field.name: nothing for field in fields(Scored)})
    through_sheet = plate.trial.process.passes_through
    soot = _degree(front.soot, SOOT_FROM) if front else nothing
    if through_sheet:
        # What was pushed out between the two photos is no contradiction.
        beside = None if ("front" in pushed) != ("back" in pushed) else front
        through, sure = through_scores(back, beside, "back" in pushed) if back else (nothing, nothing)
        char = _degree(front.halo_mm, CHAR_FROM_MM) if front else nothing
        return replace(unscored, through=through, char=char, soot=soot, confidence=_spoiled(sure, back))
    if front is None:
        return unscored
    if plate.trial.process.outcome == "layer":
        layer, sure = layer_scores(plate, front)
        return replace(unscored, layer=layer, soot=soot, confidence=_spoiled(sure, front))
    darkness, sure, turned = darkness_scores(plate, front)
    uneven = np.hypot(front.evenness, 100 * front.banding * front.lightness / 100)
    evenness = np.where(np.isnan(uneven), np.nan, 3 - _degree(uneven, EVEN))
    marks = {"darkness": darkness, "turned": turned, "evenness": evenness}
    return replace(unscored, **marks, soot=soot, confidence=_spoiled(sure, front))


def _spoiled(sure: Floats, face: Figures | None) -> Floats:
    if face is None:
        return sure
    bad = [PLACE_DOUBTFUL in flags or not SPOILING.isdisjoint(flags) for flags in face.flags]
    return np.where(bad, SPOILED * sure, sure)
