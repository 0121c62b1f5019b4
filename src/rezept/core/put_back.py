"""Whether a piece lies where it lay: patches burned again in place meet what is there already, or do not."""

from __future__ import annotations

from typing import Literal

from rezept.core.process import Process

PutBackKey = Literal["still", "stop", "marks"]
PUT_BACK: dict[PutBackKey, str] = {
    "still": "nothing has moved",
    "stop": "put back against a stop",
    "marks": "put back by two corner marks",
}


def meets_badly(put_back: PutBackKey, process: Process) -> bool:
    """Whether nobody can say what a patch got: a line has to meet itself within its own width, and against a stop a
    piece comes back to some tenths of a millimetre. Where an area is filled that is its rim alone."""
    return put_back != "still" and not process.fills


def doubt_words(process: Process) -> str:
    """What putting a piece back means for what burns again on it."""
    if meets_badly("stop", process):
        return (
            "Put back it lies some tenths of a millimetre off, and a line may not meet itself: what such a patch got is"
            " in doubt."
        )
    return "Put back it lies some tenths of a millimetre off: the rim of a patch says little."
