"""Energy laid down along the real motion of the head, on a fine raster.

Rows of a raster run upward from the lowest point, columns to the right: cell (row, column) is centred at
``((column + 1/2) cell + x0, (row + 1/2) cell + y0)`` in the program's millimetres.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.bench.motion import Stretch

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Source:
    """What comes out of the machine: power at full S, floor, spot, and how fast that grows out of focus."""

    rated_power_w: float
    wavelength_nm: float
    s_at_full_power: float = 1000.0
    firing_floor_pct: float = 0.0
    spot_mm: float = 0.1
    m2: float = 1.3

    @property
    def rayleigh_mm(self) -> float:
        """``pi d^2 / (4 M2 lambda)`` with the 1/e2 diameter d (ISO 11146-1)."""
        return float(np.pi * self.spot_mm**2 / (4 * self.m2 * self.wavelength_nm * 1e-6))

    def spot_at(self, z_mm: Floats) -> Floats:
        """Diameter ``d sqrt(1 + (z / zR)^2)`` so far out of focus."""
        wide: Floats = self.spot_mm * np.sqrt(1.0 + (np.asarray(z_mm) / self.rayleigh_mm) ** 2)
        return wide


@dataclass(frozen=True)
class Grid:
    """A raster over a part of the bed: lower left corner, cell and shape (rows, columns)."""

    x0: float
    y0: float
    cell_mm: float
    shape: tuple[int, int]

    @classmethod
    def over(cls, low: Sequence[float], high: Sequence[float], finest_mm: float = 0.05, most: int = 5_000_000) -> Grid:
        """Over a box, no finer than asked for and with no more cells than `most`."""
        width, height = high[0] - low[0], high[1] - low[1]
        cell = max(finest_mm, float(np.sqrt(width * height / most)))
        return cls(float(low[0]), float(low[1]), cell, (int(np.ceil(height / cell)), int(np.ceil(width / cell))))

    def index(self, points: Floats) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
        """Flat index of the cell of each point ``(n, 2)``, and whether it lies on the raster."""
        column = np.floor((points[:, 0] - self.x0) / self.cell_mm).astype(np.int64)
        row = np.floor((points[:, 1] - self.y0) / self.cell_mm).astype(np.int64)
        inside = (row >= 0) & (row < self.shape[0]) & (column >= 0) & (column < self.shape[1])
        return row * self.shape[1] + column, inside


@dataclass(frozen=True)
class Samples:
    """Points along the way with the beam on, as parallel arrays ``(n,)``.

    energy_j : what the beam gave there; `visit` counts from 0 how often that move was made before within its part
    """

    points: Floats
    energy_j: Floats
    speed_mm_s: Floats
    z_mm: Floats
    visit: NDArray[np.int64]
    part: NDArray[np.int64]
    air: NDArray[np.bool_]
    frequency_khz: Floats

    def __len__(self) -> int:
        return len(self.energy_j)


def _visits(lit: Sequence[Stretch]) -> NDArray[np.int64]:
    """How often each move was made before in its part, whichever way round: the passes."""
    seen: dict[tuple[object, ...], int] = {}
    visits = []
    for stretch in lit:
        a, b = (tuple(round(value, 3) for value in point) for point in (stretch.start, stretch.end))
        key = (stretch.part, min(a, b), max(a, b))
        visits.append(seen.get(key, 0))
        seen[key] = visits[-1] + 1
    return np.array(visits, np.int64)


def sampled(stretches: Sequence[Stretch], source: Source, step_mm: float) -> Samples:
    """The lit way in steps no longer than `step_mm`, with the energy of each.

    At constant power a slower head leaves more: ``E = P dt`` with ``dt = 2 ds / (va + vb)`` between the speeds at the
    ends of a step, ``v(s)^2 = min(v0^2 + 2 a s, v^2, v1^2 + 2 a (L - s))``. Where power follows the speed it is
    ``P ds / v_asked``. Below its floor the source gives nothing.
    """
    lit = [stretch for stretch in stretches if stretch.beam > 0 and stretch.length_mm > 1e-9]
    if not lit:
        nothing = np.zeros(0)
        whole = np.zeros(0, np.int64)
        return Samples(np.zeros((0, 2)), nothing, nothing, nothing, whole, whole, np.zeros(0, bool), nothing)
    table = np.array(
        [
            (*s.start, *s.end, s.length_mm, s.v0, s.v, s.v1, s.asked_mm_s, s.acceleration, s.beam, s.follows_speed,
             s.z_mm, s.air, dict(s.told).get("frequency_khz", 0.0), s.part)
            for s in lit
        ]
    )  # fmt: skip
    x0, y0, x1, y1, length, v0, v, v1, asked, a, beam, follows, z, air, khz, part = table.T
    counts = np.maximum(1, np.ceil(length / step_mm)).astype(np.int64)
    of = np.repeat(np.arange(len(lit)), counts)
    place = np.arange(len(of)) - np.repeat(np.cumsum(counts) - counts, counts)
    ds = (length / counts)[of]
    way = (place + 0.5) * ds

    def speed_at(along: Floats) -> Floats:
        with np.errstate(invalid="ignore"):
            gaining = np.where(np.isinf(a[of]), np.inf, v0[of] ** 2 + 2 * a[of] * along)
            slowing = np.where(np.isinf(a[of]), np.inf, v1[of] ** 2 + 2 * a[of] * (length[of] - along))
        square = np.minimum(np.minimum(gaining, slowing), v[of] ** 2)
        return np.asarray(np.sqrt(np.maximum(square, 0.0)))

    speed = (speed_at(place * ds) + speed_at((place + 1) * ds)) / 2
    share = (beam / source.s_at_full_power)[of]
    power_share = np.where(follows[of] > 0, share * np.minimum(1.0, speed / asked[of]), share)
    power = source.rated_power_w * np.where(power_share * 100 < source.firing_floor_pct - 1e-9, 0.0, power_share)
    points = np.column_stack([x0, y0])[of] + (way / length[of])[:, None] * np.column_stack([x1 - x0, y1 - y0])[of]
    return Samples(
        points=points,
        energy_j=power * ds / np.maximum(speed, 1e-3),
        speed_mm_s=speed,
        z_mm=z[of],
        visit=_visits(lit)[of],
        part=part[of].astype(np.int64),
        air=air[of] > 0,
        frequency_khz=khz[of],
    )
