"""How a sheet answers to the energy laid on it: cut, char, soot, darkening, ash, frost, oxide.

Everything here is hidden from whoever plans: the bench is handed bytes and gives back what can be seen.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.bench.energy import Grid, Samples, Source
from rezept.bench.film import THICKEST_NM, film_colours
from rezept.bench.response import SUBSTANCES, Substance

Floats32 = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Peak fluence of a line of 1 J/mm under a spot of 0.18 mm: what `Substance.cut_j_mm2` was set for.
_USUAL_PEAK = 1.0 / (0.18 / 4 * np.sqrt(2 * np.pi))
THRESHOLD_SHARE = 0.03
# How wide and how long the streaks of brushed metal are.
STREAK_MM = (0.06, 25.0)
REACH_MM = 11.0
CHAR_SPREAD_MM, SOOT_SPREAD_MM = 0.35, 1.6
NO_AIR = 0.9
# Heat spreads over so much ground a second, mm2/s, and so much of a part's energy warms its neighbours.
DIFFUSIVITY = 0.9
COOLS_S = 6.0
WARMED_J_MM2 = 0.25


@dataclass(frozen=True)
class Sheet:
    """A piece of a material on the bed.

    lot : how much dose this lot needs, 1 for the usual one; lots differ by 3 to 12 %
    bed_mm : by how much the bed is out of level over the whole piece
    ground, mark : linear sRGB of the bare surface and of a full mark
    brushed : scatter of the streaks along x that brushing leaves, as a share of the light
    """

    substance: str
    thickness_mm: float
    ground: tuple[float, float, float]
    mark: tuple[float, float, float]
    lighter: bool = False
    brushed: float = 0.0
    lot: float = 1.0
    bed_mm: float = 0.2
    seed: int = 1

    @property
    def made_of(self) -> Substance:
        return SUBSTANCES[self.substance]

    @property
    def oxide(self) -> bool:
        return self.substance in ("stainless", "nickel silver")


@dataclass(frozen=True)
class Burned:
    """A sheet after the burn, on a raster; rows run upward.

    front, back : ``(rows, columns, 3)`` linear sRGB of what is left
    open : nothing is left there: cut through, or fallen out
    depth_mm : how deep it is cut; fluence : absorbed J/mm2 in all
    """

    grid: Grid
    front: Floats32
    back: Floats32
    open: Mask
    depth_mm: Floats32
    fluence: Floats32


def _noise(shape: tuple[int, int], cells: tuple[float, float], rng: np.random.Generator) -> Floats32:
    """Smooth noise of unit size whose grains are so many cells high and wide."""
    coarse = (max(2, int(shape[0] / cells[0]) + 2), max(2, int(shape[1] / cells[1]) + 2))
    small = rng.normal(size=coarse).astype(np.float32)
    zoomed = ndimage.zoom(small, (shape[0] / (coarse[0] - 1) + 0.01, shape[1] / (coarse[1] - 1) + 0.01), order=1)
    return np.asarray(zoomed[: shape[0], : shape[1]], np.float32)


def warmth(samples: Samples) -> NDArray[np.float64]:
    """For each part, how warm what was burned before left its ground: J/mm2 that have not spread yet.

    Each part is taken as a point source in a sheet: ``Q / (4 pi k t + A) exp(-r^2 / (4 k t + A))`` (H. Carslaw,
    J. Jaeger, "Conduction of Heat in Solids", sec. 10.3), A a square as large as a patch; the air takes the rest away
    within seconds.
    """
    parts = np.unique(samples.part)
    warm = np.zeros(int(parts.max()) + 1 if len(parts) else 1)
    heat: list[float] = []
    place: list[NDArray[np.float64]] = []
    when: list[float] = []
    clock = 0.0
    for part in parts:
        mine = samples.part == part
        centre = samples.points[mine].mean(axis=0)
        size = float(np.ptp(samples.points[mine], axis=0).max()) ** 2 + 1.0
        for q, at, then in zip(heat, place, when, strict=True):
            spread = 4 * DIFFUSIVITY * (clock - then) + size
            left = np.exp(-((centre - at) ** 2).sum() / spread - (clock - then) / COOLS_S)
            warm[part] += q / (np.pi * spread) * left
        step = samples.points[mine]
        clock += float(np.linalg.norm(np.diff(step, axis=0), axis=1).sum() / max(1e-6, samples.speed_mm_s[mine].mean()))
        heat.append(float(samples.energy_j[mine].sum()))
        place.append(centre)
        when.append(clock)
    return warm


def _absorbed(samples: Samples, sheet: Sheet, source: Source) -> NDArray[np.float64]:
    """J that go into the sheet at each sample."""
    made = sheet.made_of
    nearest = min(made.absorbs, key=lambda nm: abs(nm - source.wavelength_nm))
    share = made.absorbs[nearest] / (1 + made.speed_loss * samples.speed_mm_s / 100) / sheet.lot
    share = share * np.where(samples.air, 1.0, NO_AIR)
    return samples.energy_j * share * (1 + 0.1 * np.minimum(1.0, warmth(samples)[samples.part] / WARMED_J_MM2))


def _laid(grid: Grid, points: NDArray[np.float64], energy: NDArray[np.float64], spot: NDArray[np.float64]) -> Floats32:
    """J/mm2 of samples with their spots, blurred class by class of spot size."""
    total = np.zeros(grid.shape, np.float32)
    index, inside = grid.index(points)
    classes = np.unique(np.round(np.log(spot) / 0.15))
    for one in classes:
        mine = inside & (np.round(np.log(spot) / 0.15) == one)
        if not mine.any():
            continue
        flat = np.bincount(index[mine], energy[mine], grid.shape[0] * grid.shape[1]).reshape(grid.shape)
        sigma = float(np.exp(one * 0.15)) / 4 / grid.cell_mm
        total += (
            ndimage.gaussian_filter(flat.astype(np.float32), sigma, mode="constant", truncate=3.0) / grid.cell_mm**2
        )
    return total


def _fallen(solid: Mask) -> Mask:
    """What hangs on nothing any more: every piece but the largest."""
    pieces, count = ndimage.label(solid)
    if count < 2:
        return np.zeros_like(solid)
    sizes = np.bincount(pieces.ravel())
    sizes[0] = 0
    return np.asarray(solid & (pieces != int(sizes.argmax())), bool)


def burn(sheet: Sheet, samples: Samples, source: Source, grid: Grid) -> Burned:
    """What a sheet looks like after all of this."""
    made, rng = sheet.made_of, np.random.default_rng(sheet.seed)
    absorbed = _absorbed(samples, sheet, source)
    bed = sheet.bed_mm * ((samples.points[:, 0] - grid.x0) / (grid.shape[1] * grid.cell_mm) - 0.5)
    spot = source.spot_at(samples.z_mm + bed)
    # Wood and leather have long grain along x; what has none is nearly even.
    grain = 1 + made.grain * _noise(grid.shape, (0.8 / grid.cell_mm, 7.0 / grid.cell_mm), rng)
    depth = np.zeros(grid.shape, np.float32)
    fluence = np.zeros(grid.shape, np.float32)
    hardness = None if made.cut_j_mm2 is None else made.cut_j_mm2 * _USUAL_PEAK
    for visit in range(int(samples.visit.max()) + 1 if len(samples) else 0):
        mine = samples.visit == visit
        laid = _laid(grid, samples.points[mine], absorbed[mine], spot[mine])
        fluence += laid
        if hardness is not None:
            threshold = THRESHOLD_SHARE * hardness
            # The deeper the kerf, the less of the beam reaches its ground.
            depth += np.maximum(0.0, laid / grain - threshold) / (hardness * (1 + depth / REACH_MM))
    through = depth >= sheet.thickness_mm
    gone = through | _fallen(~through) if through.any() else through
    khz = np.zeros(grid.shape, np.float32)
    if sheet.oxide and len(samples):
        # The frequency that brought the energy, place by place.
        brought = _laid(grid, samples.points, absorbed * samples.frequency_khz, spot)
        khz = np.asarray(brought / np.maximum(fluence, 1e-6), np.float32)
    front = _front(sheet, samples, grid, fluence, khz, depth, grain, rng)
    return Burned(grid, front, _back(sheet, grid, depth, fluence, grain), gone, depth, fluence)


def _ground(sheet: Sheet, grain: Floats32, cell_mm: float, rng: np.random.Generator) -> Floats32:
    tooth = 1 + 0.02 * rng.standard_normal(grain.shape, np.float32)
    shade = (1 + 0.5 * (grain - 1)) * tooth
    if sheet.brushed > 0:
        # Uneven along themselves, too, and never darker than a groove is.
        streaks, (wide, long) = np.zeros(grain.shape, np.float32), STREAK_MM
        for finer in (1, 3):
            streaks += _noise(grain.shape, (wide * finer / cell_mm, long / finer / cell_mm), rng)
        shade = shade * np.maximum(1 + sheet.brushed / np.sqrt(2) * streaks, 0.4)
    return np.asarray(np.array(sheet.ground, np.float32) * shade[..., None], np.float32)


def _oxidised(sheet: Sheet, fluence: Floats32, khz: Floats32) -> Floats32:
    """The film grows with the logarithm of the dose, and a little faster the more pulses bring it."""
    faster = (np.maximum(khz, 20.0) / 120.0) ** 0.2
    film = 95.0 * faster * np.log1p((fluence / sheet.made_of.dark_j_mm2) ** 1.5)
    colours = film_colours().astype(np.float32)
    return np.asarray(colours[np.clip(film, 0, THICKEST_NM).astype(np.int64)], np.float32)


def _front(
    sheet: Sheet,
    samples: Samples,
    grid: Grid,
    fluence: Floats32,
    khz: Floats32,
    depth: Floats32,
    grain: Floats32,
    rng: np.random.Generator,
) -> Floats32:
    """Ground, mark, ash, char beside the cuts, soot around them."""
    made = sheet.made_of
    surface = _ground(sheet, grain, grid.cell_mm, rng)
    if sheet.oxide:
        return surface * _oxidised(sheet, fluence, khz)
    dose = fluence / made.dark_j_mm2 / grain
    marked = 1 - np.exp(-dose)
    ash = np.clip(fluence / made.ash_j_mm2 - 1, 0, 1) * (0.5 + 0.2 * _noise(grid.shape, (6, 6), rng))
    mark = np.array(sheet.mark, np.float32)
    pale = 0.5 * mark + 0.5 * np.array(sheet.ground, np.float32)
    share = marked[..., None]
    surface = surface * (1 - share) + share * (mark * (1 - ash[..., None]) + pale * ash[..., None])
    if made.cut_j_mm2 is None or sheet.lighter:
        return np.asarray(surface, np.float32)
    excess = np.maximum(0.0, fluence - made.char_from * made.cut_j_mm2 * _USUAL_PEAK * sheet.thickness_mm * 0.5)
    char = ndimage.gaussian_filter(excess, CHAR_SPREAD_MM / grid.cell_mm, truncate=3.0) / made.ash_j_mm2
    soot = ndimage.gaussian_filter(depth, SOOT_SPREAD_MM / grid.cell_mm, truncate=2.0) / sheet.thickness_mm
    air = bool(samples.air.mean() > 0.5) if len(samples) else True
    veil = np.exp(-2.0 * char - (0.15 if air else 0.5) * soot)
    return np.asarray(surface * veil[..., None], np.float32)


def _back(sheet: Sheet, grid: Grid, depth: Floats32, fluence: Floats32, grain: Floats32) -> Floats32:
    """Bare, but where nearly all of the thickness was burned, and scorched beside cuts with much to spare."""
    surface = np.array(sheet.ground, np.float32) * (1 + 0.4 * (grain - 1))[..., None]
    made = sheet.made_of
    if made.cut_j_mm2 is None:
        return np.asarray(surface, np.float32)
    spare = np.maximum(0.0, depth / sheet.thickness_mm - 1.3)
    scorch = ndimage.gaussian_filter(spare, CHAR_SPREAD_MM / grid.cell_mm, truncate=3.0)
    brown = np.clip(depth / sheet.thickness_mm - 0.8, 0, 0.2) * 2
    return np.asarray(surface * np.exp(-1.5 * scorch - brown)[..., None], np.float32)
