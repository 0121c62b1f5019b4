"""A trial: what varies, what is held, on which machine and material, laid out how.

`read_trial` turns the document of a trial file into a `Trial`, complaining with the path of the value, and
lists every key for which the documented default was used. `Trial.document` is the completed document.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.machine import Machine, read_machine
from rezept.core.material import NEVER_BURN, Material, read_material
from rezept.core.plan.axes import MOST_PATCHES, Axis, read_axes
from rezept.core.plan.design import without_patches_of_an_array
from rezept.core.plan.grid import Grid, grid_of, grid_of_list
from rezept.core.plan.holding import read_hold, setting_row
from rezept.core.plan.listed import Added, Listed, read_added, read_list, refuse_gaps
from rezept.core.plan.parts import (
    FITS,
    CutOut,
    Labels,
    PatchShape,
    Piece,
    Place,
    Zero,
    read_cut_out,
    read_labels,
    read_patch,
    read_piece,
    read_place,
    read_zero,
)
from rezept.core.process import PROCESSES, Process

__all__ = ["FORMAT", "VERSION", "CutOut", "Labels", "PatchShape", "Piece", "Place", "Trial", "Zero", "read_trial"]

FORMAT = "rezept-trial"
VERSION = 1
# J/mm or J/mm2; beyond it somebody has mistyped.
GREATEST_DOSE = 1e9
ORDERS = ("rows", "weakest_first", "scattered")
_PATCH_ID = re.compile(r"([1-9][0-9]{0,3}-)?[A-Z]{1,3}[1-9][0-9]{0,3}")
_CODE = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._-]*")
_DATE = re.compile(r"\d{4}-\d{2}-\d{2}")
Polygon = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Trial:
    """A complete trial. `piece` is None while it is to be just as large as the plate.

    axes : of an array; none where the settings are listed one by one
    listed : the list; None of an array
    added : patches burned one by one beside those, after them; None where there are none
    repeats : all of an array so many times over
    overrides : settings of single patches, set by hand
    dose_limits : least and greatest dose that is burned, None where there is no limit
    cuts_at : line dose in J/mm that is known to cut this material here
    accepted_hazards : hazards somebody answers for, which otherwise keep the files back
    burned_ground : polygons on the piece, mm from its lower left, that have been burned before
    """

    title: str
    code: str | None
    date: str | None
    machine: Machine
    material: Material
    piece: Piece | None
    place: Place
    zero: Zero
    process: Process
    hold: Mapping[str, float]
    axes: tuple[Axis, ...]
    listed: Listed | None
    added: Added | None
    repeats: int
    patch: PatchShape
    labels: Labels
    cut_out: CutOut
    order: str
    fit: str
    off: frozenset[str]
    overrides: Mapping[str, Mapping[str, float]]
    starting_dose: float | None
    dose_limits: tuple[float | None, float | None]
    burned_ground: tuple[Polygon, ...]
    cuts_at: float | None
    accepted_hazards: tuple[str, ...]
    defaulted: tuple[str, ...]

    @cached_property
    def grid(self) -> Grid:
        return (
            grid_of(self.axes, self.repeats)
            if self.listed is None
            else grid_of_list(len(self.listed), self.listed.wrap)
        )

    def axis(self, along: str) -> Axis | None:
        return next((axis for axis in self.axes if axis.along == along), None)

    @property
    def varied(self) -> list[str]:
        """The settings that tell patches apart."""
        own = [axis.parameter for axis in self.axes] if self.listed is None else self.listed.varied
        return own if self.added is None else [*own, *self.added.otherwise(self.hold, own)]

    def with_array(
        self, axes: list[dict[str, Any]], hold: Mapping[str, float], listed: dict[str, Any] | None = None
    ) -> dict[str, Any]:
        """The trial's document with another array, or with a list of settings: nothing is switched off in that or set
        by hand."""
        document = {**self.document(), **without_patches_of_an_array(), "axes": axes, "hold": dict(hold)}
        for of_before in ("listed", "added", "repeats"):
            document.pop(of_before, None)
        return document if listed is None else {**document, "listed": listed}

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
            "piece": None if piece is None else piece.document(),
            "place": dict(vars(self.place)),
            **({} if self.zero == Zero() else {"zero": self.zero.document()}),
            "process": self.process.key,
            "hold": dict(self.hold),
            "axes": [axis.document() for axis in self.axes],
            **({} if self.listed is None else {"listed": self.listed.document()}),
            **({} if self.added is None else {"added": self.added.document()}),
            **({} if self.repeats == 1 else {"repeats": self.repeats}),
            "patch": dict(vars(self.patch)),
            "labels": self.labels.document(),
            "order": self.order,
            "fit": self.fit,
            "off": sorted(self.off),
            "overrides": {patch: dict(changed) for patch, changed in self.overrides.items()},
            "cut_out": self.cut_out.on,
            "hang_hole_mm": self.cut_out.hang_hole_mm,
            "cut_settings": dict(self.cut_out.settings),
            f"starting_{self.process.dose_key}": self.starting_dose,
            self.process.dose_limit_key("floor"): self.dose_limits[0],
            self.process.dose_limit_key("ceiling"): self.dose_limits[1],
            "burned_ground": [[list(point) for point in polygon] for polygon in self.burned_ground],
            "cuts_through_j_mm": self.cuts_at,
            "accepted_hazards": list(self.accepted_hazards),
            "defaulted": list(self.defaulted),
        }


def _known_patch(patch: object, path: str) -> str:
    if not isinstance(patch, str) or not _PATCH_ID.fullmatch(patch):
        raise InvalidInput(f"{quoted(patch)} is not a patch; patches are named like B3, or 2-B3 with blocks.", path)
    return patch


def _off(fields: Fields) -> frozenset[str]:
    return frozenset(_known_patch(patch, f"{fields.at('off')}[{i}]") for i, patch in enumerate(fields.items("off", [])))


def _overrides(fields: Fields, machine: Machine, process: Process, planned: set[str]) -> dict[str, Mapping[str, float]]:
    overrides: dict[str, Mapping[str, float]] = {}
    for patch in fields.data:
        inner = Fields(fields.data[patch], fields.at(_known_patch(patch, fields.at(str(patch)))))
        changed = {}
        for key in inner.data:
            row = setting_row(inner, str(key), machine, process.key)
            if row.key not in planned:
                raise InvalidInput(
                    f"{row.name.capitalize()} is neither held nor varied on this plate; hold it first.",
                    inner.at(row.key),
                )
            changed[row.key] = row.checked(inner.data[key], inner.at(row.key))
        if changed:
            overrides[patch] = changed
    return overrides


def _dose_limits(fields: Fields, process: Process) -> tuple[float | None, float | None]:
    floor_key, ceiling_key = process.dose_limit_key("floor"), process.dose_limit_key("ceiling")
    floor = fields.number(floor_key, None, above=0.0, at_most=GREATEST_DOSE)
    ceiling = fields.number(ceiling_key, None, above=0.0, at_most=GREATEST_DOSE)
    if floor is not None and ceiling is not None and floor > ceiling:
        raise InvalidInput("The least dose is more than the greatest; nothing would burn.", floor_key, floor, ceiling)
    return floor, ceiling


# Outlines of what was burned on one piece before.
MOST_GROUND = 200


def _burned_ground(fields: Fields) -> tuple[Polygon, ...]:
    polygons = []
    items = fields.items("burned_ground", [])
    if len(items) > MOST_GROUND:
        raise InvalidInput(
            f"Burned ground is {MOST_GROUND} outlines at most; take another piece.",
            fields.at("burned_ground"),
            len(items),
            MOST_GROUND,
        )
    for i, item in enumerate(items):
        path = f"{fields.at('burned_ground')}[{i}]"
        inner = Fields({"points": item}, path)
        points = inner.items("points")
        if len(points) < 3:
            raise InvalidInput("Burned ground is outlined by three points or more.", path, len(points), 3)
        pairs = [Fields({"point": point}, f"{path}[{j}]").numbers("point", 2) for j, point in enumerate(points)]
        polygons.append(tuple((pair[0], pair[1]) for pair in pairs if pair is not None))
    return tuple(polygons)


def _accepted(fields: Fields) -> tuple[str, ...]:
    accepted = fields.items("accepted_hazards", [])
    for i, hazard in enumerate(accepted):
        if hazard not in NEVER_BURN:
            raise InvalidInput(
                f"What can be answered for is {' or '.join(NEVER_BURN)}, but {quoted(hazard)} came.",
                f"{fields.at('accepted_hazards')}[{i}]",
                hazard,
            )
    return tuple(accepted)


def _array(fields: Fields, machine: Machine, process: Process) -> tuple[tuple[Axis, ...], Listed | None]:
    """The axes of an array, or the settings one by one."""
    if not fields.is_said("listed"):
        return read_axes(fields, machine, process), None
    if fields.items("axes", []):
        raise InvalidInput("A trial has axes or a list of settings, not both.", "listed")
    return (), read_list(fields.inner("listed"), machine, process)


MOST_REPEATS = 20


def _repeats(fields: Fields, axes: tuple[Axis, ...], listed: Listed | None) -> int:
    """How often all of an array is burned; where nothing is said of it, once."""
    if not fields.is_said("repeats"):
        return 1
    repeats: int = fields.whole("repeats", at_least=1, at_most=MOST_REPEATS)
    if repeats > 1 and listed is not None:
        raise InvalidInput("A list says each patch by itself: repeat its lines instead.", "repeats", repeats)
    patches = len(grid_of(axes, repeats)) if listed is None else 0
    if patches > MOST_PATCHES:
        raise InvalidInput(
            f"So often these are {patches} patches; a plate has {MOST_PATCHES} at most.",
            "repeats",
            patches,
            MOST_PATCHES,
        )
    return repeats


def _zero(fields: Fields) -> Zero:
    """Where nothing is said of it, the program counts from the piece, as it always did."""
    if not fields.is_said("zero"):
        return Zero()
    return read_zero(fields.inner("zero"))


def _added(
    fields: Fields, machine: Machine, process: Process, hold: Mapping[str, float], own: set[str]
) -> Added | None:
    if not fields.is_said("added"):
        return None
    return read_added(fields.inner("added"), machine, process, hold, own - set(hold))


def read_trial(document: object) -> Trial:
    """A trial from its document; see `docs/formats/trial.md`.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence; nothing is ever clamped or ignored
    """
    fields = Fields(document)
    fields.of_format("a trial", FORMAT, VERSION)
    if "steps" in fields.data:
        raise InvalidInput("This Rezept plans one step: give process and hold instead of steps.", "steps")
    machine = read_machine(fields.inner("machine"))
    material = read_material(fields.inner("material"))
    process = PROCESSES[fields.choice("process", tuple(PROCESSES))]
    axes, listed = _array(fields, machine, process)
    held = fields.inner("hold", {})
    # What a list says is told patch by patch; beside it one may hold what some of them have otherwise.
    varied = {axis.parameter for axis in axes} if listed is None else set(listed.told) - set(held.data)
    hold = read_hold(held, machine, process, varied)
    if listed is not None:
        refuse_gaps(listed, hold, "listed")
    date = fields.text("date", None, longest=10)
    if date is not None and not _DATE.fullmatch(date):
        raise InvalidInput("date is written like 2026-11-23.", "date", date)
    code = fields.text("code", None, longest=40)
    if code is not None and not _CODE.fullmatch(code):
        raise InvalidInput("A code is made of letters, digits, dots and dashes, like 7K3Q-T014.1.", "code", code)
    raw_piece = fields.take("piece", None)
    # A completed trial says which values were defaults once; read again, they still are.
    before = fields.items("defaulted") if "defaulted" in fields.data else []
    planned = varied | set(hold)
    own = varied if listed is None else set(listed.keys)
    trial = Trial(
        title=fields.text("title", ""),
        code=code,
        date=date,
        machine=machine,
        material=material,
        piece=None if raw_piece is None else read_piece(raw_piece, "piece", fields.defaulted),
        place=read_place(fields.inner("place", {})),
        zero=_zero(fields),
        process=process,
        hold=hold,
        axes=axes,
        listed=listed,
        added=_added(fields, machine, process, hold, own),
        repeats=_repeats(fields, axes, listed),
        patch=read_patch(fields.inner("patch", {}), process),
        labels=read_labels(fields.inner("labels", {}), machine, process),
        cut_out=read_cut_out(fields, machine),
        order=fields.choice("order", ORDERS, "rows"),
        fit=fields.choice("fit", FITS, "as_given"),
        off=_off(fields),
        overrides=_overrides(fields.inner("overrides", {}), machine, process, planned),
        starting_dose=fields.number(f"starting_{process.dose_key}", None, above=0.0, at_most=GREATEST_DOSE),
        dose_limits=_dose_limits(fields, process),
        burned_ground=_burned_ground(fields),
        accepted_hazards=_accepted(fields),
        cuts_at=fields.number("cuts_through_j_mm", None, above=0.0, at_most=GREATEST_DOSE),
        defaulted=tuple(dict.fromkeys([*map(str, before), *fields.defaulted])),
    )
    fields.finish()
    return trial
