"""The outline of the plate as a program at trace power: it shows where the plate will lie and marks nothing."""

from __future__ import annotations

import numpy as np

from rezept.core.dose import line_dose, power_w
from rezept.core.errors import Refused
from rezept.core.path.motion import run_up_mm
from rezept.core.path.trace import rounded_frame
from rezept.core.plan import Plate
from rezept.core.plan.place import to_program
from rezept.formats.gcode import arming, header, number

ROUNDS = 3
# A trace is taken as harmless below these shares of the weakest line dose that is known to leave something.
SHARE_OF_MARKS = 1 / 3
SHARE_OF_CUTS = 1 / 20


def trace_speed_mm_s(plate: Plate) -> float:
    """As fast as the machine goes, but so that the run-up is not longer than the plate's shorter half."""
    machine = plate.trial.machine
    if machine.motion == "galvo":
        return machine.of_head("max_speed_mm_s")
    room = min(plate.width_mm, plate.height_mm) / 4
    within = float(np.sqrt(2 * machine.of_head("acceleration_mm_s2") * room))
    return min(machine.of_head("max_speed_mm_s"), within)


def _weakest_mark(plate: Plate) -> tuple[float, float]:
    """Least line dose in J/mm this plate burns on purpose, and the share of it that is taken as harmless."""
    trial = plate.trial
    rated = trial.machine.rated_power_w
    doses = []
    for part in plate.drawn:
        if not part.last:
            power = power_w(rated, part.settings["power_pct"])
            doses.append((float(line_dose(power, part.settings["speed_mm_s"])), SHARE_OF_MARKS))
    power = power_w(rated, plate.settings["power_pct"])
    weakest = float(line_dose(power, plate.settings["speed_mm_s"])[plate.burn].min())
    doses.append((weakest, SHARE_OF_CUTS if trial.process.key == "cut" else SHARE_OF_MARKS))
    return min(doses, key=lambda dose: dose[0] * dose[1])


def refuse_a_trace_that_marks(plate: Plate) -> None:
    """Raise `Refused` where there is no trace power, or where it would leave a line.

    The trace is round enough to keep its speed, so its dose is ``P / v`` everywhere; it is held against the weakest
    line the plate burns on purpose.
    """
    machine = plate.trial.machine
    power = machine.trace_power_pct
    if power is None:
        raise Refused(
            f"{machine.name} has no trace power; say in the Shop at which power it shows its place without marking.",
            "machine.trace_power_pct",
        )
    dose = float(line_dose(power_w(machine.rated_power_w, power), trace_speed_mm_s(plate)))
    weakest, share = _weakest_mark(plate)
    if dose > share * weakest:
        raise Refused(
            f"At {power:g} % {machine.name} would leave a line: {dose:.2g} J/mm, and {weakest:.2g} J/mm is burned here"
            " on purpose. Set a lower trace power.",
            "machine.trace_power_pct",
            dose,
        )


def write_trace(plate: Plate) -> bytes:
    """The program, in the words of `formats.gcode`; dark while it gains and loses its speed.

    Raises
    ------
    Refused : it would mark, or the machine has no trace power
    """
    refuse_a_trace_that_marks(plate)
    trial = plate.trial
    machine = trial.machine
    speed, power = trace_speed_mm_s(plate), machine.trace_power_pct or 0.0
    frame = rounded_frame(plate.width_mm, plate.height_mm)
    run = float(run_up_mm(machine, speed))
    start, end = np.array([[frame[0, 0] - run, 0.0]]), np.array([[frame[0, 0] + run, 0.0]])
    way = to_program(
        np.concatenate([start, frame, *[frame[1:]] * (ROUNDS - 1), end]), trial, plate.width_mm, plate.height_mm
    )

    def at(point: np.ndarray) -> str:
        x, y = (np.round(point, 3) + 0.0).tolist()
        return f"X{x:.3f}Y{y:.3f}"

    feed = f"{speed * 60:.0f}"
    level = number(power / 100 * machine.s_at_full_power)
    lines = [*header(plate, "outline of plate"), "; the outline, three times round, at trace power\n"]
    lines += ["G21\nG90\nG94\nM5S0\n", f"G0{at(way[0])}S0\n", f"{arming(machine)}S0\n", f"G1{at(way[1])}F{feed}S0\n"]
    lines += [f"G1{at(point)}F{feed}S{level}\n" for point in way[2:-1]]
    lines += [f"G1{at(way[-1])}F{feed}S0\n", "M5S0\nG0X0Y0S0\nM2\n"]
    return "".join(lines).encode("ascii")
