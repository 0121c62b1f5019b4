"""Where the runs are that are followed by the clock."""

from __future__ import annotations

import sqlite3
from datetime import datetime
from typing import Any, cast

from rezept.actions.open_shop import Shop
from rezept.actions.queries.frozen import frozen_plate
from rezept.core.machine import Machine
from rezept.core.names import trial_name
from rezept.core.plan.clock import ByTheClock, ClockEvent, EventKey, Slot, by_the_clock, timetable
from rezept.core.plan.growing import still_to_burn
from rezept.store import clock as clock_table
from rezept.store import runs as run_table
from rezept.store.clock import ClockRow


def clock_at(db: sqlite3.Connection, run: ClockRow, moment: datetime) -> tuple[Machine, list[Slot], ByTheClock, float]:
    """The machine of a run by the clock, its parts, where it is at a moment, and how many seconds that is after its
    begin."""
    plate = still_to_burn(frozen_plate(db, run["revision_id"]))
    slots = timetable(plate)
    begin, *said = clock_table.events(db, run["id"])
    events = [
        ClockEvent(one["moment"] - begin["moment"], cast("EventKey", one["what"]), one["by_s"], one["part"])
        for one in said
    ]
    after_s = max(moment.timestamp() - begin["moment"], 0.0)
    return plate.trial.machine, slots, by_the_clock(slots, events, after_s), after_s


def clock_shown(db: sqlite3.Connection, shop: Shop, run: ClockRow) -> dict[str, Any]:
    """A run by the clock as it goes over the wire, like one over a live link."""
    machine, slots, now, after_s = clock_at(db, run, shop.clock())
    whole = now.gone_s + now.left_s or 1.0
    over = run["state"] != "running"
    [kept] = [one for one in run_table.runs_of_burn(db, run["burn_id"]) if one["id"] == run["id"]]
    state = run["state"] if over else "waiting" if now.stop else "held" if now.paused else "running"
    return {
        "key": f"clock-{run['id']}",
        # It is another with every moment.
        "version": int(after_s * 1000) + (10**12 if over else 0),
        "trial_id": run["trial_id"],
        "machine_id": run["machine_id"],
        "title": trial_name(run["number"]),
        "how": "whole",
        "by_clock": True,
        "burn_id": run["burn_id"],
        "state": state,
        "reason": "",
        "settled": over,
        "parts": [slot.name for slot in slots],
        "done": list(now.done),
        "mixed": [part["name"] for part in kept["parts"] if part["mixed"]],
        "current": None if over else now.current,
        "stop": None if over or now.stop is None else now.stop.document(machine),
        "uncertain": None,
        "share": now.gone_s / whole,
        "seconds_left": now.left_s,
        "seconds_gone": now.gone_s,
        "takes": [],
        "corrections": {"power": 0, "speed": 0, "focus": 0},
        "nudged": [0.0, 0.0],
        "head": None,
        "holder": {"id": run["by_member"], "name": run["by_name"]},
        "log": kept["lines"],
    }


def clock_runs(shop: Shop, trial_id: int | None = None) -> list[dict[str, Any]]:
    """The runs that go on by the clock, all or those of a trial."""
    with shop.database.reading() as db:
        going = [run for run in clock_table.going(db) if trial_id in (None, run["trial_id"])]
        return [clock_shown(db, shop, run) for run in going]
