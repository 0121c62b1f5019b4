"""Waiting for what happens in another thread or process."""

from __future__ import annotations

import socket
import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")


def until(happened: Callable[[], T], seconds: float = 30.0) -> T:
    """What `happened` answers as soon as that is true, which has to be within so many seconds."""
    deadline = time.monotonic() + seconds
    while not (answer := happened()):
        if time.monotonic() > deadline:
            raise AssertionError(f"It did not happen within {seconds:g} s; the last answer was {answer!r}.")
        time.sleep(0.002)
    return answer


def listens(port: int) -> bool:
    """Whether somebody takes connections at a port of this machine."""
    with socket.socket() as asking:
        asking.settimeout(1)
        return asking.connect_ex(("127.0.0.1", port)) == 0
