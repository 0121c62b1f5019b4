"""What a photograph of a cut shows of each patch: whether the part has dropped out, along how much of its outline it is
through, and by how long a bridge it still holds.

What lies below is learned from the picture. An opening may be darker than the sheet or lighter, patterned, or lit from
below; a slit shows its walls or what is below them. Both are told by how far they are from the sheet's own colour, in
any direction, against the scatter of the bare sheet.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.across import BESIDE_MM, NEAR_MM, OUTWARD_MM, Profiles, between, longest_run
from rezept.core.photo.course import Course
from rezept.core.photo.flat import Ground, Seen, weighed
from rezept.core.photo.noise import median

Floats = NDArray[np.float64]
Light = NDArray[np.float32]
Flags = NDArray[np.bool_]

# Across an outline the picture is looked at in such steps, mm; and of what is well inside at so many places of each.
STEP_CUT_MM, BARE_ALONG = 0.1, 48
# Log light, the channel that differs most: of a cell that is no sheet, as a share of what openings on this plate differ
# by, within limits; more than the last is an opening for sure, and what is taken where none is seen.
UNLIKE_SHARE, UNLIKE_LEAST, UNLIKE_MOST, PLAINLY_UNLIKE = 0.4, 0.2, 0.4, 0.7
LEAST_OPEN = 0.3
# Share of a patch's inside: with so much of it open the part has fallen out.
FALLEN = 0.6
# A slit is through where it differs from the sheet by this share of how it does along most of its patch, which may
# itself be off what is usual on the plate by the factors given; and by so many standard deviations of bare sheet.
THROUGH_SHARE, WEAKER, STRONGER, LEAST_SIGMA = 0.45, 0.6, 1.5, 4.0
# That is the level which so much of the outline, per cent, stays below; a patch that has a slit at all goes above so
# many standard deviations.
TOP_PCT, SLIT_SIGMA = 90.0, 5.0
# Light shines through slits when it does along so much of the outlines. A slit's contrast across is so many times that
# of bare sheet. A part is mostly through from the last share of its outline on.
SHINES, BARE_CONTRASTS, MOSTLY = 0.02, 4.0, 0.4
# Where no patch shows a slit: that of a line of the first width, mm, which looks as openings do just inside of their
# outlines, from and to, mm, by so much at least. What is fainter than a line of the second is a scorch, not a slit.
USUAL_SLIT_MM, LEAST_SLIT_MM, RIM_MM, LEAST_CONTRAST = 0.18, 0.042, (-0.5, -0.2), 0.2
# Nothing is sharper than this, mm of black line, and nothing is more even than by this share of the scatter of the
# ground, lying along the outline for as far as a slit is looked for.
FINEST_SLIT_MM, LEAST_OF_SCATTER = 0.005, 0.5
# Grain runs along some sides of an outline and across others: its scatter is told by this percentile of deviations,
# which are 1.44 standard deviations where they are normal. What is off by so many of them is not bare.
GRAIN_PCT, GRAIN_SIGMAS, BARE_WITHIN = 85.0, 1.44, 3.0
# How far inside of the outline, mm, bare sheet is looked at for what it passes for itself.
BARE_INSIDE_MM = 1.45
# Log light. What lies below looks like the sheet where no channel differs from another by more than the first and none
# by more than the second, for it lies in the shadow of openings; and where that much of what lies around the sheet
# differs by less than the fourth, too, unless openings plainly do, by the last.
ALIKE_HUE, ALIKE_OPENINGS, ALIKE_SHARE, ALIKE_AROUND, PLAINLY_OTHER = 0.35, 0.75, 0.5, 0.5, 1.2


@dataclass(frozen=True)
class Openings:
    """``(n,)`` over the patches that were to burn.

    inside : share of the inside that is not sheet
    outline : share of the outline that is through; unsure : the share of it that may or may not be
    bridge_mm : the longest stretch of it that holds
    through : ``(n, m)`` where it is
    alike : what is seen through openings looks like the sheet
    """

    inside: Floats
    outline: Floats
    unsure: Floats
    bridge_mm: Floats
    through: Flags
    alike: bool


@dataclass(frozen=True)
class Across:
    """``(3, k, n, m)`` linear light over the ground's, channel by channel, across every outline at `offsets` ``(k,)``
    mm, outward positive, with places `every_mm` apart along it."""

    seen: Light
    offsets: Floats
    every_mm: float

    def profiles(self, weights: Light) -> Profiles:
        """Their weighed sum."""
        return Profiles(weighed(self.seen, weights), self.offsets, self.every_mm)

    def between(self, low: float, high: float) -> Light:
        part: Light = self.seen[:, between(self.offsets, low, high)]
        return part


def across_coloured(flat: Seen, ground: Ground, corners: Floats, way: Course, gap_mm: float) -> Across:
    """The light across the outlines of patches whose lower left is at ``(n, 2)``."""
    # Not into the neighbour's own ground.
    outward = min(OUTWARD_MM, max(0.5, 0.6 * gap_mm))
    offsets = np.arange(-BESIDE_MM[1], outward + STEP_CUT_MM / 2, STEP_CUT_MM).round(3)
    return _across(flat, ground, corners, way.points, way.outward, offsets)


def bare_inside(flat: Seen, ground: Ground, corners: Floats, way: Course) -> Across | None:
    """As far inside of the outlines as bare sheet is looked for, of some places of each; None without room for it."""
    low, high = way.points.min(axis=0), way.points.max(axis=0)
    if (high - low).min() < 2 * (BARE_INSIDE_MM + BESIDE_MM[1]):
        return None
    offsets = np.arange(-BARE_INSIDE_MM - BESIDE_MM[1], -BARE_INSIDE_MM + BESIDE_MM[1] + STEP_CUT_MM / 2, STEP_CUT_MM)
    every = slice(None, None, max(1, len(way.points) // BARE_ALONG))
    return _across(flat, ground, corners, way.points[every], way.outward[every], offsets)


def _across(flat: Seen, ground: Ground, corners: Floats, points: Floats, outward: Floats, offsets: Floats) -> Across:
    places = corners[:, None] + points[None]
    length = float(np.linalg.norm(np.diff(points, axis=0), axis=1).mean())
    seen = flat.light_across(places, outward[None], offsets)
    seen /= ground.at(places)[:, None]
    return Across(seen, offsets, length)


def _lacking(across: Across, middle: float) -> Light:
    """``(3, k, n, m)`` the share of the usual light that is missing across what runs along the outline so far out from
    it; negative where it is lighter. The usual light lies on a straight line from one side to the other."""
    outer = across.between(middle + BESIDE_MM[0], middle + BESIDE_MM[1]).mean(axis=1)
    inner = across.between(middle - BESIDE_MM[1], middle - BESIDE_MM[0]).mean(axis=1)
    at = across.offsets[between(across.offsets, middle - NEAR_MM, middle + NEAR_MM)] - middle
    rising = ((at + BESIDE_MM[0]) / (2 * BESIDE_MM[0]))[:, None, None].astype(np.float32)
    usual = inner[:, None] + (outer - inner)[:, None] * rising
    seen = across.between(middle - NEAR_MM, middle + NEAR_MM)
    return np.asarray(1 - seen / np.maximum(usual, 0.02), np.float32)


def _black_mm(lacking: Light) -> Floats:
    """``(3, n, m)`` how wide a black line would be that takes as much light, channel by channel."""
    return lacking.sum(axis=1).astype(float) * STEP_CUT_MM


def _scatter(inside: Across | None, held: Flags, scatter: float) -> Floats:
    """``(3, 3)`` covariance of what bare sheet passes for, mm of black width: grain, noise and coarse pixels."""
    along_it = (scatter * NEAR_MM) ** 2 * (0.2 * np.eye(3) + 0.8)
    least = FINEST_SLIT_MM**2 * np.eye(3) + LEAST_OF_SCATTER**2 * along_it
    if inside is None or not held.any():
        # No room to see it.
        return least + along_it
    bare = _black_mm(_lacking(inside, -BARE_INSIDE_MM))[:, held].reshape(3, -1)
    off = np.abs(bare - median(bare, (1,))[:, None])
    sigma = np.percentile(off, GRAIN_PCT, axis=1) / GRAIN_SIGMAS + FINEST_SLIT_MM
    within = (off < BARE_WITHIN * sigma[:, None]).all(axis=0)
    return least + np.cov(bare[:, within])


def _insides(inside: Light, beside: Floats) -> tuple[Floats, Floats]:
    """Share of each inside ``(3, n, cells)`` that is not sheet as it is `beside` it ``(3, n)``; and by how much its
    middle differs ``(3, n)``, log light."""
    off = np.log(np.maximum(inside, 1e-3)) - np.log(np.maximum(beside, 1e-3)).astype(np.float32)[..., None]
    middle = median(off, (2,))
    most = np.abs(middle).max(axis=0)
    opened = most[most > LEAST_OPEN]
    usual = float(np.median(opened)) if len(opened) else PLAINLY_UNLIKE
    from_here = float(np.clip(UNLIKE_SHARE * usual, UNLIKE_LEAST, UNLIKE_MOST))
    return (np.abs(off).max(axis=0) > from_here).mean(axis=1), middle


def looks_alike(unlike: Floats, around: Floats | None) -> bool:
    """Whether what lies below looks like the sheet: by what is seen through openings, and by what lies around.

    unlike : ``(3, k)`` by how much openings differ; around : ``(3, n)`` by how much what is around the sheet does; log
        light
    """
    seen = 0.0
    if unlike.size:
        typical = np.median(unlike, axis=1)
        seen = float(np.abs(typical).max())
        if np.ptp(typical) > ALIKE_HUE or seen > PLAINLY_OTHER:
            return False
        if seen < ALIKE_OPENINGS:
            return True
    if around is None:
        return False
    alike = (np.abs(around).max(axis=0) < ALIKE_AROUND) & (np.ptp(around, axis=0) < ALIKE_HUE)
    return bool(alike.mean() > ALIKE_SHARE)


def _open_mm(rim: Light, inverse: Floats) -> float:
    """How many standard deviations of bare sheet a millimetre is that looks as openings do just inside of their
    outlines, ``(3, n)`` light over the ground's; black, where none is open."""
    contrast = np.clip(median(np.abs(1 - rim), (1,)), LEAST_CONTRAST, 1.0) if rim.size else np.ones(3)
    return float(np.sqrt(contrast @ inverse @ contrast))


