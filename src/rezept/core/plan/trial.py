"""A trial: what varies, what is held, on which machine and material, laid out how.

`read_trial` turns the document of a trial file into a `Trial`, complaining with the path of the value, and
lists every key for which the documented default was used. `Trial.document` is the completed document.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.machine import Machine, read_machine
from rezept.core.material import NEVER_BURN, Material, read_material
from rezept.core.parameters import PARAMETERS
from rezept.core.path.toolpath import toolpath_of
from rezept.core.plan.axes import MOST_PATCHES, Axis, read_axes
from rezept.core.plan.design import without_patches_of_an_array
from rezept.core.plan.grid import Grid, grid_of, grid_of_list
from rezept.core.plan.holding import read_hold
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
from rezept.core.plan.steps import (
    GREATEST_DOSE,
    MOST_ROUNDS,
    STEPS_ORDERS,
    Sketched,
    StepsOrder,
    TrialStep,
    read_dose_limits,
    read_overrides,
    read_starting_dose,
    sketch_steps,
)
from rezept.core.process import PROCESSES, Process

__all__ = ["FORMAT", "VERSION", "CutOut", "Labels", "PatchShape", "Piece", "Place", "Trial", "Zero", "read_trial"]

FORMAT = "rezept-trial"
VERSION = 1
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
    steps : what is done to each patch, in this order, all of it so many `rounds`
    steps_order : by the plate, what is filled and marked before what is cut; or patch by patch
    judged : which of its steps is asked about; one and the same trial is judged by each of them
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
    steps: tuple[TrialStep, ...]
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
    burned_ground: tuple[Polygon, ...]
    cuts_at: float | None
    accepted_hazards: tuple[str, ...]
    defaulted: tuple[str, ...]
    rounds: int = 1
    steps_order: StepsOrder = "plate"
    judged: int = 0

    @property
    def step(self) -> TrialStep:
        """The step that is asked about."""
        return self.steps[self.judged]

    @property
    def process(self) -> Process:
        return self.step.process

    @property
    def work_name(self) -> str:
        """What is done, by all its steps: ``Deep engrave, Engrave``."""
        return ", ".join(dict.fromkeys(step.process.name for step in self.steps))

    @property
    def hold(self) -> Mapping[str, float]:
        return self.step.hold

    @property
    def overrides(self) -> Mapping[str, Mapping[str, float]]:
        """Settings of single patches, set by hand."""
        return self.step.overrides

    @property
    def starting_dose(self) -> float | None:
        """The dose expected to be right."""
        return self.step.starting_dose

    @property
    def dose_limits(self) -> tuple[float | None, float | None]:
        """Least and greatest dose that is burned, None where there is no limit."""
        return self.step.dose_limits

    @property
    def own_axes(self) -> tuple[Axis, ...]:
        """The axes of the step that is asked about."""
        return self.axes_of(self.judged)

    def axes_of(self, number: int) -> tuple[Axis, ...]:
        name = self.steps[number].name
        return tuple(axis for axis in self.axes if axis.step is None or axis.step == name)

    def path_in_step(self, number: int, key: str) -> str:
        """Where a key of a step stands in the trial's document."""
        return key if self._says_one_process else f"steps[{number}].{key}"

    @property
    def _says_one_process(self) -> bool:
        """Whether process and held settings stand for its steps."""
        return len(self.steps) == 1 and self.steps[0].is_plain and self.rounds == 1

    def own_axis(self, along: str) -> Axis | None:
        """The axis of the step that is asked about that runs in a direction."""
        return next((axis for axis in self.own_axes if axis.along == along), None)

    def of_step(self, number: int) -> Trial:
        """The same trial, another of its steps being asked about."""
        return self if number == self.judged else replace(self, judged=number)

    @cached_property
    def grid(self) -> Grid:
        return (
            grid_of(self.axes, self.repeats)
            if self.listed is None
            else grid_of_list(len(self.listed), self.listed.wrap)
        )

    def axis(self, along: str) -> Axis | None:
        return next(iter(self.axes_along(along)), None)

    def axes_along(self, along: str) -> list[Axis]:
        """Those that run in a direction: one, or one of each of several steps."""
        return [axis for axis in self.axes if axis.along == along]

    @property
    def varied(self) -> list[str]:
        """The settings that tell patches apart."""
        own = [axis.parameter for axis in self.own_axes] if self.listed is None else self.listed.varied
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
            **self._steps_document(),
            "axes": [axis.document() for axis in self.axes],
            **({} if self.listed is None else {"listed": self.listed.document()}),
            **({} if self.added is None else {"added": self.added.document()}),
            **({} if self.repeats == 1 else {"repeats": self.repeats}),
            "patch": self.patch.document(),
            "labels": self.labels.document(),
            "order": self.order,
            "fit": self.fit,
            "off": sorted(self.off),
            "cut_out": self.cut_out.on,
            "hang_hole_mm": self.cut_out.hang_hole_mm,
            "cut_settings": dict(self.cut_out.settings),
            "burned_ground": [[list(point) for point in polygon] for polygon in self.burned_ground],
            "cuts_through_j_mm": self.cuts_at,
            "accepted_hazards": list(self.accepted_hazards),
            "defaulted": list(self.defaulted),
        }

    def _steps_document(self) -> dict[str, Any]:
        """The steps; of one that says no more than its process, that and what is held."""
        if self._says_one_process:
            only = self.steps[0]
            return {"process": only.process.key, "hold": dict(only.hold), **only.limits_document()}
        steps = [step.document([axis.parameter for axis in self.axes_of(i)]) for i, step in enumerate(self.steps)]
        return {"steps": steps, "rounds": self.rounds, "steps_order": self.steps_order}


