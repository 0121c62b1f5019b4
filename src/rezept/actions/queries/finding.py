"""What a plate means, with all others of its material, process and head: models, candidates, the next array, a map."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.actions.open_shop import Shop
from rezept.actions.queries.observed import Observed, measured
from rezept.actions.queries.proofs import crowded, proofs_of, with_settings
from rezept.actions.queries.taps import taps_of
from rezept.core.colour import read_hex
from rezept.core.dose import area_dose, power_w
from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.findings.candidates import Aim, Candidate, seconds_for
from rezept.core.findings.choices import LEAST_PIECE, MOST_PIECE, Wanted, Wish
from rezept.core.findings.decision import Decision, aims_of, can_be_bounded, can_be_wanted, decide, is_ordered
from rezept.core.findings.depth_law import FEWEST, DepthLaw, depth_words, fit_depth
from rezept.core.findings.from_readings import ground_lightness
from rezept.core.findings.next_array import NextArray
from rezept.core.findings.observations import Observations, joined
from rezept.core.findings.ordered_aims import OrderedAims
from rezept.core.findings.outcome_map import Along, OutcomeMap, maps_of
from rezept.core.findings.trade import Trade, trade_of, trade_of_mark
from rezept.core.names import trial_name
from rezept.core.parameters import parameter
from rezept.core.scales import SCALES, Scale
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table
from rezept.store.trials import TrialRow

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
    wanted: Wanted

    def candidate(self, aim: str) -> Candidate | None:
        return next((one for one in self.decision.candidates if one.aim == aim), None)


def _pairs(text: str | None, path: str) -> dict[str, float]:
    """``name=value,name=value`` as names with their numbers."""
    found = {}
    for part in text.split(",") if text else []:
        key, _, value = part.partition("=")
        try:
            found[key] = float(value)
        except ValueError as error:
            raise InvalidInput("This is said as name=value, with commas between.", path, text) from error
    return found


def _bound(scale: Scale) -> dict[str, Any]:
    """A bound as it is asked for."""
    name = scale.name.capitalize()
    hints = {"degrees": f"{scale.low:g} to {scale.high:g}", "length": scale.unit, "yes": ""}
    return {
        "key": scale.key,
        "label": f"No {scale.name}"
        if scale.kind == "yes"
        else f"{name} at {'least' if scale.more_is_better else 'most'}",
        "hint": hints[scale.kind],
        "is_flag": scale.kind == "yes",
    }


def read_wish(document: Any) -> tuple[Wish, Wanted]:
    """What somebody wishes, from a document: `power_at_most_pct`, `bounds` of what is read (`char=1,kerf_mm=0.2`),
    `piece_mm`, and what a mark shall be: `lightness`, `depth_mm`, `depth_off_mm`, `colour`."""
    fields = Fields(document)
    power = fields.number("power_at_most_pct", None, above=0.0, at_most=100.0)
    bounds = {}
    for key, value in _pairs(fields.text("bounds", None, longest=200), "bounds").items():
        if key not in SCALES:
            raise InvalidInput(f"{quoted(key)} is nothing that is read.", "bounds", key)
        bounds[key] = SCALES[key].checked(value, "bounds")
    wish = Wish(
        at_most={} if power is None else {"power_pct": power},
        outcome_bounds=bounds,
        piece_mm=fields.number("piece_mm", None, at_least=LEAST_PIECE, at_most=MOST_PIECE),
    )
    colour = fields.text("colour", None, longest=7)
    wanted = Wanted(
        lightness=fields.number("lightness", None, at_least=0.0, at_most=100.0),
        depth_mm=fields.number("depth_mm", None, above=0.0, at_most=SCALES["depth_mm"].high),
        depth_off_mm=fields.number("depth_off_mm", None, above=0.0, at_most=SCALES["depth_mm"].high),
        lab=None if colour is None else read_hex(colour, "colour"),
    )
    fields.finish()
    return wish, wanted


def _trial_of(db: sqlite3.Connection, known: Observed) -> TrialRow:
    return trial_table.trial(db, known.burn["trial_id"])


def find(db: sqlite3.Connection, burn_id: int, wish: Wish, wanted: Wanted, step: int | None = None) -> Finding:
    """What a burn means together with the latest others of the same material, process and head.

    step : which of several steps it is about, from 1; None: what the trial set out to do. One that works its ground
        with others says nothing of other plates.
    """
    burn = measured(db, burn_id, step)
    trial = trial_table.trial(db, burn.burn["trial_id"])
    # What was found on a roller says nothing of a sheet, nor what was sanded of one that was not.
    lay, treatment = burn.burn["lay"], burn.burn["treatment"]
    thing = trial["material_id"], trial["head_id"], burn.step.process.key, lay, burn.burn["stack_of"]
    alike = burn_table.read_burns(db, *thing, treatment, MOST_PLATES) if burn.step.alone else []
    others = [measured(db, other, of_step) for other, of_step in alike if other != burn_id]
    # Work that lies close heats up: what it says holds for it, and a lonely coupon says nothing of it.
    close = crowded(trial, burn)
    every = [burn, *(one for one in others if crowded(_trial_of(db, one), one) == close)]
    plates = {one.burn["id"]: trial_name(_trial_of(db, one)["number"]) for one in every}
    seen = joined([one.seen for one in every])
    process = burn.plate.trial.process
    named = {"darkness": wanted.lightness, "depth": wanted.depth_mm, "colour": wanted.lab}
    # What somebody asked for comes first.
    aims: list[Aim] = sorted(
        (aim for aim in aims_of(process) if aim not in named or named[aim] is not None),
        key=lambda aim: aim not in named,
    )
    decision = decide(
        seen,
        burn.plate.trial.machine,
        aims=aims,
        wish=wish,
        ground=ground_lightness(burn.plate),
        wanted=wanted,
        taps=taps_of(db, *thing) if is_ordered(process) and burn.step.alone else (),
    )
    return Finding(burn, plates, seen, decision, wish, wanted)


@dataclass(frozen=True)
class Slice:
    """A setting the plate's own maps do not vary and other plates do: its values, and which of them is looked at."""

    parameter: str
    values: tuple[float, ...]
    at: float

    def document(self) -> dict[str, Any]:
        return {"parameter": self.parameter, "values": list(self.values), "at": self.at}