def _least(sigmas: Floats, fallen: Flags, open_mm: float) -> Floats:
    """``(n, 1)`` from how many standard deviations of bare sheet on each outline ``(n, m)`` is through."""
    top = np.percentile(sigmas, TOP_PCT, axis=1)
    slits = top[~fallen & (top > SLIT_SIGMA)]
    level = float(np.median(slits)) if len(slits) > 1 else USUAL_SLIT_MM * open_mm
    least = max(LEAST_SIGMA, LEAST_SLIT_MM * open_mm)
    return np.maximum(THROUGH_SHARE * np.clip(top, WEAKER * level, STRONGER * level), least)[:, None]


def _distance(missing: Floats, inverse: Floats) -> Floats:
    """``(n, m)`` of what is missing ``(3, n, m)``, in standard deviations (P. C. Mahalanobis)."""
    whitened = np.linalg.cholesky(inverse).T
    squared = np.zeros(missing.shape[1:])
    for row in whitened:
        squared += np.square(row[0] * missing[0] + row[1] * missing[1] + row[2] * missing[2])
    return np.sqrt(squared)


def _light_and_dark(lacking: Light, fallen: Flags) -> Flags:
    """``(n, m)`` where both dark and light are seen across an outline: by the difference between the darkest and the
    lightest, against what most slits of the plate show."""
    contrast = np.ptp(lacking.mean(axis=0), axis=0)
    top = np.percentile(contrast, TOP_PCT, axis=1)
    bare = float(np.median(contrast[~fallen].min(axis=1)))
    slits = top[~fallen & (top > BARE_CONTRASTS * bare)]
    if len(slits) < 2:
        return np.zeros(contrast.shape, bool)
    return np.asarray(contrast >= bare + THROUGH_SHARE * (float(np.median(slits)) - bare))


