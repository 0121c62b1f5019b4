"""The worker's own process: ``python -m rezept.actions.running.worker_process``.

One line in is an order: first the shop's folder, then jobs; lines out are ``{"ready": ...}``, ``{"progress": share}``
and ``{"over": {...}}``. It may have so much memory beyond what it needs to begin, and no more.
"""

from __future__ import annotations

import json
import os
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any, TextIO

from rezept.actions.running.work import Limits, perform

try:
    import resource
except ImportError:  # pragma: no cover
    resource = None  # type: ignore[assignment]


def _limit_memory(beyond: int) -> None:
    """Let this process have so many bytes beyond those it has now, where the system can be told."""
    try:
        status = Path("/proc/self/status").read_text("ascii")
    except OSError:
        return
    has = next(int(line.split()[1]) * 1024 for line in status.splitlines() if line.startswith("VmData"))
    resource.setrlimit(resource.RLIMIT_DATA, (has + beyond, has + beyond))


def main(orders: TextIO, said: TextIO) -> None:
    from rezept.actions.open_shop import open_shop
    from rezept.actions.queries import photo_reading  # noqa: F401 what takes long to import is there before the first job

    def say(what: str, value: Any) -> None:
        said.write(json.dumps({what: value}) + "\n")
        said.flush()

    first = json.loads(orders.readline())
    shop, limits = open_shop(Path(first["folder"])), Limits(**first["limits"])
    _limit_memory(limits.most_bytes)
    say("ready", os.getpid())
    for line in orders:
        outcome = perform(shop, json.loads(line), lambda share: say("progress", share), limits)
        say("over", asdict(outcome))
    shop.close()


if __name__ == "__main__":
    # What a library prints must not be taken for an answer.
    out, sys.stdout = sys.stdout, sys.stderr
    main(sys.stdin, out)
