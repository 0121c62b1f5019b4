"""A trial: what varies, what is held, on which machine and material, laid out how.

`read_trial` turns the document of a trial file into a `Trial`, complaining with the path of the value, and
lists every key for which the documented default was used. `Trial.document` is the completed document.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import Machine, read_machine
from rezept.core.material import Material, read_material
from rezept.core.parameters import NEVER_DEFAULTED, PARAMETERS, Parameter, parameter, unfit_reason
from rezept.core.plan.axes import MOST_PATCHES, Axis, read_axis
from rezept.core.process import PROCESSES, Process

FORMAT = "rezept-trial"
VERSION = 1
ORDERS = ("rows", "weakest_first")
LATER_ORDERS = ("scattered",)
SHAPES = ("rectangle",)
LATER_SHAPES = ("disc", "coupon", "lettering", "outline")
LABEL_SETTINGS = ("speed_mm_s", "power_pct", "passes", "air_level")
_PATCH_ID = re.compile(r"[A-Z]{1,3}[1-9][0-9]{0,3}")
_CODE = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._-]*")
_DATE = re.compile(r"\d{4}-\d{2}-\d{2}")


@dataclass(frozen=True)
class PatchShape:
    shape: str
    width_mm: float
    height_mm: float
    gap_mm: float


@dataclass(frozen=True)
class Labels:
    """Lettering on the plate, drawn as lines with its own settings."""

    on: bool
    height_mm: float
    settings: Mapping[str, float]


@dataclass(frozen=True)
class Piece:
    """The sheet or blank the plate is burned on; a disc is as wide as it is high."""

    shape: str
    width_mm: float
    height_mm: float
    margin_mm: float


@dataclass(frozen=True)
class Place:
    """Where the plate lies on the piece: its lower left from the piece's, or centre from centre."""

    at: str
    x_mm: float
    y_mm: float
    turn_deg: float


@dataclass(frozen=True)
class Trial:
    """A complete trial. `piece` is None while it is to be just as large as the plate."""

    title: str
    code: str | None
    date: str | None
    machine: Machine
    material: Material
    piece: Piece | None
    place: Place
    process: Process
    hold: Mapping[str, float]
    axes: tuple[Axis, ...]
    patch: PatchShape
    labels: Labels
    order: str
    off: frozenset[str]
    starting_dose: float | None
    defaulted: tuple[str, ...]

    @property
    def columns(self) -> int:
        return next((len(axis.values) for axis in self.axes if axis.along == "x"), 1)

    @property
    def rows(self) -> int:
        return next((len(axis.values) for axis in self.axes if axis.along == "y"), 1)

    def axis(self, along: str) -> Axis | None:
        return next((axis for axis in self.axes if axis.along == along), None)

    def document(self) -> dict[str, Any]:
        """The completed trial, as it stands in a plate file."""
        piece = self.piece
        return {
            "format": FORMAT,
            "version": VERSION,
            "title": self.title,
            "code": self.code,
            "date": self.date,
            "machine": self.machine.document(),
            "material": self.material.document(),
            "piece": None if piece is None else dict(vars(piece)),
            "place": dict(vars(self.place)),
            "process": self.process.key,
            "hold": dict(self.hold),
            "axes": [axis.document() for axis in self.axes],
            "patch": dict(vars(self.patch)),
            "labels": {
                "on": self.labels.on,
                "height_mm": self.labels.height_mm,
                "qr": False,
                "marks": False,
                "settings": dict(self.labels.settings),
            },
            "order": self.order,
            "off": sorted(self.off),
            "cut_out": False,
            f"starting_{self.process.dose_key}": self.starting_dose,
            "defaulted": list(self.defaulted),
        }

    def with_piece(self, piece: Piece) -> Trial:
        return replace(self, piece=piece)


def _refuse_later(fields: Fields, key: str, later: tuple[str, ...]) -> None:
    """A word of the format that this version cannot burn yet is refused, not ignored."""
    value = fields.data.get(key)
    if isinstance(value, str) and value in later:
        raise InvalidInput(f"This Rezept cannot do {key} {value!r} yet; it needs a newer one.", fields.at(key), value)


def _setting_row(fields: Fields, key: str, machine: Machine, process: str) -> Parameter:
    row = parameter(key, fields.at(key))
    reason = unfit_reason(row, machine.source, machine.motion, process, machine.name)
    if reason is None:
        reason = _machine_reason(row.key, fields.data[key], machine)
    if reason is not None:
        raise InvalidInput(reason, fields.at(key), fields.data[key])
    return row


