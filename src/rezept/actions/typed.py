"""What people typed into a design, turned into numbers in the units used inside.

A design that comes from the screen may hold texts such as ``"1700 mm/min"`` wherever a number belongs. Bare
numbers in a text are in the person's own units. Every text that cannot be read is reported, not just the first.
"""

from __future__ import annotations

import copy
import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from rezept.core.errors import InvalidInput, RezeptError, SeveralErrors, quoted
from rezept.core.machine_facts import FACTS
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.design import DESIGN, STEP_PARTS, DesignKey
from rezept.core.thickness import read_thickness
from rezept.core.units import read_quantity

Units = Mapping[str, str]


def read_length(value: Any, path: str, name: str) -> Any:
    """A length as somebody typed it, bare numbers in mm; an empty field is None, and what is no text stays."""
    return _typed(value, "length", path, name)


def read_sheet(value: Any, path: str, name: str) -> Any:
    """The thickness of a sheet as somebody typed it, likewise."""
    return _typed(value, "thickness", path, name)


def _typed(value: Any, quantity: str, path: str, name: str) -> Any:
    if not isinstance(value, str):
        return value
    return _read(value, quantity, path, name, {}) if value.strip() else None


def split_list(text: str) -> list[str]:
    """The values of a typed list: parted by semicolons, spaces or commas (a comma between digits may be a
    decimal one, unless commas are all there is)."""
    stripped = text.strip().strip(";,")
    if re.search(r"[;\s]", stripped):
        return [part for part in re.split(r"\s*;\s*|\s*,\s+|\s+(?=[-+.\d])", stripped) if part]
    return stripped.split(",") if stripped.count(",") > 1 else [stripped]


def _places(design: dict[str, Any]) -> Iterator[tuple[Any, Any, str, str, str]]:
    """Every place of a design that may hold a typed quantity: container, key, path, quantity, name."""
    axes = design.get("axes")
    for i, axis in enumerate(axes if isinstance(axes, list) else []):
        row = PARAMETERS.get(str(axis.get("parameter"))) if isinstance(axis, dict) else None
        if row is None:
            continue
        for key in ("from", "to"):
            yield axis, key, f"axes[{i}].{key}", row.quantity, row.name
        yield axis, "count", f"axes[{i}].count", "count", "The number of steps"
        yield axis, "wrap", f"axes[{i}].wrap", "count", "The number of steps in a line"
        if isinstance(axis.get("values"), str):
            axis["values"] = split_list(axis["values"])
        values = axis.get("values")
        for j in range(len(values) if isinstance(values, list) else 0):
            yield values, j, f"axes[{i}].values[{j}]", row.quantity, row.name
    patch = design.get("patch")
    yield from _slot_places(patch.get("slots") if isinstance(patch, dict) else None)
    for key, known in DESIGN.items():
        value = design.get(key)
        if known.quantity is not None:
            yield design, key, key, known.quantity, known.name
        for part, quantity in known.parts.items():
            yield value, part, f"{key}.{part}", quantity, _PART_NAMES.get(part, part.removesuffix("_mm"))
        yield from _setting_places(known, key, value)
    steps = design.get("steps")
    for i, step in enumerate(steps if isinstance(steps, list) else []):
        yield from _step_places(step, f"steps[{i}]")


def _slot_places(slots: Any) -> Iterator[tuple[Any, Any, str, str, str]]:
    """The places of slots and a tab; their widths may be one text with commas between."""
    if not isinstance(slots, dict):
        return
    yield slots, "tab_mm", "patch.slots.tab_mm", "length", "tab"
    if isinstance(slots.get("widths_mm"), str):
        slots["widths_mm"] = split_list(slots["widths_mm"])
    widths = slots.get("widths_mm")
    for j in range(len(widths) if isinstance(widths, list) else 0):
        yield widths, j, f"patch.slots.widths_mm[{j}]", "length", "slot"


def _step_places(step: Any, path: str) -> Iterator[tuple[Any, Any, str, str, str]]:
    """The places of one step: what it holds, its sets of lines, single patches, its limits."""
    if not isinstance(step, dict):
        return
    yield from _settings_in(step.get("hold"), f"{path}.hold")
    for key, quantity in STEP_PARTS.items():
        yield step, key, f"{path}.{key}", quantity, _PART_NAMES.get(key, DESIGN[key].name if key in DESIGN else key)
    sets = step.get("hatch")
    for i, one in enumerate(sets if isinstance(sets, list) else []):
        yield from _settings_in(one, f"{path}.hatch[{i}]")
    by_patch = step.get("overrides")
    for patch, changed in by_patch.items() if isinstance(by_patch, dict) else []:
        yield from _settings_in(changed, f"{path}.overrides.{patch}")


