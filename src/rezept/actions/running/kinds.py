"""What the worker can do: one function for each kind of job, and what is kept of one that broke."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from rezept.actions.commands import exporting, photos
from rezept.actions.commands.reading_photos import Progress
from rezept.actions.members import Member
from rezept.actions.open_shop import Shop
from rezept.actions.queries import photos as photos_seen
from rezept.store.rows import Row


@dataclass(frozen=True)
class Kind:
    """
    run : does the task for a member and returns its answer; raises `RezeptError` where that cannot be
    broke : keeps what is to be seen of a task that ended otherwise than by a sentence of its own
    """

    run: Callable[[Shop, Member, Row, Progress], Any]
    broke: Callable[[Shop, Member, Row, str], None]


def _nothing(shop: Shop, by: Member, task: Row, sentence: str) -> None:
    """Nothing of it is to be seen but the job itself."""


def _bring_in(shop: Shop, by: Member, task: Row, progress: Progress) -> Row:
    return photos.bring_in_kept(shop, by, task["sha256"], task["burn"], task["face"], progress=progress)


def _brought_in_vain(shop: Shop, by: Member, task: Row, sentence: str) -> None:
    photos.keep_trouble(shop, by, task["sha256"], task["burn"], task["face"], sentence)


def _read(shop: Shop, by: Member, task: Row, progress: Progress) -> None:
    photos.read_unread(shop, task["photo"], progress)


def _read_again(shop: Shop, by: Member, task: Row, progress: Progress) -> None:
    photos.read_by_this_rule(shop, task["photo"], progress)


def _read_in_vain(shop: Shop, by: Member, task: Row, sentence: str) -> None:
    photos.say_trouble(shop, task["photo"], sentence)


def _lay(shop: Shop, by: Member, task: Row, progress: Progress) -> Row:
    return photos.point(shop, by, task["photo"], task["edit"], {"corners": task["corners"]})


def _outline(shop: Shop, by: Member, task: Row, progress: Progress) -> Row:
    return photos.outline_in_kept(shop, task["sha256"])


def _outline_in_vain(shop: Shop, by: Member, task: Row, sentence: str) -> None:
    photos.forget(shop, task["sha256"])


def _picture(shop: Shop, by: Member, task: Row, progress: Progress) -> None:
    made = (
        photos_seen.flat(shop, task["photo"]) if task["what"] == "flat" else photos_seen.upright(shop, task["sha256"])
    )
    shop.made.put(task["name"], made)


def _file(shop: Shop, by: Member, task: Row, progress: Progress) -> None:
    exporting.file_of(shop, task["trial"], task["revision"], task["kind"], task["part"])


KINDS = {
    "bring_in": Kind(_bring_in, _brought_in_vain),
    "read": Kind(_read, _read_in_vain),
    "read_again": Kind(_read_again, _nothing),
    "lay": Kind(_lay, _nothing),
    "outline": Kind(_outline, _outline_in_vain),
    "picture": Kind(_picture, _nothing),
    "file": Kind(_file, _nothing),
}
