"""Placing by eye: the outline nudged while it goes round, zero where the head stands, and what is kept of it."""

import contextlib
import socket
import threading
import unittest

import numpy as np

from rezept.actions.commands import growing, people, planning
from rezept.actions.queries import views
from rezept.actions.running import live, placing
from rezept.core.errors import InvalidInput, Refused
from rezept.link.standing import ask_status
from tests.actions.running.test_live import LiveCase
from tests.bench_port import link
from tests.until import until


class PlacingCase(LiveCase):
    def show(self, outline="frame", by=None):
        return placing.show_outline(
            self.burns, by or self.member, self.trial, self.page()["edit"], outline, True
        )  # fmt: skip

    def change(self, **design):
        page = self.page()
        planning.change_draft(
            self.shop, self.member, self.trial, page["edit"], {**page["design"], **design}, {}
        )  # fmt: skip

    def lit(self):
        """``(n, 2)`` ends of what the bench's beam has drawn."""
        return np.array([one.end for one in list(self.bench.controller.stretches) if one.beam > 0])

    def lit_anew(self):
        """What it draws from now on, once it has gone round twice; the round that is under way is over by then."""
        page = self.page()["plate"]["plate"]
        round_mm = 2 * (page["width_mm"] + page["height_mm"])
        stretches = self.bench.controller.stretches
        for _ in range(3):
            stretches.clear()
            until(lambda: sum(one.length_mm for one in list(stretches) if one.beam) > 1.3 * round_mm)
        return self.lit()

    def stopped(self, run):
        live.stop(self.burns, self.member, run.key)
        return self.ended(run)

    def burned_box(self):
        """Lowest and highest of what the bench has burned."""
        lit = self.lit()
        return lit.min(axis=0), lit.max(axis=0)


class NudgeTest(PlacingCase):
    def test_nudged_it_goes_round_there_and_the_burn_begins_there(self):
        self.change(piece={"shape": "rectangle", "width_mm": 160, "height_mm": 120, "margin_mm": 2},
                    place={"at": "corner", "x_mm": 20, "y_mm": 20, "turn_deg": 0})  # fmt: skip
        self.link()
        run = self.wait(self.show(), "running")
        before = self.lit_anew()
        placing.nudge(self.burns, self.member, run.key, 5, 0)
        placing.nudge(self.burns, self.member, run.key, 1, -2.5)
        self.assertEqual(run.snapshot()["nudged"], [6, -2.5])
        after = self.lit_anew()
        for extreme in (np.min, np.max):
            moved = extreme(after, axis=0) - extreme(before, axis=0)
            np.testing.assert_allclose(moved, [6, -2.5], atol=0.02)
        self.stopped(run)
        page = self.page()
        self.assertEqual(page["design"]["place"], {"at": "corner", "x_mm": 26, "y_mm": 17.5, "turn_deg": 0})
        self.assertTrue(page["frozen"])
        self.assertIn("the plate is planned there now", [line["sentence"] for line in run.log])
        self.bench.controller.stretches.clear()
        self.ended(self.start())
        low, _ = self.burned_box()
        first = min(page["plate"]["patches"], key=lambda patch: patch["x_mm"] + patch["y_mm"])
        np.testing.assert_allclose(low, [26 + first["x_mm"], 17.5 + first["y_mm"]], atol=0.02)

    def test_without_a_piece_it_is_the_zero_that_moves(self):
        self.link()
        run = self.wait(self.show("tight"), "running")
        placing.nudge(self.burns, self.member, run.key, 8, 3)
        self.stopped(run)
        design = self.page()["design"]
        self.assertEqual(design["zero"], {"at": "piece", "x_mm": 8, "y_mm": 3})
        self.bench.controller.stretches.clear()
        self.ended(self.start())
        first = self.page()["plate"]["patches"][0]
        lows = min(patch["y_mm"] for patch in self.page()["plate"]["patches"])
        np.testing.assert_allclose(self.burned_box()[0], [8 + first["x_mm"], 3 + lows], atol=0.02)

    def test_it_stays_where_the_machine_can_go(self):
        self.link()
        run = self.wait(self.show(), "running")
        with self.assertRaisesRegex(Refused, "beyond the field of Linnet.* It stays where it is"):
            placing.nudge(self.burns, self.member, run.key, 900, 0)
        with self.assertRaisesRegex(InvalidInput, "1000 mm at most"):
            placing.nudge(self.burns, self.member, run.key, 0, float("nan"))
        self.assertEqual(run.snapshot()["nudged"], [0, 0])
        self.stopped(run)
        self.assertNotIn("zero", self.page()["design"])

    def test_only_who_holds_the_control_nudges_and_only_an_outline(self):
        self.link(speed_up=20)
        run = self.wait(self.show(), "running")
        with self.assertRaisesRegex(Refused, "Moss holds the control"):
            placing.nudge(self.burns, self.technician, run.key, 1, 0)
        self.stopped(run)
        with self.assertRaisesRegex(Refused, "is over"):
            placing.nudge(self.burns, self.member, run.key, 1, 0)
        run = self.wait(self.start(), "running")
        with self.assertRaisesRegex(Refused, "Only the outline"):
            placing.nudge(self.burns, self.member, run.key, 1, 0)
        self.stopped(run)

    def test_a_plan_somebody_changes_meanwhile_is_not_overwritten(self):
        self.link()
        run = self.wait(self.show(), "running")
        placing.nudge(self.burns, self.member, run.key, 1, 0)
        self.change(title="Otherwise")
        with self.assertRaisesRegex(Refused, "changed the plan since"):
            placing.nudge(self.burns, self.member, run.key, 1, 0)
        self.stopped(run)
        self.assertEqual(self.page()["design"]["title"], "Otherwise")
        self.assertNotIn("zero", self.page()["design"])
        self.assertTrue(any("could not be kept" in line["sentence"] for line in run.log))

    def test_where_a_plate_would_be_fitted_anew_it_stays(self):
        self.change(piece={"shape": "rectangle", "width_mm": 60, "height_mm": 60, "margin_mm": 2},
                    place={"at": "centre", "x_mm": 0, "y_mm": 0, "turn_deg": 0}, fit="smaller_patches")  # fmt: skip
        self.link()
        run = self.wait(self.show(), "running")
        with self.assertRaisesRegex(Refused, "fitted to the piece anew"):
            placing.nudge(self.burns, self.member, run.key, 10, 0)
        self.stopped(run)

    def test_what_is_burned_of_a_plate_that_grows_stays(self):
        self.link()
        self.trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.linnet, begun_as="coupons")
        edit = self.page()["edit"]
        growing.set_coupon(self.shop, self.member, self.trial, edit, {"speed_mm_s": 10, "power_pct": 60}, {})
        run = self.wait(self.show("tight"), "running")
        placing.nudge(self.burns, self.member, run.key, 7, 7)
        self.stopped(run)
        self.ended(self.start())
        edit = self.page()["edit"]
        growing.set_coupon(self.shop, self.member, self.trial, edit, {"speed_mm_s": 14, "power_pct": 60}, {})
        run = self.wait(self.show("tight"), "running")
        with self.assertRaisesRegex(Refused, "What is burned stays as it is"):
            placing.nudge(self.burns, self.member, run.key, 1, 0)
        self.stopped(run)


