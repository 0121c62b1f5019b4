"""SIGKILL at fifty random moments while thirty people work, of the server and of its worker: nothing acknowledged is
lost, all is whole each time."""

from __future__ import annotations

import http.client
import json
import os
import random
import signal
import tempfile
import threading
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

from tests.demo_copy import copy_demo
from tests.server.real_server import Server

from benchmarks.crowd import PEOPLE, Person
from benchmarks.timing import Figure
from rezept.actions.commands import safekeeping

ROUNDS = 50
# The worker takes seconds to begin again: with fewer people beside it, it comes to its work.
BESIDE = 6


def _hurry(person: Person, over: threading.Event) -> None:
    """Work without a pause until the server is gone."""
    while not over.is_set():
        try:
            person.turn()
        except (OSError, RuntimeError, KeyError, ValueError, http.client.HTTPException):
            return


def _again(person: Person, base: str) -> int:
    """Go on after the restart; counts acknowledged edits that are not there any more."""
    with urllib.request.urlopen(f"{base}/api/trials/{person.trial}", timeout=20) as answer:
        page = json.load(answer)
    stored = {row["patch"]: (row["edit"], row["values"].get("through")) for row in page["readings"]}
    # The write under way when the server died may have been made without its answer arriving.
    lost = sum(stored.get(patch, (0, 0))[0] < edit for patch, (edit, _) in person.scored.items())
    lost += sum(
        stored[patch] != value for patch, value in person.scored.items() if stored.get(patch, (0, 0))[0] == value[0]
    )
    lost += len(person.kept - {recipe["id"] for recipe in page["recipes"]})
    person.scored = dict(stored)
    person.kept |= {recipe["id"] for recipe in page["recipes"]}
    return lost


def figures() -> list[Figure]:
    chance = random.Random(11)
    lost = broken = acknowledged = 0
    with tempfile.TemporaryDirectory() as parent:
        folder = Path(parent) / "shop"
        copy_demo(folder)
        server = Server(folder)
        people = [Person(server.base, number) for number in range(PEOPLE)]
        for person in people:
            person.begin()
        for _ in range(ROUNDS):
            over = threading.Event()
            threads = [threading.Thread(target=_hurry, args=(person, over)) for person in people]
            for thread in threads:
                thread.start()
            time.sleep(chance.uniform(0.2, 1.5))
            server.kill()
            over.set()
            for thread in threads:
                thread.join()
            acknowledged += sum(len(person.times) for person in people)
            broken += sum(finding.serious for finding in safekeeping.check(folder))
            server = Server(folder)
            for person in people:
                person.reconnect(server.base)
                lost += _again(person, server.base)
        server.stop()
    done = f"{ROUNDS} kills, {acknowledged} answers before them"
    return [
        Figure("killed fifty times, acknowledged edits lost", lost, "", 0, done),
        Figure("killed fifty times, damage found after", broken, "", 0, done),
    ]


def _workers_of(server: Server) -> list[int]:
    """Processes of the worker that a server has begun."""
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdecimal():
            continue
        try:
            parent = int((entry / "stat").read_text().rpartition(")")[2].split()[1])
            words = (entry / "cmdline").read_bytes()
        except OSError:
            continue
        if parent == server.process.pid and b"worker_process" in words:
            found.append(int(entry.name))
    return found


def _brought(server: Server, burn: int, data: bytes) -> int:
    request = urllib.request.Request(
        f"{server.base}/api/photos?burn={burn}&face=front", data, {"Content-Type": "image/jpeg"}, method="POST"
    )
    with urllib.request.urlopen(request, timeout=30) as answer:
        return int(json.load(answer)["id"])


def worker_figures() -> list[Figure]:
    """The same with the worker killed while it reads photographs."""
    chance = random.Random(12)
    lost = open_jobs = kills = 0
    jobs: list[int] = []
    with tempfile.TemporaryDirectory() as parent:
        folder = Path(parent) / "shop"
        copy_demo(folder)
        photos = [path.read_bytes() for path in sorted((folder / "photos").glob("*/*"))]
        server = Server(folder)
        people = [Person(server.base, number) for number in range(BESIDE)]
        for person in people:
            person.begin()
        over = threading.Event()
        threads = [threading.Thread(target=_hurry, args=(person, over)) for person in people]
        for thread in threads:
            thread.start()
        until = time.monotonic() + 600
        while kills < ROUNDS and time.monotonic() < until:
            # Bytes that differ each time: the same photo twice would be one.
            data = chance.choice(photos) + bytes([kills, len(jobs) % 256])
            jobs.append(_brought(server, people[kills % BESIDE].burn, data))
            while not (pids := _workers_of(server)) and time.monotonic() < until:
                time.sleep(0.05)
            # While it begins, while it reads, or while it waits for the next.
            time.sleep(chance.uniform(0.0, 5.0))
            for pid in pids:
                with suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
                kills += 1
        over.set()
        for thread in threads:
            thread.join()
        for job in jobs:
            state = "waiting"
            while state in ("waiting", "running") and time.monotonic() < until + 120:
                state = server.ask("GET", f"/api/jobs/{job}?wait=true")["state"]
            open_jobs += state in ("waiting", "running")
        for person in people:
            # The server has dropped what was idle meanwhile.
            person.reconnect(server.base)
        lost = sum(person.lost() for person in people)
        server.stop()
        broken = sum(finding.serious for finding in safekeeping.check(folder))
    done = f"{kills} kills of the worker, {len(jobs)} photos brought meanwhile"
    return [
        Figure("worker killed, acknowledged edits lost", lost, "", 0, done),
        Figure("worker killed, jobs without an end", open_jobs, "", 0, done),
        Figure("worker killed, damage found after", broken, "", 0, done),
    ]
