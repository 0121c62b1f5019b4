"""What a photograph says of each patch, against the bare ground around it so that uneven light cancels."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.core.photo.course import Course, course, patch_boxes
from rezept.core.photo.flat import LUMINANCE, Flat, Ground, Light, ground_of_flat
from rezept.core.plan import Plate

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]

# Darker than so much of the ground: nothing is left there, one sees what lies below. On a dark ground that is not much
# darker; openings are then told by the darkest there is inside of patches, and up to so many times as light.
OPEN_BELOW, OPEN_BELOW_AT_MOST = 0.16, 0.5
AS_DARK = 1.5
# A cut that is through shows on the back as a slit: as wide as a black line that takes as much light, blurred or not.
# So wide it is one; wider or narrower by the second it surely is, or is not.
SLIT_MM, SLIT_UNSURE_MM = 0.042, 0.010
# What bare ground passes for: so many times its scatter is taken for none, and so many make a slit unsure.
GROUND_PASSES, GROUND_UNSURE = 2.5, 2.0
# How far to look across an outline: inward, outward, and in which steps.
INWARD_MM, OUTWARD_MM, STEP_MM = 0.8, 2.0, 0.07
NEAR_MM = 0.4
# The ground on either side of a slit, from and to.
BESIDE_MM = (0.45, 0.8)
# A halo ends where so much of the ground's light is back.
HALO_ENDS = 0.85
SOOT_FROM_MM, SOOT_TO_MM = 0.9, 1.8
# The coded value from which a channel counts as clipped, and the share of clipped cells that spoils a patch.
CLIPPED, MOST_CLIPPED = 251, 0.02
# The ground beside a patch may be off the smooth ground by so much; more is a shadow or a glare.
MOST_SHADED = 0.12
# An edge that takes longer than this from light to dark is too blurred to measure a cut by.
BLURRED_MM = 0.5


@dataclass(frozen=True)
class Measured:
    """Figures of every patch, as parallel arrays ``(n,)`` over all patches of the plate; NaN where nothing was burned
    or where there is nothing to measure.

    ratio : ``(n, 3)`` linear light of the patch over its ground, by channel; `luminance` their weighed sum
    spread : scatter of that ratio within the patch; `unsure` : one standard deviation of its median, as a share of it
    banding : scatter of its lines' means, the larger of both directions, as a share of the mean
    open_inside : share of the patch's inside through which one sees; open_outline : share of its outline, and
        outline_unsure : the share of it that may or may not be open
    bridge_mm : the longest stretch of outline that still holds
    kerf_mm : width of the cut; halo_mm : darkened ground beside it; soot : how much darker the ground beyond that is
    edge_mm : from nine tenths to one tenth of the step from ground to mark
    glare, shadow, blur : ``(n,)`` what makes a patch's figures worthless
    """

    ratio: Floats
    luminance: Floats
    spread: Floats
    unsure: Floats
    banding: Floats
    open_inside: Floats
    open_outline: Floats
    outline_unsure: Floats
    bridge_mm: Floats
    kerf_mm: Floats
    halo_mm: Floats
    soot: Floats
    edge_mm: Floats
    glare: Flags
    shadow: Flags
    blur: Flags


@dataclass(frozen=True)
class _Profiles:
    """``(n, m, k)`` luminance over the ground's, across every outline at `offsets` ``(k,)`` mm, outward positive."""

    seen: Light
    offsets: Floats
    every_mm: float

    def beyond(self, low: float, high: float) -> Light:
        """What lies between two offsets."""
        part: Light = self.seen[..., (self.offsets >= low) & (self.offsets <= high)]
        return part


def _sampled(plane: Light, mm: Floats, step_mm: float) -> Light:
    """A plane between its cells, at plate points ``(..., 2)``."""
    points = mm / step_mm - 0.5
    seen = ndimage.map_coordinates(plane, [points[..., 1], points[..., 0]], order=1, mode="nearest")
    return np.asarray(seen, np.float32)


