"""The bench's controller: answers, motion, alarms, hold, corrections, the power floor."""

import unittest

import numpy as np

from rezept.bench.controller import Controller, Setup
from rezept.bench.energy import Source, sampled
from rezept.bench.motion import Mechanics
from rezept.formats.gcode import write_gcode
from tests.made import HERON, area_document, planned, token_document, trial_document


def ran(program: bytes, setup: Setup | None = None) -> Controller:
    """A controller after a whole program, which it was given line by line as it had room."""
    controller = Controller(setup or Setup())
    for line in program.splitlines():
        controller.take(line + b"\n")
        controller.advance(controller.clock + 1e9)
    controller.advance(controller.clock + 1e9, drain=True)
    return controller


class AnswerTest(unittest.TestCase):
    def answers(self, *lines: bytes) -> list[str]:
        controller = Controller(Setup())
        controller.answers.clear()
        for line in lines:
            controller.take(line)
            controller.advance(controller.clock)
        return controller.answers

    def test_every_line_is_answered_in_order(self):
        said = self.answers(b"G21\n", b"G90\n", b"G1X5\n", b"G7\n", b"G0X!\n", b"; words\n", b"M5S0\n")
        self.assertEqual(said[:2], ["ok", "ok"])
        self.assertEqual(said[2], "error: G1 without a feed")
        self.assertEqual(said[3], "error: G7 is not known")
        self.assertTrue(said[4].startswith("error: cannot read"))
        self.assertEqual(said[5:], ["ok", "ok"])

    def test_ok_only_means_accepted_but_a_barrier_waits_for_the_end_of_motion(self):
        controller = Controller(Setup())
        controller.answers.clear()
        controller.take(b"M4S0\nG1X50F600S500\nG4P0.5\n")
        controller.advance(controller.clock)
        self.assertEqual(controller.answers, ["ok", "ok"])
        controller.advance(5.0)
        self.assertEqual(controller.answers, ["ok", "ok"], "50 mm at 10 mm/s take more than 5 s")
        controller.advance(6.0)
        self.assertEqual(controller.answers, ["ok", "ok", "ok"])
        self.assertAlmostEqual(controller.clock, 50 / 10 + 10 / 4000 + 0.5, places=6)

    def test_more_than_the_buffer_holds_is_an_alarm(self):
        controller = Controller(Setup(buffer_bytes=40))
        controller.take(b"G1X1F60S1\n" * 5)
        self.assertTrue(controller.alarmed)
        controller.take(b"\x18")
        self.assertFalse(controller.alarmed)
        self.assertIn("rezept-stream 1 buffer 40", controller.answers[-1])

    def test_outside_the_field_nothing_moves_until_it_is_reset(self):
        said = self.answers(b"G0X600\n", b"G0X1\n")
        self.assertEqual(said[0], "error: X600.000 Y0.000 lies outside the field")
        self.assertEqual(said[1], "alarm: X600.000 Y0.000 lies outside the field")
        self.assertEqual(said[2], "error: alarm; stop first")


