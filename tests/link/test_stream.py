"""Streaming to the bench: what is done, uncertain and not sent, whatever goes wrong."""

import threading
import unittest

from rezept.formats.gcode import program_parts
from rezept.link.port import LinkError, SerialPort
from rezept.link.stream import Part, Reports, Stream
from tests.bench_port import start_bench
from tests.made import planned, trial_document
from tests.until import listens, until

LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}


class Heard(Reports):
    def __init__(self):
        self.begun, self.done, self.mixed, self.states = [], [], [], []
        self.takes = None
        self.on_begin = lambda key: None
        self.on_status = lambda status: None

    def connected(self, corrections):
        self.takes = tuple(corrections)

    def began(self, key):
        self.begun.append(key)
        self.on_begin(key)

    def finished(self, key, mixed, corrections):
        self.done.append(key)
        if mixed:
            self.mixed.append(key)

    def status(self, status):
        self.states.append(status)
        self.on_status(status)


class StreamCase(unittest.TestCase):
    def stream(self, bench, plate=None):
        plate = plate or planned(trial_document(labels=LABELS))
        self.parts = program_parts(plate)
        self.port = SerialPort(bench.url)
        self.addCleanup(self.port.close)
        self.heard = Heard()
        return Stream(self.port, [Part(part.name, part.lines) for part in self.parts], self.heard)


class WholeTest(StreamCase):
    def test_everything_arrives_in_order_and_is_burned_where_it_should(self):
        plate = planned(trial_document(labels=LABELS))
        bench = start_bench(self)
        ending = self.stream(bench, plate).run()
        self.assertEqual((ending.state, ending.uncertain), ("done", None))
        names = ["labels", *(name for _, _, name in plate.parts())]
        self.assertEqual((self.heard.begun, self.heard.done, self.heard.mixed), (names, names, []))
        self.assertEqual(self.heard.takes, ("power", "speed", "focus"))
        lit = [stretch for stretch in bench.controller.stretches if stretch.beam > 0]
        patches = [stretch for stretch in lit if stretch.beam in (300.0, 550.0, 800.0)]
        self.assertAlmostEqual(sum(stretch.length_mm for stretch in patches), 12 * 40, places=2)
        self.assertTrue(all(stretch.v <= stretch.asked_mm_s + 1e-9 for stretch in lit))

    def test_a_window_far_smaller_than_the_program(self):
        bench = start_bench(self, buffer_bytes=64)
        self.assertEqual(self.stream(bench).run().state, "done")

    def test_it_waits_for_a_hand_with_the_beam_off_however_long_that_takes(self):
        bench = start_bench(self)
        stream = self.stream(bench)
        stream._parts = [Part(part.key, part.lines, waits=part.key in ("labels", "B1")) for part in stream._parts]
        waited = []
        self.heard.waits = waited.append
        thread = threading.Thread(target=lambda: waited.append(stream.run()))
        thread.start()
        until(lambda: waited == ["labels"])
        # Said of another part it goes on waiting, and the machine is asked whether it is there.
        stream.commands.turned("B1")
        asked = len(self.heard.states)
        until(lambda: len(self.heard.states) > asked + 3)
        self.assertEqual((self.heard.begun, bench.controller.stretches), ([], []))
        stream.commands.turned("labels")
        # Twice is once: the next stop is another one.
        stream.commands.turned("labels")
        until(lambda: waited == ["labels", "B1"])
        self.assertEqual(self.heard.done, ["labels", "A1", "A2", "A3", "A4"])
        until(lambda: self.heard.states[-1].state == "idle")
        stream.commands.turned("B1")
        thread.join(30)
        self.assertEqual(waited[-1].state, "done")

    def test_a_part_may_be_gone_through_again_for_a_while(self):
        bench = start_bench(self)
        stream = self.stream(bench)
        first, second, *_ = stream._parts
        stream._parts = [Part(first.key, first.lines, again_for_s=0.5), second]
        self.assertEqual(stream.run().state, "done")
        self.assertGreater(self.heard.done.count(first.key), 1)
        self.assertEqual(self.heard.done[-1], second.key)

    def test_what_goes_round_goes_elsewhere_from_its_next_round_on(self):
        def round_at(x):
            steps = [(x, 0.0), (x + 5, 0.0), (x + 5, 5.0), (x, 0.0)]
            return tuple(f"G1X{a}Y{b}F60000S0".encode() for a, b in steps)

        bench = start_bench(self, speed_up=50)
        heard = Heard()
        port = SerialPort(bench.url)
        self.addCleanup(port.close)
        stream = Stream(port, [Part("round", round_at(10), again_for_s=60)], heard)

        def turn(key):
            if len(heard.begun) == 3:
                stream.commands.instead("round", round_at(20))
            if len(heard.begun) == 6:
                stream.commands.stop()

        heard.on_begin = turn
        self.assertEqual(stream.run().state, "stopped")
        ends = [stretch.end[0] for stretch in bench.controller.stretches]
        first = next(i for i, x in enumerate(ends) if x > 15.1)
        # Three whole rounds where it began, and nothing there any more after that.
        self.assertEqual(sum(x == 15.0 for x in ends[:first]), 6)
        self.assertGreaterEqual(min(ends[first:]), 20)

    def test_a_stop_while_it_waits_leaves_nothing_uncertain(self):
        bench = start_bench(self)
        stream = self.stream(bench)
        stream._parts = [Part(part.key, part.lines, waits=part.key == "B1") for part in stream._parts]
        self.heard.waits = lambda key: stream.commands.stop("by Tess")
        ending = stream.run()
        self.assertEqual((ending.state, ending.reason, ending.uncertain), ("stopped", "by Tess", None))
        self.assertEqual(self.heard.begun[-1], "A4")

    def test_nobody_there(self):
        bench = start_bench(self)
        bench.close()
        until(lambda: not listens(bench.port))
        with self.assertRaisesRegex(LinkError, "cannot be reached"):
            SerialPort(bench.url)


