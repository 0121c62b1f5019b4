"""The outline of the plate as a program at trace power: it shows where the plate will lie and marks nothing."""

from __future__ import annotations

import numpy as np

from rezept.core.machine import Machine
from rezept.core.plan import Plate
from rezept.core.plan.traced import ROUNDS, Outline, round_of, trace_way
from rezept.core.plan.words import per_word
from rezept.formats.gcode import PREAMBLE, arming, header, lines_to_send, number


def _shown_by(machine: Machine) -> str:
    return "shown by the pointer, beam off" if machine.pilot_pointer else "at trace power"


_ROUND = {"frame": "the outline", "tight": "tight round all that burns"}


def write_trace(plate: Plate, outline: Outline = "frame") -> bytes:
    """The program, in the words of `formats.gcode`; dark while it gains and loses its speed.

    Whether it may leave, `core.plan.gate.gate_of_trace` says.
    """
    said = f"; {_ROUND[outline]}, three times round, {_shown_by(plate.trial.machine)}\n"
    lines = [*header(plate, "outline of plate"), said, PREAMBLE, *_rounds(plate, outline, ROUNDS)]
    return "".join([*lines, "G0X0Y0S0\nM2\n"]).encode("ascii")


def round_to_send(plate: Plate, outline: Outline) -> tuple[bytes, ...]:
    """The lines of one round for a live link; the head stays where it comes to rest, and may go round again."""
    return lines_to_send("".join([PREAMBLE, *_rounds(plate, outline, 1)]).encode("ascii"))


def _rounds(plate: Plate, outline: Outline, rounds: int) -> list[str]:
    machine = plate.trial.machine
    speed, power = round_of(plate, outline).speed_mm_s, machine.outline_power_pct or 0.0
    way = trace_way(plate, outline, rounds)

    def at(point: np.ndarray) -> str:
        x, y = (np.round(point, 3) + 0.0).tolist()
        return f"X{x:.3f}Y{y:.3f}"

    feed = number(speed * per_word("speed_mm_s", machine))
    level = number(power * per_word("power_pct", machine))
    lines = [f"G0{at(way[0])}S0\n", f"{arming(machine)}S0\n", f"G1{at(way[1])}F{feed}S0\n"]
    lines += [f"G1{at(point)}F{feed}S{level}\n" for point in way[2:-1]]
    return [*lines, f"G1{at(way[-1])}F{feed}S0\n", "M5S0\n"]
