"""Every way the core can say no.

RezeptError(ValueError)      a sentence for a person, and the path of the value it is about
├── InvalidInput             the value itself cannot be (not a number, negative, too many)
│   ├── UnknownKey           a key nobody here knows
│   └── WhichOne             it fits several things
├── Refused                  the input is fine, but acting on it would burn something else
└── NotFound                 the thing that was asked for is not there
"""

from __future__ import annotations

import re

MOST_QUOTED, LONGEST_PATH = 80, 200
# No word of a sentence is longer than some path on a disk.
_ENDLESS = re.compile(r"\S{201,}")


def quoted(value: object) -> str:
    """What came, in quotes and short enough for a sentence."""
    text = repr(value) if not isinstance(value, str) else repr(value[: MOST_QUOTED + 1])
    return text if len(text) <= MOST_QUOTED else f"{text[: MOST_QUOTED - 1]}…"


class RezeptError(ValueError):
    """A refusal a technician can act on.

    Parameters
    ----------
    sentence : what is wrong and what to do, ready to be shown
    path : where in the document, such as ``axes[1].from``; empty when it is about the whole
    value, limit : what came and what would be allowed, where there is such a number
    """

    def __init__(self, sentence: str, path: str = "", value: object = None, limit: object = None) -> None:
        sentence = _ENDLESS.sub(lambda word: f"{word.group()[:40]}…{word.group()[-39:]}", sentence)
        super().__init__(sentence)
        self.sentence = sentence
        self.path = path if len(path) <= LONGEST_PATH else f"{path[: LONGEST_PATH - 1]}…"
        self.value = value
        self.limit = limit

    def __str__(self) -> str:
        return f"{self.path}: {self.sentence}" if self.path else self.sentence


class InvalidInput(RezeptError):
    """A value that cannot be: the field it came from should show the sentence."""


class UnknownKey(InvalidInput):
    """A key this version does not know; ignoring it could burn something else than was meant."""


class Refused(RezeptError):
    """Nothing is wrong with the input, but doing it would be dangerous or would change what is burned."""


class NotFound(RezeptError):
    """What was asked for is not there (any more)."""


class WhichOne(InvalidInput):
    """What was given fits several things; somebody has to say which.

    choices : an id and words for each
    """

    def __init__(self, sentence: str, path: str, choices: list[dict[str, object]]) -> None:
        super().__init__(sentence, path)
        self.choices = choices


class SeveralErrors(InvalidInput):
    """More than one value is wrong; each keeps its own path and sentence."""

    def __init__(self, errors: list[RezeptError]) -> None:
        super().__init__(errors[0].sentence, errors[0].path, errors[0].value, errors[0].limit)
        self.errors = errors
