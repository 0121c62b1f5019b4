"""What a design would give, planned with machine and material as the shop knows them now."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.open_shop import Shop
from rezept.actions.queries.comparing import against_the_one_before
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.growing import burn_that_grows, grows, grows_beside
from rezept.actions.queries.pieces import piece_from_the_shelf
from rezept.actions.queries.shop_facts import machine_of, material_of
from rezept.actions.queries.starting import dose_that_cuts
from rezept.actions.queries.today import is_linked, today_of, warned_today
from rezept.actions.typed import Units, resolved
from rezept.core.plan import Plate, plan, read_trial
from rezept.core.plan.design import refuse_unknown
from rezept.core.plan.gate import Today
from rezept.core.plan.parts import CUT_SETTINGS
from rezept.core.plan.trial import FORMAT, VERSION
from rezept.core.process import CUT, PROCESSES
from rezept.store import book as book_table
from rezept.store import equipment as equipment_table
from rezept.store import shop as shop_table
from rezept.store import trials as trial_table
from rezept.store.burns import BurnRow
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.rows import Row
from rezept.store.trials import LatestNumber, TrialRow


def plate_code(db: sqlite3.Connection, number: int, revision: int) -> str:
    shop = shop_table.shop(db)
    return f"{shop['tag'] if shop else '0000'}-T{number:03d}.{revision}"


def _document(
    db: sqlite3.Connection, shop: Shop, trial: TrialRow, revision: int, design: Mapping[str, Any]
) -> dict[str, Any]:
    """The whole trial document of a design, machine and material as the shop knows them now."""
    refuse_unknown(design)
    head = equipment_table.head(db, trial["head_id"])
    material = equipment_table.material(db, trial["material_id"])
    # Where there are steps, each holds its own.
    apart = ("piece_id", "piece_face", *(("hold",) if design.get("steps") else ()))
    rest = {key: value for key, value in design.items() if key not in apart}
    burn = burn_that_grows(db, trial["id"]) if grows(design) else None
    return {
        "format": FORMAT,
        "version": VERSION,
        "code": plate_code(db, trial["number"], revision),
        "date": shop.today(),
        "machine": machine_of(head).document(),
        "material": material_of(material).document(),
        **({} if design.get("steps") else {"process": trial["process"]}),
        "cuts_through_j_mm": dose_that_cuts(db, material, head) if _marks(trial, design) else None,
        **rest,
        **_as_lettered(db, burn, design),
        **piece_from_the_shelf(db, design, trial["id"], revision, None if burn is None else burn["id"]),
    }


def _marks(trial: TrialRow, design: Mapping[str, Any]) -> bool:
    """Whether a step of it stays on the sheet."""
    steps = design.get("steps") or [{"process": trial["process"]}]
    known = [PROCESSES.get(str(step.get("process"))) for step in steps if isinstance(step, Mapping)]
    return any(process is not None and not process.passes_through for process in known)


def _as_lettered(db: sqlite3.Connection, burn: BurnRow | None, design: Mapping[str, Any]) -> dict[str, Any]:
    """Code and date of a plate that grows beside what was burned: they stand on it."""
    if burn is None or not grows_beside(design):
        return {}
    before = frozen_plate(db, burn["revision_id"]).trial
    return {"code": before.code, "date": before.date}


def plan_design(db: sqlite3.Connection, shop: Shop, trial: TrialRow, revision: int, design: Mapping[str, Any]) -> Plate:
    """The plate of a design, judged by the step of its trial's own process.

    Raises
    ------
    InvalidInput : it cannot be, or none of its steps is what the trial set out to do
    """
    return plan(read_trial(_document(db, shop, trial, revision, design))).by_process(trial["process"])


def next_revision(latest: LatestNumber) -> int:
    """The revision an edit would go into."""
    return latest["number"] + (1 if latest["frozen_at"] else 0)


def preview(
    shop: Shop, trial_id: int, design: Mapping[str, Any], units: Units
) -> tuple[Plate, Today, dict[str, Any] | None]:
    """The plate a typed design would give, by which facts it is judged, and what else it changes since the trial
    before; nothing is stored."""
    plain = resolved(design, units)
    with shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        plate = plan_design(db, shop, trial, next_revision(trial_table.latest_number(db, trial_id)), plain)
        today = today_of(db, trial)
        plate = warned_today(plate, today, is_linked(db, trial))
        return plate, today, against_the_one_before(db, trial, plate)


def proven_cut(db: sqlite3.Connection, material: MaterialRow, head: HeadRow) -> Row | None:
    """The proven cut of this sheet on this head, as settings for the plate's own cuts, and the recipe it is from."""
    cuts = book_table.known_recipes(db, head_id=head["id"], material_id=material["id"], process=CUT.key, lay="flat")
    for cut in cuts:
        if cut["standing"] == "proven" and len(cut["steps"]) == 1:
            settings = cut["steps"][0]["settings"]
            return {"recipe": cut["id"], "settings": {key: settings[key] for key in CUT_SETTINGS if key in settings}}
    return None