def _known_patch(patch: object, path: str) -> str:
    if not isinstance(patch, str) or not _PATCH_ID.fullmatch(patch):
        raise InvalidInput(f"{quoted(patch)} is not a patch; patches are named like B3, or 2-B3 with blocks.", path)
    return patch


def _off(fields: Fields) -> frozenset[str]:
    return frozenset(_known_patch(patch, f"{fields.at('off')}[{i}]") for i, patch in enumerate(fields.items("off", [])))


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


def _array(fields: Fields, machine: Machine, sketched: Sequence[Sketched]) -> tuple[tuple[Axis, ...], Listed | None]:
    """The axes of an array, or the settings one by one."""
    if not fields.is_said("listed"):
        return read_axes(fields, machine, {step.name: step.process for step in sketched}), None
    if fields.items("axes", []):
        raise InvalidInput("A trial has axes or a list of settings, not both.", "listed")
    if len(sketched) > 1:
        raise InvalidInput("A list of settings is burned in one step; take axes, each of its own step.", "listed")
    return (), read_list(fields.inner("listed"), machine, sketched[0].process)


def _sketched(fields: Fields) -> list[Sketched]:
    """The steps of a trial; of one that names none, its process."""
    if fields.is_said("steps"):
        for key in ("process", "hold"):
            if fields.is_said(key):
                raise InvalidInput(f"A trial has steps, or {key} of its only one, not both.", "steps")
        return sketch_steps(fields)
    for key in ("rounds", "steps_order"):
        if fields.is_said(key):
            raise InvalidInput(f"{key} goes with steps.", key)
    process = PROCESSES[fields.choice("process", tuple(PROCESSES))]
    return [Sketched(process.key, process, toolpath_of(process), {}, 0.0, None, "strokes", fields)]


def _held_in(step: Sketched, machine: Machine, varied: set[str]) -> dict[str, float]:
    """What is held in a step, with what its first set of lines says of itself."""
    held = step.fields.inner("hold", {})
    for key in step.first_set:
        for where, others in (("held", held.data), ("varied", varied)):
            if key in others:
                name = PARAMETERS[key].name.capitalize()
                raise InvalidInput(
                    f"{name} is said by the first set of lines and {where}, too.", f"{step.fields.at('hatch')}[0].{key}"
                )
    said = Fields({**held.data, **step.first_set}, held.path, held.defaulted)
    return read_hold(said, machine, step.process, varied)


