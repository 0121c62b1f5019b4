"""How the letters of a patch or a step are drawn."""

from __future__ import annotations

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.path.lettering import must_be_writable
from rezept.core.path.outline_letters import must_be_drawable
from rezept.core.path.shapes import LETTERS, Letters


def read_letters(fields: Fields, text: str | None, filled: bool) -> Letters:
    """How the letters of `text` are drawn: as said, else as outlines where they are filled and in single strokes where
    they are followed.

    Raises
    ------
    InvalidInput : single strokes are to be filled, or a letter is not known that way
    """
    fields.known.add("letters")
    if text is None:
        if fields.data.get("letters") is not None:
            raise InvalidInput("Only lettering has letters.", fields.at("letters"), fields.data["letters"])
        return "strokes"
    usual: Letters = "outlines" if filled else "strokes"
    letters = usual if fields.data.get("letters") is None else fields.choice("letters", LETTERS)
    if filled and letters == "strokes":
        raise InvalidInput("Single strokes have nothing to fill; fill outlines of letters.", fields.at("letters"))
    (must_be_writable if letters == "strokes" else must_be_drawable)(text, fields.at("text"))
    return letters
