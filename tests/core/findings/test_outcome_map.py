"""The map of what is expected, over the settings a plate varied."""

import unittest

import numpy as np

from rezept.core.findings.decision import decide
from rezept.core.findings.observations import observations_of
from rezept.core.findings.outcome_map import map_of
from tests.made import area_document, planned

SPACINGS = [0.05, 0.1, 0.2]
AXES = [
    {"parameter": "line_spacing_mm", "along": "x", "values": SPACINGS},
    {"parameter": "power_pct", "along": "y", "values": [20, 40, 60]},
]


class MapTest(unittest.TestCase):
    def test_seconds_and_dose_go_with_what_the_plate_varies(self):
        """100 mm2 at 200 mm/s: 10 s with lines 0.05 mm apart, 2.5 s with 0.2; 24 W give 2.4 J/mm2 and 0.6."""
        plate = planned(area_document(axes=AXES, hold={"speed_mm_s": 200}))
        dose = np.log(plate.judged.dose)
        read = dict(zip(plate.elements.ids, (60 - 15 * (dose - dose.mean())).tolist(), strict=True))
        seen = observations_of(plate, {}, others={"lightness": read})
        decision = decide(seen, plate.trial.machine, aims=("forgiving",), ground=80.0)
        held = {**decision.candidates[0].settings, "speed_mm_s": 200.0}
        drawn = map_of(plate, decision.aims, held)
        row = int(np.argmin(np.abs(drawn.y.setting - 40)))
        for spacing in SPACINGS:
            column = int(np.argmin(np.abs(drawn.x.setting - spacing)))
            self.assertAlmostEqual(drawn.seconds[row, column], 100 / (200 * spacing), places=6)
            self.assertAlmostEqual(drawn.dose[row, column], 24 / (200 * spacing), places=6)


if __name__ == "__main__":
    unittest.main()
