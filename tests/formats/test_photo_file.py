"""Photographs as files: what is taken, what is refused, which way is up."""

import io
import unittest
from unittest import mock

import numpy as np
import segno
from PIL import Image

from rezept.core.errors import InvalidInput
from rezept.formats import photo_file
from rezept.formats.photo_file import LastDecoded, read_photo


def picture(size=(600, 400), kind="JPEG", **more):
    ramp = np.linspace(0, 255, size[0], dtype=np.uint8)
    image = Image.fromarray(np.dstack([np.tile(ramp, (size[1], 1))] * 3))
    data = io.BytesIO()
    image.save(data, kind, **more)
    return data.getvalue()


class ReadTest(unittest.TestCase):
    def test_jpeg_png_and_webp(self):
        for kind in ("JPEG", "PNG", "WEBP"):
            with self.subTest(kind):
                read = read_photo(picture(kind=kind))
                self.assertEqual((read.size, read.factor, read.rgb.shape), ((600, 400), 1.0, (400, 600, 3)))

    def test_a_large_jpeg_is_decoded_at_half_its_size(self):
        read = read_photo(picture((4000, 3000)))
        self.assertEqual((read.size, read.factor, read.rgb.shape), ((4000, 3000), 2.0, (1500, 2000, 3)))

    def test_which_way_is_up_stands_in_the_file(self):
        """Orientation 6: the camera was turned; what is written left to right runs from top to bottom."""
        exif = Image.Exif()
        exif[0x0112] = 6
        for size in ((600, 400), (4000, 3000)):
            read = read_photo(picture(size, exif=exif))
            self.assertEqual(read.size, size[::-1])
            self.assertEqual(read.rgb.shape[:2], (round(size[0] / read.factor), round(size[1] / read.factor)))
            self.assertLess(read.grey[5].mean(), 0.1)
            self.assertGreater(read.grey[-5].mean(), 0.9)

    def test_what_is_refused(self):
        good = picture((1200, 900))
        for data, sentence in (
            (b"not a picture at all", "no photo I can read"),
            (good[: len(good) // 3], "damaged or cut short"),
            (picture(kind="GIF"), "no photo I can read"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InvalidInput, sentence):
                read_photo(data)
        with (
            mock.patch.object(photo_file, "MOST_PIXELS", {"image/jpeg": 1000}),
            self.assertRaisesRegex(InvalidInput, "more than"),
        ):
            read_photo(good)
        with mock.patch.object(photo_file, "LARGEST_BYTES", 10), self.assertRaisesRegex(InvalidInput, "at most"):
            read_photo(good)

    def test_sixteen_bits_of_grey_are_scaled_and_not_cut_off(self):
        ramp = np.tile(np.linspace(0, 65535, 512), (64, 1)).astype(np.uint16)
        data = io.BytesIO()
        Image.fromarray(ramp).save(data, "PNG")
        np.testing.assert_allclose(read_photo(data.getvalue()).grey[10], np.linspace(0, 1, 512), atol=0.003)

    def test_what_is_not_there_is_white(self):
        data = io.BytesIO()
        Image.new("RGBA", (40, 30), (0, 0, 0, 0)).save(data, "PNG")
        self.assertEqual(read_photo(data.getvalue()).rgb.min(), 255)

    def test_large_ones_of_every_kind_come_smaller(self):
        for kind in ("PNG", "WEBP", "JPEG"):
            read = read_photo(picture((5000, 3000), kind))
            with self.subTest(kind):
                self.assertEqual((read.size, read.factor), ((5000, 3000), 2.0))
                self.assertAlmostEqual(float(read.grey[700, -1]), 1.0, delta=0.02)
                self.assertAlmostEqual(float(read.grey[700, 1250]), 0.5, delta=0.02)

    def test_a_code_and_its_corners(self):
        data = io.BytesIO()
        segno.make_qr("REZEPT:7K3Q-T014.2").save(data, kind="png", scale=12, border=8)
        [code] = read_photo(data.getvalue()).codes
        self.assertEqual(code.text, "REZEPT:7K3Q-T014.2")
        modules = segno.make_qr("REZEPT:7K3Q-T014.2").symbol_size(scale=12, border=0)[0]
        np.testing.assert_allclose(code.corners[0], [96, 96], atol=3)
        np.testing.assert_allclose(code.corners[2], [96 + modules, 96 + modules], atol=3)


class LastDecodedTest(unittest.TestCase):
    def test_bytes_are_asked_for_only_where_it_is_another_picture(self):
        asked = []

        def data(name):
            asked.append(name)
            return picture((60, 40))

        last = LastDecoded()
        first = last.picture("a", lambda: data("a"))
        self.assertIs(last.picture("a", lambda: data("a")), first)
        self.assertIsNot(last.picture("b", lambda: data("b")), first)
        last.picture("a", lambda: data("a"))
        self.assertEqual(asked, ["a", "b", "a"])

    def test_one_that_is_refused_is_not_kept(self):
        last = LastDecoded()
        with self.assertRaises(InvalidInput):
            last.picture("a", lambda: b"no picture")
        self.assertEqual(last.picture("a", lambda: picture((60, 40))).size, (60, 40))


if __name__ == "__main__":
    unittest.main()
