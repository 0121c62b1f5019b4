"""Every fault of the link, at many places, on a clock that is handed in: no time passes while these are tried."""

import unittest
from random import Random

from rezept.bench.controller import PLANNER, Controller, Setup
from rezept.bench.motion import Mechanics
from rezept.bench.serve import IDLE_S
from rezept.formats.gcode import program_parts
from rezept.link.port import LinkError
from rezept.link.stream import Commands, Part, Reports, Stream
from tests.made import planned, token_document, trial_document
from tests.random_trials import GALVO

SPEED_UP = 50.0
FAULTS = ("error", "alarm", "reset", "silent", "garbage", "drop", "lost_ok")


class VirtualLink:
    """A bench at the end of a wire without sockets or threads: reading lets its clock go on.

    fault, line : what goes wrong once so many lines were taken
    """

    def __init__(self, controller, fault=None, line=0, speed_up=SPEED_UP):
        self.controller, self.fault, self.line, self.speed_up = controller, fault, line, speed_up
        self.now = self.written = 0.0
        self.silent = self.gone = False
        self.lose = 0
        self.told_at = None
        self.answers = b""

    def clock(self):
        return self.now

    def write(self, data):
        if self.gone:
            raise LinkError("The connection to the machine was lost.")
        self.controller.take(data)
        self.written = self.now

    def read(self, wait_s):
        if self.gone:
            raise LinkError("The connection to the machine was lost.")
        self.now += max(wait_s, 0.001)
        self.controller.advance(self.now * self.speed_up, drain=self.now - self.written > IDLE_S)
        if self.fault and self.controller.taken >= self.line:
            self._go_wrong()
        for answer in self.controller.answers:
            if answer == "ok" and self.lose:
                self.lose -= 1
            elif not self.silent:
                self.answers += answer.encode() + b"\n"
        self.controller.answers.clear()
        said, self.answers = self.answers, b""
        return said

    def close(self):
        self.gone = True

    def _go_wrong(self):
        fault, self.fault, self.told_at = self.fault, None, self.now
        if fault == "drop":
            self.gone = True
            raise LinkError("The connection to the machine was lost.")
        if fault == "error":
            self.controller.answers.append("error: made up")
        elif fault == "alarm":
            self.controller.trip("the lid was opened")
        elif fault == "reset":
            self.controller.stop()
        elif fault == "garbage":
            self.controller.answers.append("o\x7fk%%")
        elif fault == "silent":
            self.silent = True
        else:
            self.lose += 1


class Heard(Reports):
    def __init__(self):
        self.begun, self.done, self.when = [], [], {}

    def began(self, key):
        self.begun.append(key)
        for act in self.when.pop(key, []):
            act()

    def finished(self, key, mixed, corrections):
        self.done.append(key)


def parts_of(document):
    return [Part(part.name, part.lines) for part in program_parts(planned(document))]


CUT = trial_document()
MARK = token_document(machine=GALVO, patch={"width_mm": 2, "height_mm": 2, "gap_mm": 1})


class VirtualCase(unittest.TestCase):
    def streamed(self, parts, fault=None, line=0, galvo=False, when=None):
        self.controller = Controller(Setup(Mechanics(galvo=galvo)))
        self.wire = VirtualLink(self.controller, fault, line)
        self.heard = Heard()
        self.commands = Commands()
        self.heard.when = when(self.commands) if when else {}
        stream = Stream(self.wire, parts, self.heard, self.commands, self.wire.clock)
        return stream.run()

    def at_rest(self):
        """What still moved after the stream ended, until it stood; the beam is off from then on."""
        before = len(self.controller.stretches)
        while self.controller.advance(self.controller.clock + 3600.0, drain=True):
            pass
        self.assertIn(self.controller.state, ("idle", "alarm"))
        return [stretch for stretch in self.controller.stretches[before:] if stretch.beam > 0]


