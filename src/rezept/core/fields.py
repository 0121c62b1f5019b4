"""Reading nested documents key by key, with the path of every complaint.

A `Fields` wraps one JSON object. Each getter takes a key off the object, checks it and remembers whether
the documented default had to be used; `finish` then refuses whatever is left over.
"""

from __future__ import annotations

import math
import re
from collections.abc import Container, Mapping, Sequence
from difflib import get_close_matches
from typing import Any

from rezept.core.errors import MOST_QUOTED, InvalidInput, UnknownKey, quoted

REQUIRED: Any = object()
# Beside the end of a line and the tabulator.
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f]")


def plain(number: float) -> str:
    """A number as a person would write it: no trailing zeros, no exponent for everyday sizes."""
    return f"{number:.6g}"


def shown(value: object) -> str:
    """What came, short enough for a sentence."""
    return "nothing" if value is None else quoted(value)


def finite_number(value: object, path: str, name: str) -> float:
    """`value` as a finite float; booleans and texts are not numbers."""
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise InvalidInput(f"{name} must be a number, but {shown(value)} came.", path, value)
    try:
        number = float(value)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise InvalidInput(f"{name} must be a finite number.", path)
    # Minus nothing is nothing, wherever it comes from.
    return number + 0.0


class Fields:
    """One object of a document, read key by key.

    Parameters
    ----------
    data : the object as it came; anything but a mapping is refused
    path : where it stands, such as ``machine.head``
    defaulted : collects the paths of all keys for which the default was used
    """

    def __init__(self, data: object, path: str = "", defaulted: list[str] | None = None) -> None:
        if not isinstance(data, Mapping):
            raise InvalidInput(f"{path or 'The document'} must be an object with keys, but {shown(data)} came.", path)
        self.data: Mapping[str, Any] = data
        self.path = path
        self.defaulted = defaulted if defaulted is not None else []
        self.known: set[str] = set()

    def at(self, key: str) -> str:
        return f"{self.path}.{key}" if self.path else key

    def take(self, key: str, default: Any = REQUIRED) -> Any:
        """The raw value, or the default; a missing key without default is an error."""
        self.known.add(key)
        if key in self.data:
            return self.data[key]
        if default is REQUIRED:
            raise InvalidInput(f"{self.at(key)} is missing, and there is no safe default for it.", self.at(key))
        self.defaulted.append(self.at(key))
        return default

    def of_format(self, what: str, name: str, version: int) -> None:
        """Refuse a document that is not of a format, or of another version of it; `what` it should be, such as
        ``a trial``."""
        if self.take("format", None) != name:
            raise InvalidInput(f"This is not {what}: its format should be {name!r}.", "format", self.data.get("format"))
        given = self.take("version")
        if given != version or isinstance(given, bool):
            raise InvalidInput(
                f"This has another version than {version}; a newer Rezept may have made it.", "version", given, version
            )

    def number(
        self,
        key: str,
        default: Any = REQUIRED,
        *,
        above: float | None = None,
        at_least: float | None = None,
        at_most: float | None = None,
        nullable: bool = False,
    ) -> Any:
        """A finite number within its bounds (or None where that is allowed)."""
        raw = self.take(key, default)
        if raw is None and (nullable or default is None):
            return None
        number = finite_number(raw, self.at(key), key)
        if above is not None and not number > above:
            raise InvalidInput(
                f"{key} must be more than {plain(above)}, but is {plain(number)}.",
                self.at(key),
                number,
                above,
            )
        if at_least is not None and number < at_least:
            raise InvalidInput(
                f"{key} must be at least {plain(at_least)}, but is {plain(number)}.",
                self.at(key),
                number,
                at_least,
            )
        if at_most is not None and number > at_most:
            raise InvalidInput(
                f"{key} must be at most {plain(at_most)}, but is {plain(number)}.",
                self.at(key),
                number,
                at_most,
            )
        return number

    def is_said(self, key: str) -> bool:
        """Whether something is said of a key; null says nothing, and is known."""
        if self.data.get(key) is not None:
            return True
        self.take(key, None)
        return False

    def whole(self, key: str, default: Any = REQUIRED, *, at_least: int = 0, at_most: int | None = None) -> Any:
        """A whole number; 3.0 is one, 3.5 is not."""
        most = 2**53 if at_most is None else at_most
        number = self.number(key, default, at_least=at_least, at_most=most)
        if number is None:
            return None
        if number != int(number):
            raise InvalidInput(f"{key} must be a whole number, but is {plain(number)}.", self.at(key), number)
        return int(number)

    def text(self, key: str, default: Any = REQUIRED, *, longest: int | None = 200, empty: bool = True) -> Any:
        raw = self.take(key, default)
        if raw is None and default is None:
            return None
        if not isinstance(raw, str):
            raise InvalidInput(f"{key} must be a text, but {shown(raw)} came.", self.at(key), raw)
        if not empty and not raw.strip():
            raise InvalidInput(f"{key} must not be empty.", self.at(key), raw)
        if longest is not None and len(raw) > longest:
            raise InvalidInput(f"{key} is longer than {longest} characters.", self.at(key), len(raw), longest)
        if _CONTROL.search(raw):
            raise InvalidInput(f"{key} holds a control character.", self.at(key))
        return raw

    def choice(self, key: str, choices: Sequence[str], default: Any = REQUIRED) -> Any:
        raw = self.take(key, default)
        if raw not in choices:
            raise InvalidInput(f"{key} must be one of {', '.join(choices)}, but {shown(raw)} came.", self.at(key), raw)
        return raw

    def flag(self, key: str, default: Any = REQUIRED) -> bool:
        raw = self.take(key, default)
        if not isinstance(raw, bool):
            raise InvalidInput(f"{key} must be true or false, but {shown(raw)} came.", self.at(key), raw)
        return raw

    def keys(self, key: str, allowed: Container[str], what: str, default: Any = REQUIRED) -> list[str]:
        """A list of keys, each of which must be among those allowed; `what` they are, for the sentence."""
        items = self.items(key, default)
        for i, item in enumerate(items):
            if not isinstance(item, str) or item not in allowed:
                raise InvalidInput(f"{quoted(item)} is not {what}.", f"{self.at(key)}[{i}]", item)
        return items

    def items(self, key: str, default: Any = REQUIRED) -> list[Any]:
        raw = self.take(key, default)
        if isinstance(raw, (str, bytes)) or not isinstance(raw, Sequence):
            raise InvalidInput(f"{key} must be a list, but {shown(raw)} came.", self.at(key), raw)
        return list(raw)

    def numbers(self, key: str, count: int, default: Any = REQUIRED) -> tuple[float, ...] | None:
        """Exactly `count` finite numbers, or None where that is the default or came."""
        raw = self.take(key, default)
        if raw is None and default is None:
            return None
        if isinstance(raw, str) or not isinstance(raw, Sequence) or len(raw) != count:
            raise InvalidInput(f"{key} must be a list of {count} numbers, but {shown(raw)} came.", self.at(key))
        return tuple(finite_number(item, f"{self.at(key)}[{i}]", key) for i, item in enumerate(raw))

    def inner(self, key: str, default: Any = REQUIRED) -> Fields:
        return Fields(self.take(key, default), self.at(key), self.defaulted)

    def finish(self) -> None:
        """Refuse every key that nobody asked for."""
        for key in self.data:
            if key not in self.known:
                # Nothing here is called by more than so many letters, and comparing takes their square.
                came = str(key) if len(str(key)) <= MOST_QUOTED else f"{str(key)[: MOST_QUOTED - 1]}…"
                near = get_close_matches(came, sorted(self.known), n=1)
                hint = f"Did you mean {near[0]}? " if near else ""
                raise UnknownKey(
                    f"{self.at(came)} is not known here. {hint}A newer Rezept may have made this file.",
                    self.at(came),
                    key,
                )
