"""What a person can say about a burned patch."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.process import Process

# From here on a photo's word counts until a person says otherwise.
SURE = 0.9
# What makes a photo's figures of a patch worthless.
SPOILING = frozenset({"glare", "shadow", "blur"})
THROUGH = ("not", "partly", "with a push", "drops out")
DARKNESS = ("bare", "faint", "light", "medium", "dark", "black")
# The same degrees where marks are lighter than their ground.
BRIGHTNESS = ("bare", "faint", "dull", "medium", "bright", "white")
EVENNESS = ("blotchy", "uneven", "fair", "even")
# Degrees are walked by pressing the letter again: none, a little, clearly, badly.
DEGREES = {"char": ("cut",), "soot": ("cut", "line", "area", "deep", "surface", "photo")}
TAGS = {
    "back_burn": ("cut",),
    "flame": ("cut", "line", "area", "deep", "surface", "photo"),
    "melted": ("cut", "line", "area", "deep", "surface", "photo"),
    "blurred": ("line", "area", "deep", "surface", "photo"),
    # What a finger says.
    "rough": ("cut", "area", "deep", "surface", "photo"),
    "raised": ("line", "area", "deep", "surface", "photo"),
}


@dataclass(frozen=True)
class Scores:
    """The scores of one patch; None where nothing was said. Kerf and depth are what callipers say."""

    through: int | None
    darkness: int | None
    evenness: int | None
    char: int | None
    soot: int | None
    cannot_tell: bool
    tags: tuple[str, ...]
    note: str
    kerf_mm: float | None = None
    depth_mm: float | None = None

    def document(self) -> dict[str, Any]:
        return {**vars(self), "tags": list(self.tags)}


def read_scores(fields: Fields, process: Process) -> Scores:
    """Scores from their document, only those that mean something for the process."""

    def degree(key: str, most: int, fits: bool) -> int | None:
        value: int | None = fields.whole(key, None, at_most=most)
        if value is not None and not fits:
            raise InvalidInput(f"{key} is not scored for this process.", fields.at(key), value)
        return value

    cut = process.passes_through
    tags = fields.items("tags", [])
    for i, tag in enumerate(tags):
        if not isinstance(tag, str) or process.key not in TAGS.get(tag, ()):
            raise InvalidInput(f"{quoted(tag)} is not a tag for this process.", f"{fields.at('tags')}[{i}]", tag)
    depth = fields.number("depth_mm", None, above=0.0, at_most=200.0)
    if depth is not None and process.passes_through:
        raise InvalidInput("A cut has a kerf; depth is for what stays in the material.", fields.at("depth_mm"), depth)
    kerf = fields.number("kerf_mm", None, above=0.0, at_most=20.0)
    if kerf is not None and not cut:
        raise InvalidInput("Only cuts have a kerf.", fields.at("kerf_mm"), kerf)
    scores = Scores(
        kerf_mm=kerf,
        depth_mm=depth,
        through=degree("through", len(THROUGH) - 1, cut),
        darkness=degree("darkness", len(DARKNESS) - 1, not cut),
        evenness=degree("evenness", len(EVENNESS) - 1, not cut),
        char=degree("char", 3, process.key in DEGREES["char"]),
        soot=degree("soot", 3, process.key in DEGREES["soot"]),
        cannot_tell=fields.flag("cannot_tell", False),
        tags=tuple(dict.fromkeys(tags)),
        note=fields.text("note", "", longest=2000),
    )
    if scores.cannot_tell and (scores.through is not None or scores.darkness is not None):
        raise InvalidInput("A patch is either scored or one cannot tell.", fields.at("cannot_tell"))
    fields.finish()
    return scores
