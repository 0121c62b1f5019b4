"""The plate as G-code: millimetres, absolute, one program; see `docs/formats/program.md`.

Beam words: `M3` arms it at constant power, `M4` at a power that falls where the head slows; every move names its S,
and every move that must not burn has S0. `G0` travels, `G1` runs at the patch's speed, `Z` moves the focus where the
machine has it. What no word says travels as a structured comment, where the machine reads those; else it is refused.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from rezept import __version__
from rezept.core.machine import Machine
from rezept.core.path.lettering import writable
from rezept.core.plan import Plate
from rezept.core.plan.by_hand import HandStop, hand_stops, stop_sentence
from rezept.core.plan.moves import PART_OF
from rezept.core.plan.place import work_zero
from rezept.core.plan.program import Burn, burns
from rezept.core.plan.words import WRITTEN_DECIMALS, per_word, power_in_words, told_by_word

LINES_A_BLOCK = 4000
MOST_KNOWN = 4096
Texts = dict[bytes, list[str]]


_NEVER_IN_A_COMMENT = str.maketrans({";": ",", "!": ".", "~": "-", "?": "_"})


def _plain_comment(text: str) -> str:
    """`text` in ASCII without the sign that would begin another comment, and without those that a controller acts on
    wherever they stand: some hold, go on or report at a single character."""
    return writable(text).translate(_NEVER_IN_A_COMMENT)


def _comment(text: str) -> str:
    return f"; {_plain_comment(text)}\n"


def number(value: float) -> str:
    return f"{value:.{WRITTEN_DECIMALS}f}".rstrip("0").rstrip(".")


def _texts(column: NDArray[np.float64], known: Texts) -> list[str]:
    """The numbers of a column as texts. Turning floats into digits is what costs, and the columns of a plate
    repeat: patches of one row share their y, patches of one column their x."""
    key = column.tobytes()
    texts = known.get(key)
    if texts is None:
        if len(known) >= MOST_KNOWN:
            known.clear()
        # Adding zero turns the -0.0 that rounding leaves into 0.0.
        texts = known[key] = ("%.3f " * len(column) % tuple((column.round(3) + 0.0).tolist())).split()
    return texts


def _blocks(template: str, rows: NDArray[np.float64], known: Texts) -> Iterator[str]:
    """`rows` ``(n, k)`` through a template of k texts and some lines, a block of lines at a time."""
    per_block = max(1, LINES_A_BLOCK // template.count("\n"))
    for start in range(0, len(rows), per_block):
        block = rows[start : start + per_block]
        columns = [_texts(column, known) for column in block.T.copy()]
        yield template * len(block) % tuple(chain.from_iterable(zip(*columns, strict=True)))


def _hatch(burn: Burn, feed: str, power: str, known: Texts) -> Iterator[str]:
    lines = burn.hatch.reshape(len(burn.hatch), 8)
    if np.array_equal(burn.hatch[:, 0], burn.hatch[:, 1]):
        template = f"G0X%sY%sS0\nG1X%sY%sF{feed}S{power}\n"
        yield from _blocks(template, lines[:, 2:6], known)
        return
    template = f"G0X%sY%sS0\nG1X%sY%sF{feed}S0\nG1X%sY%sS{power}\nG1X%sY%sS0\n"
    yield from _blocks(template, lines, known)


def _outline(
    points: NDArray[np.float64], feed: str, power: str, dwell_ms: float, rearm: str, known: Texts
) -> Iterator[str]:
    yield "G0X%sY%sS0\n" % tuple(number(value) for value in (np.round(points[0], 3) + 0.0).tolist())
    if dwell_ms > 0:
        # The beam stands still here: only constant power burns.
        yield f"M3S{power}\nG4P{number(dwell_ms / 1000)}\n{rearm}"
    yield from _blocks(f"G1X%sY%sF{feed}S{power}\n", points[1:], known)


def _air(settings: Mapping[str, float]) -> str:
    return "M8\n" if settings.get("air_level", 0) > 0 else "M9\n"


def _told(burn: Burn, machine: Machine) -> str:
    """The structured comment of what no word says: ``;REZEPT frequency_khz=30 pulse_width_ns=200``."""
    if not machine.hears_settings:
        return ""
    untold = [
        f"{key}={value:.10g}"
        for key, value in burn.settings.items()
        if not told_by_word(key, machine) and key not in machine.by_hand
    ]
    return f";REZEPT {' '.join(untold)}\n" if untold else ""


@dataclass(frozen=True)
class ProgramPart:
    """The lines of a program between two points at which the head stands with the beam off: all the labels, one patch,
    or the cuts of the plate itself. `name` is the patch's id; `stop`: somebody turns something before it."""

    name: str
    kind: str
    lines: tuple[bytes, ...]
    stop: HandStop | None = None


def _burn(burn: Burn, machine: Machine, z: bool, known: Texts) -> Iterator[str]:
    feed = number(burn.settings["speed_mm_s"] * per_word("speed_mm_s", machine))
    power = number(power_in_words(burn.settings["power_pct"], machine) * per_word("power_pct", machine))
    told = " ".join([f"{key}={value:.10g}" for key, value in burn.settings.items()])
    yield f"; {burn.kind} {_plain_comment(burn.name)}: {told}\n"
    yield _told(burn, machine)
    if z:
        yield f"G0Z{number(burn.settings.get('focus_offset_mm', 0.0))}S0\n"
    yield f"{arming(machine)}S0\n"
    if len(burn.hatch):
        yield from _hatch(burn, feed, power, known)
    rearm = "M4S0\n" if machine.power_mode == "follows_speed" else ""
    for points in burn.outlines:
        yield from _outline(points, feed, power, burn.settings.get("pierce_dwell_ms", 0.0), rearm, known)
    yield "M5S0\n"