# What numbers in an object are called where that is not their key.
_PART_NAMES = {"turn_deg": "The turn", "inset_mm": "How far inside"}


def _setting_places(row: DesignKey, key: str, value: Any) -> Iterator[tuple[Any, Any, str, str, str]]:
    """The places of settings: a key's own, those in a part of it, or those of single patches."""
    if row.kind == "settings":
        groups = [(value, key)]
    elif row.kind == "rows":
        rows = value.get("settings") if isinstance(value, dict) else None
        groups = [(one, f"{key}.settings[{i}]") for i, one in enumerate(rows if isinstance(rows, list) else [])]
    elif row.kind == "by_patch":
        groups = [(changed, f"{key}.{patch}") for patch, changed in value.items()] if isinstance(value, dict) else []
    else:
        inside = value.get(row.settings_in) if isinstance(value, dict) and row.settings_in else None
        groups = [(inside, f"{key}.{row.settings_in}")]
    for settings, path in groups:
        yield from _settings_in(settings, path)


def _settings_in(settings: Any, path: str) -> Iterator[tuple[Any, Any, str, str, str]]:
    for name in list(settings) if isinstance(settings, dict) else []:
        if name in PARAMETERS:
            yield settings, name, f"{path}.{name}", PARAMETERS[name].quantity, PARAMETERS[name].name


def resolved(design: Mapping[str, Any], units: Units) -> dict[str, Any]:
    """A copy of `design` with numbers in place of typed texts.

    Parameters
    ----------
    units : the person's unit for each quantity, such as ``{"speed": "mm/min"}``

    Raises
    ------
    SeveralErrors : with the path and sentence of every text that cannot be read
    """
    plain: dict[str, Any] = copy.deepcopy(dict(design))
    _read_all(_places(plain), units)
    return plain


def resolved_settings(settings: Mapping[str, Any], units: Units, path: str) -> dict[str, Any]:
    """A copy of settings, likewise; `path` is where they stand, for what cannot be read."""
    plain = dict(settings)
    _read_all(_settings_in(plain, path), units)
    return plain


def _read_all(places: Iterable[tuple[Any, Any, str, str, str]], units: Units) -> None:
    """Put a number in place of every typed text, or raise all that cannot be read."""
    errors: list[RezeptError] = []
    for container, key, path, quantity, name in places:
        listed = isinstance(container, list) and isinstance(key, int)
        if listed or (isinstance(container, dict) and key in container):
            value = container[key]
            if isinstance(value, str):
                try:
                    container[key] = _read(value, quantity, path, name.capitalize(), units)
                except InvalidInput as error:
                    errors.append(error)
    if errors:
        raise SeveralErrors(errors)


def _read(text: str, quantity: str, path: str, name: str, units: Units) -> float:
    if quantity == "thickness":
        return float(f"{read_thickness(text, path, name, units.get('length', '')).mm:.4g}")
    return read_quantity(text, quantity, path, name, units.get(quantity, ""))


# Beside those of machines and heads: the other figures a form of the shop may hold as text.
_FACT_QUANTITIES = {
    **{fact.key: (fact.quantity, fact.name) for fact in FACTS},
    "thickness_mm": ("thickness", "thickness"),
    "measured_mm": ("thickness", "measured thickness"),
    "width_mm": ("length", "width"),
    "height_mm": ("length", "height"),
    "margin_mm": ("length", "margin"),
    "rise_mm": ("length", "rise"),
    "top_varies_mm": ("length", "difference in height"),
    "density_kg_m3": ("density", "density"),
    "hardness": ("count", "hardness"),
    "lot_id": ("count", "lot"),
    "count": ("count", "number of pieces"),
    "ns": ("pulse", "pulse width"),
    "full_power_from_khz": ("frequency", "full power from"),
}


