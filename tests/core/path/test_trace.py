"""The outline of a plate before it burns: round it, and tight round what burns."""

import unittest

import numpy as np
import shapely

from rezept.core.path.trace import CLEAR_MM, hull_round, outermost, rounded_hull


def turns(way):
    """Degrees by which each corner of a closed way turns to the left."""
    edges = np.diff(way, axis=0)
    edges = edges[np.hypot(*edges.T) > 1e-9]
    heading = np.degrees(np.arctan2(edges[:, 1], edges[:, 0]))
    return (np.roll(heading, -1) - heading + 180) % 360 - 180


def farthest_out(way, points):
    """How far a point lies outside of a convex way at most, by every edge of it."""
    edges = np.diff(way, axis=0)
    keep = np.hypot(*edges.T) > 1e-9
    edges, starts = edges[keep], way[:-1][keep]
    outward = np.column_stack([edges[:, 1], -edges[:, 0]]) / np.hypot(*edges.T)[:, None]
    return max(float(((points - start) @ out).max()) for start, out in zip(starts, outward, strict=True))


class TightTest(unittest.TestCase):
    def test_round_two_squares_that_touch_at_a_corner(self):
        """A hexagon whose slanted sides run at 45 degrees."""
        squares = np.array([(0, 0), (10, 0), (10, 10), (0, 10), (10, 10), (20, 10), (20, 20), (10, 20)], float)
        hull = hull_round(squares)
        self.assertEqual(len(hull), 6)
        np.testing.assert_allclose((hull.min(axis=0), hull.max(axis=0)), [(-0.5, -0.5), (20.5, 20.5)])
        way, radius = rounded_hull(hull)
        self.assertAlmostEqual(radius, 0.08 * 21)
        # It touches all six sides, and leaves none.
        self.assertLess(farthest_out(np.vstack([hull, hull[:1]]), way), 1e-9)
        for here, there in zip(hull, np.roll(hull, -1, axis=0), strict=True):
            along = (there - here) / np.hypot(*(there - here))
            across = np.abs((way - here) @ [-along[1], along[0]])
            self.assertLess(across.min(), 1e-9)

    def test_it_is_closed_convex_and_begins_at_its_lowest_point(self):
        random = np.random.default_rng(4)
        for _ in range(200):
            points = random.normal(0, random.uniform(0.2, 40, 2), (random.integers(1, 60), 2))
            points = points @ np.array([(1, random.uniform(-2, 2)), (0, 1)])
            hull = hull_round(points)
            way, radius = rounded_hull(hull)
            np.testing.assert_allclose(way[0], way[-1], atol=1e-9)
            self.assertAlmostEqual(way[0, 1], way[:, 1].min(), places=6)
            self.assertAlmostEqual(turns(way).sum(), 360, places=6)
            self.assertGreater(turns(way).min(), -1e-6)
            # Steps of an arc and no corner: a head need not slow.
            self.assertLess(turns(way).max(), 46)
            # Everything lies inside but for what the corners take away, which is at most the radius over sin(half).
            self.assertLess(farthest_out(np.vstack([hull, hull[:1]]), way), 1e-6)
            self.assertGreater(radius, 0.01)

    def test_of_many_points_the_outermost_say_the_same(self):
        random = np.random.default_rng(9)
        for points in (random.normal(0, 9, (5000, 2)), np.linspace((0, 0), (30, 20), 400)):
            every = hull_round(points)
            sorted_out = hull_round(outermost(points))
            np.testing.assert_allclose(np.sort(every, axis=0), np.sort(sorted_out, axis=0), atol=1e-9)
            # By what does not sort them out.
            wide = (points[:, None] + CLEAR_MM * np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)])).reshape(-1, 2)
            hull = shapely.convex_hull(shapely.MultiPoint(wide))
            self.assertAlmostEqual(shapely.Polygon(every).symmetric_difference(hull).area, 0, places=6)

    def test_a_single_point_and_a_line_have_ground_round_them(self):
        for points in (np.zeros((1, 2)), np.array([(0.0, 0.0), (7.0, 0.0)])):
            hull = hull_round(points)
            np.testing.assert_allclose(np.ptp(hull, axis=0), np.ptp(points, axis=0) + 2 * CLEAR_MM)


if __name__ == "__main__":
    unittest.main()
