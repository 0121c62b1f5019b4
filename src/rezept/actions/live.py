"""Burning live: start, watch, hold, stop, carry on, correct, and again in place."""

from __future__ import annotations

import secrets
import sqlite3
import threading
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from rezept.actions.as_burned import plate_as_burned
from rezept.actions.burn_job import SERVER_GONE
from rezept.actions.burning import add_burn
from rezept.actions.exporting import freeze_latest
from rezept.actions.frozen import frozen_plate
from rezept.actions.jobs import Job
from rezept.actions.live_run import LiveRun, PlannedPart
from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, require
from rezept.actions.planning import log_trial
from rezept.actions.today import today_of
from rezept.core.errors import InvalidInput, NotFound, Refused
from rezept.core.parameters import PARAMETERS
from rezept.core.plan import Plate
from rezept.core.plan.again import only
from rezept.core.plan.gate import Today, gate, gate_of_trace, judged_correction, refuse
from rezept.core.plan.moves import moves_of
from rezept.formats.gcode import ProgramPart, lines_to_send, program_parts
from rezept.formats.targets import refuse_unknown_lettering
from rezept.formats.trace import write_trace
from rezept.link.stream import CORRECTION_STEP
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store import runs as run_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row

JOB = "rezept.actions.burn_job"
NEVER_BEGAN = "It could not be started; nothing of this was burned."
JOB_DIED = "The program that speaks to the machine ended by itself."
MOST_PASSES = int(PARAMETERS["passes"].high)
Ended = Callable[[LiveRun], None]


@dataclass(frozen=True)
class _Order:
    """What a job is started with."""

    how: str
    plate: Plate
    burn_id: int | None
    run_id: int | None
    parts: Sequence[ProgramPart]


class LiveBurns:
    """The runs of this server's life: one at a time on each machine, and the latest of each trial."""

    def __init__(self, shop: Shop) -> None:
        self.shop = shop
        self._lock = threading.Lock()
        self._runs: dict[str, LiveRun] = {}
        self._plates: dict[str, Plate] = {}
        self._jobs: dict[str, Job] = {}
        # Told of every run that begins and ends; the demo's bench lays sheets and takes photos by it.
        self.on_begin: list[Callable[[LiveRun, Plate], None]] = []
        self.on_end: list[Ended] = []
        self._settle_left_over()

    def _settle_left_over(self) -> None:
        """Runs that went on when the server died: whatever their job wrote last is what is known."""
        with self.shop.database.writing() as db:
            for run_id in run_table.running(db):
                run_table.end_run(db, run_id, "interrupted", SERVER_GONE, self.shop.now())

    # --- what is known --------------------------------------------------------------------------------------

    def runs(self) -> list[LiveRun]:
        with self._lock:
            return list(self._runs.values())

    def run(self, key: str) -> LiveRun:
        with self._lock:
            run = self._runs.get(key)
        if run is None:
            raise NotFound("There is no such run, or it was before Rezept was started.", "key")
        return run

    def of_trial(self, trial_id: int) -> LiveRun | None:
        """The latest run of a trial in this server's life."""
        return next((run for run in reversed(self.runs()) if run.trial_id == trial_id), None)

    def version(self) -> int:
        return sum(run.version for run in self.runs())

    def job_of(self, key: str) -> Job:
        with self._lock:
            return self._jobs[key]

    def plate_of(self, key: str) -> Plate:
        """What a run burns: the plate, the rest of it, or some of it again."""
        with self._lock:
            return self._plates[key]

    # --- beginning ------------------------------------------------------------------------------------------

    def begin(self, run: LiveRun, order: _Order, url: str) -> None:
        """Start the job of a run, unless its machine is at work already."""
        with self._lock:
            busy = next((r for r in self._runs.values() if r.machine_id == run.machine_id and not r.over), None)
            if busy is not None:
                raise Refused(f"{order.plate.trial.machine.name} is at work: {busy.title}.", "machine")
            for old in [r for r in self._runs.values() if r.trial_id == run.trial_id and r.over]:
                del self._runs[old.key], self._jobs[old.key], self._plates[old.key]
            self._runs[run.key], self._plates[run.key] = run, order.plate
        for told in self.on_begin:
            told(run, order.plate)
        message = {
            "folder": str(self.shop.folder),
            "run_id": order.run_id,
            "url": url,
            "parts": [
                {"name": part.name, "lines": [line.decode("ascii") for line in part.lines]} for part in order.parts
            ],
        }
        try:
            job = Job(JOB, message, run.event, lambda: self._ended(run, order.run_id))
        except OSError:
            run.end("interrupted", NEVER_BEGAN, None)
            raise
        with self._lock:
            self._jobs[run.key] = job

    def _ended(self, run: LiveRun, run_id: int | None) -> None:
        """The job's process is gone. One that could not say how it ended was killed."""
        if run_id is not None:
            with self.shop.database.writing() as db:
                run_table.end_run(db, run_id, "interrupted", JOB_DIED, self.shop.now())
        run.end("interrupted", JOB_DIED, run.current)
        for told in self.on_end:
            told(run)

    def close(self) -> None:
        """Stop what goes on; the jobs see it themselves when the server is gone."""
        for run in self.runs():
            if not run.over:
                job = self.job_of(run.key)
                job.send({"do": "stop", "reason": SERVER_GONE, "by_hand": False})
                job.join(5.0)


