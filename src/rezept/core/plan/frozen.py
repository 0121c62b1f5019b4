"""A plate read from its document: what was burned is what the document says, whatever today's planner would do."""

from __future__ import annotations

from typing import cast

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.parameters import PARAMETERS, parameter
from rezept.core.path.figure import Figure
from rezept.core.plan.drawn import BASELINE_KEYS, NO_LINES, Drawn
from rezept.core.plan.layout import Text
from rezept.core.plan.marks import Mark
from rezept.core.plan.order import Cooling
from rezept.core.plan.patches import patch_figure
from rezept.core.plan.plate import FIGURE, FORMAT, LEVELS, VERSION, Plate, Warning
from rezept.core.plan.trial import Trial, read_trial

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


def _figure(fields: Fields, trial: Trial) -> Figure:
    """The figure of all patches; of a plate that does not say it, the one its shape has."""
    if "figures" not in fields.data:
        return patch_figure(trial.patch)
    figures = _inner(fields, "figures")
    if len(figures) != 1:
        raise InvalidInput("This Rezept burns one figure on a plate; a newer one made this file.", "figures")
    one = figures[0]
    one.choice("id", (FIGURE,))
    ways = [_points(way, f"{one.at('ways')}[{i}]", 2) for i, way in enumerate(one.items("ways"))]
    one.finish()
    if not ways:
        raise InvalidInput("A figure has a way.", one.at("ways"))
    return Figure(ways)


def _columns(patches: list[Fields], trial: Trial) -> dict[str, Floats]:
    """``(n,)`` of every setting; all patches have the same ones."""
    rows: list[dict[str, float]] = []
    for patch in patches:
        settings = _settings(patch.inner("settings"))
        if rows and list(settings) != list(rows[0]):
            raise InvalidInput("All patches of a plate have the same settings.", patch.at("settings"))
        if "steps" in patch.data:
            steps = _inner(patch, "steps")
            if len(steps) != 1:
                raise InvalidInput("This Rezept burns one step; a newer one made this file.", patch.at("steps"))
            steps[0].choice("process", (trial.process.key,))
            if dict(steps[0].take("settings")) != dict(patch.data["settings"]):
                raise InvalidInput("A patch of one step has that step's settings.", patch.at("settings"))
            steps[0].finish()
        if patch.take("figure", FIGURE) != FIGURE:
            raise InvalidInput("There is no such figure.", patch.at("figure"), patch.data["figure"])
        rows.append(settings)
    for key in ("speed_mm_s", "power_pct", "passes"):
        if key not in rows[0]:
            raise InvalidInput(f"{PARAMETERS[key].name} is missing.", patches[0].at(f"settings.{key}"))
    return {key: np.array([row[key] for row in rows]) for key in rows[0]}


def _sized(patch: Fields, trial: Trial) -> None:
    for key, size in (("width_mm", trial.patch.width_mm), ("height_mm", trial.patch.height_mm)):
        if abs(patch.number(key, above=0.0) - size) > 1e-6:
            raise InvalidInput("All patches of a plate are as large as its trial says.", patch.at(key))


def _order(fields: Fields, ids: tuple[str, ...], burn: NDArray[np.bool_]) -> NDArray[np.int64]:
    at = {patch: i for i, patch in enumerate(ids)}
    order = []
    for i, patch in enumerate(fields.items("order")):
        if not isinstance(patch, str) or patch not in at:
            raise InvalidInput(f"There is no patch {quoted(patch)} on this plate.", f"order[{i}]", patch)
        order.append(at.pop(patch))
    if sorted(order) != np.flatnonzero(burn).tolist():
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
    if fields.take("format", None) != FORMAT:
        raise InvalidInput(f"This is not a plate file: its format should be {FORMAT!r}.", "format")
    if fields.take("version") != VERSION or isinstance(fields.data["version"], bool):
        raise InvalidInput("This plate has another version than 1; a newer Rezept may have made it.", "version")
    trial = read_trial(fields.take("trial"))
    if trial.piece is None:
        raise InvalidInput("A planned plate lies on a piece.", "trial.piece")
    width, height = _size(fields.inner("plate"))
    patches = _inner(fields, "patches")
    if not patches:
        raise InvalidInput("A plate has a patch.", "patches")
    burn = np.array([patch.flag("burn") for patch in patches])
    ids = _ids(patches)
    known = "drawn" in fields.data
    drawn = _drawn(fields) if known else ()
    by_hand = [patch.items("set_by_hand", []) for patch in patches]
    plate = Plate(
        trial=trial,
        width_mm=width,
        height_mm=height,
        ids=ids,
        row=np.array([patch.whole("row", at_least=1) for patch in patches], np.int64),
        column=np.array([patch.whole("column", at_least=1) for patch in patches], np.int64),
        block=_blocks(patches),
        figure=_figure(fields, trial),
        x_mm=_numbers(patches, "x_mm"),
        y_mm=_numbers(patches, "y_mm"),
        burn=burn,
        settings=_columns(patches, trial),
        dose=_numbers(patches, trial.process.dose_key, at_least=0.0),
        seconds=_numbers(patches, "seconds", at_least=0.0),
        corner_rise=_numbers(patches, "corner_rise", 1.0, at_least=0.0),
        corner_slowing_mm=_numbers(patches, "corner_slowing_mm", 0.0, at_least=0.0),
        order=_order(fields, ids, burn),
        cooling=_cooling(fields.inner("cooling", {})),
        texts=_texts(drawn),
        marks=_marks(fields),
        hang_hole=_hole(fields, trial),
        drawn=drawn,
        label_seconds=fields.number("label_seconds", 0.0, at_least=0.0),
        travel_seconds=fields.number("travel_seconds", 0.0, at_least=0.0),
        warnings=_warnings(fields),
        patch_warnings=tuple(_warnings(patch) for patch in patches),
        planned_by=fields.text("planned_by", UNSAID, longest=40),
        drawn_known=known,
    )
    for patch, hand in zip(patches, by_hand, strict=True):
        _sized(patch, trial)
        if list(trial.overrides.get(str(patch.data["id"]), ())) != hand:
            raise InvalidInput("What was set by hand is what the trial says.", patch.at("set_by_hand"))
        patch.finish()
    fields.known.update(("seconds", "figures", "drawn"))
    fields.finish()
    return plate
