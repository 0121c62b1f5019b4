"""Photographs handed out: the picture bit for bit, and nothing of where, when and by what it was taken."""

import io
import unittest

import numpy as np
from PIL import Image, ImageCms, PngImagePlugin

from rezept.core.errors import InvalidInput
from rezept.formats.photo_traces import without_traces

MAKER, PLACE, WORDS = "Made-up Phone 9", (52.0, 31.0, 12.25), "taken at home"
TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}


def scene(width=61, height=47):
    """Noise: every bit of the coded data matters, and markers turn up in it."""
    return Image.fromarray(np.random.default_rng(7).integers(0, 256, (height, width, 3), np.uint8))


def traces(orientation=1):
    exif = Image.Exif()
    exif[0x010F], exif[0x0112], exif[0x0132] = MAKER, orientation, "2026:11:27 20:15:54"
    exif.get_ifd(0x8825).update({1: "N", 2: PLACE, 3: "E", 4: (13.0, 24.0, 36.5)})
    exif.get_ifd(0x8769)[0x9286] = WORDS
    return exif


def saved(kind, orientation=1, **more):
    data = io.BytesIO()
    xmp = f"<x:xmpmeta xmlns:x='adobe:ns:meta/'>{WORDS}</x:xmpmeta>".encode()
    if kind == "PNG":
        info = PngImagePlugin.PngInfo()
        info.add_text("Comment", WORDS)
        info.add_itxt("Author", MAKER, zip=True)
        more["pnginfo"] = info
    else:
        more["xmp"] = xmp
    if kind == "JPEG":
        more["comment"] = WORDS
    scene().save(data, kind, exif=traces(orientation), **more)
    return data.getvalue()


def decoded(data):
    with Image.open(io.BytesIO(data)) as image:
        return np.asarray(image.convert("RGB"))


class TracesTest(unittest.TestCase):
    def check(self, data, media_type, orientation=1):
        plain = without_traces(data, media_type)
        np.testing.assert_array_equal(decoded(plain), decoded(data))
        with Image.open(io.BytesIO(plain)) as image:
            exif = image.getexif()
            self.assertEqual(dict(exif), {} if orientation == 1 else {0x0112: orientation})
            self.assertEqual(dict(exif.get_ifd(0x8825)), {})
            self.assertEqual(
                {key for key in image.info if key in ("xmp", "XML:com.adobe.xmp", "comment", "Comment", "Author")},
                set(),
            )
        for word in (MAKER, WORDS, "2026:11:27", "xmpmeta"):
            self.assertNotIn(word.encode(), plain)
        return plain

    def test_every_kind_and_way_up(self):
        for kind, media_type in TYPES.items():
            for orientation in (1, 3, 6, 8):
                with self.subTest(kind=kind, orientation=orientation):
                    data = saved(kind, orientation)
                    self.assertIn(MAKER.encode(), data)
                    self.check(data, media_type, orientation)

    def test_progressive_restarting_and_coloured_jpegs(self):
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        for more in (
            {"progressive": True},
            {"restart_marker_blocks": 2},
            {"icc_profile": profile},
            {"quality": 100, "subsampling": 0},
        ):
            with self.subTest(**{key: str(value)[:9] for key, value in more.items()}):
                self.check(saved("JPEG", 6, **more), "image/jpeg", 6)
        grey, cmyk = io.BytesIO(), io.BytesIO()
        scene().convert("L").save(grey, "JPEG", exif=traces())
        scene().convert("CMYK").save(cmyk, "JPEG", exif=traces())
        self.check(grey.getvalue(), "image/jpeg")
        self.check(cmyk.getvalue(), "image/jpeg")

    def test_a_colour_profile_gives_the_same_colours_and_names_nobody(self):
        profile = ImageCms.createProfile("sRGB")
        named = bytearray(ImageCms.ImageCmsProfile(profile).tobytes())
        named[48:52], named[52:56], named[80:84] = b"MAKR", b"PHN9", b"MAKR"
        for kind, media_type in TYPES.items():
            plain = self.check(saved(kind, 1, icc_profile=bytes(named)), media_type)
            with self.subTest(kind), Image.open(io.BytesIO(plain)) as image:
                said = image.info["icc_profile"]
                for word in (b"MAKR", b"PHN9", b"lcms", "use freely".encode("utf-16-be")):
                    self.assertNotIn(word, said)
                made = ImageCms.ImageCmsProfile(io.BytesIO(said))
                other = ImageCms.createProfile("LAB")
                turned = [
                    np.asarray(ImageCms.profileToProfile(scene(), one, other, outputMode="LAB"))
                    for one in (made, ImageCms.ImageCmsProfile(io.BytesIO(bytes(named))))
                ]
                np.testing.assert_array_equal(*turned)
        # One that is none, and one that says it goes on elsewhere, are left out.
        for odd in (b"no profile at all" * 20, bytes(named[:200])):
            plain = self.check(saved("JPEG", icc_profile=odd), "image/jpeg")
            with Image.open(io.BytesIO(plain)) as image:
                self.assertNotIn(b"no profile", image.info.get("icc_profile", b""))

    def test_a_second_picture_behind_the_first_is_not_handed_out(self):
        both = io.BytesIO()
        scene().save(both, "MPO", save_all=True, append_images=[scene(20, 20)], exif=traces())
        plain = self.check(both.getvalue(), "image/jpeg")
        self.assertEqual(plain.count(b"\xff\xd8\xff"), 1)
        self.assertNotIn(b"Behind", without_traces(saved("JPEG") + b"Behind the end", "image/jpeg"))

    def test_what_is_damaged_or_odd_gets_a_sentence(self):
        for kind, media_type in TYPES.items():
            data = saved(kind)
            for cut in (3, 30, len(data) // 2):
                with self.subTest(kind=kind, cut=cut):
                    try:
                        plain = without_traces(data[:cut], media_type)
                    except InvalidInput:
                        continue
                    self.assertNotIn(MAKER.encode(), plain)
        with self.assertRaises(InvalidInput):
            without_traces(b"x", "image/heic")
        # Exif that says nonsense of itself.
        chance = np.random.default_rng(3)
        data = bytearray(saved("JPEG", 6))
        for _ in range(200):
            odd = bytearray(data)
            odd[20 + int(chance.integers(180))] = int(chance.integers(256))
            try:
                plain = without_traces(bytes(odd), "image/jpeg")
            except InvalidInput:
                continue
            self.assertNotIn(MAKER.encode(), plain)


if __name__ == "__main__":
    unittest.main()