# --- what the link can do -----------------------------------------------------------------------------------


def _link_of(db: sqlite3.Connection, head_id: int) -> tuple[str, int]:
    head = equipment_table.head(db, head_id)
    if not head["link"]:
        raise Refused(f"{head['machine']} has no live link; a technician can set one in the Shop.", "machine.link")
    return str(head["link"]), int(head["machine_id"])


def _standing_there(at_machine: bool) -> None:
    if not at_machine:
        raise InvalidInput("Nobody starts a laser from elsewhere: confirm that you stand at the machine.", "at_machine")


def _parts(plate: Plate, how: str, today: Today) -> list[ProgramPart]:
    """What is streamed, once the gate has nothing against it."""
    refuse_unknown_lettering(plate)
    if how == "outline":
        refuse(gate_of_trace(plate, today, "stream"))
        return [ProgramPart("outline", "outline", lines_to_send(write_trace(plate)))]
    refuse(gate(plate, today, "stream"))
    return program_parts(plate, dark=how == "dark")


def _planned(plate: Plate, parts: Sequence[ProgramPart], how: str) -> list[PlannedPart]:
    """How long each part should take: its own time, and its share of the ways between."""
    seconds = dict(zip(plate.ids, plate.seconds.tolist(), strict=True))
    between = plate.travel_seconds / max(1, len(parts))
    own = {"labels": plate.label_seconds}
    return [
        PlannedPart(part.name, part.kind, seconds.get(part.name, own.get(part.name, 1.0)) + between) for part in parts
    ]


def _rows(parts: Sequence[ProgramPart], plate: Plate) -> list[Row]:
    passes = dict(zip(plate.ids, plate.settings["passes"].tolist(), strict=True))
    return [{"name": part.name, "kind": part.kind, "passes": int(passes.get(part.name, 1))} for part in parts]


def _begin(live: LiveBurns, by: Member, order: _Order, db_row: Row, url: str, machine_id: int) -> LiveRun:
    shop = live.shop
    run = LiveRun(
        key=secrets.token_hex(8),
        trial_id=db_row["id"],
        machine_id=machine_id,
        title=f"T-{db_row['number']:03d}",
        how=order.how,
        burn_id=order.burn_id,
        parts=_planned(order.plate, order.parts, order.how),
        holder=by,
        announce=shop.database.announce,
        now=shop.now,
    )
    words = {"dark": "a dry run with the beam off", "outline": "the outline", "rest": "the rest", "again": "again"}
    run.say(f"{by.name} stands at the machine and starts {words.get(order.how, 'the plate')}")
    try:
        live.begin(run, order, url)
    except (Refused, OSError):
        # Somebody else was faster, or no process could be started: nothing of this run will ever be sent.
        if order.run_id is not None:
            with shop.database.writing() as db:
                run_table.end_run(db, order.run_id, "interrupted", NEVER_BEGAN, shop.now())
        raise
    return run


def try_out(live: LiveBurns, by: Member, trial_id: int, edit: int, how: str, at_machine: bool) -> LiveRun:
    """Show the outline at trace power, or go through the whole plate with the beam off; nothing is recorded."""
    require(by, "member", "burn")
    _standing_there(at_machine)
    revision = freeze_latest(live.shop, by, trial_id, edit)
    with live.shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        url, machine_id = _link_of(db, trial["head_id"])
        plate = frozen_plate(db, trial_table.revision(db, trial_id, revision)["id"])
        today = today_of(db, trial)
    parts = _parts(plate, how, today)
    return _begin(live, by, _Order(how, plate, None, None, parts), trial, url, machine_id)