def _machine_reason(key: str, value: object, machine: Machine) -> str | None:
    """What a machine of this source could have, but this one has not."""
    if key == "frequency_khz" and machine.frequency_khz is None and machine.pulse_widths is None:
        return f"{machine.name} has no frequency to set."
    if key == "pulse_width_ns" and machine.pulse_widths is None:
        return f"{machine.name} has no pulse width to set."
    if key == "air_kpa" and machine.air != "pressure":
        return f"{machine.name} has no air pressure to set."
    if key == "air_level":
        highest = {"none": 0, "on_off": 1, "low_high": 2, "pressure": -1}[machine.air]
        if highest < 0:
            return f"{machine.name} sets its air by pressure: use air_kpa."
        if isinstance(value, (int, float)) and value > highest:
            return f"{machine.name} has no air level {value:g}; its highest is {highest}."
    return None


def _hold(fields: Fields, machine: Machine, process: Process, varied: set[str]) -> dict[str, float]:
    """Every held setting, in the order of the table, defaults included."""
    given: dict[str, float] = {}
    for key in fields.data:
        row = _setting_row(fields, str(key), machine, process.key)
        if row.key in varied:
            raise InvalidInput(
                f"{row.name.capitalize()} is both held and varied; keep one of the two.", fields.at(row.key)
            )
        given[row.key] = row.checked(fields.data[key], fields.at(row.key))
    for key in NEVER_DEFAULTED:
        if key not in given and key not in varied:
            raise InvalidInput(
                f"{PARAMETERS[key].name.capitalize()} is neither held nor varied, and it is never guessed.",
                fields.at(key),
            )
    hold: dict[str, float] = {}
    for row in PARAMETERS.values():
        fits = unfit_reason(row, machine.source, machine.motion, process.key, machine.name) is None
        if row.key in given:
            hold[row.key] = given[row.key]
        elif row.default is not None and fits and row.key not in varied:
            hold[row.key] = row.default
            fields.defaulted.append(fields.at(row.key))
    return hold


def _axes(fields: Fields, machine: Machine, process: Process) -> tuple[Axis, ...]:
    items = fields.items("axes")
    if not 1 <= len(items) <= 2:
        raise InvalidInput(
            f"A trial takes one or two axes here, but {len(items)} came.", fields.at("axes"), len(items), 2
        )
    axes: list[Axis] = []
    for i, item in enumerate(items):
        path = f"{fields.at('axes')}[{i}]"
        axis = read_axis(Fields(item, path, fields.defaulted))
        row = PARAMETERS[axis.parameter]
        reason = unfit_reason(row, machine.source, machine.motion, process.key, machine.name)
        if reason is None:
            reason = _machine_reason(axis.parameter, max(axis.values), machine)
        if reason is not None:
            raise InvalidInput(reason, f"{path}.parameter", axis.parameter)
        if any(axis.parameter == other.parameter for other in axes):
            raise InvalidInput(
                f"{row.name.capitalize()} stands on two axes; each setting can vary once.",
                f"{path}.parameter",
            )
        if any(axis.along == other.along for other in axes):
            raise InvalidInput(f"Two axes run along {axis.along}.", f"{path}.along", axis.along)
        axes.append(axis)
    count = 1
    for axis in axes:
        count *= len(axis.values)
    if count > MOST_PATCHES:
        raise InvalidInput(
            f"That makes {count} patches; a plate holds {MOST_PATCHES} at most.",
            fields.at("axes"),
            count,
            MOST_PATCHES,
        )
    return tuple(axes)


def _labels(fields: Fields, machine: Machine) -> Labels:
    on = fields.flag("on", False)
    for key, what in (("qr", "QR codes"), ("marks", "registration marks")):
        if fields.flag(key, False):
            raise InvalidInput(f"This Rezept does not burn {what} yet; set {key} to false.", fields.at(key), True)
    inner = fields.inner("settings", {})
    settings: dict[str, float] = {}
    for key in inner.data:
        if key in PARAMETERS and key not in LABEL_SETTINGS:
            raise InvalidInput(f"Labels are lines; they take {', '.join(LABEL_SETTINGS)}.", inner.at(str(key)), key)
        row = _setting_row(inner, str(key), machine, "line")
        settings[row.key] = row.checked(inner.data[key], inner.at(row.key))
    if on:
        for key in NEVER_DEFAULTED:
            if key not in settings:
                raise InvalidInput(
                    f"Labels are on, but their {PARAMETERS[key].name} is missing, and it is never guessed.",
                    inner.at(key),
                )
        if "passes" not in settings:
            settings["passes"] = 1.0
            fields.defaulted.append(inner.at("passes"))
    labels = Labels(on, fields.number("height_mm", 2.0, at_least=0.3, at_most=100.0), settings)
    fields.finish()
    return labels