def _fact_places(facts: dict[str, Any], path: str = "") -> Iterator[tuple[Any, Any, str, str, str]]:
    for key in facts:
        if key in _FACT_QUANTITIES:
            yield facts, key, f"{path}{key}", *_FACT_QUANTITIES[key]
    pair = facts.get("frequency_khz")
    for j in range(len(pair) if isinstance(pair, list) else 0):
        yield pair, j, f"{path}frequency_khz", "frequency", "frequency"
    shows = facts.get("shows")
    for key in list(shows) if isinstance(shows, dict) else []:
        if key in PARAMETERS:
            yield shows, key, f"{path}shows.{key}", PARAMETERS[key].quantity, PARAMETERS[key].name
    widths = facts.get("pulse_widths")
    for i, width in enumerate(widths if isinstance(widths, list) else []):
        if isinstance(width, dict):
            yield from _fact_places(width, f"{path}pulse_widths[{i}].")


_PAIR = re.compile(r"\s*([-+.,\d]+)[^=\d]*=\s*([-+.,\d]+)[^=\d]*")


def read_pairs(text: str, path: str) -> list[list[float]]:
    """The pairs of a curve as somebody typed them, one a line or parted by semicolons: ``3 mA = 12 %; 8 = 40``."""
    pairs = []
    for line in filter(None, (part.strip() for part in re.split(r"[;\n]", text))):
        match = _PAIR.fullmatch(line)
        if match is None:
            raise InvalidInput(
                f"A pair is what the control shows = what that is: 8 = 40, but {quoted(line)} came.", path
            )
        pairs.append([read_quantity(number, "count", path, "A pair") for number in match.groups()])
    return pairs


def read_rows(text: str, each: int, path: str) -> list[list[float]]:
    """Rows of lengths as somebody typed them, a row a line: ``12 cm; 60`` or ``120 60``, bare numbers in mm."""
    rows = []
    for i, line in enumerate(filter(None, (part.strip() for part in text.splitlines()))):
        parts = line.split(";") if ";" in line else re.split(r",\s+|\s+", line)
        figures = [part.strip() for part in parts if part.strip() not in ("", "x", "mm")]
        if len(figures) == 1 and line.count(",") == each - 1:
            figures = line.split(",")
        if len(figures) != each:
            raise InvalidInput(
                f"A line here has {each} figures, such as {' '.join(['120', '60', '6'][:each])}.", path, line
            )
        rows.append([read_quantity(figure, "length", f"{path}[{i}]", "A figure") for figure in figures])
    return rows


def read_levels(text: str, path: str) -> list[dict[str, Any]]:
    """Levels of air as somebody typed them, a line each: ``soft = 20 kPa``, or a bare name."""
    levels = []
    for i, line in enumerate(filter(None, (part.strip() for part in re.split(r"[;\n]", text)))):
        name, _, pressure = line.partition("=")
        level: dict[str, Any] = {"name": name.strip()}
        if pressure.strip():
            level["kpa"] = read_quantity(pressure, "pressure", f"{path}[{i}].kpa", "The pressure")
        levels.append(level)
    return levels


def _read_curves(facts: dict[str, Any]) -> None:
    """The scales of a control as a form has them; one nobody says anything of is none."""
    curves = facts.get("curves")
    for key, curve in list(curves.items()) if isinstance(curves, dict) else []:
        if not isinstance(curve, dict):
            continue
        if isinstance(curve.get("pairs"), str):
            curve["pairs"] = read_pairs(curve["pairs"], f"curves.{key}.pairs")
        if isinstance(curve.get("step"), str):
            typed = curve["step"].strip()
            curve["step"] = read_quantity(typed, "count", f"curves.{key}.step", "The finest") if typed else None
    for key, each in (("outline", 2), ("holes", 3)):
        if isinstance(facts.get(key), str):
            facts[key] = read_rows(facts[key], each, key)
    if isinstance(facts.get("air_levels"), str):
        facts["air_levels"] = read_levels(facts["air_levels"], "air_levels")
    units = facts.get("units")
    if isinstance(units, dict):
        facts["units"] = {quantity: symbol for quantity, symbol in units.items() if symbol != ""}


def resolved_facts(facts: Mapping[str, Any], units: Units) -> dict[str, Any]:
    """A copy of a form of the shop with numbers in place of typed texts; an empty text is left out: its key is
    then not given, and takes its default."""
    plain: dict[str, Any] = copy.deepcopy(dict(facts))
    _read_curves(plain)
    places = list(_fact_places(plain))
    for container, key, *_ in places:
        if isinstance(container, dict) and isinstance(container[key], str) and not container[key].strip():
            del container[key]
    _read_all(places, units)
    return plain
