"""Everything that must hold: checks, vitest and unittest, counted together.

Ends with a line `N passed, N failed`; the exit code is 0 only when nothing failed.
`--only-checks` leaves the tests out; other words are passed on as names of unittest modules.
"""

from __future__ import annotations

import json
import re
import signal
import subprocess
import sys
import time
import unittest
from pathlib import Path
from types import FrameType

ROOT = Path(__file__).parent.parent
BIN = Path(sys.executable).parent
WEB = ROOT / "web"
NPX = ["npx", "--no-install"]
PLACES = "--places"
COUNTED = re.compile(r"^(\d+) passed, (\d+) failed$", re.MULTILINE)

CHECKS: list[tuple[str, list[str], Path]] = [
    ("ruff", [str(BIN / "ruff"), "check", "src", "tests", "benchmarks", "docs"], ROOT),
    ("ruff format", [str(BIN / "ruff"), "format", "--check", "--quiet", "src", "tests", "benchmarks", "docs"], ROOT),
    ("mypy", [str(BIN / "mypy")], ROOT),
    ("import-linter", [str(BIN / "lint-imports")], ROOT),
    ("tsc", [*NPX, "tsc", "--noEmit"], WEB),
    ("eslint", [*NPX, "eslint", "."], WEB),
    ("prettier", [*NPX, "prettier", "--check", "--log-level", "warn", "."], WEB),
]


def check(name: str, command: list[str], folder: Path) -> bool:
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    print(f"{'ok    ' if done.returncode == 0 else 'FAILED'} {name}", flush=True)
    if done.returncode:
        print(done.stdout[-6000:], done.stderr[-6000:])
    return done.returncode == 0


def fresh_types() -> bool:
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
    print(f"{'ok    ' if fresh else 'FAILED'} API types are fresh{'' if fresh else ': run `make types`'}", flush=True)
    return fresh


def vitest() -> tuple[int, int]:
    done = subprocess.run(
        [*NPX, "vitest", "run", "--reporter=json"], cwd=WEB, capture_output=True, text=True, check=False
    )
    try:
        report = json.loads(done.stdout[done.stdout.index("{") :])
    except ValueError:
        print(done.stdout[-4000:], done.stderr[-4000:])
        return 0, 1
    passed, failed = report["numPassedTests"], report["numFailedTests"]
    if failed or done.returncode:
        print(done.stdout[-4000:], done.stderr[-4000:])
    print(f"{'ok    ' if not failed and not done.returncode else 'FAILED'} vitest, {passed} tests", flush=True)
    return passed, max(failed, int(done.returncode != 0))


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
SLOWEST = 12
# The longest takes a minute and a half, beside two others that are as busy.
MOST_SECONDS = 300


def unittests(suite: unittest.TestSuite) -> tuple[int, int]:
    result = unittest.TextTestRunner(verbosity=1, buffer=True, resultclass=Timed).run(suite)
    for test in sorted(SECONDS, key=SECONDS.__getitem__, reverse=True)[:SLOWEST]:
        print(f"{SECONDS[test]:7.1f} s  {test}")
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return result.testsRun - failed, failed


def side_by_side() -> tuple[int, int]:
    """All unittests in three processes: the browsers spend much of their time waiting, the rest does not."""
    folders = [folder for folder in (ROOT / "tests").iterdir() if (folder / "__init__.py").exists()]
    others = sorted(str(place.relative_to(ROOT)) for place in [*folders, *(ROOT / "tests").glob("test_*.py")])
    others.remove("tests/browser")
    # What is burned and photographed is work enough to stand beside half of the browsers each.
    heavy = ["tests/bench", "tests/formats", "tests/actions"]
    others = [place for place in others if place not in heavy]
    browser = sorted(str(file.relative_to(ROOT)) for file in (ROOT / "tests/browser").glob("test_*.py"))
    command = [sys.executable, str(Path(__file__)), PLACES]
    running = [
        subprocess.Popen([*command, *places], cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        for places in ([*browser[::2], *heavy[:2]], [*browser[3::2], *heavy[2:]], [browser[1], *others])
    ]
    passed = failed = 0
    for process in running:
        said, _ = process.communicate()
        print(said, flush=True)
        counted = COUNTED.findall(said)
        # A process that died before it could count has failed.
        more_passed, more_failed = map(int, counted[-1]) if counted else (0, 1)
        passed, failed = passed + more_passed, failed + more_failed
    return passed, failed


def main(words: list[str]) -> int:
    began = time.monotonic()
    sys.path.insert(0, str(ROOT))
    passed = failed = 0

    def count(more: tuple[int, int]) -> None:
        nonlocal passed, failed
        passed, failed = passed + more[0], failed + more[1]

    if not words or words == ["--only-checks"]:
        for ok in [*(check(*one) for one in CHECKS), fresh_types()]:
            count((int(ok), int(not ok)))
    if not words:
        count(vitest())
        count(side_by_side())
    elif words[0] == PLACES:
        count(unittests(suite_of(words[1:])))
    elif words != ["--only-checks"]:
        count(unittests(unittest.TestLoader().loadTestsFromNames(words)))
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