def read_slice(text: str | None) -> dict[str, float]:
    """Values of settings somebody looks at, such as ``passes=2,air_level=1``."""
    return {key: parameter(key, "slice").checked(value, "slice") for key, value in _pairs(text, "slice").items()}


def _slices(found: Finding, looked_at: Mapping[str, float], held: Mapping[str, float]) -> list[Slice]:
    aims = found.decision.aims
    own = set(found.burn.plate.trial.varied)
    sets = () if aims is None else aims.choices.held
    slices = []
    for key in dict.fromkeys(key for one in sets for key in one if key not in own):
        values = tuple(sorted({one[key] for one in sets if key in one}))
        if len(values) > 1:
            wanted = looked_at.get(key, held.get(key, values[0]))
            slices.append(Slice(key, values, min(values, key=lambda value: abs(value - wanted))))
    return slices


def _place_mm(maps: Sequence[OutcomeMap], candidate: Candidate) -> list[float] | None:
    """Where a candidate lies on the plate; None where that is off its maps, or it has other settings beside."""
    for one in maps:
        place = one.place_of(candidate.settings)
        if place is not None:
            return [round(value, 3) for value in place]
    return None


def finding(
    shop: Shop, burn_id: int, document: Any, looked_at: str | None = None, step: int | None = None
) -> dict[str, Any]:
    """What a plate means, as its page shows it; `step` as in `find`.

    looked_at : the slice to show where more than the plate's own settings vary
    """
    wish, wanted = read_wish(document)
    at = read_slice(looked_at)
    with shop.database.reading() as db:
        return _page(find(db, burn_id, wish, wanted, step), at, proofs_of(db, burn_id))


