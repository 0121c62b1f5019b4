"""Dose and pulse figures.

The formulas stand in `docs/physics.md` with their units: power P = rated power x per cent / 100 in W,
speed v in mm/s, n passes, spot d in mm, line spacing L in mm, frequency f in kHz, pulse width tau in ns.
All functions take scalars or arrays and follow NumPy's broadcasting.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def power_w(rated_power_w: ArrayLike, power_pct: ArrayLike) -> Floats:
    """Average power in W."""
    return np.asarray(rated_power_w, float) * np.asarray(power_pct, float) / 100.0


def line_dose(power: ArrayLike, speed_mm_s: ArrayLike, passes: ArrayLike = 1.0) -> Floats:
    """Energy along a line, ``P n / v`` in J/mm."""
    return np.asarray(power, float) * np.asarray(passes, float) / np.asarray(speed_mm_s, float)


def area_dose(power: ArrayLike, speed_mm_s: ArrayLike, line_spacing_mm: ArrayLike, passes: ArrayLike = 1.0) -> Floats:
    """Energy over a hatched area, ``P n / (v L)`` in J/mm2."""
    return line_dose(power, speed_mm_s, passes) / np.asarray(line_spacing_mm, float)


def line_overlap(line_spacing_mm: ArrayLike, spot_mm: ArrayLike) -> Floats:
    """Share of the spot that neighbouring lines burn twice, ``1 - L/d``; negative where bare stripes stay."""
    return 1.0 - np.asarray(line_spacing_mm, float) / np.asarray(spot_mm, float)


def pulse_energy_mj(power: ArrayLike, frequency_khz: ArrayLike) -> Floats:
    """Energy of one pulse, ``P / f`` in mJ."""
    return np.asarray(power, float) / np.asarray(frequency_khz, float)


def peak_power_kw(power: ArrayLike, frequency_khz: ArrayLike, pulse_width_ns: ArrayLike) -> Floats:
    """``1000 P / (f tau)`` in kW, for a rectangular pulse."""
    return 1000.0 * pulse_energy_mj(power, frequency_khz) / np.asarray(pulse_width_ns, float)


def pulse_pitch_um(speed_mm_s: ArrayLike, frequency_khz: ArrayLike) -> Floats:
    """Way between two pulses, ``v / f`` in um."""
    return np.asarray(speed_mm_s, float) / np.asarray(frequency_khz, float)


def rayleigh_length_mm(spot_mm: ArrayLike, wavelength_nm: ArrayLike, m2: ArrayLike = 1.0) -> Floats:
    """``pi d^2 / (4 M2 lambda)`` in mm, with d the 1/e2 diameter (ISO 11146-1)."""
    spot = np.asarray(spot_mm, float)
    return np.pi * spot**2 / (4.0 * np.asarray(m2, float) * np.asarray(wavelength_nm, float) * 1e-6)
