"""Following a file that a machine burns by the clock: it starts, rests, is farther or less far, and ends."""

from __future__ import annotations

import re
import sqlite3
from typing import Any

from rezept.actions.commands.burning import burn_of
from rezept.actions.commands.exporting import freeze_latest
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.clock import clock_at, clock_shown
from rezept.actions.queries.frozen import frozen_plate
from rezept.core.control import own_words, read_off
from rezept.core.errors import InvalidInput, Refused, quoted
from rezept.core.fields import Fields
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.by_hand import stretches, turned_to
from rezept.core.plan.clock import timetable
from rezept.core.plan.growing import still_to_burn
from rezept.core.plan.holding import settings_on
from rezept.core.units import read_quantity
from rezept.core.wording import together
from rezept.store import clock as clock_table
from rezept.store import runs as run_table
from rezept.store import trials as trial_table
from rezept.store.clock import ClockRow
from rezept.store.rows import Row

# So much more or less than the file says: "+10 %".
_RELATIVE = re.compile(r"\s*([-+−]\s*\d+(?:[.,]\d+)?\s*%)\s*")
# What somebody may say of it, and how the log has it.
SAYS = {
    "pause": "it rests",
    "go_on": "it goes on",
    "shift": "the plan is {by_s:+g} s from the clock",
    "at": "{part} begins just now",
}
WAYS = ("lower", "higher")


def it_starts(shop: Shop, by: Member, trial_id: int, edit: int, conditions: Any) -> Row:
    """Log that the machine begins just now to burn the latest design from its file; which part burns is told by the
    planned order and time from now on."""
    require(by, "member", "burn")
    revision = freeze_latest(shop, by, trial_id, edit)
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        frozen = trial_table.revision(db, trial_id, revision)
        burn_id = burn_of(db, shop, by, trial, frozen, conditions)
        parts = [slot.row for slot in timetable(still_to_burn(frozen_plate(db, frozen["id"])))]
        run_id = run_table.add_run(db, burn_id, "whole", "hand", parts, by.id, shop.now(), by_clock=True)
        clock_table.add_event(db, run_id, "begin", shop.clock().timestamp(), by.id)
        _log(db, shop, run_id, f"{by.name} sees it start; from here on by the clock")
        return clock_shown(db, shop, clock_table.run_by_clock(db, burn_id))


def _log(db: sqlite3.Connection, shop: Shop, run_id: int, sentence: str) -> None:
    run_table.add_line(db, run_id, run_table.line_count(db, run_id) + 1, sentence, shop.now())


def _going(db: sqlite3.Connection, burn_id: int) -> ClockRow:
    run = clock_table.run_by_clock(db, burn_id)
    if run["state"] != "running":
        raise Refused("This run is over.", "burn")
    return run


def say(shop: Shop, by: Member, burn_id: int, document: Any) -> Row:
    """Say that it rests or goes on, that the plan is so many seconds from the clock, or which part begins just now."""
    require(by, "member", "keep the burn log")
    fields = Fields(document)
    what = fields.choice("what", tuple(SAYS))
    by_s = fields.number("by_s", 0.0, at_least=-86_400.0, at_most=86_400.0)
    part = fields.text("part", "", longest=32)
    fields.finish()
    if what == "at" and not part:
        raise InvalidInput("Say which patch begins.", "part")
    with shop.database.writing() as db:
        run = _going(db, burn_id)
        clock_table.add_event(db, run["id"], what, shop.clock().timestamp(), by.id, by_s, part if what == "at" else "")
        _log(db, shop, run["id"], f"{SAYS[what].format(by_s=by_s, part=part)}, {by.name}")
        return clock_shown(db, shop, run)


