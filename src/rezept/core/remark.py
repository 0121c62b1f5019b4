"""What is seen while a plate burns, noted with one key or tap."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class RemarkKind:
    """letter : its key on the screen; empty where it takes words of its own"""

    key: str
    name: str
    letter: str


IN_WORDS = "note"
REMARKS: dict[str, RemarkKind] = {
    one.key: one
    for one in (
        RemarkKind("flame", "flame", "f"),
        RemarkKind("smoke", "smoke", "s"),
        RemarkKind("sparks", "sparks", "p"),
        RemarkKind("smell", "smell", "m"),
        RemarkKind("flicker", "flicker", "k"),
        RemarkKind("moved", "it moved", "v"),
        # What the ear and the eye say of the light: another sound, brighter or duller than the patch before.
        RemarkKind("sound", "other sound", "u"),
        RemarkKind("bright", "brighter", "b"),
        RemarkKind("dull", "duller", "d"),
        RemarkKind(IN_WORDS, "note", ""),
    )
}
