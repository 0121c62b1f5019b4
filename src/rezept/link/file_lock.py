"""Holding an open file for oneself: a lock of the operating system, gone with whoever held it."""

from __future__ import annotations

try:
    import fcntl
except ImportError:  # pragma: no cover
    fcntl = None  # type: ignore[assignment]
    import msvcrt

# POSIX locks stay held by a process that inherits the file; those of Windows do not.
INHERITED = fcntl is not None


def try_hold(file: int) -> bool:
    """Hold an open file, if nobody does; whether it is held now."""
    try:
        if fcntl is not None:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        else:  # pragma: no cover
            msvcrt.locking(file, msvcrt.LK_NBLCK, 1)  # type: ignore[attr-defined, unused-ignore]
    except BlockingIOError:
        return False
    except OSError:  # pragma: no cover
        if fcntl is not None:
            raise
        return False
    return True
