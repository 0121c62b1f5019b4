"""Patches once more on the piece they are on: with more passes, or at other settings than before."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.as_burned import plate_as_burned
from rezept.actions.running.live import begin, burned_plate, standing_of, standing_there
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.live_run import LiveRun
from rezept.actions.typed import Units, resolved_settings
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.parameters import PARAMETERS
from rezept.core.plan import Plate
from rezept.core.plan.again import only
from rezept.core.plan.holding import setting_row
from rezept.core.put_back import PutBackKey, meets_badly
from rezept.store import runs as run_table
from rezept.store.rows import AnyRow, Row
from rezept.store.trials import TrialRow

MOST_PASSES = int(PARAMETERS["passes"].high)


@dataclass(frozen=True)
class Again:
    """What is asked for when patches are burned again.

    settings : other ones than they had, by key, as somebody typed them in `units`; all else is as it was planned
    put_back : whether the piece has moved since
    """

    patches: Collection[str]
    passes: int
    settings: Mapping[str, Any] = field(default_factory=dict)
    units: Units = field(default_factory=dict)
    put_back: PutBackKey = "still"


@dataclass(frozen=True)
class _Asked:
    """The trial, its plate as if only the patches burned, with what they get now, and what of that is otherwise than
    planned."""

    trial: TrialRow
    plate: Plate
    again: Again
    otherwise: dict[str, float]

    def record(
        self,
        db: sqlite3.Connection,
        shop: Shop,
        by: Member,
        burn_id: int,
        via: str,
        rows: Sequence[AnyRow],
        log: str = "",
    ) -> int:
        """The run in the records; returns its id."""
        put_back = self.again.put_back
        doubtful = any(meets_badly(put_back, self.plate.steps[number].process) for number in _steps_of(self.plate))
        run_id = run_table.add_run(
            db, burn_id, "again", via, rows, by.id, shop.now(), log, put_back=put_back, doubtful=doubtful
        )
        run_table.add_read_off(db, run_id, [row["name"] for row in rows], self.otherwise, by.id, shop.now())
        log_trial(db, shop, by, self.trial, "burned again in place patches of")
        return run_id


def _again(db: sqlite3.Connection, burn_id: int, asked: Again) -> _Asked:
    """A patch that is named twice is burned once. With what they have got already no patch gets more than
    `MOST_PASSES`."""
    passes = asked.passes
    if not asked.patches:
        raise InvalidInput("Choose the patches that are to be burned again.", "patches")
    if not 1 <= passes <= MOST_PASSES:
        raise InvalidInput(f"Extra passes are 1 to {MOST_PASSES}.", "passes", passes, MOST_PASSES)
    trial, plate = burned_plate(db, burn_id)
    named = only(plate, asked.patches)
    otherwise = _otherwise(named, asked)
    patches = {patch: {**otherwise, "passes": float(passes)} for patch in asked.patches}
    again = only(plate, patches, patches)
    burned = plate_as_burned(db, burn_id)
    passes_had = {name: float(burned.steps[step].settings["passes"][index]) for index, step, name in burned.parts()}
    for patch in patches:
        had = passes_had[patch]
        if had + passes > MOST_PASSES:
            raise InvalidInput(
                f"{patch} has had {had:g} passes; with {passes} more it would be over {MOST_PASSES} in all.",
                "passes",
                passes,
                MOST_PASSES - had,
            )
    return _Asked(trial, again, asked, otherwise)


def _steps_of(plate: Plate) -> list[int]:
    """The steps of a plate of which anything burns."""
    return sorted({step for _, step, _ in plate.parts()})


def _otherwise(plate: Plate, asked: Again) -> dict[str, float]:
    """The settings that are asked for otherwise, checked; passes count for themselves. They are those of one step."""
    typed = Fields(resolved_settings(asked.settings, asked.units, "settings"), "settings")
    found: dict[str, float] = {}
    if not typed.data:
        return found
    steps = {plate.step_name(number): plate.steps[number] for number in _steps_of(plate)}
    if len(steps) > 1:
        raise InvalidInput("Other settings are those of one step; choose patches of one.", "settings")
    [step] = steps.values()
    for key in typed.data:
        row = setting_row(typed, str(key), plate.trial.machine, step.process.key)
        if row.key not in step.settings or row.key == "passes":
            raise InvalidInput(f"{row.name.capitalize()} was not set on this plate.", typed.at(row.key))
        found[row.key] = row.checked(typed.data[key], typed.at(row.key))
    return found


def again_in_place(
    live: LiveBurns, by: Member, burn_id: int, again: Again, at_machine: bool, mounted: int | None = None
) -> LiveRun:
    """Burn some patches with more passes, at their settings or at others; the passes add up."""
    require(by, "member", "burn")
    standing_there(at_machine)
    shop = live.shop
    with shop.database.reading() as db:
        asked = _again(db, burn_id, again)
        standing = standing_of(db, asked.trial, mounted)

    def record(db: sqlite3.Connection, log: str, rows: Sequence[Row]) -> tuple[int, int]:
        return burn_id, asked.record(db, shop, by, burn_id, "link", rows, log)

    return begin(live, by, asked.trial, "again", asked.plate, standing, record)


def again_by_hand(shop: Shop, by: Member, burn_id: int, again: Again) -> None:
    """Log that some patches got more passes in place, burned without the link."""
    require(by, "member", "burn")
    with shop.database.writing() as db:
        asked = _again(db, burn_id, again)
        rows = [{"name": one, "kind": "patch", "passes": again.passes} for one in dict.fromkeys(again.patches)]
        asked.record(db, shop, by, burn_id, "hand", rows)
