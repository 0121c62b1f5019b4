"""Thirty people at once on loopback for a minute: reading, scoring, keeping; errors, lost edits and waiting time."""

from __future__ import annotations

import http.client
import json
import random
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from tests.demo_copy import copy_demo
from tests.server.real_server import Server

from benchmarks.timing import Figure

PEOPLE = 30
SECONDS = 60.0
# Between two requests of one person; nobody is that quick for long.
THINKS_S = (0.4, 1.2)
MEMBERS = (1, 2, 3, 5, 6, 7, 8)


@dataclass
class Person:
    """Somebody with a browser of their own: plans and burns a plate, scores it, keeps patches, looks around."""

    base: str
    number: int
    times: list[float] = field(default_factory=list)
    errors: list[str] = field(default_factory=list)
    scored: dict[str, tuple[int, int]] = field(default_factory=dict)
    kept: set[int] = field(default_factory=set)
    trial: int = 0
    burn: int = 0

    def __post_init__(self) -> None:
        self.chance = random.Random(self.number)
        self.reconnect(self.base)
        self.headers = {
            "Content-Type": "application/json",
            "Cookie": f"rezept_member_demo={MEMBERS[self.number % len(MEMBERS)]}",
        }

    def reconnect(self, base: str) -> None:
        self.base = base
        self.connection = http.client.HTTPConnection(urlsplit(base).netloc, timeout=30)
        self.times.clear()

    def ask(self, method: str, path: str, body: object = None) -> Any:
        began = time.perf_counter()
        self.connection.request(method, path, None if body is None else json.dumps(body), self.headers)
        response = self.connection.getresponse()
        data = response.read()
        self.times.append((time.perf_counter() - began) * 1000)
        if response.status >= 400:
            raise RuntimeError(f"{method} {path}: {response.status} {data[:200]!r}")
        return json.loads(data) if data else None

    def begin(self) -> None:
        material, head = ((1, 1), (3, 2), (4, 1))[self.number % 3]
        self.trial = self.ask("POST", "/api/trials", {"process": "cut", "material": material, "head": head})["id"]
        page = self.ask("GET", f"/api/trials/{self.trial}")
        self.burn = self.ask("POST", f"/api/trials/{self.trial}/burns", {"edit": page["edit"]})["id"]
        self.patches = [patch["id"] for patch in page["plate"]["patches"]]
        self.times.clear()

    def work(self, until: float) -> None:
        try:
            while time.monotonic() < until:
                self.turn()
                time.sleep(self.chance.uniform(*THINKS_S))
        except (OSError, RuntimeError, KeyError) as error:
            self.errors.append(str(error))

    def turn(self) -> None:
        what = self.chance.random()
        if what < 0.55:
            patch = self.chance.choice(self.patches)
            edit, _ = self.scored.get(patch, (0, 0))
            through = self.chance.randint(0, 3)
            url = f"/api/burns/{self.burn}/patches/{patch}/reading"
            answer = self.ask("PUT", url, {"edit": edit, "values": {"through": through}})
            self.scored[patch] = (answer["edit"], through)
        elif what < 0.63 and self.scored:
            patch = self.chance.choice(sorted(self.scored))
            body = {"burn": self.burn, "patch": patch, "purpose": f"{self.number}-{len(self.kept)}"}
            self.kept.add(self.ask("POST", "/api/recipes", body)["id"])
        elif what < 0.73:
            self.ask("GET", f"/api/trials/{self.trial}")
        elif what < 0.83:
            self.ask("GET", f"/api/ask?process=cut&material={self.chance.choice((1, 2, 4))}&head=1")
        elif what < 0.93:
            self.ask("GET", f"/api/recipes?text={self.chance.choice(('poplar', 'latnern', 'tan', ''))}&most=40")
        else:
            self.ask("GET", "/api/map?process=cut")

    def lost(self) -> int:
        """Edits that were acknowledged and are not there."""
        page = self.ask("GET", f"/api/trials/{self.trial}")
        stored = {row["patch"]: (row["edit"], row["values"].get("through")) for row in page["readings"]}
        gone = sum(stored.get(patch) != value for patch, value in self.scored.items())
        return gone + len(self.kept - {recipe["id"] for recipe in page["recipes"]})


def figures() -> list[Figure]:
    with tempfile.TemporaryDirectory() as folder:
        copy_demo(Path(folder) / "shop")
        server = Server(Path(folder) / "shop")
        people = [Person(server.base, number) for number in range(PEOPLE)]
        for person in people:
            person.begin()
        until = time.monotonic() + SECONDS
        threads = [threading.Thread(target=person.work, args=(until,)) for person in people]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        times = sorted(one for person in people for one in person.times)
        errors = [error for person in people for error in person.errors]
        lost = sum(person.lost() for person in people)
        server.stop()
    done = f"{len(times)} requests of {PEOPLE} people in {SECONDS:.0f} s"
    return [
        Figure("thirty people, errors", len(errors), "", 0, "; ".join(errors[:2]) or done),
        Figure("thirty people, lost edits", lost, "", 0, done),
        Figure(
            "thirty people, p95", times[len(times) * 95 // 100], "ms", 150, f"median {times[len(times) // 2]:.0f} ms"
        ),
    ]
