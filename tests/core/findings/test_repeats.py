"""The same settings several times: how many came out."""

import unittest

from rezept.core.findings.observations import Outcome, observations_of
from rezept.core.findings.repeats import repeated
from tests.core.plan.test_listed import listed_document
from tests.made import area_document, planned

SPEEDS = (12, 14, 12, 12, 14, 16)


def seen(outcomes, **states):
    plate = planned(listed_document([{"speed_mm_s": speed} for speed in SPEEDS]))
    said = {name: Outcome(float(one)) for name, one in zip(plate.elements.ids, outcomes, strict=True)}
    return observations_of(plate, said, **states)


class RepeatsTest(unittest.TestCase):
    def test_shares_of_what_was_burned_alike(self):
        first, second = repeated(seen([3, 1, 3, 2, 3, 0]))
        self.assertEqual((first.elements, first.words),
                         (("A1", "A3", "B1"), "2 of 3 patches with these settings dropped out."))  # fmt: skip
        self.assertEqual(second.words, "1 of 2 patches with these settings dropped out.")

    def test_what_says_nothing_is_not_counted(self):
        groups = repeated(seen([3, 1, 3, 2, 3, 0], uncertain={"B1"}, bare={"B2"}))
        self.assertEqual([(one.elements, one.words) for one in groups],
                         [(("A1", "A3"), "2 of 2 patches with these settings dropped out.")])  # fmt: skip

    def test_of_marks_their_spread(self):
        document = area_document(axes=[], hold={"power_pct": 20, "line_spacing_mm": 0.1})
        document["listed"] = {"settings": [{"speed_mm_s": 100}] * 3}
        plate = planned(document)
        said = {name: Outcome(float(one)) for name, one in zip(plate.elements.ids, (3, 4, 3), strict=True)}
        [one] = repeated(observations_of(plate, said))
        self.assertEqual(one.words, "3 patches with these settings: darkness 3 to 4.")

    def test_an_array_that_repeats_nothing(self):
        plate = planned(listed_document([{"speed_mm_s": 12}, {"speed_mm_s": 13}]))
        said = {name: Outcome(3.0) for name in plate.elements.ids}
        self.assertEqual(repeated(observations_of(plate, said)), [])


if __name__ == "__main__":
    unittest.main()
