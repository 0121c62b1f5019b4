"""Where the head of a machine stands, asked of a controller that has nothing to do; see `docs/formats/stream.md`."""

from __future__ import annotations

import time
from collections.abc import Callable

from rezept.core.errors import Refused
from rezept.link.lock import hold_link
from rezept.link.port import Port, SerialPort
from rezept.link.stream import ASK, Status, read_status

ASK_AGAIN_S = 0.5
PATIENCE_S = 4.0


def ask_status(port: Port, clock: Callable[[], float] = time.monotonic) -> Status:
    """What a controller says of itself; it is asked without being reset, so that nothing it knows is lost.

    Raises
    ------
    Refused : it does not answer
    """
    text = b""
    deadline, asked = clock() + PATIENCE_S, -ASK_AGAIN_S
    while clock() < deadline:
        if clock() - asked >= ASK_AGAIN_S:
            asked = clock()
            port.write(ASK)
        text += port.read(0.05)
        *lines, text = text.split(b"\n")
        for line in lines:
            status = read_status(line.decode("ascii", "replace").strip())
            if status is not None:
                return status
    raise Refused("The machine does not say where its head stands.", "machine.link")


def status_at(url: str) -> Status:
    """The same of the machine at a link, which is held for as long as it is asked.

    Raises
    ------
    LinkBusy : a program goes over it just now; LinkError : it cannot be reached; Refused : it does not answer
    """
    lock = hold_link(url)
    try:
        port = SerialPort(url)
        try:
            return ask_status(port)
        finally:
            port.close()
    finally:
        lock.release()