def _page(found: Finding, looked_at: Mapping[str, float], proofs: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    decision, plate = found.decision, found.burn.plate
    # The maps lie where the plate does: whatever it does not vary is as it was burned, unless somebody looks elsewhere.
    held = {key: float(np.median(column)) for key, column in plate.judged.settings.items()}
    slices = _slices(found, looked_at, held)
    held |= {one.parameter: one.at for one in slices}
    maps = () if decision.aims is None else maps_of(plate, decision.aims, held)
    fastest = found.candidate("fastest")
    in_steps = decision.aims if isinstance(decision.aims, OrderedAims) else None
    trade = _trade(decision, fastest)
    following = decision.next
    depth = _Depth.of(found)
    return {
        "plates": list(found.plates.values()),
        "candidates": [
            {
                **one.document(),
                # What is burned in rounds is decided by its own plate alone, and takes all of them.
                "seconds": round(one.seconds * plate.trial.rounds, 2),
                "place_mm": _place_mm(maps, one),
                "depth": depth.words(one.settings) if depth else [],
                "shapes": with_settings(proofs, one.settings),
            }
            for one in decision.candidates
        ],
        "depth": None if depth is None else depth.of_deepest(),
        "next": None
        if following is None
        else {
            "axes": None if following.axes is None else list(following.axes),
            "listed": None if following.listed is None else [{**following.hold, **one} for one in following.listed],
            "on": following.on,
            "why": following.why,
            "box_mm": _box_mm(maps, following),
        },
        "can_be_wanted": list(can_be_wanted(found.seen)),
        "can_be_bounded": [_bound(SCALES[key]) for key in can_be_bounded(found.seen)],
        "questions": [*decision.questions, *_depth_wanted(found, depth)],
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
        "holds_from": None if in_steps is None else in_steps.enough,
        "slices": [one.document() for one in slices],
        "maps": [
            {**one.document(), "same_dose_mm": [] if fastest is None else _same_dose_mm(one, fastest)} for one in maps
        ],
        "unit": 100.0 if found.wish.piece_mm is None else found.wish.piece_mm,
    }


@dataclass(frozen=True)
class _Depth:
    """How deep an engraving gets, pass by pass, by all that was read of it.

    over : by how much all lines of a pass are more dose than its own spacing says, where sets lie over one another
    """

    found: Finding
    law: DepthLaw
    over: float

    @classmethod
    def of(cls, found: Finding) -> _Depth | None:
        """None where it takes nothing away, or too little was read."""
        seen = found.seen
        if not (seen.process.fills and seen.process.takes_away) or "depth_mm" not in seen.others:
            return None
        rows = np.array([state == "burned" for state in seen.state], bool)
        passes = _all_passes(found)
        law = fit_depth(seen.dose / passes, passes, np.where(rows, seen.others["depth_mm"], np.nan))
        if law is None:
            return None
        own = _pass_dose(found, {key: column[rows] for key, column in seen.settings.items()}) * passes[rows]
        return cls(found, law, float(np.median(seen.dose[rows] / own)))

    def words(self, settings: Mapping[str, float]) -> list[str]:
        wish, process = self.found.wish, self.found.seen.process
        one_pass = {**settings, "passes": 1.0}
        dose = self.over * float(_pass_dose(self.found, {key: np.array([value]) for key, value in one_pass.items()})[0])
        seconds = self.over * float(seconds_for(process, one_pass, wish.length))
        size, in_rounds = f"{wish.length:g} mm²", self.found.burn.plate.trial.rounds > 1
        return depth_words(self.law, dose, self.found.wanted.depth_mm, seconds, size, in_rounds)

    def of_deepest(self) -> dict[str, Any]:
        """What there is to say of the patch that got deepest."""
        seen = self.found.seen
        row = int(np.nanargmax(seen.others["depth_mm"]))
        return {"patch": seen.element[row], "words": self.words(seen.settings_of(row)), "read": self.law.read}


def _all_passes(found: Finding) -> Floats:
    """``(n,)`` how often the beam went over each, in all rounds: what is burned in rounds stands alone in its table."""
    plate, seen = found.burn.plate, found.seen
    if plate.trial.rounds == 1:
        return seen.settings.get("passes", np.ones(len(seen)))
    return np.asarray(np.sum([plate.steps[number].settings["passes"] for number in plate.judged_numbers], axis=0))


def _pass_dose(found: Finding, settings: Mapping[str, Floats]) -> Floats:
    """``(n,)`` J/mm2 of one pass of its own lines."""
    power = power_w(found.burn.plate.trial.machine.rated_power_w, settings["power_pct"])
    spacing = settings.get("line_spacing_mm", np.array(0.1))
    return area_dose(power, settings["speed_mm_s"], spacing)


def _depth_wanted(found: Finding, depth: _Depth | None) -> list[str]:
    """What is missing before it can be said how deep a pass goes."""
    process = found.seen.process
    if depth is not None or not (process.fills and process.takes_away):
        return []
    return [
        f"How deep a pass goes shows once the depth of {FEWEST} patches is measured, of different passes: type it in"
        " Read."
    ]


def _trade(decision: Decision, fastest: Candidate | None) -> Trade | None:
    """What it costs: of what comes out in steps along all that holds, of a mark along what is as the first choice."""
    if isinstance(decision.aims, OrderedAims):
        return None if fastest is None else trade_of(decision.aims, fastest)
    if decision.aims is None or not decision.candidates:
        return None
    return trade_of_mark(decision.aims, decision.candidates[0])


def _box_mm(maps: Sequence[OutcomeMap], following: NextArray) -> list[float] | None:
    """Lower left and upper right of the next array on the plate, as far as it lies on one of its maps."""
    if following.axes is None:
        return None
    ranges = {axis["parameter"]: (min(axis["values"]), max(axis["values"])) for axis in following.axes}
    ranges |= {key: (value, value) for key, value in following.hold.items() if key not in ranges}
    for one in maps:
        ends = [_cut_off(along, ranges.get(along.parameter)) for along in (one.x, one.y)]
        beside = any(low > value + 1e-9 or high < value - 1e-9 for key, value in one.held.items()
                     for low, high in [ranges.get(key, (value, value))])  # fmt: skip
        if not beside and all(ends):
            (left, right), (bottom, top) = (end for end in ends if end is not None)
            return [round(value, 3) for value in (left, bottom, right, top)]
    return None


def _cut_off(along: Along, ends: tuple[float, float] | None) -> tuple[float, float] | None:
    """Where a range begins and ends on an edge, as much of it as lies there."""
    low, high = float(along.setting.min()), float(along.setting.max())
    if ends is None or ends[1] < low or ends[0] > high:
        return None
    if low == high:
        return float(along.mm.min()), float(along.mm.max())
    places = [along.place(min(max(end, low), high)) for end in ends]
    first, *_, last = sorted(place for place in places if place is not None)
    return first, last


def _same_dose_mm(drawn: OutcomeMap, candidate: Candidate) -> list[list[float]]:
    """Where settings have the dose of a candidate: the speed goes as the power does."""
    edge = next((along for along in (drawn.x, drawn.y) if along.parameter == "power_pct"), None)
    if edge is None or {drawn.x.parameter, drawn.y.parameter} != {"power_pct", "speed_mm_s"}:
        return []
    line = []
    for power in np.linspace(edge.setting.min(), edge.setting.max(), 40).tolist():
        speed = candidate.settings["speed_mm_s"] * power / candidate.settings["power_pct"]
        place = drawn.place_of({**candidate.settings, "power_pct": power, "speed_mm_s": speed})
        if place is not None:
            line.append([round(value, 3) for value in place])
    return line if np.ptp(edge.setting) > 0 else []