def arming(machine: Machine) -> str:
    """The word that arms the beam as the machine's power goes."""
    return "M4" if machine.power_mode == "follows_speed" else "M3"


def header(plate: Plate, what: str) -> list[str]:
    """What a program says of itself before it moves."""
    trial = plate.trial
    machine = trial.machine
    mode = "power falls with the speed" if machine.power_mode == "follows_speed" else "constant power"
    focus = ["Z0 is in focus, Z up is away from the piece"] if machine.focus_by_z else []
    said = [
        f"Rezept {__version__}, {what} {trial.code or 'without code'} {trial.title}".rstrip(),
        f"{trial.material.title}, {trial.work_name}",
        f"{machine.name} {machine.head.name}".rstrip() + f", {machine.rated_power_w:g} W",
        f"work zero: {work_zero(trial)}",
        f"millimetres, absolute, {mode}, S{machine.s_at_full_power:g} is 100 %",
        *focus,
    ]
    return [_comment(words) for words in said]


def write_gcode(plate: Plate) -> bytes:
    """The program of a plate that has passed the gate."""
    said = [
        *header(plate, "plate"),
        _comment(f"{plate.burning_words}, about {plate.total_seconds:.0f} s"),
    ]
    stops = _stops(plate)
    if stops and not plate.trial.machine.stops_in_program:
        first = next(iter(stops.values()))
        said.append(_comment(f"by hand first: {stop_sentence(plate.trial.machine, first.settings)}"))
    return "".join([*said, PREAMBLE, *_body(plate, stops), _ending(plate)]).encode("ascii")


def _stops(plate: Plate) -> dict[str, HandStop]:
    """By the name of a part what is turned before it."""
    return {stop.parts[0]: stop for stop in hand_stops(plate)}


def _body(plate: Plate, stops: Mapping[str, HandStop]) -> Iterator[str]:
    """Everything that moves; where the machine waits in a program, it waits for every turn of a hand."""
    machine = plate.trial.machine
    waits = dict(stops) if machine.stops_in_program else {}
    for burn, texts in _burned(plate):
        stop = waits.pop(_part_of(burn)[1], None)
        if stop is not None:
            yield _comment(stop_sentence(machine, stop.settings))
            yield "M0\n"
        yield from texts


PREAMBLE = "G21\nG90\nG94\nM5S0\n"


def _moves_focus(plate: Plate) -> bool:
    """Labels are drawn in focus; Z is named where any patch is not."""
    out_of_focus = [np.any(step.settings.get("focus_offset_mm", 0.0)) for step in plate.steps]
    return plate.trial.machine.focus_by_z and any(out_of_focus)


def _burned(plate: Plate) -> Iterator[tuple[Burn, Iterator[str]]]:
    """Every stretch of the program with its text, the air switched where it changes."""
    machine, z = plate.trial.machine, _moves_focus(plate)
    air = ""
    known: Texts = {}
    for burn in burns(plate):
        switch = ""
        if machine.air == "on_off" and _air(burn.settings) != air:
            switch = air = _air(burn.settings)
        yield burn, chain([switch] if switch else [], _burn(burn, machine, z, known))


def _part_of(burn: Burn) -> tuple[str, str]:
    """Kind and name of the part of a run a stretch belongs to."""
    return ("patch", burn.name) if burn.kind == "patch" else (PART_OF[burn.kind], PART_OF[burn.kind])


def _ending(plate: Plate) -> str:
    air = plate.trial.machine.air == "on_off"
    return ("M9\n" if air else "") + ("G0Z0S0\n" if _moves_focus(plate) else "") + "G0X0Y0S0\nM5S0\nM2\n"


def program_parts(plate: Plate, dark: bool = False) -> list[ProgramPart]:
    """The program of a plate part by part, without what it says to people; see `docs/formats/stream.md`.

    dark : every S is 0, for a run with the beam off
    """
    texts: dict[tuple[str, str], list[str]] = {}
    for burn, text in _burned(plate):
        texts.setdefault(_part_of(burn), []).extend(text)
    parts = [(kind, name, "".join(text)) for (kind, name), text in texts.items()]
    kind, name, first = parts[0]
    parts[0] = (kind, name, PREAMBLE + first)
    kind, name, last = parts[-1]
    parts[-1] = (kind, name, last + _ending(plate))
    stops = {} if dark else _stops(plate)
    return [
        ProgramPart(name, kind, lines_to_send(text.encode("ascii"), dark), stops.get(name))
        for kind, name, text in parts
    ]


_POWER_WORD = re.compile(rb"S[0-9.]+")


def lines_to_send(program: bytes, dark: bool = False) -> tuple[bytes, ...]:
    """The lines of a program without its comments to people; `dark` with every S at 0."""
    lines = tuple(line for line in program.splitlines() if line and not line.startswith(b"; "))
    return tuple(_POWER_WORD.sub(b"S0", line) for line in lines) if dark else lines
