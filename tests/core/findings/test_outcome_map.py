"""The maps of what is expected, over the settings a plate varied: one for each block, and each line of a ladder."""

import unittest

import numpy as np

from rezept.core.findings.decision import decide
from rezept.core.findings.observations import Outcome, observations_of
from rezept.core.findings.outcome_map import MOST_POINTS, maps_of
from tests.made import area_document, planned

SPACINGS = [0.05, 0.1, 0.2]
SPEEDS = [8, 12, 18, 27]
POWER = {"parameter": "power_pct", "along": "y", "values": [20, 40, 60]}
SPEED = {"parameter": "speed_mm_s", "along": "x", "values": SPEEDS}
PASSES = {"parameter": "passes", "along": "block_x", "values": [1, 2]}


def cut_plate(axes, **hold):
    document = area_document(process="cut", axes=axes, hold={"passes": 1, **hold})
    for axis in axes:
        document["hold"].pop(axis["parameter"], None)
    return planned(document)


def drawn_over(plate):
    """Its maps, by a law of equal dose: it drops out from 1.5 J/mm on."""
    dose = plate.judged.dose
    outcome = {name: Outcome(3.0 if got >= 1.5 else 0.0) for name, got in zip(plate.elements.ids, dose, strict=True)}
    decision = decide(observations_of(plate, outcome), plate.trial.machine, aims=("fastest",))
    held = {key: float(np.median(column)) for key, column in plate.judged.settings.items()}
    return maps_of(plate, decision.aims, held)


class MapTest(unittest.TestCase):
    def test_seconds_and_dose_go_with_what_the_plate_varies(self):
        """100 mm2 at 200 mm/s: 10 s with lines 0.05 mm apart, 2.5 s with 0.2; 24 W give 2.4 J/mm2 and 0.6."""
        spacing = {"parameter": "line_spacing_mm", "along": "x", "values": SPACINGS}
        plate = planned(area_document(axes=[spacing, POWER], hold={"speed_mm_s": 200}))
        dose = np.log(plate.judged.dose)
        read = dict(zip(plate.elements.ids, (60 - 15 * (dose - dose.mean())).tolist(), strict=True))
        seen = observations_of(plate, {}, others={"lightness": read})
        decision = decide(seen, plate.trial.machine, aims=("forgiving",), ground=80.0)
        [drawn] = maps_of(plate, decision.aims, {**decision.candidates[0].settings, "speed_mm_s": 200.0})
        row = int(np.argmin(np.abs(drawn.y.setting - 40)))
        for spacing in SPACINGS:
            column = int(np.argmin(np.abs(drawn.x.setting - spacing)))
            self.assertAlmostEqual(drawn.seconds[row, column], 100 / (200 * spacing), places=6)
            self.assertAlmostEqual(drawn.dose[row, column], 24 / (200 * spacing), places=6)

    def test_the_middle_of_every_patch_is_where_its_settings_are(self):
        plate = cut_plate([SPEED, POWER])
        [drawn] = drawn_over(plate)
        elements = plate.elements
        for i in range(len(elements)):
            place = drawn.place_of(plate.judged.settings_of(i))
            middle = elements.x_mm[i] + elements.width_mm[i] / 2, elements.y_mm[i] + elements.height_mm[i] / 2
            np.testing.assert_allclose(place, middle, atol=1e-6)

    def test_steps_beside_the_wanted_one_have_their_share(self):
        """Every patch that was partly cut was with a push, too: the law has them in their order."""
        [drawn] = drawn_over(cut_plate([SPEED, POWER]))
        self.assertEqual(list(drawn.turns), ["partly", "with a push"])
        partly, push = drawn.turns.values()
        self.assertTrue((partly >= push - 1e-9).all())
        # The lines are by fewer draws than the share that is wanted.
        self.assertTrue((push >= drawn.expected - 0.04).all())
        self.assertEqual(drawn.document()["turns"][0]["name"], "partly")


class BlocksTest(unittest.TestCase):
    def test_every_block_has_its_own_slice(self):
        """Two passes give twice the dose: what drops out reaches up to twice as fast in the second block."""
        plate = cut_plate([SPEED, POWER, PASSES])
        first, second = drawn_over(plate)
        self.assertEqual((first.held["passes"], second.held["passes"]), (1.0, 2.0))
        self.assertLess(first.x.mm.max(), second.x.mm.min())
        np.testing.assert_allclose(second.dose, 2 * first.dose)
        self.assertGreater(second.expected.mean(), first.expected.mean() + 0.1)
        at = {**plate.judged.settings_of(0), "passes": 2.0}
        self.assertIsNone(first.place_of(at))
        self.assertIsNotNone(second.place_of(at))

    def test_many_patches_have_fewer_points_between(self):
        twenty = [8.0 * 1.06**i for i in range(20)]
        plate = cut_plate([{**SPEED, "values": [round(one, 2) for one in twenty]}, POWER, PASSES])
        points = sum(one.expected.size for one in drawn_over(plate))
        self.assertLess(points, 1.5 * MOST_POINTS)


class LadderTest(unittest.TestCase):
    def test_a_ladder_is_a_strip_at_its_own_power(self):
        plate = cut_plate([SPEED], power_pct=40)
        [drawn] = drawn_over(plate)
        self.assertEqual((drawn.y.parameter, drawn.y.setting.tolist()), ("power_pct", [40.0, 40.0]))
        self.assertEqual(drawn.y.mm.tolist(), [plate.elements.y_mm[0], plate.elements.y_mm[0] + 6])
        np.testing.assert_allclose(drawn.expected[0], drawn.expected[1])
        self.assertEqual(drawn.place_of({"speed_mm_s": 12, "power_pct": 40, "passes": 1})[1],
                         plate.elements.y_mm[0] + 3)  # fmt: skip
        self.assertIsNone(drawn.place_of({"speed_mm_s": 12, "power_pct": 50, "passes": 1}))

    def test_a_ladder_upward_is_one_too(self):
        plate = cut_plate([{**SPEED, "along": "y"}], power_pct=40)
        [drawn] = drawn_over(plate)
        self.assertEqual((drawn.x.parameter, drawn.y.parameter), ("power_pct", "speed_mm_s"))

    def test_every_line_of_a_wrapped_one_goes_on_where_the_last_ended(self):
        eight = [8, 10, 12, 14, 17, 20, 24, 27]
        plate = cut_plate([{**SPEED, "values": eight, "wrap": 4}], power_pct=40)
        lines = drawn_over(plate)
        self.assertEqual(len(lines), 2)
        for drawn in lines:
            middle = (drawn.y.mm[0] + drawn.y.mm[1]) / 2
            elements = plate.elements
            here = np.flatnonzero(np.abs(elements.y_mm + elements.height_mm / 2 - middle) < 0.1)
            speeds = plate.judged.settings["speed_mm_s"][here]
            self.assertEqual(len(here), 4)
            self.assertTrue(drawn.x.setting.min() < speeds.min() < speeds.max() < drawn.x.setting.max())


if __name__ == "__main__":
    unittest.main()