def _profiles(flat: Flat, ground: Ground, corners: Floats, way: Course, gap_mm: float) -> _Profiles:
    # Not into the neighbour's own ground.
    outward = min(OUTWARD_MM, max(0.5, 0.6 * gap_mm))
    offsets = np.arange(-INWARD_MM, outward + STEP_MM / 2, STEP_MM)
    across = way.points[:, None] + way.outward[:, None] * offsets[:, None]
    places = corners[:, None, None] + across[None]
    seen = _sampled(flat.luminance(), places, flat.step_mm)
    bare = ground.at(corners[:, None] + way.points[None]) @ LUMINANCE
    length = float(np.linalg.norm(np.diff(way.points, axis=0), axis=1).mean())
    return _Profiles(seen / bare[..., None], offsets, length)


def _longest_run(held: Flags) -> NDArray[np.int_]:
    """``(n,)`` the longest stretch of True round each closed row ``(n, m)``."""
    count = held.shape[1]
    twice = np.concatenate([held, held], axis=1)
    runs = np.zeros(twice.shape, int)
    run = np.zeros(len(held), int)
    for i in range(2 * count):
        run = np.where(twice[:, i], run + 1, 0)
        runs[:, i] = run
    return np.minimum(runs.max(axis=1, initial=0), count)


def _black_mm(profiles: _Profiles, low: float, high: float, usual: NDArray[np.floating[Any]]) -> Floats:
    """``(n, m)`` how wide a black line would be that takes as much light as is missing between two offsets from what is
    usual there."""
    # Noise goes both ways: what is lighter than usual counts against it.
    missing = np.clip(1 - profiles.beyond(low, high) / np.maximum(usual, 0.3), -1, 1)
    return missing.sum(axis=-1).astype(float) * STEP_MM


def _slit_mm(profiles: _Profiles, middle: float, one_sided: Flags) -> Floats:
    """``(n, m)`` the black width of what runs along the outline, so far out from it.

    The usual light lies on a straight line from the ground on one side to that on the other, so that neither uneven
    light nor the side of a broad streak takes part; where the inside has fallen out, it is that outside alone.
    """
    outer = profiles.beyond(middle + BESIDE_MM[0], middle + BESIDE_MM[1]).mean(axis=-1, keepdims=True)
    inner = profiles.beyond(middle - BESIDE_MM[1], middle - BESIDE_MM[0]).mean(axis=-1, keepdims=True)
    inner = np.where(one_sided[:, None, None], outer, inner)
    at = profiles.offsets[(profiles.offsets >= middle - NEAR_MM) & (profiles.offsets <= middle + NEAR_MM)] - middle
    rising = at / (BESIDE_MM[0] + BESIDE_MM[1])
    return _black_mm(profiles, middle - NEAR_MM, middle + NEAR_MM, (inner + outer) / 2 + (outer - inner) * rising)


def _slit_doubt_mm(profiles: _Profiles, ground: Ground, gap_mm: float) -> float:
    """What bare ground passes for: the scatter of slits looked for in the gaps, where none are. Grain, noise and coarse
    pixels are all in it."""
    middle = min(1.2, gap_mm / 2)
    furthest = middle + BESIDE_MM[1]
    if furthest > profiles.offsets[-1] + STEP_MM or furthest > gap_mm:
        # No room: as if its grain lay along the outline for as far as a slit is looked for.
        return ground.scatter * NEAR_MM
    none = _slit_mm(profiles, middle, np.zeros(len(profiles.seen), bool))
    return 1.4826 * float(np.median(np.abs(none - np.median(none))))


def _kerf(profiles: _Profiles, slit: Floats, open_line: Flags, dropped: Flags) -> Floats:
    """Width of the cut where it is through.

    Fallen out, it is twice as far as the open reaches beyond the outline; with the part still in, that of the slit
    ``(n, m)``.
    """
    usual = np.median(profiles.beyond(0.45, 1.1), axis=-1, keepdims=True)
    outer = 2 * _black_mm(profiles, 0.0, NEAR_MM, usual)
    width = np.where(dropped[:, None], outer, slit)
    usable = np.where(open_line, width, np.nan)
    return _middle(usable)


def _middle(values: Floats) -> Floats:
    """Median of each row without its NaN; NaN where a row has nothing else."""
    result = np.full(len(values), np.nan)
    some = np.isfinite(values).any(axis=1)
    result[some] = np.nanmedian(values[some], axis=1)
    return result


