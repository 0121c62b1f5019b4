"""Single-stroke lettering: what is drawn on the screen is what is burned."""

import string
import unittest

import numpy as np
from fontTools.pens.recordingPen import RecordingPen
from fontTools.svgLib.path import parse_path

from rezept.core.path.lettering import text_path, text_points, text_width

EVERY = "".join(letter for letter in string.printable if letter.isprintable())


def strokes_in(data):
    """The strokes of path data, as fontTools reads it."""
    pen = RecordingPen()
    parse_path(data, pen)
    strokes = []
    for command, points in pen.value:
        if command == "moveTo":
            strokes.append([points[0]])
        elif command == "lineTo":
            strokes[-1].append(points[0])
    return [np.array(stroke) for stroke in strokes if len(stroke) > 1]


class PathTest(unittest.TestCase):
    def test_every_letter_lies_where_it_is_burned(self):
        for text in (EVERY, "0.12 mm", "speed mm/s >  power % ^", "Größe 3"):
            points, begins = text_points(text, 1.0, 0.0, 0.0)
            burned = [stroke for stroke in np.split(points, np.flatnonzero(begins)[1:]) if len(stroke) > 1]
            drawn = strokes_in(text_path(text))
            self.assertEqual(len(drawn), len(burned), text)
            for one, other in zip(drawn, burned, strict=True):
                # A thousandth of a capital's height, whether it is the first letter of the line or the last.
                np.testing.assert_allclose(one, other, atol=0.0011, err_msg=text)

    def test_nothing_is_written_of_nothing(self):
        self.assertEqual(text_path(""), "")
        self.assertEqual(text_path("   "), "")
        self.assertGreater(text_width("   ", 2.0), 0.0)


if __name__ == "__main__":
    unittest.main()
