"""The outline of the plate as a program at trace power: it shows where the plate will lie and marks nothing."""

from __future__ import annotations

import numpy as np

from rezept.core.machine import Machine
from rezept.core.plan import Plate
from rezept.core.plan.traced import trace_speed_mm_s, trace_way
from rezept.core.plan.words import per_word
from rezept.formats.gcode import arming, header, number


def _shown_by(machine: Machine) -> str:
    return "shown by the pointer, beam off" if machine.pilot_pointer else "at trace power"


def write_trace(plate: Plate) -> bytes:
    """The program, in the words of `formats.gcode`; dark while it gains and loses its speed.

    Whether it may leave, `core.plan.gate.gate_of_trace` says.
    """
    machine = plate.trial.machine
    speed, power = trace_speed_mm_s(plate), machine.outline_power_pct or 0.0
    way = trace_way(plate)

    def at(point: np.ndarray) -> str:
        x, y = (np.round(point, 3) + 0.0).tolist()
        return f"X{x:.3f}Y{y:.3f}"

    feed = number(speed * per_word("speed_mm_s", machine))
    level = number(power * per_word("power_pct", machine))
    lines = [*header(plate, "outline of plate"), f"; the outline, three times round, {_shown_by(machine)}\n"]
    lines += ["G21\nG90\nG94\nM5S0\n", f"G0{at(way[0])}S0\n", f"{arming(machine)}S0\n", f"G1{at(way[1])}F{feed}S0\n"]
    lines += [f"G1{at(point)}F{feed}S{level}\n" for point in way[2:-1]]
    lines += [f"G1{at(way[-1])}F{feed}S0\n", "M5S0\nG0X0Y0S0\nM2\n"]
    return "".join(lines).encode("ascii")
