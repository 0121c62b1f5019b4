"""Placing by eye over a live link: the outline nudged while it goes round, and zero put where the head stands."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from functools import partial
from typing import Any

import numpy as np

from rezept.actions.commands.exporting import freeze_latest
from rezept.actions.commands.growing import refuse_other_than_burned
from rezept.actions.commands.planning import change_draft
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.growing import pieceless
from rezept.actions.queries.previews import next_revision, plan_design
from rezept.actions.queries.today import today_of
from rezept.actions.running.live import (
    at_work,
    begin,
    on_plate,
    refuse_busy,
    refuse_other_than_holder,
    standing_of,
    standing_there,
    to_try_out,
)
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.live_run import LiveRun, Placing
from rezept.core.errors import InvalidInput, Refused, RezeptError
from rezept.core.plan import Plate
from rezept.core.plan.gate import Today, gate, gate_of_trace, refuse
from rezept.core.plan.growing import still_to_burn
from rezept.core.plan.place import nudged
from rezept.core.plan.traced import Outline
from rezept.formats.trace import round_to_send
from rezept.link.standing import status_at
from rezept.store import trials as trial_table
from rezept.store.trials import TrialRow

FARTHEST_MM = 1000.0
STAYS = "It stays where it is."


def show_outline(
    live: LiveBurns,
    by: Member,
    trial_id: int,
    edit: int,
    outline: Outline,
    at_machine: bool,
    mounted: int | None = None,
) -> LiveRun:
    """Go round the outline of the latest design at trace power until it is stopped; no burn is recorded, and where it
    was nudged to is kept."""
    trial, standing, revision, plate = to_try_out(live, by, trial_id, edit, at_machine, mounted)
    placing = Placing(trial["edit"], revision["design"], outline)
    run = begin(live, by, trial, "outline", plate, standing, None, outline)
    run.placing = placing
    run.to_keep = partial(_keep, live.shop, run, by)
    return run


def nudge(live: LiveBurns, by: Member, key: str, right_mm: float, up_mm: float) -> None:
    """Let the outline go round so far from where it does; the next round is there.

    Raises
    ------
    Refused : no outline goes round, the plate would leave the field, or what is burned of it would not lie there
    """
    require(by, "member", "burn")
    run = at_work(live, key)
    refuse_other_than_holder(run, by)
    placing = run.placing
    if placing is None:
        raise Refused("Only the outline can be nudged: what burns stays where it is.", "key")
    for path, value in (("right_mm", right_mm), ("up_mm", up_mm)):
        if not abs(value) <= FARTHEST_MM:
            raise InvalidInput(f"It is nudged by {FARTHEST_MM:g} mm at most.", path, value, FARTHEST_MM)
    with placing.lock:
        before = live.plate_of(key)
        design = _nudged(placing.design, before, right_mm, up_mm)
        with live.shop.database.reading() as db:
            trial = trial_table.trial(db, run.trial_id)
            plate = still_to_burn(_planned_anew(db, live.shop, trial, placing, design))
            _refuse_elsewhere(plate, before, placing.outline, today_of(db, trial))
        placing.design = design
        live.now_burns(key, plate)
        lines = [line.decode("ascii") for line in round_to_send(plate, placing.outline)]
        live.send(key, {"do": "instead", "part": run.parts[0].name, "lines": lines})
        run.nudge((run.nudged[0] + right_mm, run.nudged[1] + up_mm), partial(on_plate, plate))


def _nudged(design: Mapping[str, Any], plate: Plate, right_mm: float, up_mm: float) -> dict[str, Any]:
    """The design whose plate lies so far from where it did."""
    trial = nudged(plate.trial, right_mm, up_mm, pieceless(design))
    changed: dict[str, Any] = {"zero": trial.zero.document()}
    if trial.place != plate.trial.place:
        changed = {"place": dict(vars(trial.place))}
    return {**design, **changed}


def _planned_anew(
    db: sqlite3.Connection, shop: Shop, trial: TrialRow, placing: Placing, design: Mapping[str, Any]
) -> Plate:
    if trial["edit"] != placing.edit:
        raise Refused("Somebody has changed the plan since the outline began. Stop it, and show it again.", "edit")
    plate = plan_design(db, shop, trial, next_revision(trial_table.latest_number(db, trial["id"])), design)
    refuse_other_than_burned(db, trial, design, plate)
    return plate


def _refuse_elsewhere(plate: Plate, before: Plate, outline: Outline, today: Today) -> None:
    """Raise `Refused` where a nudged plate would be another one, or is somewhere the machine must not go."""
    ours, theirs = plate.elements.boxes, before.elements.boxes
    if ours.shape != theirs.shape or not np.allclose(ours, theirs, atol=1e-6):
        raise Refused(f"There it would be fitted to the piece anew; lay it there in Plan. {STAYS}", "fit")
    refuse([one for one in gate(plate, today, "stream") if one.warning.kind == "field"], so=STAYS)
    refuse(gate_of_trace(plate, today, "stream", outline), so=STAYS)


def _keep(shop: Shop, run: LiveRun, began_by: Member) -> None:
    """Once the outline has stopped, the plan is what it was nudged to, and fixed, so that the burn begins there."""
    placing = run.placing
    if placing is None or run.nudged == (0.0, 0.0):
        return
    by = run.holder or began_by
    try:
        _plan_so(shop, by, run.trial_id, placing.edit, placing.design)
    except RezeptError as error:
        run.say(f"where it was nudged to could not be kept: {error.sentence}")
    else:
        run.say("the plate is planned there now")


def zero_here(live: LiveBurns, by: Member, trial_id: int, edit: int, at_machine: bool, mounted: int | None) -> None:
    """Let the program count from where the head stands now: its zero lies there, whatever the machine's is.

    Raises
    ------
    Refused : it has no live link, is at work, does not answer, has stopped itself, or is a galvo
    """
    require(by, "member", "burn")
    standing_there(at_machine)
    shop = live.shop
    with shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        standing = standing_of(db, trial, mounted)
        design = trial_table.latest_revision(db, trial_id)["design"]
    machine = standing.today.machine
    if machine.motion == "galvo":
        raise Refused(f"{machine.name} has no head that is moved: its zero is the middle of its field.", "machine")
    refuse_busy(live, standing.machine_id, machine.name)
    status = status_at(standing.url)
    if status.state != "idle":
        raise Refused(f"{machine.name} does not rest: it says {status.state}. See to it first.", "machine")
    zero = {**(design.get("zero") or {}), "x_mm": status.x_mm, "y_mm": status.y_mm}
    _plan_so(shop, by, trial_id, edit, {**design, "zero": zero})


def _plan_so(shop: Shop, by: Member, trial_id: int, edit: int, design: Mapping[str, Any]) -> None:
    """Keep a design and fix it, so that a burn may begin at once."""
    change_draft(shop, by, trial_id, edit, design, {})
    freeze_latest(shop, by, trial_id, edit + 1)
