"""By the clock: which patch burns, against a plan stepped through in small steps and against worked examples."""

import unittest
from random import Random

from rezept.core.errors import InvalidInput
from rezept.core.plan.by_hand import HandStop
from rezept.core.plan.clock import ClockEvent, Slot, by_the_clock, timetable
from tests.made import planned, trial_document

LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}


def stop(name):
    return HandStop({"power_pct": 30.0}, (name,))


# Begin at 0, 10, 14, 20 and 30 s; something is turned before C.
SLOTS = [Slot("labels", "labels", 10), Slot("A", "patch", 4), Slot("B", "patch", 6), Slot("C", "patch", 10, stop("C"))]
EASY = SLOTS[:3]


def at(now, *events, slots=EASY):
    return by_the_clock(slots, events, now)


class WorkedTest(unittest.TestCase):
    def test_it_goes_with_the_planned_times(self):
        self.assertEqual(
            [at(now).current for now in (0, 9.9, 10, 13.9, 14, 19.9)], ["labels"] * 2 + ["A"] * 2 + ["B"] * 2
        )
        later = at(12.0)
        self.assertEqual((later.done, later.gone_s, later.left_s), (("labels",), 12.0, 8.0))
        end = at(25.0)
        self.assertTrue(end.over)
        self.assertEqual((end.done, end.left_s), (("labels", "A", "B"), 0.0))

    def test_paused_it_rests(self):
        pause, on = ClockEvent(11, "pause"), ClockEvent(60, "go_on")
        self.assertEqual((at(40, pause).current, at(40, pause).paused), ("A", True))
        self.assertEqual((at(62.9, pause, on).current, at(63, pause, on).current), ("A", "B"))

    def test_shifted_by_a_tap(self):
        self.assertEqual(at(9, ClockEvent(8, "shift", 2.0)).current, "A")
        self.assertEqual(at(15, ClockEvent(15, "shift", -2.0)).current, "A")
        self.assertEqual(at(2, ClockEvent(1, "shift", -60.0)).gone_s, 1.0)
        # "This one begins now" says it outright, and that it moves.
        said = (ClockEvent(3, "pause"), ClockEvent(5, "at", part="B"))
        self.assertEqual((at(5, *said).current, at(10.9, *said).current, at(11, *said).over), ("B", "B", True))

    def test_it_waits_for_a_hand(self):
        waits = at(500, slots=SLOTS)
        self.assertEqual((waits.current, waits.stop, waits.done), (None, SLOTS[3].stop, ("labels", "A", "B")))
        self.assertFalse(waits.over)
        self.assertEqual(waits.left_s, 10)
        turned = ClockEvent(600, "turned", part="C")
        self.assertEqual(at(609.9, turned, slots=SLOTS).current, "C")
        self.assertTrue(at(610, turned, slots=SLOTS).over)
        # Nothing is said to be farther than what is not turned yet, but by naming it.
        self.assertEqual(at(6, ClockEvent(5, "shift", 100.0), slots=SLOTS).stop, SLOTS[3].stop)
        self.assertEqual(at(6, ClockEvent(5, "at", part="C"), slots=SLOTS).current, "C")

    def test_a_part_that_is_not_there(self):
        with self.assertRaisesRegex(InvalidInput, "Z9"):
            at(6, ClockEvent(5, "at", part="Z9"))


class SteppedTest(unittest.TestCase):
    def test_against_small_steps(self):
        """A plan gone through tenth by tenth, with random events on the tenths."""
        for seed in range(200):
            random = Random(seed)
            slots = [
                Slot(f"P{i}", "patch", random.randint(1, 40) / 10, stop(f"P{i}") if random.random() < 0.3 else None)
                for i in range(6)
            ]
            events = []
            for tenth in sorted(random.sample(range(1, 300), 5)):
                what = random.choice(["pause", "go_on", "shift", "at", "turned"])
                part = random.choice(slots).name if what in ("at", "turned") else ""
                events.append(ClockEvent(tenth / 10, what, random.randint(-30, 30) / 10, part))
            found = by_the_clock(slots, events, 30.0)
            self.assertEqual((found.current, found.done), self.stepped(slots, events), seed)

    def stepped(self, slots, events):
        ends, total = [], 0
        for slot in slots:
            total += round(slot.seconds * 10)
            ends.append(total)
        begins = [0, *ends[:-1]]
        turned, place, paused = set(), 0, False

        def open_to(tenth):
            return (
                next((b for b, s in zip(begins, slots, strict=True) if s.stop and s.name not in turned), total) >= tenth
            )

        for tenth in range(301):
            if tenth and not paused and place < total and open_to(place + 1):
                place += 1
            for event in events:
                if round(event.after_s * 10) != tenth:
                    continue
                if event.what in ("pause", "go_on"):
                    paused = event.what == "pause"
                elif event.what == "turned":
                    turned.add(event.part)
                elif event.what == "at":
                    index = [slot.name for slot in slots].index(event.part)
                    turned |= {slot.name for slot in slots[: index + 1]}
                    place, paused = begins[index], False
                else:
                    step = 1 if event.by_s > 0 else -1
                    for _ in range(abs(round(event.by_s * 10))):
                        if 0 <= place + step <= total and (step < 0 or open_to(place + 1)):
                            place += step
        names = [slot.name for slot in slots]
        if place >= total:
            return None, tuple(names)
        index = max(i for i in range(len(slots)) if begins[i] <= place)
        waits = slots[index].stop is not None and names[index] not in turned
        return (None if waits else names[index]), tuple(names[:index])


class TimetableTest(unittest.TestCase):
    def test_all_of_a_plate_in_its_order_and_as_long_as_it_takes(self):
        plate = planned(trial_document(labels=LABELS, order="scattered"))
        slots = timetable(plate)
        self.assertEqual([slot.name for slot in slots], ["labels", *(name for _, _, name in plate.parts())])
        self.assertEqual([slot.kind for slot in slots[:2]], ["labels", "patch"])
        self.assertAlmostEqual(sum(slot.seconds for slot in slots), plate.total_seconds)


if __name__ == "__main__":
    unittest.main()
