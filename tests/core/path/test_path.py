"""Hatching, outlines and the time moves take."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.path.figure import Figure
from rezept.core.path.hatch import begins_row, hatch_figure, hatch_loops, line_count
from rezept.core.path.motion import (
    corner_heat,
    corner_speeds,
    hatch_seconds,
    loop_seconds,
    run_up_mm,
    strokes_seconds,
    trapezoid_seconds,
    travel_seconds,
    way_seconds,
)
from rezept.core.path.outlines import coupon, disc, rectangle
from rezept.core.path.shapes import shaped
from tests.core.stepping import stepped_way
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
        lines = hatch_figure(Figure([rectangle(8, 6)]), 0.1, 0)
        self.assertEqual(lines.shape, (60, 2, 2))
        assert_allclose(lines[:, 0, 1], (np.arange(60) + 0.5) * 0.1)
        assert_allclose(lines[0], [[0, 0.05], [8, 0.05]])
        assert_allclose(lines[1], [[8, 0.15], [0, 0.15]])

    def test_spacing_is_fitted_to_the_height(self):
        """1 mm at 0.3: three lines 1/3 mm apart; 0.04 mm at 0.1: still one line in the middle."""
        assert_allclose(hatch_figure(Figure([rectangle(5, 1)]), 0.3, 0)[:, 0, 1], [1 / 6, 1 / 2, 5 / 6])
        assert_allclose(hatch_figure(Figure([rectangle(5, 0.04)]), 0.1, 0)[:, 0, 1], [0.02])
        self.assertEqual(line_count(0.25, 0.1), 2)

    def test_right_angle_runs_along_y(self):
        lines = hatch_figure(Figure([rectangle(8, 6)]), 0.5, 90)
        self.assertEqual(len(lines), 16)
        assert_allclose(lines[:, 0, 0], lines[:, 1, 0])
        assert_allclose(np.abs(lines[:, 1, 1] - lines[:, 0, 1]), 6)

    @given(st.floats(0.5, 50), st.floats(0.5, 50), st.floats(0.02, 2), st.floats(-360, 360))
    def test_any_angle_fills_the_patch(self, width, height, spacing, angle):
        """No line leaves the patch, and lines times true spacing cover its area."""
        lines = hatch_figure(Figure([rectangle(width, height)]), spacing, angle)
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

    def test_a_disc_and_what_a_hole_leaves(self):
        """Area of lines times spacing: a disc pi r^2, the coupon's half ellipse and triangle less its hole."""
        for loops, area in [
            (shaped("disc", 8.0, 8.0).ways, np.pi * 16),
            (shaped("coupon", 10.0, 10.0).ways, np.pi / 2 * 25 + 25 - np.pi * 1.1**2),
        ]:
            for angle in (0.0, 30.0, 90.0):
                lines = hatch_loops(loops, 0.02, angle)
                rows = begins_row(lines)
                extent = np.ptp(np.concatenate(loops) @ [-np.sin(np.deg2rad(angle)), np.cos(np.deg2rad(angle))])
                spacing = extent / line_count(extent, 0.02)
                covered = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum() * spacing
                self.assertAlmostEqual(covered, area, delta=0.02 * area)
                self.assertEqual(int(rows.sum()), line_count(extent, 0.02))

    def test_a_row_that_meets_the_hole_goes_on_behind_it(self):
        lines = hatch_loops(shaped("coupon", 10.0, 10.0).ways, 0.5, 0.0)
        rows = begins_row(lines)
        twice = np.flatnonzero(~rows)
        self.assertEqual(len(twice), 4)  # the hole is 2.2 mm high
        for i in twice:
            self.assertAlmostEqual(lines[i, 0, 1], lines[i - 1, 0, 1])
            self.assertGreater((lines[i, 0, 0] - lines[i - 1, 1, 0]) * (lines[i, 1, 0] - lines[i, 0, 0]), 0)

    def test_an_outline_that_does_not_close_is_not_filled(self):
        with self.assertRaises(ValueError):
            hatch_loops([rectangle(3, 2)[:-1]], 0.1, 0)

    def test_the_coupon_has_its_hole_first_and_ends_where_it_begins(self):
        hole, around = coupon(12.0, 9.0)
        for loop in (hole, around, disc(5.0, 5.0)):
            self.assertTrue(np.array_equal(loop[0], loop[-1]))
            self.assertGreater(float(np.sum(loop[:-1, 0] * loop[1:, 1] - loop[1:, 0] * loop[:-1, 1])), 0)
        assert_allclose(around.min(axis=0), [0, 0], atol=1e-9)
        assert_allclose(around.max(axis=0), [12, 9], atol=0.02)
        self.assertTrue((hole > around[0]).all())


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
        lines = hatch_figure(Figure([rectangle(8, 0.2)]), 0.1, 0)
        assert_allclose(hatch_seconds(self.wren, lines, 200), 2 * (0.04 + 0.1) + 2 * np.sqrt(0.1 / 4000))

    def test_galvo_pays_its_delays_for_each_jump(self):
        """Two 6 mm lines at 600 mm/s and one jump of 0.1 mm at 4000 mm/s with 500 us of delays."""
        lines = hatch_figure(Figure([rectangle(6, 0.2)]), 0.1, 0)
        assert_allclose(hatch_seconds(self.heron, lines, 600), 2 * 0.01 + 0.1 / 4000 + 500e-6)

    def test_no_way_takes_no_time(self):
        assert_allclose(travel_seconds(self.wren, [0.0]), 0)
        assert_allclose(travel_seconds(self.heron, [0.0]), 0)

    def test_a_corner_is_taken_as_fast_as_the_jump_allows(self):
        """10 mm/s of jump: 10 / (2 sin 45 deg) = 7.07 mm/s round a right angle, 5 mm/s back again."""
        assert_allclose(corner_speeds(self.wren, [np.pi / 2, np.pi]), [10 / np.sqrt(2), 5])
        self.assertEqual(corner_speeds(self.wren, 0.0), np.inf)

    def test_outlines_within_three_per_cent_of_stepping_through_them(self):
        hole, around = coupon(10.0, 10.0)
        for name, way in [("square", rectangle(6, 6)), ("hole", hole), ("coupon", around), ("disc", disc(4.0, 4.0))]:
            for speed in (20.0, 90.0):
                with self.subTest(name, speed=speed):
                    expected = stepped_way(self.wren, way, speed)
                    assert_allclose(way_seconds(self.wren, way, speed), expected, rtol=0.03)

    def test_rounds_without_a_stop(self):
        loop, speeds = disc(3.0, 3.0), [30.0, 120.0]
        five = way_seconds(self.wren, np.concatenate([loop, *[loop[1:]] * 4]), speeds)
        assert_allclose(loop_seconds(self.wren, loop, speeds, [5, 5]), five, rtol=1e-9)
        assert_allclose(loop_seconds(self.wren, loop, speeds, [1, 2])[0], way_seconds(self.wren, loop, 30.0)[0])

    def test_many_strokes_are_timed_as_each_alone(self):
        ways = [rectangle(2, 1), disc(1.5, 1.5), np.array([(0.0, 0.0), (3.0, 1.0)])]
        begins = np.concatenate([np.arange(len(way)) == 0 for way in ways])
        for machine in (self.wren, self.heron):
            each = [way_seconds(machine, way, 80.0)[0] for way in ways]
            assert_allclose(strokes_seconds(machine, np.concatenate(ways), begins, 80.0), each, rtol=1e-9)

    def test_a_galvo_pays_for_every_corner_by_its_turn(self):
        """Four sides of 5 mm at 500 mm/s and three right angles, each half of 200 us."""
        heron = read_machine(Fields({**HERON, "polygon_delay_us": 200}))
        assert_allclose(way_seconds(heron, rectangle(5, 5), 500.0), 20 / 500 + 3 * 100e-6)

    def test_corner_heat_by_stepping_through_half_a_spot(self):
        """From corner speed at 4000 mm/s2 over 0.09 mm: the time there over the time at full speed."""
        for speed in (10.0, 40.0, 200.0):
            velocity, position, elapsed, dt = min(10 / np.sqrt(2), speed), 0.0, 0.0, 1e-7
            while position < 0.09:
                velocity = min(velocity + 4000 * dt, speed)
                position += velocity * dt
                elapsed += dt
            rise, way = corner_heat(self.wren, rectangle(10, 10), speed, 0.18)
            assert_allclose(rise, elapsed / (0.09 / speed), rtol=0.01)
            assert_allclose(way, (speed**2 - min(50, speed**2)) / 8000)
        self.assertEqual(corner_heat(self.heron, rectangle(5, 5), 900.0, 0.05)[0], 1.0)


if __name__ == "__main__":
    unittest.main()
