"""The worker: one job after the other in a process that may break; what broke it is kept as what it is."""

import io
import os
import random
import signal
import subprocess
import sys
import threading
import unittest
import zlib
from pathlib import Path
from unittest import mock

import numpy as np
from PIL import Image

from rezept.actions.commands import people, photos
from rezept.actions.members import NotAllowed
from rezept.actions.queries import views
from rezept.actions.running import work
from rezept.actions.running.work import Limits
from rezept.actions.running.worker import HereAndNow, Worker
from rezept.core.errors import InvalidInput
from rezept.store import jobs as job_table
from rezept.store.errors import NotSaved
from tests.actions.commands.test_photos import PhotoCase, photo_of
from tests.until import until

PATIENCE_S = 120.0


def png(width, height, colour_type=2, depth=8):
    """A picture of one colour that is tiny as a file, whatever its size."""

    def chunk(kind, data):
        return len(data).to_bytes(4, "big") + kind + data + zlib.crc32(kind + data).to_bytes(4, "big")

    channels = {0: 1, 2: 3, 6: 4}[colour_type]
    line = b"\0" + b"\x80" * (width * channels * depth // 8)
    packer = zlib.compressobj(9)
    data = b"".join(packer.compress(line) for _ in range(height)) + packer.flush()
    head = width.to_bytes(4, "big") + height.to_bytes(4, "big") + bytes([depth, colour_type, 0, 0, 0])
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


class WorkerCase(PhotoCase):
    def worker(self, **limits):
        worker = Worker(self.shop, Limits(**limits))
        self.addCleanup(worker.close)
        return worker

    def task(self, data, burn=None, face=None):
        return photos.take_in(self.shop, self.member, data, burn, face)

    def bring(self, worker, data, burn=None, face=None):
        return worker.submit(self.member, "bring_in", self.task(data, burn, face), urgent=True)

    def over(self, worker, job):
        one = worker.wait(job, PATIENCE_S)
        self.assertIn(one["state"], job_table.OVER)
        return one

    def page(self):
        return views.trial_page(self.shop, self.trial)


class DoneTest(WorkerCase):
    def test_a_photo_is_read_in_another_process_and_a_picture_made_of_it(self):
        worker = self.worker()
        done = self.over(worker, self.bring(worker, photo_of(self.text, "front", 71)))
        self.assertEqual((done["state"], done["answer"]["found_by"]), ("done", "marks"))
        [photo] = self.page()["photos"]
        self.assertIsNotNone(photo["matrix"])
        self.assertNotEqual(worker.pid(), os.getpid())
        name = "flat"
        task = {"what": "flat", "photo": photo["id"], "name": name}
        self.assertEqual(self.over(worker, worker.submit(self.member, "picture", task))["state"], "done")
        flat = Image.open(io.BytesIO(self.shop.made.get(name)))
        self.assertEqual(flat.format, "JPEG")
        # Refused with the same sentence as ever, and not kept.
        vain = self.over(worker, self.bring(worker, png(400, 300)))
        self.assertEqual((vain["state"], vain["answer"]["path"]), ("failed", "photo"))
        self.assertIn("No plate's code", vain["sentence"])
        with self.assertRaises(FileNotFoundError):
            self.shop.photos.path(vain["task"]["sha256"]).read_bytes()

    def test_what_was_read_meanwhile_is_not_read_twice(self):
        """Whoever asks for all unread photos may name one that is being read just then; it stays as it was shown."""
        worker = self.worker()
        brought = self.over(worker, self.bring(worker, photo_of(self.text, "front", 72)))
        [photo] = self.page()["photos"]
        for kind in ("read", "read_again"):
            again = self.over(worker, worker.submit(self.member, kind, {"photo": brought["answer"]["id"]}))
            self.assertEqual(again["state"], "done")
        self.assertEqual([one["edit"] for one in self.page()["photos"]], [photo["edit"]])

    def test_the_same_photo_twice_is_one_job_and_what_is_urgent_comes_first(self):
        jobs = HereAndNow(self.shop)
        with self.shop.database.writing() as db:
            slow = [job_table.add(db, "read", {"photo": i}, False, self.member.id, self.shop.now()) for i in (1, 2, 1)]
            fast = job_table.add(db, "read", {"photo": 3}, True, self.member.id, self.shop.now())
        self.assertEqual(slow[0], slow[2])
        with self.shop.database.reading() as db:
            self.assertEqual([job["id"] for job in job_table.in_state(db, "waiting")], [fast, slow[0], slow[1]])
        self.assertEqual([jobs.job(job)["before"] for job in (fast, slow[0], slow[1])], [0, 1, 2])

    def test_how_far_it_is(self):
        worker = self.worker()
        with mock.patch.object(job_table, "progress", wraps=job_table.progress) as noted:
            job = self.bring(worker, photo_of(self.text, "front", 71))
            self.assertEqual(self.over(worker, job)["progress"], 1.0)
        self.assertEqual([call.args[1:] for call in noted.call_args_list], [(job, 0.3), (job, 0.4), (job, 0.9)])

    def test_followers_hear_of_it(self):
        worker = self.worker()
        before = self.shop.database.wait_for_commit(-1, 0)
        self.over(worker, self.bring(worker, photo_of(self.text, "front", 71)))
        self.assertGreater(self.shop.database.wait_for_commit(before, 1), before + 2)


class BrokenTest(WorkerCase):
    """Whatever a picture does to the worker: it is kept with its sentence, and the next one is read."""

    def trouble(self):
        [photo] = [one for one in self.page()["photos"] if one["matrix"] is None]
        return photo["trouble"]

    def next_is_read(self, worker):
        done = self.over(worker, self.bring(worker, photo_of(self.text, "front", 72)))
        self.assertEqual(done["state"], "done", done["sentence"])

    def test_killed_over_it(self):
        worker = self.worker()
        # Begun and idle, then killed as soon as the next job runs: over whatever it is at.
        self.over(worker, self.bring(worker, png(400, 300)))
        pid = worker.pid()
        job = self.bring(worker, photo_of(self.text, "back", 71), self.burn, "back")
        until(lambda: worker.job(job)["state"] != "waiting")
        os.kill(pid, signal.SIGKILL)
        self.assertEqual(self.over(worker, job)["sentence"], work.BROKE)
        self.assertEqual(self.trouble(), work.BROKE)
        self.assertEqual(photos.unread(self.shop), [])
        self.next_is_read(worker)

    def test_more_memory_than_one_job_may_have(self):
        worker = self.worker(most_bytes=24 * 2**20)
        job = self.over(worker, self.bring(worker, png(4000, 4000), self.burn, "front"))
        self.assertEqual((job["state"], job["sentence"]), ("failed", worker.limits.too_large))
        self.assertEqual(self.trouble(), worker.limits.too_large)

    def test_longer_than_one_job_may_take(self):
        worker = self.worker(seconds=0.02)
        job = self.over(worker, self.bring(worker, photo_of(self.text, "front", 71), self.burn, "front"))
        self.assertEqual((job["state"], job["sentence"]), ("failed", worker.limits.too_long))
        self.assertEqual(self.trouble(), worker.limits.too_long)

    def test_the_largest_that_are_taken_stay_within_the_memory(self):
        worker = self.worker()
        jpeg = io.BytesIO()
        Image.fromarray(np.full((8000, 8000), 128, np.uint8)).convert("RGB").save(jpeg, "JPEG")
        for data in (jpeg.getvalue(), png(5600, 5700, 6), png(5600, 5700, 0, 16)):
            job = self.over(worker, self.bring(worker, data, self.burn, "front"))
            self.assertFalse(job["sentence"].startswith("This takes"), job["sentence"])
            self.assertNotEqual(job["sentence"], work.BROKE)

    def test_a_strip_is_refused_at_once(self):
        worker = self.worker()
        for size in ((65000, 2), (2, 65000), (65000, 1000)):
            job = self.over(worker, self.bring(worker, png(*size), self.burn, "front"))
            self.assertEqual(job["state"], "failed")
            self.assertRegex(job["sentence"], "strip|million")
        self.next_is_read(worker)

    def test_two_hundred_damaged_pictures_get_a_sentence_each(self):
        worker = self.worker()
        chance = random.Random(20261127)
        good = []
        for kind in ("JPEG", "PNG", "WEBP"):
            data = io.BytesIO()
            noise = np.random.default_rng(3).integers(0, 256, (300, 400, 3), np.uint8)
            Image.fromarray(noise).save(data, kind, exif=Image.Exif())
            good.append(data.getvalue())
        sentences = set()
        for _ in range(200):
            damaged = bytearray(chance.choice(good))
            for _ in range(chance.randint(1, 40)):
                damaged[chance.randrange(16, len(damaged))] = chance.randrange(256)
            del damaged[chance.randrange(len(damaged) // 2, len(damaged)) :]
            try:
                job = self.over(worker, self.bring(worker, bytes(damaged)))
            except InvalidInput as error:
                sentences.add(error.sentence)
                continue
            self.assertEqual(job["state"], "failed")
            self.assertNotEqual(job["sentence"], work.BROKE)
            sentences.add(job["sentence"])
        self.assertTrue(all(len(sentence) > 20 for sentence in sentences), sentences)
        self.next_is_read(worker)


class LockedTest(WorkerCase):
    def test_records_that_cannot_be_written_are_waited_for(self):
        """A worker that gave up at the first locked records would leave every later photo unread."""
        worker, shut, refused = self.worker(), threading.Event(), []
        writing = self.shop.database.writing

        def locked(patience_s=15.0):
            if shut.is_set() and threading.current_thread().name == "worker":
                refused.append(1)
                raise NotSaved("This could not be saved (somebody else is writing). Nothing was changed.")
            return writing(patience_s)

        with mock.patch.object(type(self.shop.database), "writing", lambda _, patience_s=15.0: locked(patience_s)):
            shut.set()
            job = self.bring(worker, photo_of(self.text, "front", 71))
            until(lambda: len(refused) >= 2)
            shut.clear()
            self.assertEqual(self.over(worker, job)["state"], "done")
            # The same when it has ended and that cannot be kept.
            again = self.bring(worker, photo_of(self.text, "front", 72))
            until(lambda: worker.job(again)["state"] != "waiting")
            shut.set()
            before = len(refused)
            until(lambda: len(refused) > before)
            self.assertEqual(worker.job(again)["state"], "running")
            shut.clear()
            self.assertEqual(self.over(worker, again)["state"], "done")


class EndedTest(WorkerCase):
    def test_given_up_by_its_member_or_a_technician(self):
        worker = self.worker()
        waiting = threading.Event()
        other = people.add_member(self.shop, self.keeper, "Ann", "member")
        # Enough before those that are given up for these to wait still.
        shown = [photo_of(self.text, "front", seed) for seed in range(71, 77)]
        jobs = [self.bring(worker, photo, self.burn, "front") for photo in shown]
        with self.assertRaises(NotAllowed):
            worker.cancel(other, jobs[-1])
        worker.cancel(self.member, jobs[-1])
        worker.cancel(self.technician, jobs[-2])
        states = [self.over(worker, job)["state"] for job in jobs]
        self.assertEqual(states, ["done"] * 4 + ["cancelled"] * 2)
        self.assertFalse(waiting.is_set())
        # One that runs is ended as well, and the next one begins.
        again = self.bring(worker, photo_of(self.text, "back", 71), self.burn, "back")
        until(lambda: worker.job(again)["state"] != "waiting")
        worker.cancel(self.member, again)
        self.assertEqual(self.over(worker, again)["state"], "cancelled")
        last = self.over(worker, self.bring(worker, photo_of(self.text, "back", 72), self.burn, "back"))
        self.assertEqual(last["state"], "done")

    def test_what_ran_when_the_server_died_is_interrupted_and_what_waited_goes_on(self):
        with self.shop.database.writing() as db:
            ids = [
                job_table.add(db, "bring_in", self.task(photo_of(self.text, face, 71), self.burn, face), True,
                              self.member.id, self.shop.now())
                for face in ("front", "back")
            ]  # fmt: skip
            job_table.begin(db, ids[0])
        worker = self.worker()
        self.assertEqual(self.over(worker, ids[0])["state"], "interrupted")
        self.assertEqual(self.over(worker, ids[1])["state"], "done")
        by_face = {photo["face"]: photo for photo in self.page()["photos"]}
        self.assertEqual(by_face["front"]["trouble"], work.GONE)
        self.assertEqual(photos.unread(self.shop), [])
        # Somebody looks again: then it is read, and its size is known.
        front = by_face["front"]
        self.assertEqual(front["width"], 0)
        task = {"photo": front["id"], "edit": front["edit"], "corners": []}
        done = self.over(worker, worker.submit(self.member, "lay", task, urgent=True))
        self.assertEqual((done["state"], done["answer"]["trouble"]), ("done", ""))
        self.assertGreater(done["answer"]["width"], 0)

    def test_what_ended_long_ago_is_forgotten(self):
        jobs = HereAndNow(self.shop)
        job = jobs.submit(self.member, "bring_in", self.task(png(400, 300)))
        self.assertEqual(jobs.job(job)["state"], "failed")
        with self.shop.database.writing() as db:
            db.execute("UPDATE job SET ended_at = '2020-01-01T00:00:00Z'")
        jobs.submit(self.member, "read", {"photo": 999})
        self.assertEqual([one["task"] for one in jobs.jobs()], [{"photo": 999}])
        self.assertEqual(jobs.jobs()[0]["state"], "failed")


class ForeignBytesTest(unittest.TestCase):
    def test_the_server_never_has_the_heic_decoder(self):
        code = (
            "import sys, rezept.server, rezept.cli, rezept.actions.commands.photos; print('pillow_heif' in sys.modules)"
        )
        said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(said.stdout.strip(), "False")
        folder = Path(photos.__file__).parents[2]
        importing = [file.name for file in folder.rglob("*.py") if "pillow_heif" in file.read_text("utf-8")]
        self.assertEqual(importing, ["photo_file.py"])


if __name__ == "__main__":
    unittest.main()
