"""A plate read from its document: what was burned is what the document says, whatever today's planner would do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import cast

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.parameters import PARAMETERS, Settings, parameter
from rezept.core.path.figure import Figure
from rezept.core.plan.drawn import BASELINE_KEYS, NO_LINES, Drawn
from rezept.core.plan.elements import Elements, Step, work_of
from rezept.core.plan.layout import Text
from rezept.core.plan.marks import Mark
from rezept.core.plan.order import Cooling
from rezept.core.plan.plate import FORMAT, LEVELS, VERSION, Plate, Warning, figure_id
from rezept.core.plan.steps import part_name
from rezept.core.plan.trial import Trial, read_trial
from rezept.core.process import PROCESSES, Process

Floats = NDArray[np.float64]
KINDS = ("label", "mark", "outline")
WHEN = ("before_patches", "after_patches")
# A plate planned before plates said so themselves.
UNSAID = "unsaid"


def _inner(fields: Fields, key: str) -> list[Fields]:
    """The objects of a list, each with its path."""
    return [Fields(item, f"{fields.at(key)}[{i}]") for i, item in enumerate(fields.items(key))]


def _points(raw: object, path: str, depth: int) -> Floats:
    """Points ``(..., 2)`` of a list, all of them finite."""
    try:
        points = np.array(raw, float)
    except (TypeError, ValueError):
        points = np.zeros(0)
    if points.ndim != depth or points.shape[-1] != 2 or 0 in points.shape:
        raise InvalidInput("A way is a list of points [x, y] in mm.", path)
    if not np.isfinite(points).all():
        raise InvalidInput("A way has only finite numbers.", path)
    return points


def _warnings(fields: Fields) -> tuple[Warning, ...]:
    warnings = []
    for one in _inner(fields, "warnings"):
        warnings.append(
            Warning(
                one.text("kind"),
                one.choice("level", LEVELS),
                one.text("sentence", longest=2000),
                one.text("path"),
                one.number("value", None),
                one.number("limit", None),
            )
        )
        one.finish()
    return tuple(warnings)


def _settings(fields: Fields) -> dict[str, float]:
    return {
        row.key: row.checked(value, fields.at(row.key))
        for key, value in fields.data.items()
        for row in [parameter(key, fields.at(str(key)))]
    }


def _drawn(fields: Fields) -> tuple[Drawn, ...]:
    drawn = []
    for one in _inner(fields, "drawn"):
        settings = _settings(one.inner("settings"))
        for key in ("speed_mm_s", "power_pct", "passes"):
            if key not in settings:
                raise InvalidInput(f"{PARAMETERS[key].name} is missing.", one.at(f"settings.{key}"))
        ways = [_points(way, f"{one.at('ways')}[{i}]", 2) for i, way in enumerate(one.items("ways"))]
        lines = _points(one.take("lines"), one.at("lines"), 3) if one.items("lines") else NO_LINES
        if not ways and not len(lines):
            raise InvalidInput("Something drawn has ways or lines.", one.at("ways"))
        baseline = None
        if BASELINE_KEYS[0] in one.data:
            baseline = tuple(float(one.number(key)) for key in BASELINE_KEYS)
        drawn.append(
            Drawn(
                one.text("name"),
                one.choice("kind", KINDS),
                one.text("role"),
                settings,
                np.concatenate(ways) if ways else np.zeros((0, 2)),
                np.concatenate([np.arange(len(way)) == 0 for way in ways]) if ways else np.zeros(0, bool),
                lines,
                one.choice("when", WHEN) == "after_patches",
                cast("tuple[float, float, float] | None", baseline),
            )
        )
        one.finish()
    return tuple(drawn)


def _figures(fields: Fields, trial: Trial) -> dict[str, Figure]:
    """The figures of a plate by what they are called; of a plate that does not say any, the one its shape has."""
    if "figures" not in fields.data:
        return {figure_id(0): trial.patch.figure}
    figures = {}
    for one in _inner(fields, "figures"):
        name = one.text("id", longest=40, empty=False)
        if name in figures:
            raise InvalidInput("Two figures have one name.", one.at("id"), name)
        ways = [_points(way, f"{one.at('ways')}[{i}]", 2) for i, way in enumerate(one.items("ways"))]
        if not ways:
            raise InvalidInput("A figure has a way.", one.at("ways"))
        figures[name] = Figure(ways)
        one.finish()
    if not figures:
        raise InvalidInput("A plate has a figure.", "figures")
    return figures


def _which_figure(patches: list[Fields], figures: dict[str, Figure]) -> NDArray[np.int64]:
    number = {name: i for i, name in enumerate(figures)}
    which = []
    for patch in patches:
        name = patch.take("figure", next(iter(figures)))
        if not isinstance(name, str) or name not in number:
            raise InvalidInput("There is no such figure.", patch.at("figure"), name)
        which.append(number[name])
    return np.array(which, np.int64)


def _columns(rows: list[Fields]) -> Settings:
    """``(n,)`` of every setting of a step, from its settings in each element; all of them have the same ones."""
    read: list[dict[str, float]] = []
    for row in rows:
        settings = _settings(row)
        if read and list(settings) != list(read[0]):
            raise InvalidInput("All patches of a plate have the same settings.", row.path)
        read.append(settings)
    for key in ("speed_mm_s", "power_pct", "passes"):
        if key not in read[0]:
            raise InvalidInput(f"{PARAMETERS[key].name} is missing.", rows[0].at(key))
    return {key: np.array([row[key] for row in read]) for key in read[0]}


def _numbered_figures(rows: list[Fields], dose_key: str) -> tuple[Floats, ...]:
    """Dose, seconds and corners of a step in every element; the corners were not always said."""
    return (
        _numbers(rows, dose_key, at_least=0.0),
        _numbers(rows, "seconds", at_least=0.0),
        _numbers(rows, "corner_rise", 1.0, at_least=0.0),
        _numbers(rows, "corner_slowing_mm", 0.0, at_least=0.0),
    )


def _steps(patches: list[Fields], trial: Trial, figures: dict[str, Figure]) -> tuple[Step, ...]:
    """The steps of all elements; where there is one, its figures stand with the element."""
    judged = own = None
    if "settings" in patches[0].data:
        judged = _columns([patch.inner("settings") for patch in patches])
        own = _numbered_figures(patches, trial.process.dose_key)
        if all("steps" not in patch.data for patch in patches):
            return (Step(work_of(trial.process), judged, *own),)
    by_patch = [_inner(patch, "steps") for patch in patches]
    count, planned = len(by_patch[0]), trial.steps * trial.rounds
    if len(planned) != count and len(trial.steps) * trial.rounds > 1:
        raise InvalidInput("A patch has the steps of its trial, round after round.", patches[0].at("steps"))
    steps = []
    for number in range(count):
        if any(len(one) != count for one in by_patch) or count == 0:
            raise InvalidInput("All patches of a plate have the same steps.", patches[0].at("steps"))
        rows = [one[number] for one in by_patch]
        process = _process(rows)
        work = work_of(process)
        if len(planned) == count:
            if process is not planned[number].process:
                raise InvalidInput("A step has the process its trial says.", rows[0].at("process"), process.key)
            work = replace(work, path=planned[number].path)
            by_hand = planned[number].overrides
        else:
            by_hand = {}
        _same_by_hand(patches, rows, by_hand)
        if any("figure" in row.data for row in rows):
            work = replace(work, figure=_which_figure(rows, figures))
        settings = _columns([row.inner("settings") for row in rows])
        only = own if count == 1 else None
        steps.append(Step(work, settings, *(only or _numbered_figures(rows, process.dose_key))))
        for row in rows:
            row.finish()
    if judged is not None:
        _same_as_judged(patches, judged, steps, trial)
    for patch in patches:
        # The sum of what its steps take.
        patch.known.add("seconds")
    return tuple(steps)


def _process(rows: list[Fields]) -> Process:
    keys = {row.choice("process", tuple(PROCESSES)) for row in rows}
    if len(keys) > 1:
        raise InvalidInput("A step has one process in all patches.", rows[0].at("process"))
    return PROCESSES[keys.pop()]


def _same_by_hand(patches: list[Fields], rows: list[Fields], overrides: Mapping[str, Mapping[str, float]]) -> None:
    """Raise where a step says that other settings were set by hand than its trial does."""
    for patch, row in zip(patches, rows, strict=True):
        if "set_by_hand" in row.data and row.items("set_by_hand") != list(overrides.get(str(patch.data["id"]), ())):
            raise InvalidInput("What was set by hand is what the trial says.", row.at("set_by_hand"))


def _same_as_judged(patches: list[Fields], judged: Settings, steps: list[Step], trial: Trial) -> None:
    """Raise where an element says of itself another setting than the step by which it is judged."""
    deciding = next((step for step in reversed(steps) if step.process is trial.process), None)
    if deciding is None:
        raise InvalidInput("One of the steps is of the trial's own process.", patches[0].at("steps"))
    for i, patch in enumerate(patches):
        if deciding.settings_of(i) != {key: float(column[i]) for key, column in judged.items()}:
            raise InvalidInput("A patch has the settings of the step it is judged by.", patch.at("settings"))


def _order(fields: Fields, ids: tuple[str, ...], burn: NDArray[np.bool_], steps: int) -> NDArray[np.int64]:
    named = {part_name(name, step, steps): (i, step) for i, name in enumerate(ids) for step in range(steps)}
    order = []
    for i, part in enumerate(fields.items("order")):
        if not isinstance(part, str) or part not in named:
            raise InvalidInput(f"There is no patch {quoted(part)} on this plate.", f"order[{i}]", part)
        order.append(named.pop(part))
    if sorted(order) != [(i, step) for i in np.flatnonzero(burn).tolist() for step in range(steps)]:
        raise InvalidInput("The order names every patch that burns, once.", "order")
    return np.array(order, np.int64)


def _cooling(fields: Fields) -> Cooling:
    cooling = Cooling(
        fields.whole("least_apart", None), fields.whole("best_apart", None), fields.number("shortest_wait_s", None)
    )
    fields.finish()
    return cooling


def _marks(fields: Fields) -> tuple[Mark, ...]:
    marks = []
    for one in _inner(fields, "marks") if "marks" in fields.data else []:
        kind = one.choice("kind", ("corner", "distinct", "qr"))
        marks.append(Mark(kind, one.number("x_mm"), one.number("y_mm"), one.number("size_mm", above=0.0)))
        one.finish()
    return tuple(marks)


def _hole(fields: Fields, trial: Trial) -> tuple[float, float] | None:
    if fields.take("hang_hole", None) is None:
        return None
    hole = fields.inner("hang_hole")
    if abs(hole.number("size_mm") - trial.cut_out.hang_hole_mm) > 1e-6:
        raise InvalidInput("The hang hole is as large as the trial says.", hole.at("size_mm"))
    place = float(hole.number("x_mm")), float(hole.number("y_mm"))
    hole.finish()
    return place


def _blocks(patches: list[Fields]) -> NDArray[np.int64] | None:
    blocks = [patch.whole("block", None, at_least=1) for patch in patches]
    if all(block is None for block in blocks):
        return None
    if None in blocks:
        raise InvalidInput("Either all patches lie in blocks or none.", patches[blocks.index(None)].at("block"))
    return np.array(blocks, np.int64)


def _ids(patches: list[Fields]) -> tuple[str, ...]:
    ids = tuple(str(patch.text("id", longest=12, empty=False)) for patch in patches)
    if len(set(ids)) < len(ids):
        raise InvalidInput("Two patches have one name.", "patches")
    return ids


def _numbers(patches: list[Fields], key: str, *older: float, at_least: float | None = None) -> Floats:
    """A figure of every patch; `older` is what it is taken for in files of before there was such a key."""
    return np.array([patch.number(key, *older, at_least=at_least) for patch in patches], float)


def _sizes(patches: list[Fields], key: str) -> Floats:
    return np.array([patch.number(key, above=0.0) for patch in patches], float)


def _size(fields: Fields) -> tuple[float, float]:
    size = fields.number("width_mm", above=0.0), fields.number("height_mm", above=0.0)
    fields.finish()
    return size


def _texts(drawn: tuple[Drawn, ...]) -> tuple[Text, ...]:
    return tuple(Text(part.role, part.name, *part.baseline) for part in drawn if part.baseline is not None)


def read_plate(document: object) -> Plate:
    """A plate from its document; see `docs/formats/plate.md`. Nothing of it is planned again.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence
    """
    fields = Fields(document)
    fields.of_format("a plate file", FORMAT, VERSION)
    trial = read_trial(fields.take("trial"))
    if trial.piece is None:
        raise InvalidInput("A planned plate lies on a piece.", "trial.piece")
    width, height = _size(fields.inner("plate"))
    patches = _inner(fields, "patches")
    if not patches:
        raise InvalidInput("A plate has a patch.", "patches")
    burn = np.array([patch.flag("burn") for patch in patches])
    ids = _ids(patches)
    figures = _figures(fields, trial)
    steps = _steps(patches, trial, figures)
    known = "drawn" in fields.data
    drawn = _drawn(fields) if known else ()
    by_hand = [patch.items("set_by_hand", []) for patch in patches]
    plate = Plate(
        trial=trial,
        width_mm=width,
        height_mm=height,
        elements=Elements(
            ids=ids,
            row=np.array([patch.whole("row", at_least=1) for patch in patches], np.int64),
            column=np.array([patch.whole("column", at_least=1) for patch in patches], np.int64),
            block=_blocks(patches),
            figures=tuple(figures.values()),
            figure=_which_figure(patches, figures),
            x_mm=_numbers(patches, "x_mm"),
            y_mm=_numbers(patches, "y_mm"),
            width_mm=_sizes(patches, "width_mm"),
            height_mm=_sizes(patches, "height_mm"),
            burn=burn,
        ),
        steps=steps,
        order=_order(fields, ids, burn, len(steps)),
        cooling=_cooling(fields.inner("cooling", {})),
        texts=_texts(drawn),
        marks=_marks(fields),
        hang_hole=_hole(fields, trial),
        drawn=drawn,
        label_seconds=fields.number("label_seconds", 0.0, at_least=0.0),
        cut_seconds=fields.number("cut_seconds", 0.0, at_least=0.0),
        travel_seconds=fields.number("travel_seconds", 0.0, at_least=0.0),
        warnings=_warnings(fields),
        patch_warnings=tuple(_warnings(patch) for patch in patches),
        planned_by=fields.text("planned_by", UNSAID, longest=40),
        drawn_known=known,
    )
    for patch, hand in zip(patches, by_hand, strict=True):
        if len(steps) == 1 and list(trial.overrides.get(str(patch.data["id"]), ())) != hand:
            raise InvalidInput("What was set by hand is what the trial says.", patch.at("set_by_hand"))
        patch.finish()
    fields.known.update(("seconds", "figures", "drawn"))
    fields.finish()
    return plate
