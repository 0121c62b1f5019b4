"""Thickness as people say it: millimetres, fractions of an inch, mil, gauge, and the weight of paper.

Gauges are from their definitions. American Wire Gauge, by which sheets of aluminium, brass and copper go, is the series
0.005 in x 92^((36 - n) / 39) (ASTM B258). The manufacturers' standard gauge of steel is a weight: so many ounces to the
square foot, of a steel that weighs 41.82 lb to the square foot and inch.

A paper's weight says its thickness only by its density. Pounds are those of 500 sheets of the kind's basic size;
grammes per square metre follow exactly, thickness by a usual density, and so within a fifth.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from rezept.core.errors import InvalidInput, quoted
from rezept.core.units import read_quantity

INCH_MM = 25.4
_POUND_G, _OUNCES = 453.59237, 16
_STEEL_LB_FT2_IN = 41.82
# Ounces to the square foot.
_STEEL_OZ = {
    7: 120, 8: 110, 9: 100, 10: 90, 11: 80, 12: 70, 13: 60, 14: 50, 15: 45, 16: 40, 17: 36, 18: 32, 19: 28, 20: 24,
    21: 22, 22: 20, 23: 18, 24: 16, 25: 14, 26: 12, 27: 11, 28: 10, 29: 9, 30: 8,
}  # fmt: skip
# Basic sizes of 500 sheets, in.
_BASIC_IN = {
    "bond": (17.0, 22.0),
    "text": (25.0, 38.0),
    "cover": (20.0, 26.0),
    "index": (25.5, 30.5),
    "bristol": (22.5, 28.5),
    "tag": (24.0, 36.0),
}
# What a sheet of paper or card usually weighs, g/cm3; from newsprint to coated board it goes from 0.6 to 1.2.
PAPER_G_CM3 = 0.8

_FRACTION = re.compile(r"\s*(?:(\d+)[\s-]+)?(\d+)\s*/\s*(\d+)\s*(.*?)\s*")
_GAUGE = re.compile(r"\s*(\d+)\s*(?:gauge|ga|awg)\.?\s*(.*?)\s*", re.IGNORECASE)
_PAPER = re.compile(r"\s*(\d+(?:[.,]\d+)?)\s*(?:g/m2|g/m²|gsm|g\s*per\s*m2)\s*", re.IGNORECASE)
_POUNDS = re.compile(r"\s*(\d+(?:[.,]\d+)?)\s*(?:lb|lbs|pound|pounds|#)\s*(.*?)\s*", re.IGNORECASE)
_STEEL = ("steel", "stainless", "galvanised", "iron")
_AWG = ("aluminium", "aluminum", "brass", "copper", "awg", "bronze")


@dataclass(frozen=True)
class Said:
    """What somebody said, in mm; `about`: only about, since it was a weight."""

    mm: float
    about: bool = False


def awg_mm(number: int) -> float:
    """Thickness of a gauge of aluminium, brass and copper, mm."""
    return float(0.005 * 92 ** ((36 - number) / 39) * INCH_MM)


def steel_mm(number: int) -> float:
    """Thickness of a gauge of steel, mm.

    Raises
    ------
    KeyError : there is no such gauge
    """
    return _STEEL_OZ[number] / _OUNCES / _STEEL_LB_FT2_IN * INCH_MM


def grammage(pounds: float, kind: str) -> float:
    """g/m2 of a paper of so many pounds, by its kind."""
    width, height = _BASIC_IN[kind]
    return pounds * _POUND_G / (500 * width * height * (INCH_MM / 1000) ** 2)


_IN_MM = re.compile(r"\s*[\d.,]+\s*(mm)?\s*", re.IGNORECASE)


def as_said(typed: object) -> str:
    """What somebody typed as a thickness, where millimetres would not say it as they do; empty where they would."""
    if not isinstance(typed, str) or _IN_MM.fullmatch(typed):
        return ""
    return " ".join(typed.split())


def sheet_title(name: str, thickness_mm: float | None, said: str = "") -> str:
    """What a sheet is called: by its thickness as people say it, else in mm."""
    if thickness_mm is None:
        return name
    return f"{name} {said}" if said else f"{name} {thickness_mm:g} mm"


def read_thickness(text: str, path: str = "", name: str = "The thickness", bare: str = "") -> Said:
    """What a person typed as the thickness of a sheet.

    Parameters
    ----------
    text : ``3 mm``, ``1/8 in``, ``12 mil``, ``18 ga steel``, ``20 awg``, ``300 g/m2``, ``80 lb cover``
    bare : symbol of the unit a bare number is in

    Raises
    ------
    InvalidInput : nothing of this, or a gauge or a weight that does not say of what
    """
    if match := _FRACTION.fullmatch(text):
        whole, part, parts, unit = match.groups()
        if int(parts) == 0:
            raise InvalidInput(f"{name}: nothing is parted by 0.", path, text)
        value = int(whole or 0) + int(part) / int(parts)
        return Said(read_quantity(f"{value:.10g} {unit or 'in'}", "length", path, name))
    if match := _GAUGE.fullmatch(text):
        return Said(_gauge(int(match[1]), text, match[2].lower(), path, name))
    if match := _PAPER.fullmatch(text):
        return Said(_number(match[1]) / PAPER_G_CM3 / 1000, about=True)
    if match := _POUNDS.fullmatch(text):
        kind = match[2].lower().removesuffix(" paper").removesuffix(" stock")
        if kind not in _BASIC_IN:
            kinds = ", ".join(_BASIC_IN)
            raise InvalidInput(f"{name}: pounds say nothing without the kind of paper, one of {kinds}.", path, text)
        return Said(grammage(_number(match[1]), kind) / PAPER_G_CM3 / 1000, about=True)
    return Said(read_quantity(text, "length", path, name, bare))


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _gauge(number: int, text: str, metal: str, path: str, name: str) -> float:
    """A gauge of whatever it is said to be of; `awg` says it by itself."""
    if "awg" in text.lower() or metal in _AWG:
        if number > 40:
            raise InvalidInput(f"{name}: there is no gauge {number}.", path, text)
        return awg_mm(number)
    if metal in _STEEL:
        if number not in _STEEL_OZ:
            raise InvalidInput(f"{name}: gauges of steel go from 7 to 30, not {number}.", path, text)
        return steel_mm(number)
    said = f" of {quoted(metal)}" if metal else ""
    raise InvalidInput(
        f"{name}: a gauge{said} is another thickness for steel than for aluminium, brass or copper. Say which:"
        f" {number} ga steel, or {number} awg.",
        path,
        text,
    )
