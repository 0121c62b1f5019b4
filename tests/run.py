"""Everything that must hold: checks, vitest and unittest, counted together.

Ends with a line `N passed, N failed`; the exit code is 0 only when nothing failed.
`--only-checks` leaves the tests out; other words are passed on as names of unittest modules.
"""

from __future__ import annotations

import io
import json
import multiprocessing
import signal
import subprocess
import sys
import time
import unittest
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor, as_completed
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from types import FrameType

ROOT = Path(__file__).parent.parent
BIN = Path(sys.executable).parent
WEB = ROOT / "web"
NPX = ["npx", "--no-install"]
PLACES = "--places"

CHECKS: list[tuple[str, list[str], Path]] = [
    ("ruff", [str(BIN / "ruff"), "check", "src", "tests", "benchmarks", "docs"], ROOT),
    ("ruff format", [str(BIN / "ruff"), "format", "--check", "--quiet", "src", "tests", "benchmarks", "docs"], ROOT),
    ("mypy", [str(BIN / "mypy")], ROOT),
    ("import-linter", [str(BIN / "lint-imports")], ROOT),
    ("tsc", [*NPX, "tsc", "--noEmit"], WEB),
    ("eslint", [*NPX, "eslint", "."], WEB),
    ("prettier", [*NPX, "prettier", "--check", "--log-level", "warn", "."], WEB),
]


@dataclass(frozen=True)
class Ran:
    """What came of a check or some tests: what is to be said, how many passed and failed, and how long each test
    took, s."""

    said: str
    passed: int
    failed: int
    seconds: dict[str, float]


def _came(name: str, ok: bool, why: str) -> Ran:
    return Ran(f"{'ok    ' if ok else 'FAILED'} {name}{'' if ok else chr(10) + why}", int(ok), int(not ok), {})


def check(name: str, command: list[str], folder: Path) -> Ran:
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    return _came(name, done.returncode == 0, f"{done.stdout[-6000:]} {done.stderr[-6000:]}")


