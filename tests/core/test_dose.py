"""Dose and pulse figures against worked examples."""

import unittest

import numpy as np
from numpy.testing import assert_allclose

from rezept.core.dose import (
    area_dose,
    line_dose,
    line_overlap,
    peak_power_kw,
    power_w,
    pulse_energy_mj,
    pulse_pitch_um,
    rayleigh_length_mm,
)


class DoseTest(unittest.TestCase):
    def test_worked_examples(self):
        """60 W at 70 % is 42 W; at 21 mm/s in two passes 4 J/mm, with 0.1 mm lines 40 J/mm2."""
        power = power_w(60, 70)
        assert_allclose(power, 42)
        assert_allclose(line_dose(power, 21, 2), 4)
        assert_allclose(area_dose(power, 21, 0.1, 2), 40)

    def test_equal_dose_for_equal_ratio(self):
        """Twice the power at twice the speed is the same dose, whatever the numbers."""
        speeds = np.array([5.0, 40.0, 800.0])
        assert_allclose(line_dose(30, speeds), line_dose(60, 2 * speeds))

    def test_pulse_figures(self):
        """20 W at 50 kHz are 0.4 mJ; in 200 ns 2 kW; at 1000 mm/s 20 um apart."""
        assert_allclose(pulse_energy_mj(20, 50), 0.4)
        assert_allclose(peak_power_kw(20, 50, 200), 2)
        assert_allclose(pulse_pitch_um(1000, 50), 20)

    def test_overlap_is_negative_where_stripes_stay_bare(self):
        assert_allclose(line_overlap([0.05, 0.1, 0.2], 0.1), [0.5, 0, -1])

    def test_rayleigh_length_of_the_handbook(self):
        """10 600 nm, M2 1.2, 0.1 mm: 0.62 mm."""
        self.assertAlmostEqual(float(rayleigh_length_mm(0.1, 10_600, 1.2)), 0.62, places=2)


if __name__ == "__main__":
    unittest.main()