class EveryFaultTest(VirtualCase):
    def test_beam_off_and_what_is_known_is_true(self):
        for name, document, galvo in (("gantry", CUT, False), ("galvo", MARK, True)):
            parts = parts_of(document)
            names = [part.key for part in parts]
            lines = sum(len(part.lines) + 2 for part in parts)
            for fault in FAULTS:
                for line in Random(fault).sample(range(8, lines - 4), 12):
                    with self.subTest(machine=name, fault=fault, line=line):
                        ending = self.streamed(parts, fault, line, galvo)
                        done = self.heard.done
                        self.assertEqual(ending.state, "interrupted")
                        self.assertTrue(ending.reason.endswith("."))
                        # Done from the beginning, at most one uncertain, nothing of what comes after was sent.
                        self.assertEqual(done, names[: len(done)])
                        self.assertIn(ending.uncertain, (None, *names[len(done) : len(done) + 1]))
                        self.assertLessEqual(len(self.heard.begun), len(done) + 1)
                        lit = self.at_rest()
                        # A wire that is cut cannot carry the stop: what was planned is still gone along.
                        self.assertLessEqual(len(lit), PLANNER + 1 if fault == "drop" else 0)

    def test_a_lost_acknowledgement_ends_within_five_seconds(self):
        parts = parts_of(CUT)
        longest = 0.0
        for line in range(10, 60, 7):
            ending = self.streamed(parts, "lost_ok", line)
            self.assertIn("acknowledgement is missing", ending.reason)
            idle_since = max(stretch.begins_s + stretch.seconds for stretch in self.controller.stretches) / SPEED_UP
            longest = max(longest, self.wire.now - idle_since)
        self.assertLess(longest, 5.0)

    def test_without_a_fault_everything_is_burned(self):
        for document, galvo in ((CUT, False), (MARK, True)):
            parts = parts_of(document)
            self.assertEqual(self.streamed(parts, galvo=galvo).state, "done")
            self.assertEqual(self.heard.done, [part.key for part in parts])
            self.assertEqual(self.at_rest(), [])


class HeldTest(VirtualCase):
    def test_a_hold_stands_in_the_dark_and_goes_on_on_both_kinds_of_machine(self):
        """Held at many places, let go each time after some reading; on a galvo this used to hang for ever."""
        for document, galvo in ((CUT, False), (MARK, True)):
            parts = parts_of(document)
            whole = self.burned(parts, galvo, 0)
            held = 0
            for every in (2, 3, 5, 7, 8, 11, 13):
                self.assertAlmostEqual(self.burned(parts, galvo, every), whole, places=6)
                held += self.held
            self.assertGreater(held, 20)

    def burned(self, parts, galvo, every):
        """How far the beam burned where it was held after every so many answers, wherever the head was just then."""
        self.controller = Controller(Setup(Mechanics(galvo=galvo)))
        self.wire = VirtualLink(self.controller, speed_up=0.3 if galvo else 4.0)
        self.heard, commands = Heard(), Commands()
        read = self.wire.read
        reads = waited = self.held = 0

        def reading(wait_s):
            nonlocal reads, waited
            reads += 1
            if self.controller.holding:
                waited += 1
                if waited == 40:
                    self.assertIsNone(self.controller.next_event_s(), "it stands")
                    self.held += 1
                    commands.go_on()
            elif every and self.heard.begun and reads % every == 0:
                waited = 0
                commands.hold()
            return read(wait_s)

        self.wire.read = reading
        ending = Stream(self.wire, parts, self.heard, commands, self.wire.clock).run()
        self.assertEqual(ending.state, "done")
        return sum(stretch.length_mm for stretch in self.controller.stretches if stretch.beam > 0)


class StoppedTest(VirtualCase):
    def test_a_stop_at_any_part_puts_the_beam_off(self):
        parts = parts_of(CUT)
        for part in parts:
            ending = self.streamed(parts, when=lambda c, key=part.key: {key: [lambda: c.stop("by Tess")]})
            self.assertEqual((ending.state, ending.reason, ending.uncertain), ("stopped", "by Tess", part.key))
            self.assertEqual(self.at_rest(), [])

    def test_a_stop_before_the_machine_has_answered_begins_nothing(self):
        controller = Controller(Setup())
        wire = VirtualLink(controller)
        commands, heard = Commands(), Heard()
        commands.correct("power", 1)
        commands.stop("by Tess")
        ending = Stream(wire, parts_of(CUT), heard, commands, wire.clock).run()
        self.assertEqual((ending.state, ending.uncertain, heard.begun), ("stopped", None, []))
        self.assertEqual([stretch for stretch in controller.stretches if stretch.beam > 0], [])


if __name__ == "__main__":
    unittest.main()