class FaultTest(StreamCase):
    """Each fault, in the middle of a plate."""

    def after(self, fault, sentence):
        bench = start_bench(self, fault)
        ending = self.stream(bench, planned(trial_document())).run()
        self.assertEqual(ending.state, "interrupted")
        self.assertIn(sentence, ending.reason)
        names = [part.name for part in self.parts]
        done = len(self.heard.done)
        self.assertGreater(done, 0)
        self.assertLess(done, len(names))
        # Done from the beginning, one uncertain, all after it not sent.
        self.assertEqual(self.heard.done, names[:done])
        self.assertEqual(ending.uncertain, names[done])
        self.assertEqual(self.heard.begun, names[: done + 1])
        return bench

    def test_connection_lost(self):
        self.after("drop@65", "connection")

    def test_controller_error(self):
        self.after("error@65", "refused a line: made up by the bench")

    def test_alarm(self):
        self.after("alarm@65", "stopped itself: the lid was opened")

    def test_reset(self):
        self.after("reset@65", "was reset")

    def test_no_answer(self):
        self.after("silent@65", "has not answered")

    def test_garbage(self):
        self.after("garbage@65", "makes no sense")

    def test_an_acknowledgement_lost_on_the_way_is_no_patch_done(self):
        bench = start_bench(self, "lost_ok@65")
        stream = self.stream(bench, planned(trial_document()))
        threading.Timer(3.0, stream.commands.stop).start()
        ending = stream.run()
        self.assertEqual(ending.state, "stopped")
        self.assertEqual(ending.uncertain, [part.name for part in self.parts][len(self.heard.done)])

    def test_out_of_the_field_is_an_alarm(self):
        bench = start_bench(self)
        port = SerialPort(bench.url)
        self.addCleanup(port.close)
        ending = Stream(port, [Part("far", (b"G90", b"G0X9999Y0S0"))], Heard()).run()
        self.assertEqual((ending.state, ending.uncertain), ("interrupted", "far"))
        self.assertIn("outside the field", ending.reason)


class ByHandTest(StreamCase):
    """Hold, go on, stop and corrections, on a clock slow enough to act in."""

    def test_hold_stands_still_in_the_dark_and_goes_on(self):
        bench = start_bench(self, speed_up=20)
        stream = self.stream(bench)
        held = threading.Event()

        def on_begin(key):
            if key == "A2":
                stream.commands.hold()

        def on_status(status):
            if status.state == "hold" and not held.is_set():
                held.set()
                threading.Timer(0.8, stream.commands.go_on).start()

        self.heard.on_begin, self.heard.on_status = on_begin, on_status
        self.assertEqual(stream.run().state, "done")
        self.assertTrue(held.is_set())
        places = {(round(s.x_mm, 3), round(s.y_mm, 3)) for s in self.heard.states if s.state == "hold"}
        self.assertLessEqual(len(places), 3, "the head stands where it was held")
        burned = [s for s in bench.controller.stretches if s.beam in (300.0, 550.0, 800.0)]
        self.assertAlmostEqual(sum(s.length_mm for s in burned), 12 * 40, places=2)

    def test_stop(self):
        bench = start_bench(self, speed_up=20)
        stream = self.stream(bench)
        self.heard.on_begin = lambda key: key == "A3" and stream.commands.stop("by Tess")
        ending = stream.run()
        self.assertEqual((ending.state, ending.reason, ending.uncertain), ("stopped", "by Tess", "A3"))
        until(lambda: bench.controller.state == "idle")

    def test_a_correction_is_kept_from_the_patch_on_where_it_took_effect(self):
        bench = start_bench(self, speed_up=30)
        stream = self.stream(bench)
        self.heard.on_begin = lambda key: key == "A2" and stream.commands.correct("power", 5)
        self.assertEqual(stream.run().state, "done")
        names = [part.name for part in self.parts]
        self.assertIn("A2", self.heard.mixed)
        self.assertLessEqual(len(self.heard.mixed), 2)
        # 5 steps of 2 % are a tenth more.
        last = names[-1]
        planned_s = next(line for line in self.parts[-1].lines if line.startswith(b"G1")).split(b"S")[1]
        lit = [s for s in bench.controller.stretches if s.beam > 0]
        self.assertAlmostEqual(lit[-1].beam, 1.1 * float(planned_s))
        self.assertNotIn(last, self.heard.mixed)

    def test_a_stop_of_the_link_leaves_no_beam(self):
        """The wire is cut in the middle of a patch: the head goes on to the end of what it has, and rests in the
        dark."""
        bench = start_bench(self, speed_up=20)
        stream = self.stream(bench)
        self.heard.on_begin = lambda key: key == "A3" and threading.Timer(0.05, self.port.close).start()
        try:
            ending = stream.run()
            self.assertEqual(ending.state, "interrupted")
        except ValueError:
            pass
        until(lambda: bench.controller.state == "idle")
        last = bench.controller.stretches[-1]
        self.assertAlmostEqual(last.v1, 0.0)


if __name__ == "__main__":
    unittest.main()
