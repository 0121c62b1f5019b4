"""Plates of figures people bring, read from photographs by a camera that shares no code with Rezept."""

import unittest
from functools import cache

from rezept.actions.queries.photo_reading import read_plate
from tests.made import planned, trial_document
from tests.photographed import MARKED
from tests.random_figures import svg
from tests.rendered import Scene, render

BODIES = {
    # A kite with a window, and one with two rings beside one another.
    "kite": '<path fill-rule="evenodd" d="M0 10 10 0h20l10 10-10 10H10zM15 10a5 5 0 1 0 10 0a5 5 0 1 0-10 0z"/>',
    "two": '<rect x="0" y="0" width="18" height="20"/><circle cx="31" cy="10" r="9"/>',
}
THROUGH = {"A": 0, "B": 2, "C": 3}


@cache
def plate(body):
    return planned(
        trial_document(
            process="cut",
            hold={"power_pct": 70},
            axes=[
                {"parameter": "passes", "along": "x", "values": [1, 2, 3]},
                {"parameter": "speed_mm_s", "along": "y", "values": [40, 20, 10]},
            ],
            patch={"shape": "figure", "figure": {"svg": svg(BODIES[body])}, "width_mm": 26, "gap_mm": 4},
            labels=MARKED,
            code="7K3Q-T017.1",
        )
    )


class FiguresTest(unittest.TestCase):
    def test_what_went_through_is_read_along_their_own_outlines(self):
        for body, scene in (("kite", {"seed": 1}), ("two", {"seed": 2, "tilt_deg": 14.0, "below": "lightpad"})):
            truth = {name: THROUGH[name[0]] for name in plate(body).elements.ids}
            shot = Scene(size=(2000, 1500), warm=0.0, **scene)
            document = plate(body).document()
            photos = {face: render(document, face, shot, truth, {}).jpeg for face in ("front", "back")}
            read, missed = read_plate(plate(body), photos)
            with self.subTest(body):
                self.assertEqual(missed, [])
                self.assertEqual({row["id"]: row["through"] for row in read["patches"]}, truth)

    def of_shape(self, patch):
        document = trial_document(
            process="cut",
            hold={"power_pct": 70},
            axes=[{"parameter": "speed_mm_s", "along": "y", "values": [40, 20, 10]}],
            patch=patch,
            labels=MARKED,
            code="7K3Q-T017.1",
        )
        planned_plate = planned(document)
        truth = {name: THROUGH[name[0]] for name in planned_plate.elements.ids}
        shot = Scene(size=(1600, 1200), warm=0.0, seed=1)
        photos = {face: render(planned_plate.document(), face, shot, truth, {}).jpeg for face in ("front", "back")}
        return read_plate(planned_plate, photos)[0]["patches"], truth

    def test_proof_pieces_are_read(self):
        read, truth = self.of_shape({"shape": "proof", "width_mm": 40, "height_mm": 30, "gap_mm": 5})
        self.assertEqual({row["id"]: row["through"] for row in read}, truth)

    def test_of_parts_too_narrow_to_see_nothing_is_sure(self):
        read, _ = self.of_shape({"shape": "slots", "gap_mm": 5})
        for row in read:
            self.assertIn("narrow", row["flags"])
            # A photo's word counts from 0.9 on.
            self.assertLess(row["confidence"], 0.9)


if __name__ == "__main__":
    unittest.main()