def _crossing(values: Floats, offsets: Floats, level: Floats) -> Floats:
    """Offset at which each row ``(n, k)`` first rises to its level; NaN where it never does."""
    over = values >= level[:, None]
    first = over.argmax(axis=1)
    found = over.any(axis=1) & (first > 0)
    before = np.clip(first - 1, 0, None)
    rows = np.arange(len(values))
    low, high = values[rows, before], values[rows, first]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.clip((level - low) / (high - low), 0, 1)
    place = offsets[before] + share * (offsets[first] - offsets[before])
    return np.where(found, place, np.nan)


def _edge(profile: Floats, offsets: Floats) -> Floats:
    """Width of the step from a patch ``(n, k)`` outward to its ground, from a tenth to nine tenths of it."""
    inner = profile[:, : max(1, len(offsets) // 8)].mean(axis=1)
    outer = np.median(profile[:, -8:], axis=1)
    depth = outer - inner
    with np.errstate(divide="ignore", invalid="ignore"):
        step = (profile - inner[:, None]) / depth[:, None]
    tenth = _crossing(step, offsets, np.full(len(step), 0.1))
    most = _crossing(step, offsets, np.full(len(step), 0.9))
    return np.where(np.abs(depth) > 0.08, most - tenth, np.nan)


def _banding(light: NDArray[np.floating[Any]], inside: Floats) -> Floats:
    """Scatter of the means of rows or of columns of cells ``(n, cells)``, whichever is more, without their slope."""
    worst = np.zeros(len(light))
    for along in (0, 1):
        steps, member = np.unique(np.round(inside[:, along], 4), return_inverse=True)
        if len(steps) < 6:
            continue
        count = np.bincount(member)
        means = np.stack([np.bincount(member, weights=row) / count for row in light.astype(float)])
        at = np.linspace(-1, 1, len(steps))
        design = np.stack([np.ones_like(at), at, at * at], axis=-1)
        left = means - means @ design @ np.linalg.inv(design.T @ design) @ design.T
        worst = np.maximum(worst, left.std(axis=1) / np.maximum(means.mean(axis=1), 0.02))
    return worst


def _open_below(plate: Plate, light: NDArray[np.floating[Any]]) -> float:
    """The share of the ground's light under which a cell ``(n, cells)`` of a patch's inside is an opening."""
    if plate.trial.process.key != "cut":
        return OPEN_BELOW
    return float(np.clip(AS_DARK * np.percentile(light, 1), OPEN_BELOW, OPEN_BELOW_AT_MOST))


def measure(plate: Plate, flat: Flat) -> tuple[Measured, Ground]:
    """The figures of every patch that was to burn, and the ground they were held against."""
    patch = plate.trial.patch
    boxes = patch_boxes(plate)
    ground = ground_of_flat(flat, (plate.width_mm, plate.height_mm), boxes, 0.3 * patch.gap_mm)
    way = course(patch.shape, patch.width_mm, patch.height_mm)
    corners = boxes[plate.burn, :2]
    places = corners[:, None] + way.inside[None]
    profiles = _profiles(flat, ground, corners, way, patch.gap_mm)
    if plate.trial.process.toolpath == "outline" and plate.trial.process.key != "cut":
        # A line mark is its line, wherever that lies best; what it goes round stays bare.
        close = np.abs(profiles.offsets) <= NEAR_MM
        sign = -1 if plate.trial.material.mark == "lighter" else 1
        best = profiles.offsets[close][(sign * profiles.seen[..., close]).argmin(axis=-1)]
        places = corners[:, None] + way.points[None] + way.outward[None] * best[..., None]
    coded = flat.coded(places)
    relative = flat.light(places) / ground.at(places)
    light = relative @ LUMINANCE
    usual = np.median(light, axis=1, keepdims=True)
    spread = 1.4826 * np.median(np.abs(light - usual), axis=1).astype(float)
    # The mean, as an eye takes it that does not see single lines; without specks.
    counts = np.abs(light - usual) <= 4 * spread[:, None] + 0.02
    ratio = (relative * counts[..., None]).sum(axis=1).astype(float) / counts.sum(axis=1)[:, None]
    luminance = ratio @ LUMINANCE
    # Grain and noise hang together over some cells: count a cell in nine as one of its own.
    unsure = np.hypot(spread / np.maximum(luminance, 0.02), ground.scatter) / np.sqrt(max(1.0, len(way.inside) / 9))

    inside = (light < _open_below(plate, light)).mean(axis=1)
    dropped = inside >= 0.5
    slit = _slit_mm(profiles, 0.0, dropped)
    doubt_mm = _slit_doubt_mm(profiles, ground, patch.gap_mm)
    unsure_mm = max(SLIT_UNSURE_MM, GROUND_UNSURE * doubt_mm)
    seen_mm = max(SLIT_MM, GROUND_PASSES * doubt_mm)
    through = slit >= seen_mm
    maybe = ((slit > SLIT_MM - unsure_mm) & (slit < seen_mm + unsure_mm)).mean(axis=1)
    beyond = np.median(profiles.beyond(0.5, 2.0), axis=(1, 2)).astype(float)
    mean = np.median(profiles.seen, axis=1).astype(float)
    # Where it is through in spots only, the spots are narrower than the kerf would be.
    kerf = np.where(
        dropped | (through.mean(axis=1) >= 0.5), _kerf(profiles, slit, through | dropped[:, None], dropped), np.nan
    )
    outer = profiles.offsets >= 0
    ends = _crossing(mean[:, outer], profiles.offsets[outer], HALO_ENDS * beyond)
    halo = np.clip(ends - np.nan_to_num(kerf) / 2, 0, None)
    halo = np.where(mean[:, outer][:, 0] >= HALO_ENDS * beyond, 0.0, halo)
    soot = 1 - np.median(profiles.beyond(SOOT_FROM_MM, SOOT_TO_MM), axis=(1, 2)).astype(float)
    edge = _edge(mean, profiles.offsets)

    beside = flat.coded(corners[:, None] + (way.points + way.outward * min(1.2, 0.45 * patch.gap_mm))[None])
    glare = ((coded >= CLIPPED).any(axis=-1).mean(axis=1) > MOST_CLIPPED) | (
        (beside >= CLIPPED).any(axis=-1).mean(axis=1) > 5 * MOST_CLIPPED
    )
    # A hand's shadow falls on the ground to one side of a patch, soot on all sides of it alike; letters take little.
    sides = np.stack(
        [np.median(side, axis=(1, 2)) for side in np.array_split(profiles.beyond(0.9, 2.0), 4, axis=1)], axis=1
    )
    # Lighter than the ground is no shadow, but what was marked there.
    shadow = np.ptp(np.minimum(sides, 1.0), axis=1) > 2 * MOST_SHADED
    sharpest = float(np.nanpercentile(edge, 20)) if np.isfinite(edge).any() else 0.0
    # Across its own lines a cut is dark at both ends of the step: only filled patches tell how sharp the photo is.
    blur = np.full(len(corners), sharpest > BLURRED_MM and plate.trial.process.toolpath == "hatch")

    def all_of(values: Floats) -> Floats:
        every = np.full((len(plate.ids), *values.shape[1:]), np.nan)
        every[plate.burn] = values
        return every

    def flagged(values: Flags) -> Flags:
        every = np.zeros(len(plate.ids), bool)
        every[plate.burn] = values
        return every

    measured = Measured(
        all_of(ratio),
        all_of(luminance),
        all_of(spread),
        all_of(unsure),
        all_of(_banding(light, way.inside) if light.shape[1] == len(way.inside) else np.zeros(len(corners))),
        all_of(inside),
        all_of(np.where(dropped, 1.0, through.mean(axis=1))) if way.closed else np.full(len(plate.ids), np.nan),
        all_of(np.where(dropped, 0.0, maybe)),
        all_of(np.where(dropped, 0.0, _longest_run(~through) * profiles.every_mm)),
        all_of(kerf),
        all_of(halo),
        all_of(soot),
        all_of(edge),
        flagged(glare),
        flagged(shadow),
        flagged(blur),
    )
    return measured, ground
