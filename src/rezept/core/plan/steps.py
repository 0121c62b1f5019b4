"""The ordered steps of a trial: each with its process, its part of the figure, what is held in it, and its limits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.machine import Machine
from rezept.core.path.both import FilledAndOutlined
from rezept.core.path.figure import Figure
from rezept.core.path.filled import Filled, HatchSet
from rezept.core.path.inset import inset
from rezept.core.path.shapes import LETTERING, Letters, shaped
from rezept.core.path.toolpath import Toolpath, toolpath_of
from rezept.core.plan.holding import setting_row
from rezept.core.plan.letters import read_letters
from rezept.core.process import PROCESSES, Process

Part = Literal["outline", "fill", "both"]
PARTS: tuple[Part, ...] = ("outline", "fill", "both")
MOST_STEPS = 8
MOST_ROUNDS = 20
MOST_HATCH_SETS = 8
# J/mm or J/mm2; beyond it somebody has mistyped.
GREATEST_DOSE = 1e9
StepsOrder = Literal["plate", "patch"]
STEPS_ORDERS: tuple[StepsOrder, ...] = ("plate", "patch")


def part_name(element: str, step: int, steps: int) -> str:
    """What a step of an element is called in programs, runs and orders: ``B3``, or ``B3/2`` where it has several."""
    return element if steps == 1 else f"{element}/{step + 1}"


@dataclass(frozen=True)
class TrialStep:
    """One step of a trial.

    name : what axes and people call it
    path : how the beam goes in its figure
    hold : what does not vary in it
    overrides : its settings in single patches, set by hand
    inset_mm : so far inside the patch's figure it stays
    text : it draws or fills this lettering in the middle of the patch, and not the patch's own figure, its letters
        drawn as `letters` says
    starting_dose : the dose expected to be right; dose_limits : least and greatest that is burned, None without limit
    """

    name: str
    process: Process
    path: Toolpath
    hold: Mapping[str, float]
    overrides: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    inset_mm: float = 0.0
    text: str | None = None
    letters: Letters = "strokes"
    starting_dose: float | None = None
    dose_limits: tuple[float | None, float | None] = (None, None)

    @property
    def fill(self) -> Filled | None:
        """How it fills; None where it only follows outlines."""
        if isinstance(self.path, FilledAndOutlined):
            return self.path.fill
        return self.path if isinstance(self.path, Filled) else None

    @property
    def part(self) -> Part:
        if isinstance(self.path, FilledAndOutlined):
            return "both"
        return "outline" if self.fill is None else "fill"

    @property
    def is_plain(self) -> bool:
        """Whether process, held settings and limits say all of it."""
        plain = self.name == self.process.key and self.path == toolpath_of(self.process)
        return plain and self.inset_mm == 0 and self.text is None

    def figure_in(self, patch: Figure, width_mm: float, height_mm: float) -> Figure:
        """Its figure in a patch of that figure and box.

        Raises
        ------
        InvalidInput : nothing of it lies so far inside
        """
        if self.text is None:
            return inset(patch, self.inset_mm)
        return _lettered(self.text, self.letters, width_mm, height_mm, self.inset_mm)

    def limits_document(self) -> dict[str, Any]:
        """Doses expected and allowed, and what was set by hand."""
        return {
            "overrides": {patch: dict(changed) for patch, changed in self.overrides.items()},
            f"starting_{self.process.dose_key}": self.starting_dose,
            self.process.dose_limit_key("floor"): self.dose_limits[0],
            self.process.dose_limit_key("ceiling"): self.dose_limits[1],
        }

    def document(self, varied: Sequence[str]) -> dict[str, Any]:
        """As it stands in a completed trial; `varied` are the settings on its axes."""
        fill, hold = self.fill, dict(self.hold)
        said: dict[str, Any] = {"name": self.name, "process": self.process.key, "part": self.part, "hold": hold}
        if fill is not None:
            if fill.sets:
                own = {key: hold.pop(key) for key in _OF_A_SET if key not in varied}
                said["hatch"] = [own, *(one.document() for one in fill.sets)]
            said["one_way"] = fill.one_way
        said["inset_mm"] = self.inset_mm
        if self.text is not None:
            said["text"] = self.text
            if self.letters != "strokes":
                said["letters"] = self.letters
        return {**said, **self.limits_document()}


_OF_A_SET = ("line_spacing_mm", "hatch_angle_deg")


def _lettered(text: str, letters: Letters, width_mm: float, height_mm: float, inset_mm: float) -> Figure:
    """Lettering in the middle of a box, so far from its rim."""
    width, height = width_mm - 2 * inset_mm, height_mm - 2 * inset_mm
    if min(width, height) <= 0:
        raise InvalidInput(f"There is no room for lettering {inset_mm:g} mm inside the patch.", "inset_mm", inset_mm)
    drawn = shaped(LETTERING, width, height, text, letters)
    return Figure([way + inset_mm for way in drawn.ways])


def read_overrides(
    fields: Fields, machine: Machine, process: Process, planned: set[str], known_patch: Any
) -> dict[str, Mapping[str, float]]:
    """Settings of single patches from their object in a trial; `known_patch` refuses what is no name of one."""
    overrides: dict[str, Mapping[str, float]] = {}
    for patch in fields.data:
        inner = Fields(fields.data[patch], fields.at(known_patch(patch, fields.at(str(patch)))))
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


def read_dose_limits(fields: Fields, process: Process) -> tuple[float | None, float | None]:
    floor_key, ceiling_key = process.dose_limit_key("floor"), process.dose_limit_key("ceiling")
    floor = fields.number(floor_key, None, above=0.0, at_most=GREATEST_DOSE)
    ceiling = fields.number(ceiling_key, None, above=0.0, at_most=GREATEST_DOSE)
    if floor is not None and ceiling is not None and floor > ceiling:
        raise InvalidInput(
            "The least dose is more than the greatest; nothing would burn.", fields.at(floor_key), floor, ceiling
        )
    return floor, ceiling


def read_starting_dose(fields: Fields, process: Process) -> float | None:
    dose: float | None = fields.number(f"starting_{process.dose_key}", None, above=0.0, at_most=GREATEST_DOSE)
    return dose


@dataclass(frozen=True)
class Sketched:
    """A step as far as it can be read without knowing its axes: what there is to hold stands in `fields`."""

    name: str
    process: Process
    path: Toolpath
    first_set: Mapping[str, float]
    inset_mm: float
    text: str | None
    letters: Letters
    fields: Fields


def _hatch_sets(fields: Fields) -> tuple[dict[str, float], tuple[HatchSet, ...]]:
    """What the first set says of the step's own lines, and the sets laid over those."""
    if not fields.is_said("hatch"):
        return {}, ()
    items = fields.items("hatch")
    if not 1 <= len(items) <= MOST_HATCH_SETS:
        raise InvalidInput(
            f"A step is filled with 1 to {MOST_HATCH_SETS} sets of lines, but {len(items)} came.",
            fields.at("hatch"),
            len(items),
            MOST_HATCH_SETS,
        )
    read = []
    for i, item in enumerate(items):
        one = Fields(item, f"{fields.at('hatch')}[{i}]", fields.defaulted)
        said = {
            "line_spacing_mm": one.number("line_spacing_mm", None, at_least=0.001, at_most=10.0),
            "hatch_angle_deg": one.number("hatch_angle_deg", None, at_least=-360.0, at_most=360.0),
        }
        one.finish()
        read.append({key: value for key, value in said.items() if value is not None})
    for i, over in enumerate(read[1:], start=1):
        if "line_spacing_mm" not in over:
            path = f"{fields.at('hatch')}[{i}].line_spacing_mm"
            raise InvalidInput("Lines laid over others say their own spacing.", path)
    return read[0], tuple(HatchSet(one["line_spacing_mm"], one.get("hatch_angle_deg", 0.0)) for one in read[1:])


