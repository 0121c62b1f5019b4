"""Observations from a readings file: a plate, what was read of it, and how it was burned."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.findings.observations import Burned, Observations, Outcome, observations_of
from rezept.core.parameters import read_settings
from rezept.core.plan import Plate, read_plate
from rezept.core.reading import FORMAT, PLACE_DOUBTFUL, SPOILING, VERSION
from rezept.core.scales import SCALES, darkness_to_lightness, lightness_unsure_by_eye, mark_of

# What photographs measure and a decision may go by.
MEASURED = ("lightness", "a", "b", "kerf_mm", "halo_mm", "contrast")
SCORED = tuple(SCALES)
_UNUSED = (
    "face", "by", "note", "ratio", "evenness_measured", "banding", "edge_mm",
    "open_front", "open_back", "open_outline", "outline_unsure", "bridge_mm", "soot_measured",
)  # fmt: skip
_LONGEST = 200
_TAGS = frozenset(key for key, scale in SCALES.items() if scale.kind == "yes")
# Where the photo is spoiled, what it measures says nothing.
_SPOILED = SPOILING | {PLACE_DOUBTFUL}


@dataclass(frozen=True)
class ReadPlate:
    """A readings file: its plate, and what it says."""

    plate: Plate
    seen: Observations


def ground_lightness(plate: Plate) -> float:
    """L* of the bare sheet, as far as it is known."""
    ground = plate.trial.material.ground_lab
    if ground is not None:
        return float(ground[0])
    return 30.0 if plate.trial.material.mark == "lighter" else 80.0


def read_readings(document: object, burn: int) -> ReadPlate:
    """A readings file; see `docs/formats/readings.md`. `burn` numbers it among others.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence
    """
    fields = Fields(document)
    fields.of_format("a readings file", FORMAT, VERSION)
    plate = read_plate(fields.take("plate"))
    if fields.is_said("step"):
        plate = plate.by_name(fields.text("step", longest=40))
    fields.items("faces")
    burned = Burned(
        burn,
        fields.text("at", "", longest=40)[:10],
        fields.text("lot", None, longest=_LONGEST, empty=False),
        fields.number("measured_mm", None, above=0.0, at_most=1000.0),
    )
    rows = [Fields(item, f"patches[{i}]") for i, item in enumerate(fields.items("patches"))]
    fields.finish()
    return ReadPlate(plate, _seen(plate, rows, burned))


def _seen(plate: Plate, rows: list[Fields], burned: Burned) -> Observations:
    process = plate.trial.process
    outcomes: dict[str, Outcome] = {}
    others: dict[str, dict[str, float]] = {}
    bare: set[str] = set()
    uncertain: set[str] = set()
    mixed: set[str] = set()
    received: dict[str, dict[str, float]] = {}
    unsure: dict[str, float] = {}
    known = set(plate.elements.ids)
    for row in rows:
        patch = row.text("id", longest=40)
        if patch not in known:
            raise InvalidInput(f"The plate has no patch {patch}.", row.at("id"), patch)
        known.remove(patch)
        if not row.flag("burned"):
            bare.add(patch)
        for flag, names in (("uncertain", uncertain), ("mixed", mixed)):
            if row.flag(flag, False):
                names.add(patch)
        measured_unsure = row.number("lightness_unsure", None, at_least=0.0)
        if measured_unsure is not None:
            unsure[patch] = measured_unsure
        confidence = row.number("confidence", None, at_least=0.0, at_most=1.0)
        values = {key: row.number(key, None) for key in (*SCORED, *MEASURED) if key in row.data}
        values = {key: value for key, value in values.items() if value is not None}
        for key in set(values) & set(SCALES):
            SCALES[key].checked(values[key], row.at(key))
        for tag in row.keys("tags", _TAGS, "anything that is noted of a patch", []):
            values[tag] = 1.0
        if set(row.items("flags", [])) & _SPOILED:
            values = {key: value for key, value in values.items() if key not in MEASURED}
        if "received" in row.data:
            received[patch] = read_settings(row.inner("received"))
        for key in _UNUSED:
            row.take(key, None)
        row.finish()
        if process.outcome in values:
            outcomes[patch] = Outcome(values[process.outcome], 0.0 if confidence is None else 1.0 - confidence)
        if process.outcome == "darkness" and "lightness" not in values and "darkness" in values:
            ground, mark = ground_lightness(plate), mark_of(values.get("turned"), plate.trial.material.mark)
            by_eye = darkness_to_lightness(values["darkness"], ground, mark)
            if not math.isnan(by_eye):
                values["lightness"] = by_eye
                unsure[patch] = lightness_unsure_by_eye(ground, mark)
        for key, value in values.items():
            others.setdefault(key, {})[patch] = value
    burned_plate = replace(plate, mixed=plate.mixed | mixed)
    seen = observations_of(burned_plate, outcomes, bare=bare, uncertain=uncertain, burned=burned, others=others)
    by_patch = np.array([unsure.get(name, 0.0) for name in seen.element])
    return _as_received(replace(seen, unsure={"lightness": by_patch}), received)


def _as_received(seen: Observations, received: Mapping[str, Mapping[str, float]]) -> Observations:
    """Settings as burned in place of those planned; the dose goes with power, passes and speed."""
    settings = {key: column.copy() for key, column in seen.settings.items()}
    for i, name in enumerate(seen.element):
        for key, value in received.get(name, {}).items():
            settings.setdefault(key, np.full(len(seen), np.nan))[i] = value
    dose = seen.dose.copy()
    for key, power in (("power_pct", 1), ("passes", 1), ("speed_mm_s", -1)):
        if key in settings and key in seen.settings:
            dose *= (settings[key] / seen.settings[key]) ** power
    return replace(seen, settings=settings, dose=dose)
