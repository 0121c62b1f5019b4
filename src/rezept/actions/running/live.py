"""Burning live: start, watch, hold, stop, carry on and correct."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from rezept.actions.commands.burning import burn_of
from rezept.actions.commands.exporting import freeze_latest
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.today import today_of
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.live_run import LiveRun
from rezept.core.control import own_words
from rezept.core.errors import InvalidInput, Refused
from rezept.core.names import trial_name
from rezept.core.plan import Plate
from rezept.core.plan.again import only
from rezept.core.plan.by_hand import turned_to
from rezept.core.plan.clock import Slot, timetable
from rezept.core.plan.gate import Today, gate, gate_of_trace, judged_correction, refuse
from rezept.core.plan.growing import still_to_burn
from rezept.core.plan.moves import moves_of
from rezept.core.plan.place import from_program
from rezept.core.plan.traced import Outline
from rezept.core.wording import together
from rezept.formats.gcode import ProgramPart, program_parts
from rezept.formats.targets import refuse_unknown_lettering
from rezept.formats.trace import round_to_send
from rezept.link.stream import CORRECTION_STEP, CORRECTION_UNIT, in_force
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store import runs as run_table
from rezept.store import trials as trial_table
from rezept.store.equipment import HeadRow
from rezept.store.rows import Row
from rezept.store.trials import RevisionRow, TrialRow


def standing_there(at_machine: bool) -> None:
    """Raise `InvalidInput` where nobody says that they stand at the machine."""
    if not at_machine:
        raise InvalidInput("Nobody starts a laser from elsewhere: confirm that you stand at the machine.", "at_machine")


def _parts(plate: Plate, how: str, outline: Outline, today: Today) -> list[ProgramPart]:
    """What is streamed, once the gate has nothing against it."""
    refuse_unknown_lettering(plate)
    if how == "outline":
        refuse(gate_of_trace(plate, today, "stream", outline))
        return [ProgramPart("outline", "outline", round_to_send(plate, outline))]
    refuse(gate(plate, today, "stream"))
    return program_parts(plate, dark=how == "dark")


def _planned(plate: Plate, parts: Sequence[ProgramPart]) -> list[Slot]:
    """How long each part should take; the outline first as long as the ways of the plate."""
    slots = {slot.name: slot for slot in timetable(plate)}
    return [slots.get(part.name, Slot(part.name, part.kind, plate.travel_seconds)) for part in parts]


def refuse_busy(live: LiveBurns, machine_id: int, name: str) -> None:
    """Raise `Refused` where a machine is at work."""
    busy = live.busy(machine_id)
    if busy is not None:
        raise Refused(f"{name} is at work: {busy.title}.", "machine")


def begin(
    live: LiveBurns,
    by: Member,
    trial: TrialRow,
    how: str,
    plate: Plate,
    standing: Standing,
    record: Callable[[sqlite3.Connection, str, Sequence[Row]], tuple[int, int]] | None,
    outline: Outline = "frame",
) -> LiveRun:
    """Begin a run, or leave nothing behind: first the gate, the link, room for the log and a process; then, in one
    transaction, the records; only then is anything sent.

    record : writes burn and run into the records and returns their ids; None for what burns nothing
    outline : which, where that is shown
    """
    shop = live.shop
    parts = _parts(plate, how, outline, standing.today)
    slots = _planned(plate, parts)
    refuse_busy(live, standing.machine_id, plate.trial.machine.name)
    taken = live.take(standing.url, len(parts), record is not None)
    try:
        burn_id = run_id = None
        if record is not None:
            with shop.database.writing() as db:
                burn_id, run_id = record(db, taken.key, [slot.row for slot in slots])
    except BaseException:
        live.drop(taken)
        raise
    run = LiveRun(
        key=taken.key,
        trial_id=trial["id"],
        machine=plate.trial.machine,
        machine_id=standing.machine_id,
        title=trial_name(trial["number"]),
        how=how,
        burn_id=burn_id,
        parts=slots,
        holder=by,
        announce=shop.database.announce,
        now=shop.now,
        on_plate=partial(on_plate, plate),
        clock=live.clock,
    )
    live.go(taken, run, plate, parts, run_id)
    words = {"dark": "a dry run with the beam off", "outline": "the outline", "rest": "the rest", "again": "again"}
    run.say(f"{by.name} stands at the machine and starts {words.get(how, 'the plate')}")
    return run


def on_plate(plate: Plate, x_mm: float, y_mm: float) -> tuple[float, float]:
    """Where on a plate a place of its program lies."""
    x, y = from_program(np.array([x_mm, y_mm]), plate.trial, plate.width_mm, plate.height_mm).tolist()
    return x, y


@dataclass(frozen=True)
class Standing:
    """What a run is begun by: where its machine is reached, and the facts of today."""

    url: str
    machine_id: int
    today: Today


def standing_of(db: sqlite3.Connection, trial: TrialRow, mounted: int | None) -> Standing:
    """How a trial's machine stands, with the head on it that the plate is for.

    Raises
    ------
    Refused : it has no live link; InvalidInput : another head is on it, or nobody has looked
    """
    head = equipment_table.head(db, trial["head_id"])
    _is_mounted(head, [one for one in equipment_table.heads(db) if one["machine_id"] == head["machine_id"]], mounted)
    if not head["link"]:
        raise Refused(f"{head['machine']} has no live link; a technician can set one in the Shop.", "machine.link")
    return Standing(str(head["link"]), int(head["machine_id"]), today_of(db, trial))


def _is_mounted(head: HeadRow, heads: Sequence[HeadRow], mounted: int | None) -> None:
    """Refuse to burn with another head than a plate is for; a machine with one has that one.

    heads : all of the machine; mounted : the one somebody has seen on it
    """
    there = {one["id"]: one["name"] for one in heads if not one["retired"]}
    if len(there) < 2 or mounted == head["id"]:
        return
    machine = head["machine"]
    if mounted is None:
        raise InvalidInput(f"Which is on {machine}: {' or '.join(there.values())}?", "mounted")
    if mounted not in there:
        raise InvalidInput(f"That is a lens of another machine than {machine}.", "mounted", mounted)
    raise InvalidInput(
        f"{there[mounted]} is on {machine}, and this plate is for {head['name']}. Change the lens, or plan the plate "
        "for the one that is on.",
        "mounted",
        mounted,
    )


def to_try_out(
    live: LiveBurns, by: Member, trial_id: int, edit: int, at_machine: bool, mounted: int | None
) -> tuple[TrialRow, Standing, RevisionRow, Plate]:
    """What of the latest design is still to burn, for what burns nothing: the trial, how its machine stands, and the
    revision that was fixed for it."""
    require(by, "member", "burn")
    standing_there(at_machine)
    number = freeze_latest(live.shop, by, trial_id, edit)
    with live.shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        revision = trial_table.revision(db, trial_id, number)
        return trial, standing_of(db, trial, mounted), revision, still_to_burn(frozen_plate(db, revision["id"]))


def dry_run(
    live: LiveBurns, by: Member, trial_id: int, edit: int, at_machine: bool, mounted: int | None = None
) -> LiveRun:
    """Go through the whole plate with the beam off; nothing is recorded."""
    trial, standing, _, plate = to_try_out(live, by, trial_id, edit, at_machine, mounted)
    return begin(live, by, trial, "dark", plate, standing, None)


def start(
    live: LiveBurns,
    by: Member,
    trial_id: int,
    edit: int,
    conditions: Mapping[str, Any],
    at_machine: bool,
    mounted: int | None = None,
) -> LiveRun:
    """Burn the latest design on its machine, from the first part to the last.

    at_machine : whoever starts it stands there; mounted : the head they have seen on it, where it has several
    """
    require(by, "member", "burn")
    standing_there(at_machine)
    shop = live.shop
    revision = freeze_latest(shop, by, trial_id, edit)
    with shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        standing = standing_of(db, trial, mounted)
        frozen = trial_table.revision(db, trial_id, revision)
        plate = still_to_burn(frozen_plate(db, frozen["id"]))

    def record(db: sqlite3.Connection, log: str, rows: Sequence[Row]) -> tuple[int, int]:
        burn_id = burn_of(db, shop, by, trial, frozen, conditions)
        return burn_id, run_table.add_run(db, burn_id, "whole", "link", rows, by.id, shop.now(), log)

    return begin(live, by, trial, "whole", plate, standing, record)


def burned_plate(db: sqlite3.Connection, burn_id: int) -> tuple[TrialRow, Plate]:
    """The trial of a burn and its plate as it was planned."""
    burn = burn_table.burn(db, burn_id)
    trial = trial_table.trial(db, burn["trial_id"])
    return trial, frozen_plate(db, burn["revision_id"])


def carry_on(
    live: LiveBurns, by: Member, burn_id: int, uncertain: str, at_machine: bool, mounted: int | None = None
) -> LiveRun:
    """Burn what an interrupted or stopped burn has not reached.

    uncertain : what somebody saw of the patch that was burning then: ``burned`` (whole), ``bare`` (it is burned now)
        or ``unknown`` (it is left as it is, and no setting can be kept from it)
    """
    require(by, "member", "burn")
    standing_there(at_machine)
    shop = live.shop
    # An uncertain part that stayed bare is among the rest.
    counts = ("done", "burning") if uncertain == "bare" else ("done", "uncertain", "burning")
    with shop.database.reading() as db:
        trial, plate = burned_plate(db, burn_id)
        standing = standing_of(db, trial, mounted)
        runs = run_table.runs_of_burn(db, burn_id)
    reached = {part["name"] for run in runs for part in run["parts"] if part["state"] in counts}
    left = [name for _, _, name in plate.parts() if name not in reached]
    labels = any(not part.last for part in plate.drawn) and "labels" not in reached
    cuts = any(part.last for part in plate.drawn) and "outline" not in reached
    if not left and not labels and not cuts:
        raise Refused("Nothing of this plate is left to burn.", "burn")
    rest = only(plate, left, labels=labels, cuts=cuts)

    def record(db: sqlite3.Connection, log: str, rows: Sequence[Row]) -> tuple[int, int]:
        if uncertain != "unknown":
            run_table.settle_uncertain(db, burn_id, uncertain == "burned", shop.now())
        log_trial(db, shop, by, trial, "carried on burning")
        return burn_id, run_table.add_run(db, burn_id, "rest", "link", rows, by.id, shop.now(), log)

    return begin(live, by, trial, "rest", rest, standing, record)


# --- while it goes on ---------------------------------------------------------------------------------------


def at_work(live: LiveBurns, key: str) -> LiveRun:
    """A run that goes on; raises `Refused` where it is over."""
    run = live.run(key)
    if run.over:
        raise Refused("This run is over.", "key")
    return run


def refuse_other_than_holder(run: LiveRun, by: Member) -> None:
    """Raise `Refused` where somebody else, or nobody, holds the control of a run."""
    if run.holder is None or run.holder.id != by.id:
        who = "Nobody" if run.holder is None else run.holder.name
        raise Refused(f"{who} holds the control. Take it over first.", "holder")


def hold(live: LiveBurns, by: Member, key: str) -> None:
    """Let the head come to rest with the beam off. Anybody who watches may."""
    require(by, "member", "hold a burn")
    run = at_work(live, key)
    live.send(key, {"do": "hold"})
    run.say(f"{by.name} holds it")


def stop(live: LiveBurns, by: Member, key: str) -> None:
    """End the run. Anybody who watches may."""
    require(by, "member", "stop a burn")
    at_work(live, key)
    live.send(key, {"do": "stop", "reason": f"by {by.name}", "by_hand": True})


def go_on(live: LiveBurns, by: Member, key: str, at_machine: bool) -> None:
    """Go on after a hold; only who holds the control, standing at the machine."""
    require(by, "member", "burn")
    standing_there(at_machine)
    run = at_work(live, key)
    refuse_other_than_holder(run, by)
    live.send(key, {"do": "go_on"})
    run.say(f"{by.name} stands at the machine and lets it go on")


def turned(
    live: LiveBurns, by: Member, key: str, part: str, shown: Mapping[str, float | str], at_machine: bool
) -> None:
    """Say that what has to be turned by hand before a part is turned, and to what; then it goes on.

    shown : by the key of a setting what its control shows, in the control's own unit; what is not said is as planned
    """
    require(by, "member", "burn")
    standing_there(at_machine)
    run = at_work(live, key)
    refuse_other_than_holder(run, by)
    stop = run.stop
    if stop is None or stop.parts[0] != part:
        raise Refused("It does not wait for that any more.", "part", part)
    read = turned_to(run.machine, stop, shown)
    run_id = live.run_id_of(key)
    if run_id is not None:
        with live.shop.database.writing() as db:
            run_table.add_read_off(db, run_id, stop.parts, read, by.id, live.shop.now())
    live.send(key, {"do": "turned", "part": part})
    words = together([own_words(run.machine, setting, value) for setting, value in read.items()])
    run.say(f"{by.name} stands at the machine, has set {words} and lets it go on")


def correct(live: LiveBurns, by: Member, key: str, what: str, steps: int) -> None:
    """Turn power or speed up or down, or nudge the focus, so many steps from what the program says."""
    require(by, "member", "burn")
    run = at_work(live, key)
    refuse_other_than_holder(run, by)
    if what not in run.takes:
        raise Refused(f"This machine takes no correction of {what} while it burns.", "what", what)
    _refuse_correction(live, run, what, steps)
    live.send(key, {"do": "correct", "what": what, "steps": steps})
    where = f" at {run.current}" if run.current else ""
    amount = f"{round(steps * CORRECTION_STEP[what], 6):+g} {CORRECTION_UNIT[what]}"
    run.say(f"{what} {amount}{where}")


def _refuse_correction(live: LiveBurns, run: LiveRun, what: str, steps: int) -> None:
    """Raise `Refused` where any part still to come would leave the machine's limits with this correction in force."""
    if what == "focus":
        return
    if run.how == "outline":
        raise Refused("The outline is shown at trace power; turned up or slowed down it could mark.", "what", what)
    plate = live.plate_of(run.key)
    left = {part.name for part in run.parts} - set(run.done)
    turned = {**run.corrections, what: steps}
    asked = in_force(turned)
    with live.shop.database.reading() as db:
        today = today_of(db, trial_table.trial(db, run.trial_id))
    refusals = judged_correction(plate.trial, moves_of(plate).named(left), today, asked["power"], asked["speed"])
    refuse(refusals, so="The correction stays as it was.")


def take_control(live: LiveBurns, by: Member, key: str) -> None:
    """Hold the control from now on; everybody sees who."""
    require(by, "member", "burn")
    run = at_work(live, key)
    if run.holder is not None and run.holder.id == by.id:
        return
    run.hand_to(by)
    run.say(f"{by.name} has the control now")
