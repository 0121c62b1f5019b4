"""What a photograph says of each patch, against the bare ground around it so that uneven light cancels."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.across import NEAR_MM, Profiles, between, crossing, edge_mm, kerf_mm, profiles_across, slit_mm
from rezept.core.photo.around import Around
from rezept.core.photo.course import Course, course_of
from rezept.core.photo.flat import LUMINANCE, Flat, Ground, Light, Seen, ground_of, weighed
from rezept.core.photo.lattice import PLAINLY_MORE
from rezept.core.photo.noise import median, sigma_of
from rezept.core.photo.openings import FALLEN, Openings, across_coloured, bare_inside, openings
from rezept.core.plan import Plate

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
Columns = dict[str, NDArray[Any]]

# A line on a plate that is marked is so wide at least, mm of black; and of a cut so much of the outline has to be
# through for its width to be that of the kerf.
LINE_SEEN_MM, WIDE_ENOUGH = 0.042, 0.5
# A halo ends where so much of the ground's light is back.
HALO_ENDS = 0.85
SOOT_FROM_MM, SOOT_TO_MM = 0.9, 1.8
# The coded value (0 to 255) from which a channel counts as clipped, and the share of clipped cells that spoils a patch.
CLIPPED, MOST_CLIPPED = 251, 0.02
# The ground beside a patch may be off the smooth ground by such a share of its light; more is a shadow or a glare.
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
    open_inside, open_outline, outline_unsure, bridge_mm : of a cut, see `Openings`; NaN where nothing is cut through
    kerf_mm : width of the cut; halo_mm : darkened ground beside it; soot : how much darker the ground beyond that is
    edge_mm : from nine tenths to one tenth of the step from ground to mark
    glare, shadow, blur : ``(n,)`` what makes a patch's figures worthless
    below_alike : ``(n,)`` what lies below looks like the sheet
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
    below_alike: Flags


def _banding(light: NDArray[np.floating[Any]], inside: Floats) -> Floats:
    """Scatter of the means of rows or of columns of cells ``(n, cells)``, whichever is more, without their slope."""
    worst = np.zeros(len(light))
    for along in (0, 1):
        steps, member = np.unique(np.round(inside[:, along], 4), return_inverse=True)
        if len(steps) < 6:
            continue
        shares = (member[:, None] == np.arange(len(steps))).astype(float)
        means = light @ (shares / shares.sum(axis=0))
        at = np.linspace(-1, 1, len(steps))
        design = np.stack([np.ones_like(at), at, at * at], axis=-1)
        left = means - means @ design @ np.linalg.inv(design.T @ design) @ design.T
        worst = np.maximum(worst, left.std(axis=1) / np.maximum(means.mean(axis=1), 0.02))
    return worst


def _places(plate: Plate, corners: Floats, way: Course, across: Profiles) -> Floats:
    """``(n, cells, 2)`` where the figures of each patch are taken."""
    if not plate.trial.process.draws_lines:
        return corners[:, None] + way.inside[None]
    # A line mark is its line, wherever that lies best; what it goes round stays bare.
    close = across.offsets[between(across.offsets, -NEAR_MM, NEAR_MM)]
    seen = across.beyond(-NEAR_MM, NEAR_MM)
    darker, lighter = (1 - seen.min(axis=0)).mean(axis=1), (seen.max(axis=0) - 1).mean(axis=1)
    if plate.trial.material.mark == "lighter":
        shines = darker <= PLAINLY_MORE * lighter
    else:
        shines = lighter > PLAINLY_MORE * darker
    best = close[np.where(shines[:, None], seen.argmax(axis=0), seen.argmin(axis=0))]
    places: Floats = corners[:, None] + way.points[None] + way.outward[None] * best[..., None]
    return places


def _of_inside(relative: Light, scatter: float, way: Course) -> Columns:
    """Of the light ``(3, n, cells)`` of each patch over its ground's, which itself scatters by that share."""
    light = weighed(relative, LUMINANCE)
    usual = median(light, (1,))[:, None]
    spread = sigma_of(light - usual, axis=1)
    # The mean, as an eye takes it that does not see single lines; without specks.
    counts = np.abs(light - usual) <= 4 * spread[:, None] + 0.02
    ratio = ((relative * counts).sum(axis=2).astype(float) / counts.sum(axis=1)).T
    luminance = ratio @ LUMINANCE
    # Grain and noise hang together over some cells: count a cell in nine as one of its own.
    unsure = np.hypot(spread / np.maximum(luminance, 0.02), scatter) / np.sqrt(max(1.0, len(way.inside) / 9))
    filled = light.shape[1] == len(way.inside)
    return {
        "ratio": ratio,
        "luminance": luminance,
        "spread": spread,
        "unsure": unsure,
        "banding": _banding(light, way.inside) if filled else np.zeros(len(light)),
    }


def _of_lines(across: Profiles) -> Columns:
    """Of a plate that is marked: nothing of it is open, and its lines are as wide as black ones."""
    held = np.zeros(across.seen.shape[1], bool)
    slit = slit_mm(across, 0.0, held)
    nothing = np.full(len(slit), np.nan)
    return {
        **dict.fromkeys(("open_inside", "open_outline", "outline_unsure", "bridge_mm"), nothing),
        "kerf_mm": kerf_mm(across, slit, slit >= LINE_SEEN_MM, held),
        "below_alike": held,
    }


