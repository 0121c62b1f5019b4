"""An independent reader of G-code: follows the modal words and returns every move. Shares nothing with the writer."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

WORD = re.compile(r"([A-Z])([-+]?\d*\.?\d+)")


@dataclass
class Move:
    """One straight move. `beam` is the S in force while it moves with the beam armed, else 0."""

    start: tuple[float, float]
    end: tuple[float, float]
    rapid: bool
    feed: float
    beam: float
    section: str
    air: bool

    @property
    def length(self) -> float:
        return math.dist(self.start, self.end)


@dataclass
class Program:
    moves: list[Move] = field(default_factory=list)
    comments: list[str] = field(default_factory=list)
    dwells: list[tuple[str, float, float]] = field(default_factory=list)
    words: set[str] = field(default_factory=set)

    def burning(self, section: str = "") -> list[Move]:
        """Moves with the beam on, of one section (`patch A1`) or all."""
        return [move for move in self.moves if move.beam > 0 and move.section.startswith(section)]

    def burned_length(self, section: str = "") -> float:
        return sum(move.length for move in self.burning(section))


def read_gcode(data: bytes) -> Program:
    program = Program()
    position, feed, power = (0.0, 0.0), 0.0, 0.0
    mode, armed, air, section = "G0", False, False, ""
    for line in data.decode("ascii").splitlines():
        code, _, comment = line.partition(";")
        if comment:
            comment = comment.strip()
            program.comments.append(comment)
            if comment.startswith(("patch ", "label ", "mark ", "outline ")):
                section = comment.rsplit(":", 1)[0]
        target: dict[str, float] = {}
        dwell = None
        for letter, number in WORD.findall(code):
            value = float(number)
            if letter in "GM":
                word = f"{letter}{value:g}"
                program.words.add(word)
                mode = word if word in ("G0", "G1") else mode
                armed = True if word in ("M3", "M4") else False if word == "M5" else armed
                air = True if word == "M8" else False if word == "M9" else air
                dwell = 0.0 if word == "G4" else dwell
            elif letter in "XY":
                target[letter] = value
            elif letter == "F":
                feed = value
            elif letter == "S":
                power = value
            elif letter == "P":
                dwell = value
            else:
                raise AssertionError(f"unexpected word {letter}{number}")
        if dwell is not None:
            program.dwells.append((section, dwell, power if armed else 0.0))
        elif target:
            end = (target.get("X", position[0]), target.get("Y", position[1]))
            # Even a machine that keeps the beam on while travelling must see no power there.
            program.moves.append(Move(position, end, mode == "G0", feed, power if armed else 0.0, section, air))
            position = end
    return program