def start(
    live: LiveBurns, by: Member, trial_id: int, edit: int, conditions: Mapping[str, Any], at_machine: bool
) -> LiveRun:
    """Burn the latest design on its machine, from the first part to the last."""
    require(by, "member", "burn")
    _standing_there(at_machine)
    shop = live.shop
    revision = freeze_latest(shop, by, trial_id, edit)
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        url, machine_id = _link_of(db, trial["head_id"])
        _refuse_busy(live, machine_id)
        frozen = trial_table.revision(db, trial_id, revision)
        plate = frozen_plate(db, frozen["id"])
        parts = _parts(plate, "whole", today_of(db, trial))
        burn_id = add_burn(db, shop, by, trial, frozen["id"], conditions)
        run_id = run_table.add_run(db, burn_id, "whole", "link", _rows(parts, plate), by.id, shop.now())
    return _begin(live, by, _Order("whole", plate, burn_id, run_id, parts), trial, url, machine_id)


def _refuse_busy(live: LiveBurns, machine_id: int) -> None:
    busy = next((run for run in live.runs() if run.machine_id == machine_id and not run.over), None)
    if busy is not None:
        raise Refused(f"The machine is at work: {busy.title}.", "machine")


def _burned_plate(db: sqlite3.Connection, burn_id: int) -> tuple[Row, Plate]:
    burn = burn_table.burn(db, burn_id)
    trial = trial_table.trial(db, burn["trial_id"])
    return trial, frozen_plate(db, burn["revision_id"])


def carry_on(live: LiveBurns, by: Member, burn_id: int, uncertain: str, at_machine: bool) -> LiveRun:
    """Burn what an interrupted or stopped burn has not reached.

    uncertain : what somebody saw of the patch that was burning then: ``burned`` (whole), ``bare`` (it is burned now)
        or ``unknown`` (it is left as it is, and no setting can be kept from it)
    """
    require(by, "member", "burn")
    _standing_there(at_machine)
    shop = live.shop
    with shop.database.writing() as db:
        trial, plate = _burned_plate(db, burn_id)
        url, machine_id = _link_of(db, trial["head_id"])
        _refuse_busy(live, machine_id)
        if uncertain != "unknown":
            run_table.settle_uncertain(db, burn_id, uncertain == "burned", shop.now())
        reached = {
            part["name"]
            for run in run_table.runs_of_burn(db, burn_id)
            for part in run["parts"]
            if part["state"] in ("done", "uncertain", "burning")
        }
        left = [plate.ids[index] for index in plate.order.tolist() if plate.ids[index] not in reached]
        labels = any(not part.last for part in plate.drawn) and "labels" not in reached
        cuts = any(part.last for part in plate.drawn) and "outline" not in reached
        if not left and not labels and not cuts:
            raise Refused("Nothing of this plate is left to burn.", "burn")
        rest = only(plate, left, labels=labels, cuts=cuts)
        parts = _parts(rest, "rest", today_of(db, trial))
        run_id = run_table.add_run(db, burn_id, "rest", "link", _rows(parts, rest), by.id, shop.now())
        log_trial(db, shop, by, trial, "carried on burning")
    return _begin(live, by, _Order("rest", rest, burn_id, run_id, parts), trial, url, machine_id)


def _again(
    db: sqlite3.Connection, burn_id: int, asked: Collection[str], passes: int
) -> tuple[Row, Plate, dict[str, int]]:
    """The trial of a burn, its plate as if only these patches burned, and how many passes each gets now.

    A patch that is named twice is burned once. With what they have got already no patch gets more than `MOST_PASSES`.
    """
    patches = dict.fromkeys(asked, passes)
    if not patches:
        raise InvalidInput("Choose the patches that are to be burned again.", "patches")
    if not 1 <= passes <= MOST_PASSES:
        raise InvalidInput(f"Extra passes are 1 to {MOST_PASSES}.", "passes", passes, MOST_PASSES)
    trial, plate = _burned_plate(db, burn_id)
    again = only(plate, patches, patches)
    burned = plate_as_burned(db, burn_id)
    for patch in patches:
        had = burned.settings["passes"][burned.ids.index(patch)]
        if had + passes > MOST_PASSES:
            raise InvalidInput(
                f"{patch} has had {had:g} passes; with {passes} more it would be over {MOST_PASSES} in all.",
                "passes",
                passes,
                MOST_PASSES - had,
            )
    return trial, again, patches


