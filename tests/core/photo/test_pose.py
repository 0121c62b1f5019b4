"""Homographies and the radial distortion of a lens."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from rezept.core.errors import InvalidInput
from rezept.core.photo.pose import Pose, distorted, fitted, homography, pixel_jacobian, projected, undistorted

SIZE = (2000, 1500)
SQUARE = np.array([(0.0, 0.0), (80.0, 0.0), (80.0, 60.0), (0.0, 60.0)])
SEEN = np.array([(300.0, 1200.0), (1650.0, 1260.0), (1590.0, 240.0), (360.0, 310.0)])
GRID = np.stack(np.meshgrid(np.linspace(0, 80, 7), np.linspace(0, 60, 6)), axis=-1).reshape(-1, 2)


class HomographyTest(unittest.TestCase):
    def test_four_points_are_met(self):
        np.testing.assert_allclose(projected(homography(SQUARE, SEEN), SQUARE), SEEN, atol=1e-8)

    def test_it_comes_back_from_its_own_points(self):
        matrix = homography(SQUARE, SEEN)
        again = homography(GRID, projected(matrix, GRID))
        np.testing.assert_allclose(again, matrix, rtol=1e-7)

    def test_three_points_are_too_few(self):
        with self.assertRaisesRegex(InvalidInput, "too few"):
            homography(SQUARE[:3], SEEN[:3])


class DistortionTest(unittest.TestCase):
    @given(st.floats(-0.05, 0.05), st.floats(0, 1999), st.floats(0, 1499))
    def test_undistorted_is_distorted_turned_round(self, k1, x, y):
        point = np.array([[x, y]])
        np.testing.assert_allclose(undistorted(distorted(point, k1, SIZE), k1, SIZE), point, atol=1e-3)

    def test_the_middle_stays_and_a_corner_moves_by_k1(self):
        middle = (np.array(SIZE) - 1) / 2
        np.testing.assert_allclose(distorted(middle[None], 0.02, SIZE)[0], middle)
        corner = np.zeros((1, 2))
        moved = np.linalg.norm(distorted(corner, 0.02, SIZE) - corner)
        self.assertAlmostEqual(moved / np.linalg.norm(middle), 0.02, places=4)


class PoseTest(unittest.TestCase):
    pose = Pose(homography(SQUARE, SEEN), 0.015, SIZE)

    def test_there_and_back(self):
        np.testing.assert_allclose(self.pose.to_mm(self.pose.to_pixels(GRID)), GRID, atol=1e-5)

    def test_twice_the_picture_has_twice_the_pixels(self):
        twice = self.pose.scaled(2.0)
        np.testing.assert_allclose(twice.to_pixels(GRID), 2 * self.pose.to_pixels(GRID) + 0.5, atol=1e-6)
        self.assertAlmostEqual(twice.px_per_mm(GRID[20]), 2 * self.pose.px_per_mm(GRID[20]), places=6)

    def test_the_jacobian_is_what_small_steps_show(self):
        guess = np.append(self.pose.matrix.ravel()[:8], 0.015)

        def seen(at):
            return Pose(np.append(at[:8], 1.0).reshape(3, 3), at[8], SIZE).to_pixels(GRID)

        steps = np.maximum(np.abs(guess), 1e-3) * 1e-6
        shown = [(seen(guess + row) - seen(guess - row)) / (2 * row.sum()) for row in np.diag(steps)]
        np.testing.assert_allclose(pixel_jacobian(guess, GRID, SIZE), np.stack(shown, axis=-1), rtol=1e-5, atol=1e-3)
        np.testing.assert_allclose(
            pixel_jacobian(guess[:8], GRID, SIZE),
            pixel_jacobian(np.append(guess[:8], 0.0), GRID, SIZE)[..., :8],
        )

    def test_a_fit_finds_pose_and_k1_in_spite_of_a_few_wrong_points(self):
        pixels = self.pose.to_pixels(GRID)
        pixels[[3, 17]] += 40.0
        found = fitted(GRID, pixels, np.ones(len(GRID)), SIZE, distortion=True)
        self.assertAlmostEqual(found.k1, 0.015, places=3)
        away = np.linalg.norm(found.to_pixels(GRID) - self.pose.to_pixels(GRID), axis=1)
        self.assertLess(np.median(away), 0.3)


if __name__ == "__main__":
    unittest.main()