def openings(
    across: Across, bare: Across | None, inside: Light, scatter: float, around: Floats | None = None
) -> Openings:
    """What is open of each patch.

    bare : the same well inside of the outlines, where nothing is cut; None where there is no room
    inside : ``(3, n, cells)`` light over the ground's of cells well inside of each
    scatter : of the ground, as a share of it
    around : ``(3, k)`` by how much what lies around the sheet differs from it, log light; None where it is not seen
    """
    beside = median(across.between(0.7, across.offsets[-1]), (1, 3))
    share, unlike = _insides(inside, beside)
    fallen = share >= FALLEN
    covariance = _scatter(bare, ~fallen, scatter)
    inverse = np.asarray(np.linalg.inv(covariance), np.float64)
    lacking = _lacking(across, 0.0)
    missing = _black_mm(lacking)
    sigmas = _distance(missing, inverse)
    # Light shines through a slit seen along; seen at a slant, its wall is dark: each against its own.
    lighter = missing.sum(axis=0) < 0
    rim = across.between(*RIM_MM)[:, :, fallen].reshape(3, -1)
    light = rim.sum(axis=0) > 3
    least = np.where(lighter, _least(np.where(lighter, sigmas, 0.0), fallen, _open_mm(rim[:, light], inverse)),
                     _least(np.where(lighter, 0.0, sigmas), fallen, _open_mm(rim[:, ~light], inverse)))  # fmt: skip
    through = (sigmas >= least) | fallen[:, None]
    maybe = np.abs(sigmas - least) < np.maximum(1.5, 0.15 * least)
    if (~fallen).any() and (lighter & through)[~fallen].mean() > SHINES:
        # A slit may show a dark wall and light beside it, which together take no light.
        mostly = through.mean(axis=1, keepdims=True) > MOSTLY
        maybe |= mostly & ~through & _light_and_dark(lacking, fallen)
    return Openings(
        inside=share,
        outline=through.mean(axis=1),
        unsure=np.where(fallen, 0.0, maybe.mean(axis=1)),
        bridge_mm=np.where(fallen, 0.0, longest_run(~through) * across.every_mm),
        through=through,
        alike=looks_alike(unlike[:, fallen], around),
    )
