"""From rows to dictionaries of declared keys, and the rule for stale edits."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Mapping
from typing import Any, TypeVar, cast

from rezept.core.errors import NotFound
from rezept.store.errors import Stale

Row = dict[str, Any]
# Whatever is read by its keys: a declared row or one that was put together.
AnyRow = Mapping[str, Any]
Declared = TypeVar("Declared")


def declared(kind: type[Declared], plain: Row) -> Declared:
    """A row as the `TypedDict` it is declared as; a column too many or too few is a fault of the statement."""
    if plain.keys() != kind.__annotations__.keys():
        odd = sorted(plain.keys() ^ kind.__annotations__.keys())
        raise TypeError(f"{kind.__name__} and its statement differ in {', '.join(odd)}.")
    return cast(Declared, plain)


def plain_row(row: sqlite3.Row, *json_columns: str) -> Row:
    """A row as a dictionary, the named columns read as JSON."""
    plain = dict(row)
    for column in json_columns:
        if plain[column] is not None:
            plain[column] = json.loads(plain[column])
    return plain


def found(row: sqlite3.Row | None, what: str, path: str = "") -> sqlite3.Row:
    """The row, or the sentence that it is not there."""
    if row is None:
        raise NotFound(f"There is no {what}.", path)
    return row


def as_json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False, separators=(",", ":"))


def packed(value: Any) -> bytes:
    """A value as compressed JSON."""
    return zlib.compress(as_json(value).encode(), 9)


def unpacked(data: bytes) -> Any:
    return json.loads(zlib.decompress(data))


def changed_once(changed: int, what: str, current: AnyRow, yours: AnyRow) -> None:
    """After an UPDATE that asked for the right `edit`: no row changed means the caller was late."""
    if changed != 1:
        raise Stale(what, current, yours)
