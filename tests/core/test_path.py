"""Hatching, outlines and the time moves take."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.path.hatch import hatch_rectangle, line_count
from rezept.core.path.motion import hatch_seconds, path_seconds, run_up_mm, trapezoid_seconds, travel_seconds
from rezept.core.path.outlines import rectangle
from tests.made import HERON, WREN


def stepped_trapezoid(length, speed, acceleration, step=1e-5):
    """Independent reference: a move from rest to rest, integrated step by step."""
    position = velocity = elapsed = 0.0
    while position < length:
        braking = velocity**2 / (2 * acceleration)
        velocity = min(velocity + acceleration * step, speed) if position + braking < length else velocity
        if position + braking >= length:
            velocity = max(velocity - acceleration * step, acceleration * step)
        position += velocity * step
        elapsed += step
    return elapsed


class HatchTest(unittest.TestCase):
    def test_lines_of_a_plain_patch(self):
        """8 x 6 mm at 0.1 mm: 60 lines of 8 mm, line k at (k + 1/2) 0.1, every second backward."""
        lines = hatch_rectangle(8, 6, 0.1, 0)
        self.assertEqual(lines.shape, (60, 2, 2))
        assert_allclose(lines[:, 0, 1], (np.arange(60) + 0.5) * 0.1)
        assert_allclose(lines[0], [[0, 0.05], [8, 0.05]])
        assert_allclose(lines[1], [[8, 0.15], [0, 0.15]])

    def test_spacing_is_fitted_to_the_height(self):
        """1 mm at 0.3: three lines 1/3 mm apart; 0.04 mm at 0.1: still one line in the middle."""
        assert_allclose(hatch_rectangle(5, 1, 0.3, 0)[:, 0, 1], [1 / 6, 1 / 2, 5 / 6])
        assert_allclose(hatch_rectangle(5, 0.04, 0.1, 0)[:, 0, 1], [0.02])
        self.assertEqual(line_count(0.25, 0.1), 2)

    def test_right_angle_runs_along_y(self):
        lines = hatch_rectangle(8, 6, 0.5, 90)
        self.assertEqual(len(lines), 16)
        assert_allclose(lines[:, 0, 0], lines[:, 1, 0])
        assert_allclose(np.abs(lines[:, 1, 1] - lines[:, 0, 1]), 6)

    @given(st.floats(0.5, 50), st.floats(0.5, 50), st.floats(0.02, 2), st.floats(-360, 360))
    def test_any_angle_fills_the_patch(self, width, height, spacing, angle):
        """No line leaves the patch, and lines times true spacing cover its area."""
        lines = hatch_rectangle(width, height, spacing, angle)
        self.assertTrue((lines >= -1e-9).all())
        self.assertTrue((lines <= np.array([width, height]) + 1e-9).all())
        extent = abs(width * np.sin(np.deg2rad(angle))) + abs(height * np.cos(np.deg2rad(angle)))
        self.assertEqual(len(lines), line_count(extent, spacing))
        covered = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum() * extent / len(lines)
        # The midpoint rule is exact on trapezes and misses less than a cell's worth at the two corners it cuts.
        self.assertLess(abs(covered - width * height), 0.5 * (extent / len(lines)) * (width + height) + 1e-9)

    def test_outline_is_counter_clockwise_and_closed(self):
        points = rectangle(3, 2)
        assert_allclose(points[0], [0, 0])
        assert_allclose(points[-1], points[0])
        x, y = points.T
        self.assertAlmostEqual(0.5 * float(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1])), 6.0)


class MotionTest(unittest.TestCase):
    wren = read_machine(Fields(WREN))
    heron = read_machine(Fields(HERON))

    def test_trapezoid_against_integration(self):
        for length, speed in [(10, 30), (0.5, 200), (3, 100), (60, 400), (0.05, 20)]:
            with self.subTest(length=length, speed=speed):
                expected = stepped_trapezoid(length, speed, 4000, step=1e-5 if length > 0.1 else 2e-7)
                assert_allclose(trapezoid_seconds(length, speed, 4000), expected, rtol=0.01)

    def test_trapezoid_is_continuous_where_top_speed_is_just_reached(self):
        speed, acceleration = 100.0, 2000.0
        length = speed**2 / acceleration
        near = trapezoid_seconds([length * (1 - 1e-9), length], speed, acceleration)
        assert_allclose(near[0], near[1], rtol=1e-6)

    def test_run_up(self):
        assert_allclose(run_up_mm(self.wren, [200, 400]), [5, 20])
        assert_allclose(run_up_mm(self.heron, [200, 4000]), [0, 0])

    def test_hatch_time_worked_example(self):
        """Two 8 mm lines at 200 mm/s: 2 x (0.04 s + 2 x 0.05 s run-up), and one turn of 0.1 mm, 2 sqrt(0.1/4000)."""
        lines = hatch_rectangle(8, 0.2, 0.1, 0)
        assert_allclose(hatch_seconds(self.wren, lines, 200), 2 * (0.04 + 0.1) + 2 * np.sqrt(0.1 / 4000))

    def test_galvo_pays_its_delays_for_each_jump(self):
        """Two 6 mm lines at 600 mm/s and one jump of 0.1 mm at 4000 mm/s with 500 us of delays."""
        lines = hatch_rectangle(6, 0.2, 0.1, 0)
        assert_allclose(hatch_seconds(self.heron, lines, 600), 2 * 0.01 + 0.1 / 4000 + 500e-6)

    def test_no_way_takes_no_time(self):
        assert_allclose(travel_seconds(self.wren, [0.0]), 0)
        assert_allclose(travel_seconds(self.heron, [0.0]), 0)

    def test_outline_stops_at_corners(self):
        """Each of the four 10 mm sides from rest to rest: 10/20 + 20/4000 s."""
        sides = np.full(4, 10.0)
        assert_allclose(path_seconds(self.wren, sides, [20.0]), 4 * (0.5 + 0.005))


if __name__ == "__main__":
    unittest.main()