def fresh_types() -> Ran:
    """The committed OpenAPI document and types are those of the code."""
    document = subprocess.run(
        [sys.executable, "-m", "rezept.server.openapi"], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout
    fresh = document == (WEB / "src/api/openapi.json").read_text()
    types = subprocess.run(
        [*NPX, "openapi-typescript", "src/api/openapi.json", "--default-non-nullable=false"],
        cwd=WEB,
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    fresh = fresh and types.strip() == (WEB / "src/api/schema.d.ts").read_text().strip()
    return _came("API types are fresh", fresh, "run `make types`")


def vitest() -> Ran:
    done = subprocess.run(
        [*NPX, "vitest", "run", "--reporter=json"], cwd=WEB, capture_output=True, text=True, check=False
    )
    why = f"{done.stdout[-4000:]} {done.stderr[-4000:]}"
    try:
        report = json.loads(done.stdout[done.stdout.index("{") :])
    except ValueError:
        return _came("vitest", False, why)
    passed, failed = report["numPassedTests"], report["numFailedTests"]
    failed = max(failed, int(done.returncode != 0))
    return Ran(_came(f"vitest, {passed} tests", not failed, why).said, passed, failed, {})


def suite_of(places: list[str]) -> unittest.TestSuite:
    """The tests of some folders and modules, such as `tests/core` and `tests/test_cli.py`."""
    loader = unittest.TestLoader()
    return unittest.TestSuite(
        loader.loadTestsFromName(place.removesuffix(".py").replace("/", "."))
        if place.endswith(".py")
        else loader.discover(str(ROOT / place), top_level_dir=str(ROOT))
        for place in places
    )


class TookTooLong(Exception):
    """A test that does not end fails, and the others go on."""


def _end(_number: int, _frame: FrameType | None) -> None:
    raise TookTooLong(f"This test took longer than {MOST_SECONDS} s.")


class Timed(unittest.TextTestResult):
    """Remembers how long each test took, and ends one that does not end by itself: what makes the whole slow is told
    at the end."""

    def startTest(self, test: unittest.TestCase) -> None:
        self.began = time.monotonic()
        signal.signal(signal.SIGALRM, _end)
        signal.alarm(MOST_SECONDS)
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        signal.alarm(0)
        SECONDS[test.id()] = time.monotonic() - self.began
        super().stopTest(test)


SECONDS: dict[str, float] = {}
SLOWEST = 15
# The longest takes a minute and a half, beside two others that are as busy.
MOST_SECONDS = 300
# As many modules are tested at once, on two cores: browsers and servers spend some of their time waiting. With four,
# what waits for something to happen waits too long.
AT_ONCE = 3
# These take longest and begin first, so that none of them is left over at the end.
LONGEST = (
    "tests/browser/test_access.py",
    "tests/actions/queries/test_strange_photos.py",
    "tests/browser/test_walk.py",
    "tests/browser/test_burn.py",
    "tests/server/test_schema.py",
    "tests/server/test_kill.py",
    "tests/core/plan/test_gate.py",
    "tests/actions/queries/test_photo_reading.py",
    "tests/bench/test_benches.py",
)


def ran(suite: unittest.TestSuite) -> Ran:
    said = io.StringIO()
    SECONDS.clear()
    result = unittest.TextTestRunner(stream=said, verbosity=1, buffer=True, resultclass=Timed).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return Ran(said.getvalue() if failed else "", result.testsRun - failed, failed, dict(SECONDS))


def _module(place: str) -> Ran:
    """One module, in a process that has others before and after it."""
    sys.path[:0] = [] if str(ROOT) in sys.path else [str(ROOT)]
    return ran(suite_of([place]))


def told(results: Iterable[Ran]) -> tuple[int, int]:
    """Say what came of all as it comes in, and at the end which tests took longest."""
    passed = failed = 0
    seconds: dict[str, float] = {}
    for one in results:
        passed, failed = passed + one.passed, failed + one.failed
        seconds |= one.seconds
        if one.said:
            print(one.said, flush=True)
    if not seconds:
        return passed, failed
    modules: dict[str, float] = {}
    for test, took in seconds.items():
        module = ".".join(test.split(".")[:-2])
        modules[module] = modules.get(module, 0.0) + took
    for what in (seconds, modules):
        print(f"{len(what)} {'tests' if what is seconds else 'modules'} took {sum(what.values()):.0f} s, most of it")
        for name in sorted(what, key=what.__getitem__, reverse=True)[:SLOWEST]:
            print(f"{what[name]:7.1f} s  {name}")
    return passed, failed


def side_by_side() -> tuple[int, int]:
    """All checks and unittests, module by module in some processes, each taking the next when it is done with one:
    what checks reckon is done while browsers wait."""
    every = {str(file.relative_to(ROOT)) for file in (ROOT / "tests").rglob("test_*.py")}
    assert every.issuperset(LONGEST), set(LONGEST) - every
    others = sorted(every.difference(LONGEST), key=lambda place: ("browser" not in place, place))
    with ProcessPoolExecutor(AT_ONCE, multiprocessing.get_context("spawn")) as pool:
        waited_for = [pool.submit(check, *one) for one in CHECKS]
        waited_for += [pool.submit(fresh_types), pool.submit(vitest)]
        waited_for += [pool.submit(_module, place) for place in [*LONGEST, *others]]
        # A process that dies over a test ends this with its reason: nothing is counted that was not run.
        return told(one.result() for one in as_completed(waited_for))


def main(words: list[str]) -> int:
    began = time.monotonic()
    sys.path.insert(0, str(ROOT))
    if not words:
        passed, failed = side_by_side()
    elif words == ["--only-checks"]:
        passed, failed = told(one() for one in (*(partial(check, *one) for one in CHECKS), fresh_types))
    elif words[0] == PLACES:
        passed, failed = told([ran(suite_of(words[1:]))])
    else:
        passed, failed = told([ran(unittest.TestLoader().loadTestsFromNames(words))])
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
