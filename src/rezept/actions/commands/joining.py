"""A patch that was burned with an estimate's very settings and came out joins what the estimate rests on, and makes it
tried: whoever scored it has nothing more to do."""

from __future__ import annotations

import sqlite3

import numpy as np

from rezept.actions.commands.recipe_log import log_recipe
from rezept.actions.members import Member
from rezept.actions.open_shop import Shop
from rezept.actions.queries.observed import observed
from rezept.actions.queries.proofs import crowded, results
from rezept.core.process import PROCESSES
from rezept.core.reading import SURE
from rezept.core.recipe import are_settings_of
from rezept.core.scales import SCALES
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table
from rezept.store.book import Evidence


def join_evidence(db: sqlite3.Connection, shop: Shop, burn_id: int, by: Member | None = None) -> None:
    """Let what a burn has shown by now make tried what was only heard of or estimated at its very settings.

    What is read later to have failed answers nothing (`store.book`), whatever it is called.

    by : who scored it; who burned it, where a photo did
    """
    burn = burn_table.burn(db, burn_id)
    trial = trial_table.trial(db, burn["trial_id"])
    waiting = book_table.without_patch(db, trial["material_id"], trial["head_id"], trial["process"])
    if not waiting:
        return
    known = observed(db, burn_id)
    seen = known.seen
    scale = SCALES[PROCESSES[trial["process"]].outcome]
    works = [not np.isnan(came) and not scale.failed(came) for came in seen.came_out.tolist()]
    if crowded(trial, known):
        # A coupon that drops out has come out; a real shape that burned has not.
        said = results(known)
        works = [good and name in said and said[name].held for good, name in zip(works, seen.element, strict=True)]
    came_out = np.flatnonzero(np.array(works, bool) & (1 - seen.doubt >= SURE))
    for recipe in waiting:
        kept = recipe["steps"][0]["settings"]
        if recipe["treatment"] != burn["treatment"]:
            continue
        got = next((int(i) for i in came_out if are_settings_of(kept, seen.settings_of(int(i)))), None)
        if got is None or len(recipe["steps"]) != 1:
            continue
        said_by = burn["by_member"] if by is None else by.id
        book_table.add_evidence(db, recipe["id"], [Evidence(burn_id, seen.element[got])], said_by, shop.now())
        book_table.change_recipe(db, recipe["id"], recipe["edit"], {"standing": "tried"}, said_by, shop.now())
        log_recipe(db, shop, said_by, recipe, f"{seen.element[got]} made tried:")


def join_proofs(db: sqlite3.Connection, shop: Shop, burn_id: int) -> None:
    """Let what was proven of a burn before anything of it was kept count for what is kept of it now."""
    for trial in trial_table.proofs(db, burn_id):
        for burn in burn_table.burns_of_trial(db, trial["id"]):
            join_evidence(db, shop, burn["id"])