def _of_openings(way: Course, across: Profiles, seen: Openings) -> Columns:
    fallen = seen.inside >= FALLEN
    slit = slit_mm(across, 0.0, fallen)
    # Where it is through in spots only, the spots are narrower than the kerf would be.
    kerf = np.where(seen.outline >= WIDE_ENOUGH, kerf_mm(across, slit, seen.through, fallen), np.nan)
    return {
        "open_inside": seen.inside,
        # Lettering encloses nothing.
        "open_outline": seen.outline if way.closed else np.full(len(slit), np.nan),
        "outline_unsure": seen.unsure,
        "bridge_mm": seen.bridge_mm,
        "kerf_mm": kerf,
        "below_alike": np.full(len(slit), seen.alike),
    }


def _of_ground_beside(across: Profiles, kerf: Floats) -> Columns:
    mean = median(across.seen, (2,)).T
    beyond = median(across.beyond(0.5, 2.0), (0, 2))
    outer = across.offsets >= 0
    ends = crossing(mean[:, outer], across.offsets[outer], HALO_ENDS * beyond)
    halo = np.clip(ends - np.nan_to_num(kerf) / 2, 0, None)
    return {
        "halo_mm": np.where(mean[:, outer][:, 0] >= HALO_ENDS * beyond, 0.0, halo),
        "soot": 1 - median(across.beyond(SOOT_FROM_MM, SOOT_TO_MM), (0, 2)),
        "edge_mm": edge_mm(mean, across.offsets),
    }


def _spoiled(
    plate: Plate,
    inside: NDArray[np.uint8],
    beside: NDArray[np.uint8],
    across: Profiles,
    edge: Floats,
    open_inside: Floats,
) -> Columns:
    """What makes a patch's figures worthless; `inside` and `beside` it, coded ``(3, n, cells)``."""
    shares = [(coded.max(axis=0) >= CLIPPED).mean(axis=1) for coded in (inside, beside)]
    # What shines through an opening is no glare.
    shares[0] = np.where(open_inside >= FALLEN, 0.0, shares[0])
    # A hand's shadow falls on the ground to one side of a patch, soot on all sides of it alike; letters take little.
    sides = np.stack([median(side, (0, 2)) for side in np.array_split(across.beyond(0.9, 2.0), 4, axis=2)], axis=1)
    sharpest = float(np.nanpercentile(edge, 20)) if np.isfinite(edge).any() else 0.0
    # Across its own lines a cut is dark at both ends of the step: only filled patches tell how sharp the photo is.
    blurred = sharpest > BLURRED_MM and plate.trial.process.fills
    return {
        "glare": (shares[0] > MOST_CLIPPED) | (shares[1] > 5 * MOST_CLIPPED),
        # Lighter than the ground is no shadow, but what was marked there.
        "shadow": np.ptp(np.minimum(sides, 1.0), axis=1) > 2 * MOST_SHADED,
        "blur": np.full(len(edge), blurred),
    }


def _of_all(values: NDArray[Any], burn: Flags) -> NDArray[Any]:
    """A column over all patches, where only those that were to burn have one."""
    every = np.full((len(burn), *values.shape[1:]), False if values.dtype == bool else np.nan)
    every[burn] = values
    return every


def measure(plate: Plate, flat: Seen, around: Around | None = None) -> tuple[Measured, Ground]:
    """The figures of every patch that was to burn, and the ground they were held against.

    around : what the sheet lies on, where the picture shows it
    """
    patch, boxes = plate.trial.patch, plate.elements.boxes
    ground = ground_of(flat, (plate.width_mm, plate.height_mm), boxes, 0.3 * patch.gap_mm)
    way = course_of(plate)
    corners = boxes[plate.elements.burn, :2]
    cut = plate.trial.process.passes_through
    if cut:
        coloured = across_coloured(flat, ground, corners, way, patch.gap_mm)
        across = coloured.profiles(LUMINANCE)
    else:
        assert isinstance(flat, Flat)
        across = profiles_across(flat, ground, corners, way, patch.gap_mm)
    places = _places(plate, corners, way, across)
    coded = flat.coded(places)
    inside = flat.linear(coded) / ground.at(places)
    columns = _of_inside(inside, ground.scatter, way)
    if cut:
        bare = bare_inside(flat, ground, corners, way)
        seen = openings(coloured, bare, inside, ground.scatter, None if around is None else around.differs_from(ground))
        columns |= _of_openings(way, across, seen)
    else:
        columns |= _of_lines(across)
    columns |= _of_ground_beside(across, columns["kerf_mm"])
    beside = corners[:, None] + (way.points + way.outward * min(1.2, 0.45 * patch.gap_mm))[None]
    columns |= _spoiled(plate, coded, flat.coded(beside), across, columns["edge_mm"], columns["open_inside"])
    return Measured(**{key: _of_all(values, plate.elements.burn) for key, values in columns.items()}), ground
