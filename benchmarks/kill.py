"""SIGKILL at thirty random moments while thirty people work: nothing acknowledged is lost, all is whole each time."""

from __future__ import annotations

import http.client
import json
import random
import tempfile
import threading
import time
import urllib.request
from pathlib import Path

from tests.demo_copy import copy_demo
from tests.server.real_server import Server

from benchmarks.crowd import PEOPLE, Person
from benchmarks.timing import Figure
from rezept.actions import safekeeping

ROUNDS = 30


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
    stored = {row["patch"]: (row["edit"], row["through"]) for row in page["readings"]}
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
        Figure("killed thirty times, acknowledged edits lost", lost, "", 0, done),
        Figure("killed thirty times, damage found after", broken, "", 0, done),
    ]
