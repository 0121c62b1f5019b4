"""An interpreter of programs that knows nothing of how they are written: it goes through the words one by one and
says where a machine would do what it must not. The facts are those of a machine's object in a trial file."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

WORD = re.compile(rb"([A-Z])([-+]?[0-9.]+)")
# Places are written to a thousandth of a millimetre.
CLOSE = 1e-3


def fact(machine: Mapping[str, Any], key: str) -> Any:
    """A fact of a machine, its head's own first."""
    return (machine.get("head") or {}).get(key) or machine.get(key)


def _pulses(machine: Mapping[str, Any], told: Mapping[str, float]) -> Iterator[str]:
    khz, ns = told.get("frequency_khz"), told.get("pulse_width_ns")
    if ns is not None and not any(abs(width["ns"] - ns) < 1e-6 for width in machine.get("pulse_widths") or []):
        yield f"pulse width {ns} ns"
    if khz is None:
        return
    span = machine.get("frequency_khz")
    for width in machine.get("pulse_widths") or []:
        if ns is not None and abs(width["ns"] - ns) < 1e-6:
            span = width["frequency_khz"]
    if span is None or not span[0] - 1e-6 <= khz <= span[1] + 1e-6:
        yield f"frequency {khz} kHz"


def violations(
    lines: Iterable[bytes], machine: Mapping[str, Any], live: bool = False, trace: bool = False
) -> list[str]:
    """What a program would make the machine do that its facts forbid, each kind of thing once."""
    found: dict[str, None] = {}
    full, ceiling = machine.get("s_at_full_power", 1000.0), machine.get("max_power_pct", 100.0)
    floor = 0.0 if trace else machine.get("firing_floor_pct", 0.0)
    top = fact(machine, "max_speed_mm_s")
    field = fact(machine, "field_width_mm"), fact(machine, "field_height_mm")
    galvo = machine["motion"] == "galvo"
    at = [0.0, 0.0]
    low, high = [0.0, 0.0], [0.0, 0.0]
    mode, armed, feed, power = b"G0", False, 0.0, 0.0
    told: dict[str, float] = {}
    if live and machine.get("power_mode") != "follows_speed" and not machine.get("beam_drops_at_rest"):
        found["a stream to a machine whose beam stays on at rest"] = None
    for line in lines:
        if line.startswith(b";REZEPT "):
            told = {key: float(value) for key, value in (pair.split("=") for pair in line.decode().split()[1:])}
            found.update((one, None) for one in _pulses(machine, told))
            corner = told.get("corner_power_pct")
            if corner is not None and not floor - 1e-9 <= corner <= ceiling + 1e-9:
                found[f"corner power {corner} %"] = None
            continue
        code = line.partition(b";")[0]
        target: dict[bytes, float] = {}
        dwell = arming = False
        for letter, digits in WORD.findall(code):
            word, value = letter + digits, float(digits)
            if word in (b"G0", b"G1"):
                mode = word
            elif word in (b"M3", b"M4"):
                armed, arming = True, True
            elif word in (b"M5", b"M2"):
                armed = False
            elif word == b"G4":
                dwell = True
            elif letter == b"F":
                feed = value
            elif letter == b"S":
                power = value
            elif letter in (b"X", b"Y"):
                target[letter] = value
        lit = armed and power > 0
        if (dwell or (arming and not target)) and lit and (live or not machine.get("dwells_with_beam")):
            found["the beam burns while the head stands"] = None
        if not target:
            continue
        at = [target.get(b"X", at[0]), target.get(b"Y", at[1])]
        low = [min(a, b) for a, b in zip(low, at, strict=True)]
        high = [max(a, b) for a, b in zip(high, at, strict=True)]
        if mode == b"G0":
            if lit:
                found["the beam burns on the way"] = None
            continue
        if feed <= 0:
            found["a move without a speed"] = None
        if feed / 60 > top * (1 + 1e-9):
            found[f"{feed / 60:.6g} mm/s of {top:g}"] = None
        if armed and mode == b"G1" and power > 0:
            pct = 100 * power / full
            if "power_pct" in machine.get("by_hand", ()):
                # A dial says how much of it comes out.
                if pct != 100:
                    found[f"{pct:.6g} % where a dial sets the power"] = None
                continue
            if pct > ceiling * (1 + 1e-9):
                found[f"{pct:.6g} % of {ceiling:g}"] = None
            # A figure is written to three places; the floor is no cliff for a machine.
            if pct < floor * 0.995:
                found[f"{pct:.6g} % below {floor:g}"] = None
    for axis in (0, 1):
        beyond = (
            max(high[axis] - field[axis] / 2, -field[axis] / 2 - low[axis])
            if galvo
            else (high[axis] - low[axis] - field[axis])
        )
        if beyond > CLOSE:
            found[f"{beyond:.3f} mm out of the field"] = None
    return list(found)