class MotionTest(unittest.TestCase):
    """The clock against the formulas of the plan, which share no code with it."""

    def near(self, document, setup=None):
        plate = planned(document)
        self.assertEqual(plate.refusals(), [])
        controller = ran(write_gcode(plate), setup)
        self.assertAlmostEqual(controller.clock / plate.total_seconds, 1.0, delta=0.03)
        return controller

    def test_outlines_coupons_labels_and_hatches(self):
        labels = {"on": True, "marks": True, "settings": {"speed_mm_s": 100, "power_pct": 20}}
        self.near(trial_document(labels=labels))
        self.near(trial_document(patch={"shape": "coupon"}))
        self.near(area_document(patch={"shape": "disc", "width_mm": 8, "height_mm": 8}))
        self.near(area_document(hold={"power_pct": 20, "line_spacing_mm": 0.2, "hatch_angle_deg": 30, "passes": 2}))

    def test_a_galvo(self):
        machine = {**HERON, "hears_settings": True, "polygon_delay_us": 100}
        mechanics = Mechanics(galvo=True, travel_speed_mm_s=4000, max_speed_mm_s=4000, jump_delay_s=300e-6,
                              settle_s=200e-6, polygon_delay_s=100e-6, field_mm=(110, 110))  # fmt: skip
        self.near(token_document(machine=machine), Setup(mechanics))

    def test_a_planner_sees_far_enough_ahead(self):
        """A way of many short pieces takes as long as the same way of few long ones."""
        controller = Controller(Setup())
        lines = [b"M4S0", b"G1F6000S100X0"] + [b"G1X%.1f" % (i * 0.5) for i in range(1, 101)] + [b"G4P0"]
        for line in lines:
            controller.take(line + b"\n")
            controller.advance(controller.clock + 1e9)
        self.assertAlmostEqual(controller.clock, 50 / 100 + 100 / 4000, places=3)

    def test_its_clock_is_its_moves_and_no_move_gains_more_than_it_can(self):
        program = write_gcode(planned(trial_document()))
        controller = ran(program)
        self.assertAlmostEqual(controller.clock, sum(stretch.seconds for stretch in controller.stretches))
        for a, b in zip(controller.stretches, controller.stretches[1:], strict=False):
            self.assertAlmostEqual(a.end[0], b.start[0])
            self.assertLessEqual(abs(b.v**2 - b.v0**2), 2 * 4000 * b.length_mm + 1e-6)


class BeamTest(unittest.TestCase):
    def energy(self, *lines: bytes, floor: float = 0.0) -> float:
        controller = ran(b"\n".join(lines))
        return float(sampled(controller.stretches, Source(60, 10_600, firing_floor_pct=floor), 0.02).energy_j.sum())

    def test_constant_power_leaves_more_where_the_head_slows(self):
        """60 W x 50 % for every second the head moves: L/v + v/a of it; at following power just P L / v."""
        way, v, a = 20.0, 100.0, 4000.0
        self.assertAlmostEqual(self.energy(b"M3S0", b"G1X20F6000S500"), 30 * (way / v + v / a), delta=0.05)
        self.assertAlmostEqual(self.energy(b"M4S0", b"G1X20F6000S500"), 30 * way / v, delta=1e-6)

    def test_no_power_below_the_floor_and_none_while_travelling_or_disarmed(self):
        self.assertEqual(self.energy(b"M3S0", b"G1X20F6000S80", floor=9), 0.0)
        self.assertEqual(self.energy(b"M3S500", b"G0X20"), 0.0)
        self.assertEqual(self.energy(b"M5", b"G1X20F6000S500"), 0.0)

    def test_power_that_follows_the_speed_stops_firing_before_it_stops(self):
        """Below the floor near both ends, as a gap before a corner."""
        whole = self.energy(b"M4S0", b"G1X20F6000S500")
        self.assertLess(self.energy(b"M4S0", b"G1X20F6000S500", floor=9), whole)

    def test_what_the_controller_was_told_stays_with_the_move(self):
        controller = ran(b";REZEPT frequency_khz=30 pulse_width_ns=200\nM3S0\nG1X5F600S100\n")
        self.assertEqual(dict(controller.stretches[-1].told), {"frequency_khz": 30.0, "pulse_width_ns": 200.0})

    def test_a_stop_cuts_the_move_where_the_head_is(self):
        controller = Controller(Setup())
        controller.take(b"M4S0\nG1X100F6000S500\nG4P1\n")
        controller.advance(0.5)
        controller.take(b"\x18")
        self.assertEqual(controller.state, "idle")
        [cut] = controller.stretches
        self.assertAlmostEqual(cut.length_mm, 100 * 0.5 - 100**2 / (2 * 4000), places=6)
        np.testing.assert_allclose(controller.head, cut.end)


if __name__ == "__main__":
    unittest.main()