class ZeroTest(PlacingCase):
    def moved_to(self, x, y):
        """Drive the bench's head somewhere, as somebody does by the machine's own keys."""
        with socket.create_connection(("127.0.0.1", self.bench.port)) as client:
            client.sendall(f"G21\nG90\nG0X{x}Y{y}\nG4P0.1\n".encode())
            heard = b""
            while heard.count(b"ok") < 4:
                heard += client.recv(1024)

    def here(self, **how):
        edit = self.page()["edit"]
        return placing.zero_here(
            self.burns, self.member, self.trial, edit, how.get("at_machine", True), how.get("mounted")
        )

    def test_the_plate_lies_where_the_head_stands(self):
        self.link()
        self.moved_to(120.5, 44.0)
        self.change(zero={"at": "upper_right"})
        self.here()
        page = self.page()
        self.assertEqual(page["design"]["zero"], {"at": "upper_right", "x_mm": 120.5, "y_mm": 44.0})
        self.assertTrue(page["frozen"])
        self.ended(self.start())
        plate = self.page()["plate"]["plate"]
        patches = self.page()["plate"]["patches"]
        low = np.array([min(patch[key] for patch in patches) for key in ("x_mm", "y_mm")])
        corner = np.array([120.5 - plate["width_mm"], 44.0 - plate["height_mm"]])
        np.testing.assert_allclose(self.burned_box()[0], corner + low, atol=0.02)

    def test_it_is_asked_and_nothing_is_reset(self):
        class Wire:
            asked, said = (
                b"",
                [b"", b"ok\n= idle x1", b"2.500 y-3.000 z0.000 line 9 clock 1.000 power 3 speed 0 focus 0\n"],
            )

            def read(self, wait_s):
                return self.said.pop(0)

            def write(self, data):
                self.asked += data

        wire = Wire()
        status = ask_status(wire)
        self.assertEqual((status.x_mm, status.y_mm, status.corrections["power"]), (12.5, -3.0, 3))
        self.assertEqual(wire.asked, b"\x05")

    def test_where_it_cannot_be_said_nothing_changes(self):
        edit = self.page()["edit"]
        with self.assertRaisesRegex(Refused, "no live link"):
            self.here()
        self.link(speed_up=20)
        with self.assertRaisesRegex(InvalidInput, "stand at the machine"):
            self.here(at_machine=False)
        run = self.wait(self.start(), "running")
        with self.assertRaisesRegex(Refused, "at work"):
            self.here()
        self.stopped(run)
        self.answers(b"= alarm x0.000 y0.000 z0.000 line 0 clock 0.000 power 0 speed 0 focus 0\n")
        with self.assertRaisesRegex(Refused, "does not rest: it says alarm"):
            self.here()
        self.assertEqual(self.page()["edit"], edit)

    def answers(self, line):
        """Link the machine to a controller that answers whatever it hears with one line."""
        listening = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(listening.close)

        def say():
            with contextlib.suppress(OSError), listening.accept()[0] as client:
                while client.recv(1):
                    client.sendall(line)

        threading.Thread(target=say, daemon=True).start()
        link(self.shop, "Linnet", f"socket://127.0.0.1:{listening.getsockname()[1]}")

    def test_a_machine_that_says_nothing(self):
        self.answers(b"")
        with self.assertRaisesRegex(Refused, "does not say where its head stands"):
            self.here()

    def test_on_a_galvo_there_is_no_head_to_move(self):
        self.link()
        link(self.shop, "Heron", self.bench.url, beam_drops_at_rest=True)
        keeper = people.first_keeper(self.shop)
        self.trial = planning.new_trial(self.shop, keeper, "surface", self.blank, self.heron)
        with self.assertRaisesRegex(Refused, "no head that is moved"):
            self.here(mounted=self.heron)
        self.assertNotIn("zero", views.trial_page(self.shop, self.trial)["design"])


if __name__ == "__main__":
    unittest.main()
