"""What the store says no to.

RezeptError
├── Stale            somebody else changed the row meanwhile
└── Unreadable       the database cannot be used as it is
    └── TooNew       a newer Rezept has written it
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rezept.core.errors import RezeptError


class Stale(RezeptError):
    """A change was made from an older version of a row; nothing was changed.

    current : the row as it stands now
    yours : what was asked for
    """

    def __init__(self, what: str, current: Mapping[str, Any], yours: Mapping[str, Any]) -> None:
        super().__init__(f"Somebody changed {what} in the meantime. Look at both versions and choose.", "edit")
        self.current = current
        self.yours = yours


class Unreadable(RezeptError):
    """The database file is damaged, or is not one."""


class TooNew(Unreadable):
    """The database has migrations this version does not know."""


class NotSaved(RezeptError):
    """A change could not reach the disk; it was taken back as a whole."""