def _step(step: Sketched, hold: Mapping[str, float], machine: Machine, planned: set[str]) -> TrialStep:
    """A step with all that is said of it; of one among several, its fields are finished."""
    fields, process = step.fields, step.process
    read = TrialStep(
        name=step.name,
        process=process,
        path=step.path,
        hold=hold,
        overrides=read_overrides(fields.inner("overrides", {}), machine, process, planned, _known_patch),
        inset_mm=step.inset_mm,
        text=step.text,
        letters=step.letters,
        starting_dose=read_starting_dose(fields, process),
        dose_limits=read_dose_limits(fields, process),
    )
    if fields.path:
        fields.finish()
    return read


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
    fields: Fields, machine: Machine, steps: Sequence[Sketched], hold: Mapping[str, float], own: set[str]
) -> Added | None:
    if not fields.is_said("added"):
        return None
    if len(steps) > 1:
        raise InvalidInput("A plate of several steps does not grow; plan another one.", "added")
    process = steps[0].process
    return read_added(fields.inner("added"), machine, process, hold, own - set(hold))


def read_trial(document: object) -> Trial:
    """A trial from its document; see `docs/formats/trial.md`.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence; nothing is ever clamped or ignored
    """
    fields = Fields(document)
    fields.of_format("a trial", FORMAT, VERSION)
    machine = read_machine(fields.inner("machine"))
    material = read_material(fields.inner("material"))
    sketched = _sketched(fields)
    axes, listed = _array(fields, machine, sketched)
    varied = [{axis.parameter for axis in axes if axis.step in (None, step.name)} for step in sketched]
    if listed is not None:
        # What a list says is told patch by patch; beside it one may hold what some of them have otherwise.
        held = sketched[0].fields.data.get("hold")
        varied = [set(listed.told) - set(held if isinstance(held, Mapping) else ())]
    holds = [_held_in(step, machine, own) for step, own in zip(sketched, varied, strict=True)]
    if listed is not None:
        refuse_gaps(listed, holds[0], "listed")
    date = fields.text("date", None, longest=10)
    if date is not None and not _DATE.fullmatch(date):
        raise InvalidInput("date is written like 2026-11-23.", "date", date)
    code = fields.text("code", None, longest=40)
    if code is not None and not _CODE.fullmatch(code):
        raise InvalidInput("A code is made of letters, digits, dots and dashes, like 7K3Q-T014.1.", "code", code)
    raw_piece = fields.take("piece", None)
    # A completed trial says which values were defaults once; read again, they still are.
    before = fields.items("defaulted") if "defaulted" in fields.data else []
    steps = tuple(
        _step(step, hold, machine, own | set(hold)) for step, hold, own in zip(sketched, holds, varied, strict=True)
    )
    own = varied[0] if listed is None else set(listed.keys)
    trial = Trial(
        title=fields.text("title", ""),
        code=code,
        date=date,
        machine=machine,
        material=material,
        piece=None if raw_piece is None else read_piece(raw_piece, "piece", fields.defaulted),
        place=read_place(fields.inner("place", {})),
        zero=_zero(fields),
        steps=steps,
        axes=axes,
        listed=listed,
        added=_added(fields, machine, sketched, holds[0], own),
        repeats=_repeats(fields, axes, listed),
        patch=read_patch(fields.inner("patch", {}), [step.process for step in steps if step.text is None]),
        labels=read_labels(fields.inner("labels", {}), machine, [step.process for step in steps]),
        cut_out=read_cut_out(fields, machine),
        order=fields.choice("order", ORDERS, "rows"),
        fit=fields.choice("fit", FITS, "as_given"),
        off=_off(fields),
        burned_ground=_burned_ground(fields),
        accepted_hazards=_accepted(fields),
        cuts_at=fields.number("cuts_through_j_mm", None, above=0.0, at_most=GREATEST_DOSE),
        rounds=fields.whole("rounds", 1, at_least=1, at_most=MOST_ROUNDS) if fields.is_said("rounds") else 1,
        steps_order=fields.choice("steps_order", STEPS_ORDERS, "plate") if fields.is_said("steps_order") else "plate",
        defaulted=tuple(dict.fromkeys([*map(str, before), *fields.defaulted])),
    )
    fields.finish()
    return trial