def again_in_place(
    live: LiveBurns, by: Member, burn_id: int, patches: Collection[str], passes: int, at_machine: bool
) -> LiveRun:
    """Burn some patches with more passes, the piece not having moved; the passes add up."""
    require(by, "member", "burn")
    _standing_there(at_machine)
    shop = live.shop
    with shop.database.writing() as db:
        trial, plate, _ = _again(db, burn_id, patches, passes)
        url, machine_id = _link_of(db, trial["head_id"])
        _refuse_busy(live, machine_id)
        parts = _parts(plate, "again", today_of(db, trial))
        run_id = run_table.add_run(db, burn_id, "again", "link", _rows(parts, plate), by.id, shop.now())
        log_trial(db, shop, by, trial, "burned again in place patches of")
    return _begin(live, by, _Order("again", plate, burn_id, run_id, parts), trial, url, machine_id)


def again_by_hand(shop: Shop, by: Member, burn_id: int, patches: Collection[str], passes: int) -> None:
    """Log that some patches got more passes in place, burned without the link."""
    require(by, "member", "burn")
    with shop.database.writing() as db:
        trial, _, each = _again(db, burn_id, patches, passes)
        parts = [{"name": patch, "kind": "patch", "passes": more} for patch, more in each.items()]
        run_table.add_run(db, burn_id, "again", "hand", parts, by.id, shop.now())
        log_trial(db, shop, by, trial, "burned again in place patches of")


# --- while it goes on ---------------------------------------------------------------------------------------


def _at_work(live: LiveBurns, key: str) -> LiveRun:
    run = live.run(key)
    if run.over:
        raise Refused("This run is over.", "key")
    return run


def _holding(run: LiveRun, by: Member) -> None:
    if run.holder is None or run.holder.id != by.id:
        who = "Nobody" if run.holder is None else run.holder.name
        raise Refused(f"{who} holds the control. Take it over first.", "holder")


def hold(live: LiveBurns, by: Member, key: str) -> None:
    """Let the head come to rest with the beam off. Anybody who watches may."""
    require(by, "member", "hold a burn")
    run = _at_work(live, key)
    live.job_of(key).send({"do": "hold"})
    run.say(f"{by.name} holds it")


def stop(live: LiveBurns, by: Member, key: str) -> None:
    """End the run. Anybody who watches may."""
    require(by, "member", "stop a burn")
    _at_work(live, key)
    live.job_of(key).send({"do": "stop", "reason": f"by {by.name}", "by_hand": True})


def go_on(live: LiveBurns, by: Member, key: str, at_machine: bool) -> None:
    """Go on after a hold; only who holds the control, standing at the machine."""
    require(by, "member", "burn")
    _standing_there(at_machine)
    run = _at_work(live, key)
    _holding(run, by)
    live.job_of(key).send({"do": "go_on"})
    run.say(f"{by.name} stands at the machine and lets it go on")


def correct(live: LiveBurns, by: Member, key: str, what: str, steps: int) -> None:
    """Turn power or speed up or down, or nudge the focus, so many steps from what the program says."""
    require(by, "member", "burn")
    run = _at_work(live, key)
    _holding(run, by)
    if what not in run.takes:
        raise Refused(f"This machine takes no correction of {what} while it burns.", "what", what)
    _refuse_correction(live, run, what, steps)
    live.job_of(key).send({"do": "correct", "what": what, "steps": steps})
    where = f" at {run.current}" if run.current else ""
    amount = f"{steps / 10:+.1f} mm" if what == "focus" else f"{2 * steps:+d} %"
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
    factors = [1 + turned[key] * CORRECTION_STEP[key] / 100 for key in ("power", "speed")]
    with live.shop.database.reading() as db:
        today = today_of(db, trial_table.trial(db, run.trial_id))
    refuse(judged_correction(plate.trial, moves_of(plate).named(left), today, *factors))


def take_control(live: LiveBurns, by: Member, key: str) -> None:
    """Hold the control from now on; everybody sees who."""
    require(by, "member", "burn")
    run = _at_work(live, key)
    if run.holder is not None and run.holder.id == by.id:
        return
    run.hand_to(by)
    run.say(f"{by.name} has the control now")
