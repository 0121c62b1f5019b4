"""Burning while things go wrong around it: one program a link, stops that always work, records that cannot be written,
disks that are full, servers and jobs that die. The beam goes off, the record is true, the machine is usable again."""

import os
import signal
import sqlite3
import threading
import time
import unittest
from contextlib import closing
from unittest import mock

from rezept.actions.commands import equipment, planning
from rezept.actions.open_shop import DATABASE_NAME, Served, open_shop, served_here
from rezept.actions.queries import shop_facts, views
from rezept.actions.running import live, placing, run_log
from rezept.actions.running.again import Again, again_by_hand, again_in_place
from rezept.actions.running.burn_job import SERVER_GONE
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.run_log import NoRoom, RunLog, events_in, log_path, reserve
from rezept.core.errors import Refused
from rezept.link.lock import LinkBusy, ends_of, hold_link
from rezept.link.port import LinkError
from rezept.store.errors import NotSaved
from tests.actions.running.test_live import LiveCase
from tests.bench_port import link
from tests.made import WREN, ShopCase
from tests.until import until


class FaultCase(LiveCase):
    def runs_folder(self):
        return sorted(path.name for path in (self.folder / run_log.FOLDER).glob("*"))

    def burned_again(self):
        """The machine is free, and what it burns is known, without a restart."""
        run = self.ended(self.start())
        self.assertEqual(run.state, "done")
        self.assertEqual(set(self.states(0).values()), {"done"})
        self.assertEqual(self.runs_folder(), [])

    def beam_is_off(self, seconds=5.0):
        until(lambda: self.bench.controller.state in ("idle", "alarm"), seconds)


class LinkTest(FaultCase):
    def second_machine(self, url):
        facts = {**WREN, "name": "Siskin", "beam_drops_at_rest": True, "link": url}
        head = equipment.add_machine(self.shop, self.keeper, facts, [{"name": "lens", "spot_mm": 0.2}])[0]
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, head)
        page = views.trial_page(self.shop, trial)
        return trial, page

    def test_a_second_row_on_one_link_by_another_name(self):
        self.link(speed_up=20)
        trial, page = self.second_machine(self.bench.url.replace("127.0.0.1", "localhost"))
        run = self.wait(self.start(), "running")
        with self.assertRaisesRegex(LinkBusy, "at work"):
            live.start(self.burns, self.member, trial, page["edit"], {}, True)
        self.assertEqual(views.trial_page(self.shop, trial)["burns"], [])
        self.assertEqual(len(self.runs_folder()), 1)
        live.stop(self.burns, self.member, run.key)
        self.ended(run)
        self.assertEqual(self.ended(live.start(self.burns, self.member, trial, page["edit"], {}, True)).state, "done")

    def test_a_second_server(self):
        self.link(speed_up=10)
        run = self.wait(self.start(), "running")
        with mock.patch("rezept.actions.running.live_burns.LEFT_S", 0.0):
            other = LiveBurns(self.shop)
        self.addCleanup(other.close)
        self.assertEqual(self.page()["runs"][0]["state"], "running", "a run that goes on is nobody's left-over")
        edit = self.page()["edit"]
        with self.assertRaises(LinkBusy):
            live.start(other, self.member, self.trial, edit, {}, True)
        self.assertEqual(len(self.page()["burns"]), 1)
        live.stop(self.burns, self.member, run.key)
        self.ended(run)
        with served_here(self.folder), self.assertRaisesRegex(Served, "already"), served_here(self.folder):
            pass

    def test_two_who_start_at_the_same_moment(self):
        """Both have seen the machine free; the one who is late leaves no burn behind."""
        self.link(speed_up=20)
        with mock.patch.object(LiveBurns, "busy", return_value=None):
            run = self.start()
            with self.assertRaises(LinkBusy):
                self.start(self.technician)
        self.assertEqual((len(self.page()["burns"]), len(self.runs_folder())), (1, 1))
        self.assertEqual(self.ended(run).state, "done")

    def test_names_of_one_place(self):
        self.assertEqual(ends_of("socket://localhost:9750"), ends_of("socket://127.0.0.1:9750"))
        self.assertNotEqual(ends_of("socket://localhost:9750"), ends_of("socket://localhost:9751"))
        alias = self.folder / "laser"
        alias.symlink_to("/dev/null")
        self.assertEqual(ends_of(str(alias)), ends_of("/dev/null"))
        with self.assertRaisesRegex(LinkError, "is not known"):
            ends_of("socket://no-such-machine.invalid:9750")
        held = hold_link(str(alias))
        with self.assertRaises(LinkBusy):
            hold_link("/dev/null")
        held.release()
        hold_link("/dev/null").release()


