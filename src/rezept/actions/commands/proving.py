"""Proving: a candidate, a burned patch or a recipe on a real, intricate shape before it is believed."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from rezept.actions.commands.planning import design_around, fits_piece, on_clear_ground, refuse_never_burn
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.as_burned import patch_of_burn, refuse_mixed
from rezept.actions.queries.observed import Observed, observed
from rezept.actions.queries.shop_facts import machine_of
from rezept.actions.queries.steps import asked_step
from rezept.core.begin.start import start_around
from rezept.core.errors import InvalidInput, Refused
from rezept.core.findings.proof import listed_with, more_passes
from rezept.core.names import trial_name
from rezept.core.path import proof
from rezept.core.path.shapes import PROOF
from rezept.core.plan.fit_slots import USUAL_SLOTS
from rezept.core.plan.parts import SLOTS
from rezept.core.process import PROCESSES
from rezept.store import book as book_table
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table

GAP_MM = 4.0
# As large as it is drawn, else as large as a piece of the shelf has room for; smaller ones say little.
SCALES = (1.0, 0.8, 0.6, 0.5)


class _Of(NamedTuple):
    """What is proven: something of a burn under a step, or a recipe."""

    burn_id: int | None
    step: int | None
    recipe_id: int | None = None


def prove_candidate(shop: Shop, by: Member, burn_id: int, aim: str, wish: Any, step: int | None = None) -> int:
    """Begin the proof of what was chosen from the plates of a burn; returns the new trial's id. `step` as in
    `observed`.

    Raises
    ------
    Refused : by what is known now there is no such choice
    """
    # Models load much of SciPy; only those who decide wait for it.
    from rezept.actions.queries.finding import find, read_wish

    require(by, "member", "plan arrays")
    kept_to, wanted = read_wish(wish)
    with shop.database.writing() as db:
        found = find(db, burn_id, kept_to, wanted, step)
        chosen = found.candidate(aim)
        if chosen is None:
            raise Refused("By what is known now nothing can be chosen for this.", "aim", aim)
        trial = trial_table.trial(db, found.burn.burn["trial_id"])
        asked = found.burn.step
        place = (trial["material_id"], trial["head_id"], asked.process.key)
        reason = f"A real shape with what {' and '.join(found.plates.values())} chose."
        return _begun(db, shop, by, place, [dict(chosen.settings)], reason, _Of(burn_id, asked.read_as))


def prove_patch(shop: Shop, by: Member, burn_id: int, patch: str, step: int | None = None) -> int:
    """Begin the proof of what a burned patch got; returns the new trial's id. `step` as in `observed`."""
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        frozen, planned = patch_of_burn(db, burn_id, patch, step)
        refuse_mixed(planned)
        asked = asked_step(db, burn_id, step)
        place = (frozen["material_id"], frozen["head_id"], asked.process.key)
        reason = f"A real shape with {patch} of {trial_name(frozen['trial_number'])}."
        return _begun(db, shop, by, place, [dict(planned["settings"])], reason, _Of(burn_id, asked.read_as))


def prove_recipe(shop: Shop, by: Member, recipe_id: int) -> int:
    """Begin the proof of a recipe of one step; returns the new trial's id."""
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        recipe = book_table.recipe(db, recipe_id)
        if len(recipe["steps"]) != 1 or recipe["rounds"] != 1:
            raise Refused("What several steps did together is proven on a plate of them: plan it by hand.", "recipe")
        place = (recipe["material_id"], recipe["head_id"], recipe["process"])
        settings = dict(recipe["steps"][0]["settings"])
        return _begun(db, shop, by, place, [settings], "A real shape with a recipe.", _Of(None, None, recipe_id))


def try_more_passes(shop: Shop, by: Member, burn_id: int, patch: str, step: int | None = None) -> int:
    """Begin the small array that tries the dose of a patch in more and faster passes, on the same shape; returns the
    new trial's id. `step` as in `observed`.

    Raises
    ------
    Refused : the machine is no faster
    """
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        known = observed(db, burn_id, step=step)
        trial = trial_table.trial(db, known.burn["trial_id"])
        machine = machine_of(equipment_table.head(db, trial["head_id"]))
        listed = more_passes(_settings_of(known, patch), machine)
        if not listed:
            raise Refused(f"{machine.name} goes no faster, so that more passes would not give the same dose.", "patch")
        reason = f"The dose of {patch} of {trial_name(trial['number'])} in more and faster passes."
        place = (trial["material_id"], trial["head_id"], known.step.process.key)
        proves = _Of(trial["proof_of_burn"] or burn_id, trial["proof_of_step"] or known.step.read_as)
        shape = known.plate.trial.patch.document()
        return _begun(db, shop, by, place, listed, reason, proves._replace(recipe_id=trial["proof_of_recipe"]), shape)


