"""What changed between two trials."""

import unittest

from rezept.core.plan import read_trial
from rezept.core.plan.changed import changes
from tests.made import POWER, SPEED, token_document, trial_document


class ChangedTest(unittest.TestCase):
    def said(self, before, now):
        return changes(read_trial(before).document(), read_trial(now).document())

    def test_only_ranges(self):
        self.assertEqual(self.said(trial_document(), trial_document(axes=[{**SPEED, "to": 20}, POWER])), [])

    def test_everything_that_changed_is_said_once(self):
        before = trial_document(hold={"air_level": 1, "passes": 2})
        now = trial_document(
            axes=[SPEED], hold={"air_level": 0, "power_pct": 60, "focus_offset_mm": -1}, patch={"shape": "coupon"}
        )
        self.assertEqual(
            self.said(before, now),
            [
                "power: varied, now held at 60 %",
                "passes: 2, now 1",
                "focus offset: 0 mm, now -1 mm",
                "air: on, now off",
                "patch: square, now coupon",
            ],
        )

    def test_another_machine_and_a_setting_that_now_varies(self):
        self.assertIn("machine: Wren, now Heron", self.said(trial_document(), token_document()))
        now = trial_document(
            axes=[SPEED, {"parameter": "passes", "along": "y", "values": [1, 2]}], hold={"power_pct": 60}
        )
        self.assertIn("passes: held at 1, now varied", self.said(trial_document(), now))

    def test_other_letters_and_how_they_are_drawn(self):
        def lettered(**patch):
            return trial_document(process="line", patch={"shape": "lettering", "text": "Ag", **patch})

        self.assertEqual(self.said(lettered(), lettered()), [])
        self.assertEqual(
            self.said(lettered(), lettered(text="Qg", letters="outlines")),
            ["letters: Ag, now Qg", "letters drawn in: strokes, now outlines"],
        )


if __name__ == "__main__":
    unittest.main()