def _path(fields: Fields, process: Process, sets: tuple[HatchSet, ...]) -> Toolpath:
    usual = "fill" if process.fills else "outline"
    part = fields.choice("part", PARTS, usual)
    if process.fills != (part != "outline"):
        doing = process.name.lower()
        raise InvalidInput(
            f"{doing.capitalize()} fills areas: its part is fill or both. Outlines are lines or cuts."
            if process.fills
            else f"{doing.capitalize()} follows outlines; what fills is a step of its own.",
            fields.at("part"),
            part,
        )
    if not process.fills:
        for key in ("hatch", "one_way"):
            if fields.data.get(key):
                raise InvalidInput("Only what is filled has lines that go one way or over one another.", fields.at(key))
        fields.known.update(("hatch", "one_way"))
        return toolpath_of(process)
    one_way = fields.flag("one_way", False)
    fill = Filled(sets, one_way)
    return FilledAndOutlined(fill) if part == "both" else fill


def sketch_steps(fields: Fields) -> list[Sketched]:
    """The steps of a trial in their order, as far as they can be read before its axes.

    Raises
    ------
    InvalidInput : there are none or too many, or two have one name
    """
    items = fields.items("steps")
    if not 1 <= len(items) <= MOST_STEPS:
        raise InvalidInput(
            f"A trial takes one to {MOST_STEPS} steps, but {len(items)} came.",
            fields.at("steps"),
            len(items),
            MOST_STEPS,
        )
    steps: list[Sketched] = []
    for i, item in enumerate(items):
        one = Fields(item, f"{fields.at('steps')}[{i}]", fields.defaulted)
        process = PROCESSES[one.choice("process", tuple(PROCESSES))]
        taken = {step.name for step in steps}
        usual = next(
            name for name in (process.key, *(f"{process.key} {n}" for n in range(2, MOST_STEPS + 2)))
            if name not in taken
        )  # fmt: skip
        name = one.text("name", usual, longest=40, empty=False).strip()
        if name in taken:
            raise InvalidInput(f"Two steps are called {quoted(name)}.", one.at("name"), name)
        first_set, sets = _hatch_sets(one)
        text = one.text("text", longest=40, empty=False) if one.is_said("text") else None
        letters = read_letters(one, text, process.fills)
        inset_mm = one.number("inset_mm", 0.0, at_least=0.0, at_most=1000.0)
        steps.append(Sketched(name, process, _path(one, process, sets), first_set, inset_mm, text, letters, one))
    return steps