class StopTest(FaultCase):
    def test_a_stop_in_the_first_moment_is_never_lost(self):
        """Sent at once, or some milliseconds later while the process is still being made and the machine reached."""
        self.link(speed_up=20)
        for i in range(6):
            run = self.start()
            time.sleep(0.05 * i)
            live.stop(self.burns, self.technician, run.key)
            self.assertEqual(self.ended(run).state, "stopped")
            self.beam_is_off()

    def test_stop_and_hold_while_the_records_are_locked(self):
        self.link(speed_up=20)
        run = self.wait(self.start(), "running")
        with closing(sqlite3.connect(self.folder / DATABASE_NAME, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            pressed = time.monotonic()
            live.hold(self.burns, self.technician, run.key)
            live.stop(self.burns, self.technician, run.key)
            self.assertLess(time.monotonic() - pressed, 1.0, "nobody waits for the records")
            self.wait(run, "stopped", seconds=5)
            self.beam_is_off()
            other.execute("ROLLBACK")
        self.ended(run)
        self.assertEqual(self.page()["runs"][0]["state"], "stopped")
        self.burned_again()


class RecordsTest(FaultCase):
    def test_records_locked_while_it_burns(self):
        """The beam goes off within moments; what was burned is added as soon as the records are free."""
        self.link(speed_up=4)
        run = self.wait(self.start(), "running")
        until(lambda: run.done)
        with closing(sqlite3.connect(self.folder / DATABASE_NAME, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            self.wait(run, "interrupted", seconds=10)
            self.assertIn("records could not be written", run.reason)
            self.beam_is_off()
            done = list(run.done)
            self.assertEqual(len(self.runs_folder()), 1)
            other.execute("ROLLBACK")
        self.ended(run)
        states = self.states()
        self.assertEqual([name for name, state in states.items() if state == "done"], done)
        self.assertLessEqual(list(states.values()).count("uncertain"), 1)
        self.burned_again()

    def test_disk_full_while_it_burns(self):
        self.link(speed_up=15)
        run = self.wait(self.start(), "running")
        full = threading.Event()
        full.set()
        writing = self.shop.database.writing

        def refusing(*patience):
            if full.is_set():
                raise NotSaved("This could not be saved (database or disk is full). Nothing was changed.")
            return writing(*patience)

        with mock.patch.object(self.shop.database, "writing", refusing):
            self.wait(run, "interrupted", seconds=10)
            self.beam_is_off()
            self.assertFalse(self.burns.wait_until_over(run.key, 0.3))
            full.clear()
            self.ended(run)
        self.assertEqual(self.page()["runs"][0]["state"], "interrupted")
        self.burned_again()

    def test_no_room_no_start(self):
        self.link()
        full = mock.patch.object(run_log.os, "write", side_effect=OSError(28, "No space left on device"))
        with full, self.assertRaisesRegex(NoRoom, "Make room on the disk first"):
            self.start()
        self.assertEqual((self.page()["burns"], self.runs_folder()), ([], []))
        self.assertEqual(self.bench.controller.taken, 0)
        self.burned_again()

    def test_a_log_that_cannot_be_written_ends_the_run(self):
        self.link(speed_up=15)
        with mock.patch.object(run_log, "BYTES_A_RUN", 300), mock.patch.object(run_log, "BYTES_A_PART", 30):
            run = self.ended(self.start())
        self.assertEqual(run.state, "interrupted")
        self.assertIn("could not be kept", run.reason)
        self.beam_is_off()
        self.assertEqual(self.page()["runs"][0]["state"], "interrupted")
        self.burned_again()

    def test_records_that_refuse_the_start_leave_nothing_behind(self):
        self.link()
        refusing = mock.patch("rezept.actions.running.live.run_table.add_run", side_effect=NotSaved("full"))
        with refusing, self.assertRaises(NotSaved):
            self.start()
        self.assertEqual((self.page()["burns"], self.runs_folder()), ([], []))
        self.burned_again()


class DiedTest(FaultCase):
    def test_a_job_that_is_killed_many_times(self):
        """At whatever moment: the record says how far it came, and the next run burns."""
        self.link(speed_up=15)
        for wanted in (0, 1, 3):
            run = self.wait(self.start(), "running")
            until(lambda run=run, wanted=wanted: len(run.done) >= wanted)
            os.kill(self.burns.job_of(run.key).pid, signal.SIGKILL)
            self.ended(run)
            states = list(self.states().values())
            self.assertEqual(run.state, "interrupted")
            self.assertGreaterEqual(states.count("done"), wanted)
            self.assertLessEqual(states.count("uncertain"), 1)
            self.assertNotIn("burning", states)
            self.beam_is_off()
        self.burned_again()

    def test_a_server_that_died_leaves_a_log_the_next_one_takes_in(self):
        self.link()
        run = self.ended(self.start())
        name = "0123456789abcdef"
        reserve(log_path(self.folder, name), 6)
        log = RunLog(log_path(self.folder, name))
        got = {"power": 1.0, "speed": 1.0, "focus_mm": 0.0, "mixed": 0}
        for event in (
            {"event": "began", "name": "A1"},
            {"event": "finished", "name": "A1", "received": got},
            {"event": "began", "name": "A2"},
        ):
            log.write({"at": "2026-11-23T09:00:00Z", **event})
        log.close()
        with self.shop.database.writing() as db:
            db.execute("UPDATE burn_run SET state = 'running', ended_at = NULL, log = ?", (name,))
            db.execute("UPDATE run_part SET state = 'waiting'")
        LiveBurns(self.shop)
        self.assertEqual(
            list(self.states().values()), ["done", "uncertain", "waiting", "waiting", "waiting", "waiting"]
        )
        self.assertEqual(self.page()["runs"][0]["reason"], SERVER_GONE)
        self.assertEqual((self.runs_folder(), run.state), ([], "done"))

    def test_a_torn_line_is_left_out(self):
        path = log_path(self.folder, "torn")
        reserve(path, 1)
        log = RunLog(path)
        log.write({"event": "began", "name": "A1", "at": "now"})
        log.close()
        with open(path, "r+b") as file:
            data = file.read()
            end = data.index(b"\0")
            file.seek(end)
            file.write(b'{"event":"fini')
        self.assertEqual([event["event"] for event in events_in(path)], ["began"])


class LogTest(FaultCase):
    def test_every_line_is_kept_with_the_burn(self):
        self.link(speed_up=10)
        run = self.wait(self.start(), "running")
        for steps in range(1, 13):
            live.correct(self.burns, self.member, run.key, "power", steps)
        live.stop(self.burns, self.member, run.key)
        self.ended(run)
        said = [line["sentence"] for line in self.page()["runs"][0]["lines"]]
        self.assertEqual(said, [line["sentence"] for line in run.snapshot()["log"]])
        self.assertIn("Moss stands at the machine", said[0])
        self.assertEqual(sum("power" in sentence for sentence in said), 12)
        self.assertIn("stopped: by Moss", said[-1])


class LimitTest(FaultCase):
    """40 and 60 % of 85, 10 to 30 mm/s of 500."""

    def test_corrections_stop_at_the_limits_of_what_is_still_to_come(self):
        self.link(speed_up=5)
        run = self.wait(self.start(), "running")
        link_facts = {"max_power_pct": 70.0}
        link(self.shop, "Linnet", self.bench.url, **link_facts)
        live.correct(self.burns, self.member, run.key, "power", 8)
        with self.assertRaisesRegex(Refused, r"B1: 70.8 % is more than Linnet should give \(70 %\)"):
            live.correct(self.burns, self.member, run.key, "power", 9)
        self.assertEqual(run.state, "running")
        live.stop(self.burns, self.member, run.key)
        self.ended(run)

    def test_the_outline_is_not_turned_up(self):
        self.link(speed_up=1)
        run = placing.show_outline(self.burns, self.member, self.trial, self.page()["edit"], "frame", True)
        self.wait(run, "running")
        with self.assertRaisesRegex(Refused, "trace power"):
            live.correct(self.burns, self.member, run.key, "power", 1)
        live.stop(self.burns, self.member, run.key)
        self.ended(run)

    def test_again_counts_each_patch_once_and_its_passes_in_all(self):
        self.link()
        self.ended(self.start())
        burn = self.page()["burns"][0]["id"]
        again_by_hand(self.shop, self.member, burn, Again(["A3", "A3"], 2))
        patches = {patch["id"]: patch["settings"]["passes"] for patch in self.page()["burned"]["patches"]}
        self.assertEqual(patches["A3"], 3)
        with self.assertRaisesRegex(Refused.__mro__[1], "has had 3 passes; with 98 more it would be over 100"):
            again_in_place(self.burns, self.member, burn, Again(["A1", "A3"], 98), True)


class ReadTest(ShopCase):
    def test_a_session_is_read_while_the_records_are_locked(self):
        from rezept.actions.commands.signing_in import session_of, start_session

        session = start_session(self.shop, self.member.id, "test")
        with self.shop.database.writing() as db:
            db.execute("UPDATE session SET seen_at = '2026-11-20T00:00:00Z'")
        with closing(sqlite3.connect(self.folder / DATABASE_NAME, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            began = time.monotonic()
            self.assertEqual(session_of(self.shop, session.token).member.name, "Moss")
            self.assertLess(time.monotonic() - began, 1.0)
            other.execute("ROLLBACK")

    def test_what_runs_beside_a_server(self):
        with served_here(self.folder):
            beside = open_shop(self.folder)
            self.addCleanup(beside.close)
            self.assertEqual(len(shop_facts.inventory(beside)["members"]), 4)


if __name__ == "__main__":
    unittest.main()
