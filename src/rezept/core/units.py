"""Reading and writing quantities in the units people use.

Inside, every key has one unit (see `parameters`). A person types `28`, `28mm/s`, `1700 mm/min` or
`1.1 in/s`; a bare number is in the unit that person has chosen.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from rezept.core.errors import InvalidInput, quoted


@dataclass(frozen=True)
class Unit:
    """A unit of a quantity: inside value = typed * factor, or factor / typed where `inverse`."""

    symbol: str
    factor: float
    inverse: bool = False

    def to_inside(self, number: float) -> float:
        return self.factor / number if self.inverse else number * self.factor

    def from_inside(self, value: float) -> float:
        return self.factor / value if self.inverse else value / self.factor


# The first unit of a quantity is the one used inside.
UNITS: dict[str, tuple[Unit, ...]] = {
    "speed": (
        Unit("mm/s", 1.0),
        Unit("mm/min", 1 / 60),
        Unit("m/min", 1000 / 60),
        Unit("in/s", 25.4),
        Unit("in/min", 25.4 / 60),
        Unit("m/s", 1000.0),
        Unit("cm/s", 10.0),
    ),
    "percent": (Unit("%", 1.0),),
    "frequency": (Unit("kHz", 1.0), Unit("Hz", 1e-3), Unit("MHz", 1e3)),
    "pulse": (Unit("ns", 1.0), Unit("us", 1e3), Unit("ps", 1e-3)),
    "count": (Unit("", 1.0),),
    "spacing": (
        Unit("mm", 1.0),
        Unit("um", 1e-3),
        Unit("DPI", 25.4, True),
        Unit("lines/mm", 1.0, True),
        Unit("lines/cm", 10.0, True),
        Unit("lines/in", 25.4, True),
        Unit("in", 25.4),
    ),
    "angle": (Unit("deg", 1.0), Unit("rad", 180 / math.pi)),
    "length": (
        Unit("mm", 1.0),
        Unit("cm", 10.0),
        Unit("um", 1e-3),
        Unit("in", 25.4),
        Unit("m", 1000.0),
        Unit("mil", 0.0254),
    ),
    "pressure": (
        Unit("kPa", 1.0),
        Unit("bar", 100.0),
        Unit("mbar", 0.1),
        Unit("psi", 6.894757293168361),
        Unit("MPa", 1000.0),
    ),
    "time": (Unit("ms", 1.0), Unit("s", 1000.0)),
    "delay": (Unit("us", 1.0), Unit("ms", 1000.0)),
    "watts": (Unit("W", 1.0), Unit("mW", 1e-3), Unit("kW", 1e3)),
    "wavelength": (Unit("nm", 1.0), Unit("um", 1e3)),
    "acceleration": (Unit("mm/s2", 1.0), Unit("m/s2", 1000.0)),
    "density": (Unit("kg/m3", 1.0), Unit("g/cm3", 1000.0)),
}

_SPELLINGS = {
    "mm/sec": "mm/s",
    "mms": "mm/s",
    "mm/minute": "mm/min",
    "ips": "in/s",
    "ipm": "in/min",
    "inch": "in",
    '"': "in",
    "inches": "in",
    "thou": "mil",
    "mils": "mil",
    "inch/s": "in/s",
    "inch/min": "in/min",
    "percent": "%",
    "pct": "%",
    "dpi": "DPI",
    "lpi": "lines/in",
    "l/mm": "lines/mm",
    "l/cm": "lines/cm",
    "°": "deg",
    "degrees": "deg",
    "x": "",
    "times": "",
    "passes": "",
    "pass": "",
    "khz": "kHz",
    "hz": "Hz",
    "mhz": "MHz",
    "kpa": "kPa",
    "mpa": "MPa",
    "µm": "um",
    "μm": "um",
    "µs": "us",
    "μs": "us",
    "sec": "s",
    "mm/s²": "mm/s2",
    "m/s²": "m/s2",
    "kg/m³": "kg/m3",
    "g/cm³": "g/cm3",
    "w": "W",
}

# A comma before three digits: thousands to some, a decimal comma to others. What begins with 0 is no thousand.
_THOUSANDS = re.compile(r"[-+]?[1-9]\d{0,2},\d{3}")
_TYPED = re.compile(r"\s*([-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?)\s*([^\d\s].*?)?\s*")


def unit_named(quantity: str, symbol: str) -> Unit | None:
    """The unit of a quantity by any of its spellings."""
    for spelling in (symbol, symbol.replace(" ", ""), symbol.replace(" ", "").lower()):
        wanted = _SPELLINGS.get(spelling, spelling)
        for unit in UNITS[quantity]:
            if wanted == unit.symbol or (wanted.lower() == unit.symbol.lower() and wanted != "m"):
                return unit
    return None


def read_quantity(text: str, quantity: str, path: str = "", name: str = "The value", bare: str = "") -> float:
    """What a person typed, in the unit used inside.

    Parameters
    ----------
    text : such as ``"1700 mm/min"``; a decimal comma is understood, but before three digits it is asked about
    quantity : a key of `UNITS`
    bare : symbol of the unit a bare number is in; the inside unit when empty

    Raises
    ------
    InvalidInput : not a number, a unit of something else, or not finite
    """
    match = _TYPED.fullmatch(text)
    inside = UNITS[quantity][0]
    example = f"28 {inside.symbol}".strip()
    if match is None:
        raise InvalidInput(f"{name} is not a number I can read: {quoted(text.strip())}. Try {example}.", path, text)
    if _THOUSANDS.fullmatch(match.group(1)):
        plain, part = match.group(1).replace(",", ""), match.group(1).replace(",", ".")
        raise InvalidInput(
            f"{name}: {match.group(1)} could be {plain} or {part}. Write {plain}, or {part} with a point.", path, text
        )
    # Minus nothing is nothing.
    number = float(match.group(1).replace(",", ".")) + 0.0
    symbol = (match.group(2) or "").strip()
    unit = unit_named(quantity, symbol or bare or inside.symbol)
    if unit is None:
        offered = ", ".join(unit.symbol for unit in UNITS[quantity] if unit.symbol) or "no unit"
        raise InvalidInput(f"{name} cannot be in {quoted(symbol)}. It takes {offered}.", path, text)
    if unit.inverse and number == 0:
        raise InvalidInput(f"{name} cannot be 0 {unit.symbol}.", path, text)
    value = unit.to_inside(number)
    if not math.isfinite(value):
        raise InvalidInput(f"{name} must be a finite number.", path, text)
    return value


def write_quantity(value: float, quantity: str, symbol: str = "", digits: int = 4) -> str:
    """`value` in a unit, with that unit behind it: ``write_quantity(25.4, "speed", "in/s")`` is ``"1 in/s"``."""
    unit = unit_named(quantity, symbol) if symbol else UNITS[quantity][0]
    if unit is None:
        raise InvalidInput(f"{quoted(symbol)} is not a unit of {quantity}.")
    return f"{unit.from_inside(value):.{digits}g} {unit.symbol}".strip()
