"""Cuts in pictures that are drawn here: how unlike the sheet they are, and where their outlines lie."""

import unittest

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from rezept.core.photo.pose import Pose, fit_unsure_px, fitted
from rezept.core.photo.register import edges, likeness, openness
from rezept.core.photo.unlike import sheet_colour
from tests.photographed import marked_plate

SCALE, FINER = 8.0, 3
SHEET = np.array([196.0, 160.0, 118.0])


def pose_of(plate, shift=(0.0, 0.0)):
    """Straight from above, y up in the plate and down in the picture; shifted by so many mm on the plate."""
    high = plate.height_mm * SCALE
    matrix = np.array([[SCALE, 0, 40 + SCALE * shift[0]], [0, -SCALE, 40 + high - SCALE * shift[1]], [0, 0, 1.0]])
    return Pose(matrix, 0.0, (round(plate.width_mm * SCALE) + 80, round(high) + 80))


def drawn(plate, states, below, wall=(60, 45, 35), soot=0.0):
    """Each patch as its state says: 0 bare, 2 its outline, 3 fallen out over what is `below`; light falls off."""
    pose = pose_of(plate)
    size = pose.size
    image = Image.new("RGB", (size[0] * FINER, size[1] * FINER), tuple(SHEET.astype(int).tolist()))
    pen = ImageDraw.Draw(image)
    for state, (x, y, w, h) in zip(states, plate.elements.boxes.tolist(), strict=True):
        corners = pose.to_pixels(np.array([(x, y), (x + w, y), (x + w, y + h), (x, y + h)]))
        # Pixel (0, 0) is the middle of the first one.
        ends = (corners.min(axis=0), corners.max(axis=0))
        box = [*((ends[0] + 0.5) * FINER - 0.5).tolist(), *((ends[1] + 0.5) * FINER - 0.5).tolist()]
        if state == 3:
            wide = soot * SCALE * FINER
            # Soot to the right of it and above: more than anywhere else.
            pen.rectangle((box[0], box[1] - wide, box[2] + wide, box[3]), fill=(150, 120, 88))
            pen.rectangle(box, fill=tuple(below))
        elif state == 2:
            pen.rectangle(box, outline=tuple(wall), width=round(0.2 * SCALE * FINER))
    light = np.asarray(image.resize(size, Image.Resampling.BOX).filter(ImageFilter.GaussianBlur(0.6)), float)
    light *= np.linspace(1.0, 0.8, size[0])[None, :, None]
    noise = np.random.default_rng(4).normal(0, 2.0, light.shape)
    return np.clip(light + noise, 0, 255).astype(np.uint8)


class UnlikeTest(unittest.TestCase):
    plate = marked_plate()

    def test_darker_lighter_or_of_another_hue_it_is_unlike_the_sheet(self):
        states = [3, 0, 2, 0] * 5
        boxes = self.plate.elements.boxes
        for below in ((20, 20, 22), (250, 250, 252), (150, 165, 190)):
            rgb = drawn(self.plate, states, below)
            colour = sheet_colour(rgb, pose_of(self.plate), self.plate.width_mm, self.plate.height_mm)
            opened = openness(rgb, colour, pose_of(self.plate), boxes)
            np.testing.assert_array_equal(opened > 0.5, np.array(states) == 3)

    def test_the_sheet_itself_scatters_about_one_whatever_the_light(self):
        rgb = drawn(self.plate, [0] * 20, (0, 0, 0))
        pose = pose_of(self.plate)
        colour = sheet_colour(rgb, pose, self.plate.width_mm, self.plate.height_mm)
        places = np.random.default_rng(1).uniform(
            (2, 2), (self.plate.width_mm - 2, self.plate.height_mm - 2), (4000, 2)
        )
        # The mean of a squared Mahalanobis distance is the number of channels.
        self.assertAlmostEqual(float((colour.unlike(rgb, pose.to_pixels(places)) ** 2).mean()), 3.0, delta=1.0)


class RegisterTest(unittest.TestCase):
    plate = marked_plate(patch={"shape": "coupon", "width_mm": 9, "height_mm": 9, "gap_mm": 3})

    def test_a_shift_is_found_and_what_shows_nothing_is_not(self):
        plate = marked_plate()
        states = [2, 3, 0, 2] * 5
        rgb = drawn(plate, states, (235, 238, 245))
        for shift in ((0.9, -0.6), (-1.7, 1.2)):
            pose = pose_of(plate, shift)
            colour = sheet_colour(rgb, pose, plate.width_mm, plate.height_mm)
            like = likeness(plate, rgb, colour, pose, plate.elements.boxes, 2.4)
            np.testing.assert_array_equal(like.there, np.array(states) > 0)
            np.testing.assert_allclose(like.shift[like.there], np.tile(-np.array(shift), (15, 1)), atol=0.25)

    def test_edges_are_exact_and_soot_on_two_sides_moves_them_little(self):
        plate = marked_plate()
        states = [3, 2] * 10
        for soot, within in ((0.0, 0.05), (0.5, 0.1)):
            rgb = drawn(plate, states, (24, 26, 30), soot=soot)
            pose = pose_of(plate, (0.3, -0.2))
            colour = sheet_colour(rgb, pose, plate.width_mm, plate.height_mm)
            found = edges(plate, rgb, colour, pose, plate.elements.boxes, 1.2)
            self.assertGreater(int((found.sharpness > 0).sum()), 15)
            off = pose_of(plate).to_mm(found.pixels) - found.mm
            self.assertLess(float(np.abs(np.median(off[found.sharpness > 0], axis=0)).max()), within)

    def test_how_unsure_a_pose_is_grows_away_from_what_it_was_found_by(self):
        """Against fits to many drawn noises, as an independent word on the same."""
        pose = pose_of(self.plate)
        mm = self.plate.elements.boxes[:8, :2]
        at = np.array([[5.0, 5.0], [self.plate.width_mm - 5, self.plate.height_mm - 5]])
        rng = np.random.default_rng(2)
        poses, said = [], []
        for _ in range(60):
            pixels = pose.to_pixels(mm) + rng.normal(0, 0.2, mm.shape)
            found = fitted(mm, pixels, np.ones(len(mm)), pose.size, distortion=False)
            poses.append(found.to_pixels(at))
            said.append(fit_unsure_px(found, mm, pixels, np.ones(len(mm)), at, False))
        true = np.sqrt(np.array(poses).var(axis=0).sum(axis=1))
        self.assertGreater(true[1], 2 * true[0])
        np.testing.assert_allclose(np.median(said, axis=0), true, rtol=0.35)


if __name__ == "__main__":
    unittest.main()