def _piece(raw: object, path: str, defaulted: list[str]) -> Piece:
    fields = Fields(raw, path, defaulted)
    shape = fields.choice("shape", ("rectangle", "disc"), "rectangle")
    width = fields.number("width_mm", above=0.0, at_most=100_000.0)
    piece = Piece(
        shape=shape,
        width_mm=width,
        height_mm=fields.number("height_mm", *([width] if shape == "disc" else []), above=0.0, at_most=100_000.0),
        margin_mm=fields.number("margin_mm", 0.0, at_least=0.0),
    )
    if shape == "disc" and piece.height_mm != width:
        raise InvalidInput("A disc is as high as it is wide.", fields.at("height_mm"), piece.height_mm, width)
    fields.finish()
    return piece


def _place(fields: Fields) -> Place:
    place = Place(
        at=fields.choice("at", ("corner", "centre"), "corner"),
        x_mm=fields.number("x_mm", 0.0, at_least=-100_000.0, at_most=100_000.0),
        y_mm=fields.number("y_mm", 0.0, at_least=-100_000.0, at_most=100_000.0),
        turn_deg=fields.number("turn_deg", 0.0, at_least=-360.0, at_most=360.0),
    )
    fields.finish()
    return place


def _patch(fields: Fields) -> PatchShape:
    _refuse_later(fields, "shape", LATER_SHAPES)
    patch = PatchShape(
        shape=fields.choice("shape", SHAPES, "rectangle"),
        width_mm=fields.number("width_mm", 10.0, at_least=0.1, at_most=1000.0),
        height_mm=fields.number("height_mm", 10.0, at_least=0.1, at_most=1000.0),
        gap_mm=fields.number("gap_mm", 3.0, at_least=0.0, at_most=1000.0),
    )
    fields.finish()
    return patch


def _off(fields: Fields) -> frozenset[str]:
    ids = fields.items("off", [])
    for i, patch in enumerate(ids):
        if not isinstance(patch, str) or not _PATCH_ID.fullmatch(patch):
            raise InvalidInput(f"{patch!r} is not a patch; patches are named like B3.", f"{fields.at('off')}[{i}]")
    return frozenset(ids)


def read_trial(document: object) -> Trial:
    """A trial from its document; see `docs/formats/trial.md`.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence; nothing is ever clamped or ignored
    """
    fields = Fields(document)
    if fields.take("format") != FORMAT:
        raise InvalidInput(f"This is not a trial: its format should be {FORMAT!r}.", "format", fields.data["format"])
    if fields.take("version") != VERSION or isinstance(fields.data["version"], bool):
        raise InvalidInput(
            "This trial has another version than 1; a newer Rezept may have made it.",
            "version",
            fields.data["version"],
        )
    if "steps" in fields.data:
        raise InvalidInput("This Rezept plans one step: give process and hold instead of steps.", "steps")
    machine = read_machine(fields.inner("machine"))
    material = read_material(fields.inner("material"))
    process = PROCESSES[fields.choice("process", tuple(PROCESSES))]
    axes = _axes(fields, machine, process)
    hold = _hold(fields.inner("hold", {}), machine, process, {axis.parameter for axis in axes})
    _refuse_later(fields, "order", LATER_ORDERS)
    if fields.flag("cut_out", False):
        raise InvalidInput("This Rezept does not cut the plate out yet; set cut_out to false.", "cut_out", True)
    date = fields.text("date", None, longest=10)
    if date is not None and not _DATE.fullmatch(date):
        raise InvalidInput("date is written like 2026-11-23.", "date", date)
    code = fields.text("code", None, longest=40)
    if code is not None and not _CODE.fullmatch(code):
        raise InvalidInput("A code is made of letters, digits, dots and dashes, like 7K3Q-T014.1.", "code", code)
    raw_piece = fields.take("piece", None)
    # A completed trial says which values were defaults once; read again, they still are.
    before = fields.items("defaulted") if "defaulted" in fields.data else []
    trial = Trial(
        title=fields.text("title", ""),
        code=code,
        date=date,
        machine=machine,
        material=material,
        piece=None if raw_piece is None else _piece(raw_piece, "piece", fields.defaulted),
        place=_place(fields.inner("place", {})),
        process=process,
        hold=hold,
        axes=axes,
        patch=_patch(fields.inner("patch", {})),
        labels=_labels(fields.inner("labels", {}), machine),
        order=fields.choice("order", ORDERS, "rows"),
        off=_off(fields),
        starting_dose=fields.number(f"starting_{process.dose_key}", None, above=0.0),
        defaulted=tuple(dict.fromkeys([*map(str, before), *fields.defaulted])),
    )
    fields.finish()
    return trial
