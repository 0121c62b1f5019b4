"""From the demo shop to an empty folder in which one's own shop is founded."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Protocol

from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.core.errors import Refused
from rezept.store import shop as shop_table

# While these lie in a folder it belongs to the demo, and `rezept demo --fresh` may throw it away.
DEMO_BEGUN = "demo-has-begun"
DEMO_COMPLETE = "demo-is-complete"
COPY = "demo-copy.sqlite3"


class Going(Protocol):
    """What is being burned, as far as it matters here."""

    @property
    def over(self) -> bool: ...

    @property
    def title(self) -> str: ...


def clear_demo(shop: Shop, by: Member, burning: Sequence[Going] = ()) -> None:
    """Take everything of the demo away, after keeping a copy of its records beside them.

    Raises
    ------
    Refused : it is no demo, or something is being burned
    """
    require(by, "keeper", "clear the demo shop")
    going = next((run for run in burning if not run.over), None)
    if going is not None:
        raise Refused(f"{going.title} is being burned. Stop it first, or wait until it is done.", "live")
    with shop.database.reading() as db:
        here = shop_table.shop(db)
    if here is None or not here["demo"]:
        raise Refused("This is no demo shop; a real one is never cleared.")
    shop.database.copy_to(shop.folder / COPY)
    with shop.database.writing() as db:
        photos = shop_table.clear(db)
    for mark in (DEMO_BEGUN, DEMO_COMPLETE):
        (shop.folder / mark).unlink(missing_ok=True)
    for sha256 in photos:
        shop.photos.remove(sha256)
    shop.made.clear()


def belongs_to_demo(folder: Path) -> bool:
    return (folder / DEMO_BEGUN).exists()