def turned(shop: Shop, by: Member, burn_id: int, part: str, shown: dict[str, float | str]) -> Row:
    """Say that what has to be turned by hand before a part is turned, and to what.

    shown : by the key of a setting what its control shows; what is not said is as planned
    """
    require(by, "member", "burn")
    with shop.database.writing() as db:
        run = _going(db, burn_id)
        machine, _, now, _ = clock_at(db, run, shop.clock())
        if now.stop is None or now.stop.parts[0] != part:
            raise Refused("It does not wait for that any more.", "part", part)
        read = turned_to(machine, now.stop, shown)
        run_table.add_read_off(db, run["id"], now.stop.parts, read, by.id, shop.now())
        clock_table.add_event(db, run["id"], "turned", shop.clock().timestamp(), by.id, part=part)
        words = together([own_words(machine, key, value) for key, value in read.items()])
        _log(db, shop, run["id"], f"{by.name} has set {words} and lets it go on")
        return clock_shown(db, shop, run)


def corrected(shop: Shop, by: Member, burn_id: int, document: Any) -> Row:
    """Note that somebody has turned a setting at the machine: to what its control shows now, or nobody knows how far.

    What burns by the clock is then of no single setting, and what comes after has what was turned to.
    """
    require(by, "member", "keep the burn log")
    fields = Fields(document)
    key, way = fields.text("key"), fields.choice("way", (*WAYS, ""), "")
    read = fields.take("shown", None)
    fields.finish()
    with shop.database.writing() as db:
        run = _going(db, burn_id)
        trial = trial_table.trial(db, run["trial_id"])
        machine, slots, now, _ = clock_at(db, run, shop.clock())
        if key not in settings_on(machine, trial["process"]):
            raise InvalidInput(f"{machine.name} has no {quoted(key)} to turn.", "key", key)
        share = _RELATIVE.fullmatch(read) if isinstance(read, str) else None
        value = None if share or read in (None, "") else read_off(machine, key, read, "shown")
        if value is None and not way and share is None:
            raise InvalidInput("Say what the control shows now, or which way it was turned.", "shown")
        names = [slot.name for slot in slots]
        left = names[names.index(now.current) if now.current else len(now.done) :]
        if not left:
            raise Refused("By the clock everything has burned.", "burn")
        if share is None:
            run_table.add_read_off(db, run["id"], left, {key: value}, by.id, shop.now())
        else:
            turned_by = read_quantity(share[1].replace("−", "-").replace(" ", ""), "percent", "shown") / 100
            for name, settings in stretches(frozen_plate(db, run["revision_id"])):
                if name in left and key in settings:
                    turned = PARAMETERS[key].checked(settings[key] * (1 + turned_by), "shown")
                    run_table.add_read_off(db, run["id"], [name], {key: turned}, by.id, shop.now())
        if now.current is not None:
            clock_table.mix(db, run["id"], now.current)
        name = PARAMETERS[key].name
        words = f"{name} {read}".strip() if share else f"{name} a little {way}"
        words = words if value is None else own_words(machine, key, value)
        _log(db, shop, run["id"], f"{words} from {left[0]} on, {by.name}")
        return clock_shown(db, shop, run)


def ended(shop: Shop, by: Member, burn_id: int, whole: bool) -> Row:
    """Say that it is over: burned to its end, or stopped where it is by the clock.

    Of the part it was at nobody knows whether it burned whole.
    """
    require(by, "member", "burn")
    with shop.database.writing() as db:
        run = _going(db, burn_id)
        _, slots, now, _ = clock_at(db, run, shop.clock())
        early = not whole and not now.over
        names = [slot.name for slot in slots]
        bare = names[len(now.done) + (now.current is not None) :] if early else []
        state = "stopped" if early else "done"
        clock_table.end_at(db, run["id"], state, now.current if early else None, bare, shop.now())
        where = f" at {now.current}" if early and now.current else ""
        _log(db, shop, run["id"], f"{by.name} sees that it {'ended early' + where if early else 'is done'}")
        return clock_shown(db, shop, clock_table.run_by_clock(db, burn_id))
