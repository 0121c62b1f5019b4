"""One program at a time on one link: a lock of the operating system, whoever opens it, by whatever name.

It is held by open files. A process that inherits them holds it, too, so it is free when the last of them has ended.
"""

from __future__ import annotations

import hashlib
import os
import socket
import stat
import tempfile
from dataclasses import dataclass
from ipaddress import ip_address
from pathlib import Path
from urllib.parse import urlsplit

from rezept.core.errors import Refused
from rezept.link.file_lock import INHERITED, try_hold
from rezept.link.port import LinkError

FOLDER = Path(tempfile.gettempdir()) / "rezept-links"


class LinkBusy(Refused):
    """Another run, or another Rezept, is at work on this link."""


def _tcp(host: str, port: int) -> list[str]:
    try:
        found = {str(entry[4][0]) for entry in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)}
    except OSError as error:
        raise LinkError(f"{host} is not known in this network; look at the machine's live link in the Shop.") from error
    # Every name and address of this machine itself is one.
    addresses = {"here" if ip_address(one.partition("%")[0]).is_loopback else one for one in found}
    return sorted(f"tcp {address} {port}" for address in addresses)


def ends_of(url: str) -> list[str]:
    """What a link leads to, the same for every name it has: a device by its number, a host by its addresses.

    Raises
    ------
    LinkError : the host's name cannot be found
    """
    parts = urlsplit(url)
    if parts.scheme == "socket":
        return _tcp(parts.hostname or "", parts.port or 0)
    path = os.path.realpath(url)
    try:
        found = os.stat(path)
    except OSError:
        return [f"path {path}"]
    return [f"device {found.st_rdev}"] if stat.S_ISCHR(found.st_mode) else [f"path {path}"]


@dataclass(frozen=True)
class LinkLock:
    """A link that is held. `files` may be handed to a process that is to hold it on."""

    files: tuple[int, ...]

    def release(self) -> None:
        """Let it go here; it stays held by a process that has inherited it."""
        for file in self.files:
            os.close(file)


def _opened(end: str) -> int:
    FOLDER.mkdir(mode=0o777, exist_ok=True)
    return os.open(FOLDER / hashlib.sha256(end.encode()).hexdigest()[:32], os.O_RDONLY | os.O_CREAT, 0o666)


def hold_link(url: str) -> LinkLock:
    """Hold a link, or say that it is held.

    Raises
    ------
    LinkBusy : somebody holds it
    """
    files: list[int] = []
    if not INHERITED:  # pragma: no cover
        # A serial line is opened by one program at a time there; for a link in the network nothing sees to that.
        if urlsplit(url).scheme == "socket":
            raise Refused(
                "On this system nothing keeps two programs from one machine in the network; burn from files, or run"
                " Rezept on Linux or macOS.",
                "machine.link",
            )
        return LinkLock(())
    try:
        for end in ends_of(url):
            files.append(_opened(end))
            if not try_hold(files[-1]):
                raise LinkBusy(f"Another program is at work on {url}; wait until it has ended.", "machine.link")
    except BaseException:
        LinkLock(tuple(files)).release()
        raise
    return LinkLock(tuple(files))