def find_kerf(shop: Shop, by: Member, recipe_id: int) -> int:
    """Begin the slots and tab that tell how wide the cut of a recipe is; returns the new trial's id.

    Raises
    ------
    Refused : it does not cut, or takes several steps
    """
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        recipe = book_table.recipe(db, recipe_id)
        if not PROCESSES[recipe["process"]].passes_through or len(recipe["steps"]) != 1:
            raise Refused("Only a cut of one step has a kerf to find.", "recipe")
        place = (recipe["material_id"], recipe["head_id"], recipe["process"])
        settings = [dict(recipe["steps"][0]["settings"])]
        width, height = USUAL_SLOTS.size_mm
        size = {"width_mm": width, "height_mm": height, "gap_mm": GAP_MM}
        shape = {"shape": SLOTS, "slots": {"tab_mm": USUAL_SLOTS.tab_mm}, **size}
        trial_id = _begun(db, shop, by, place, settings, "How wide the cut of a recipe is.", None, shape)
        trial_table.finds_kerf(db, trial_id, recipe_id)
        return trial_id


def _settings_of(known: Observed, patch: str) -> dict[str, float]:
    if patch not in known.seen.element:
        raise InvalidInput(f"There is no patch {patch} on this plate.", "patch", patch)
    row = known.seen.element.index(patch)
    if known.seen.state[row] != "burned":
        raise Refused(f"No single setting says what {patch} got.", "patch", patch)
    return dict(known.seen.settings_of(row))


def _begun(
    db: sqlite3.Connection,
    shop: Shop,
    by: Member,
    place: tuple[int, int, str],
    settings: Sequence[Mapping[str, float]],
    reason: str,
    proves: _Of | None,
    shape: Mapping[str, Any] | None = None,
) -> int:
    """Begin a trial of a real shape, burned once with each of some settings.

    place : material, head and process
    shape : the patch as it was; None: the proof piece, as large as a piece on the shelf has room for
    """
    material_id, head_id, process = place
    material, head = equipment_table.material(db, material_id), equipment_table.head(db, head_id)
    refuse_never_burn(by, material, head)
    start = start_around(machine_of(head), PROCESSES[process], dict(settings[0]), reason)
    design, _ = design_around(db, process, material, head, start)
    design = {key: value for key, value in design.items() if not key.startswith("starting_")}
    hold, listed = listed_with([dict(one) for one in settings])
    # A plate of one or a few says what it is in its heading; what a list gives each patch is written beside it.
    wrap = 2 if len(listed) > 1 else 1
    design |= {"axes": [], "hold": hold, "listed": {"settings": listed, "wrap": wrap}}
    shapes = [dict(shape)] if shape is not None else [_proof_patch(scale) for scale in SCALES]
    pieces = [
        one["id"] for one in equipment_table.pieces(db) if one["material_id"] == material_id and not one["retired"]
    ]
    trial_id = trial_table.add_trial(
        db, process, head_id, material_id, reason, {**design, "patch": shapes[0]}, by.id, shop.now()
    )
    if proves is not None:
        trial_table.is_proof(db, trial_id, *proves)
    trial = trial_table.trial(db, trial_id)
    log_trial(db, shop, by, trial, "began")
    laid = ({**design, "patch": patch, **on_clear_ground(piece)} for patch in shapes for piece in pieces)
    fitting = next((one for one in laid if fits_piece(db, shop, trial, one)), None)
    if fitting is not None:
        trial_table.change_draft(db, trial_id, trial["edit"], fitting, by.id, shop.now())
    return trial_id


def _proof_patch(scale: float) -> dict[str, Any]:
    size = {"width_mm": proof.WIDTH_MM * scale, "height_mm": proof.HEIGHT_MM * scale}
    return {"shape": PROOF, **size, "gap_mm": GAP_MM}
