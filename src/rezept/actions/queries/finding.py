"""What a plate means, with all others of its material, process and head: models, candidates, the next array, a map."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.actions.open_shop import Shop
from rezept.actions.queries.observed import Observed, measured
from rezept.actions.queries.taps import taps_of
from rezept.core.fields import Fields
from rezept.core.findings.candidates import Aim, Candidate
from rezept.core.findings.choices import LEAST_PIECE, MOST_PIECE, Wish
from rezept.core.findings.cut_aims import CutAims
from rezept.core.findings.decision import Decision, aims_of, decide
from rezept.core.findings.from_readings import ground_lightness
from rezept.core.findings.next_array import NextArray
from rezept.core.findings.observations import Observations, joined
from rezept.core.findings.outcome_map import OutcomeMap, map_of
from rezept.core.findings.trade import trade_of
from rezept.core.names import trial_name
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table

Floats = NDArray[np.float64]
# So many plates of one thing tell what there is to tell.
MOST_PLATES = 10


@dataclass(frozen=True)
class Finding:
    """A burn, the names of the plates it was decided with by their burns (itself first), what they mean, and what
    somebody wished."""

    burn: Observed
    plates: dict[int, str]
    seen: Observations
    decision: Decision
    wish: Wish
    wanted: float | None

    def candidate(self, aim: str) -> Candidate | None:
        return next((one for one in self.decision.candidates if one.aim == aim), None)


def read_wish(document: Any) -> tuple[Wish, float | None]:
    """What somebody wishes, from a document: `power_at_most_pct`, `char_at_most`, `piece_mm`, `lightness`."""
    fields = Fields(document)
    power = fields.number("power_at_most_pct", None, above=0.0, at_most=100.0)
    char = fields.number("char_at_most", None, at_least=0.0, at_most=3.0)
    wish = Wish(
        at_most={} if power is None else {"power_pct": power},
        outcome_at_most={} if char is None else {"char": char},
        piece_mm=fields.number("piece_mm", None, at_least=LEAST_PIECE, at_most=MOST_PIECE),
    )
    wanted: float | None = fields.number("lightness", None, at_least=0.0, at_most=100.0)
    fields.finish()
    return wish, wanted


def find(db: sqlite3.Connection, burn_id: int, wish: Wish, wanted: float | None) -> Finding:
    """What a burn means together with the latest others of the same material, process and head."""
    burn = measured(db, burn_id)
    trial = trial_table.trial(db, burn.burn["trial_id"])
    alike = burn_table.read_burns(db, trial["material_id"], trial["head_id"], trial["process"], MOST_PLATES)
    every = [burn, *(measured(db, other) for other in alike if other != burn_id)]
    plates = {one.burn["id"]: trial_name(trial_table.trial(db, one.burn["trial_id"])["number"]) for one in every}
    seen = joined([one.seen for one in every])
    process = burn.plate.trial.process
    aims: list[Aim] = [aim for aim in aims_of(process) if aim != "darkness" or wanted is not None]
    if wanted is not None and "darkness" in aims:
        aims.insert(0, aims.pop(aims.index("darkness")))
    decision = decide(
        seen,
        burn.plate.trial.machine,
        aims=aims,
        wish=wish,
        ground=ground_lightness(burn.plate),
        wanted=wanted,
        taps=taps_of(db, trial["material_id"], trial["head_id"], trial["process"]) if process.passes_through else (),
    )
    return Finding(burn, plates, seen, decision, wish, wanted)


def _place_mm(drawn: OutcomeMap | None, candidate: Candidate, held: Mapping[str, float]) -> list[float] | None:
    """Where a candidate lies on the map; None where that is off it, or it has other settings beside."""
    if drawn is None:
        return None
    varied = (drawn.x.parameter, drawn.y.parameter)
    if any(candidate.settings.get(key) != value for key, value in held.items() if key not in varied):
        return None
    x, y = (along.place(candidate.settings[along.parameter]) for along in (drawn.x, drawn.y))
    return None if x is None or y is None else [round(x, 3), round(y, 3)]


def finding(shop: Shop, burn_id: int, document: Any) -> dict[str, Any]:
    """What a plate means, as its page shows it."""
    wish, wanted = read_wish(document)
    with shop.database.reading() as db:
        return _page(find(db, burn_id, wish, wanted))


def _page(found: Finding) -> dict[str, Any]:
    decision, plate = found.decision, found.burn.plate
    # The map lies in the plane of the first candidate: whatever the plate does not vary is as that has it.
    held: dict[str, float] = dict(decision.candidates[0].settings) if decision.candidates else {}
    if not held and decision.aims is not None:
        choices = decision.aims.choices
        held = {**choices.held[0], "power_pct": float(choices.powers[-1]), "speed_mm_s": float(choices.speeds[0])}
    drawn = None if decision.aims is None else map_of(plate, decision.aims, held)
    fastest = found.candidate("fastest")
    trade = trade_of(decision.aims, fastest) if isinstance(decision.aims, CutAims) and fastest is not None else None
    following = decision.next
    return {
        "plates": list(found.plates.values()),
        "candidates": [{**one.document(), "place_mm": _place_mm(drawn, one, held)} for one in decision.candidates],
        "next": None
        if following is None
        else {
            "axes": None if following.axes is None else list(following.axes),
            "on": following.on,
            "why": following.why,
            "box_mm": _box_mm(drawn, following),
        },
        "questions": list(decision.questions),
        "look_again": [
            {
                "patch": one.element,
                "burn": int(found.seen.burn[one.row]),
                "plate": found.plates[int(found.seen.burn[one.row])],
                "here": int(found.seen.burn[one.row]) == found.burn.burn["id"],
                "why": one.why,
            }
            for one in decision.look_again
        ],
        "trade": None if trade is None else trade.words,
        "holds_mm": [] if trade is None or drawn is None else _line_mm(drawn, trade.powers, trade.speeds),
        "same_dose_mm": [] if fastest is None or drawn is None else _same_dose_mm(drawn, fastest),
        "map": None if drawn is None else drawn.document(),
        "unit": 100.0 if found.wish.piece_mm is None else found.wish.piece_mm,
    }


def _box_mm(drawn: OutcomeMap | None, following: NextArray) -> list[float] | None:
    """Lower left and upper right of the next array on the map, as far as it lies on it."""
    if drawn is None or following.axes is None:
        return None
    ranges = {axis["parameter"]: (min(axis["values"]), max(axis["values"])) for axis in following.axes}
    box: list[list[float]] = []
    for along in (drawn.x, drawn.y):
        ends = ranges.get(along.parameter)
        if ends is None:
            value = following.hold.get(along.parameter)
            ends = None if value is None else (value, value)
        if ends is None:
            return None
        low, high = float(along.setting.min()), float(along.setting.max())
        if ends[1] < low or ends[0] > high:
            return None
        places = [along.place(min(max(end, low), high)) for end in ends]
        box.append(sorted(place for place in places if place is not None))
    return [round(value, 3) for value in (box[0][0], box[1][0], box[0][-1], box[1][-1])]


def _line_mm(drawn: OutcomeMap, powers: Floats, speeds: Floats) -> list[list[float]]:
    """A curve of powers and speeds on the map, as far as it lies on it."""
    line = []
    for power, speed in zip(powers.tolist(), speeds.tolist(), strict=True):
        setting = {"power_pct": power, "speed_mm_s": speed}
        if {drawn.x.parameter, drawn.y.parameter} != set(setting):
            return []
        x, y = (along.place(setting[along.parameter]) for along in (drawn.x, drawn.y))
        if x is not None and y is not None:
            line.append([round(x, 3), round(y, 3)])
    return line


def _same_dose_mm(drawn: OutcomeMap, candidate: Candidate) -> list[list[float]]:
    """Where settings have the dose of a candidate: the speed goes as the power does."""
    edge = next((along for along in (drawn.x, drawn.y) if along.parameter == "power_pct"), None)
    if edge is None:
        return []
    powers = np.linspace(edge.setting.min(), edge.setting.max(), 40)
    return _line_mm(drawn, powers, candidate.settings["speed_mm_s"] * powers / candidate.settings["power_pct"])
