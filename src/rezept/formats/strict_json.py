"""JSON as Rezept reads and writes it: UTF-8, no NaN or Infinity, no key twice."""

from __future__ import annotations

import json
import math
from typing import Any, NoReturn

from rezept.core.errors import InvalidInput, quoted

LARGEST_BYTES = 16 * 1024 * 1024
# A number in a list costs some 40 bytes once it is read: a file may hold so many that it takes 100 MB.
MOST_ITEMS = 2_500_000
DEEPEST = 40


def _refuse_constant(name: str) -> NoReturn:
    raise InvalidInput(f"{name} is not a number a machine could be given.")


def _finite(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise InvalidInput(f"The number {text[:20]} is too large.")
    # Minus nothing is nothing: on a label and in a program it would stand as -0.
    return number + 0.0


def _whole(text: str) -> int:
    if len(text) > 20 or abs(int(text)) >= 2**63:
        raise InvalidInput(f"The number {text[:20]} is too large.")
    return int(text)


def _unique(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    document: dict[str, Any] = {}
    for key, value in pairs:
        if key in document:
            raise InvalidInput(f"The key {quoted(key)} stands twice in one object; which one counts?", key)
        document[key] = value
    return document


def _depth(value: Any) -> int:
    if isinstance(value, dict):
        return 1 + max(map(_depth, value.values()), default=0)
    if isinstance(value, list):
        return 1 + max(map(_depth, value), default=0)
    return 0


def read_json(data: bytes, what: str = "The file", most_items: int = MOST_ITEMS) -> Any:
    """The document in `data`, with `most_items` commas and opening brackets at most.

    Raises
    ------
    InvalidInput : not UTF-8, not JSON (with line and column), NaN or Infinity, a key twice, too large or deep
    """
    if len(data) > LARGEST_BYTES:
        raise InvalidInput(f"{what} is larger than {LARGEST_BYTES // 2**20} MiB.")
    if data.count(b",") + data.count(b"[") + data.count(b"{") > most_items:
        raise InvalidInput(f"{what} holds more than {most_items} values.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InvalidInput(f"{what} is not UTF-8 text (byte {error.start}).") from error
    try:
        document = json.loads(
            text, parse_constant=_refuse_constant, parse_float=_finite, parse_int=_whole, object_pairs_hook=_unique
        )
        too_deep = _depth(document) > DEEPEST
    except json.JSONDecodeError as error:
        raise InvalidInput(f"{what} is not JSON: {error.msg} in line {error.lineno}, column {error.colno}.") from error
    except RecursionError as error:
        raise InvalidInput(f"{what} is nested too deeply.") from error
    if b"\\ud" in data.lower() and not _can_be_written(document):
        raise InvalidInput(f"{what} holds half of a sign (a lone surrogate); write it as it is meant.")
    if too_deep:
        raise InvalidInput(f"{what} is nested too deeply.")
    return document


def _can_be_written(document: Any) -> bool:
    try:
        json.dumps(document, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return False
    return True


def write_json(document: Any) -> bytes:
    """`document` as readable UTF-8 JSON with a final newline; NaN and Infinity are an error."""
    return (json.dumps(document, ensure_ascii=False, allow_nan=False, indent=1) + "\n").encode()
