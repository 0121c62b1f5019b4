"""What the screens show of trials: the wall with its stages, the bench, one trial's page."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.actions.open_shop import Shop
from rezept.actions.queries.comparing import against_the_one_before
from rezept.actions.queries.files import is_burnable, offered
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.observed import Observed, observed
from rezept.actions.queries.photos import with_handles
from rezept.actions.queries.previews import plan_design, plate_code, proven_cut
from rezept.actions.queries.proofs import proof_page, proofs_of
from rezept.actions.queries.shop_facts import machine_of, material_of
from rezept.actions.queries.standing import of_plate
from rezept.actions.queries.today import is_linked, today_of, warned_today
from rezept.core.burned import document_as_burned, runs_of
from rezept.core.checklist import Check, checklist, pinned_checks
from rezept.core.errors import NotFound, RezeptError
from rezept.core.findings.observations import Observations
from rezept.core.findings.repeats import words_of_repeats
from rezept.core.lay import lay_words
from rezept.core.plan import Plate
from rezept.core.plan.cautions import fire_words
from rezept.core.plan.drawing import seen
from rezept.core.plan.place import work_zero
from rezept.core.plan.step_documents import document_in_step, step_of_process
from rezept.core.plan.together import read_as
from rezept.core.process import PROCESSES
from rezept.core.scales import SCALES, mark_of
from rezept.core.treatment import TREATMENTS, treatment_words
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store import failed as failed_table
from rezept.store import part_photos as part_table
from rezept.store import photos as photo_table
from rezept.store import readings as reading_table
from rezept.store import runs as run_table
from rezept.store import trials as trial_table
from rezept.store.burns import BurnRow
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.failed import FailedRow
from rezept.store.readings import ReadElement
from rezept.store.rows import AnyRow, Row
from rezept.store.trials import RevisionRow, TrialRow

Tables = sqlite3.Connection


# So many plates to lay beside one are enough to choose from.
MOST_COMPARABLE = 60


def titles(db: Tables) -> tuple[dict[int, HeadRow], dict[int, MaterialRow]]:
    heads = {row["id"]: row for row in equipment_table.heads(db)}
    materials = {row["id"]: row for row in equipment_table.materials(db)}
    return heads, materials


def named(row: AnyRow, heads: dict[int, HeadRow], materials: dict[int, MaterialRow]) -> Row:
    """A trial or recipe with the names of what its ids mean, and of a recipe how the piece lay, in words."""
    lay = {"lay_words": lay_words(row["lay"], row["roller_mm"], row["stack_of"])} if "lay" in row else {}
    if "lay" in row and "treatment" in row:
        lay["treatment_words"] = treatment_words(row["treatment"])
    return {
        **row,
        **lay,
        "head": heads[row["head_id"]]["title"],
        "material": materials[row["material_id"]]["title"],
        "process_name": PROCESSES[row["process"]].name,
    }


def failed_shown(
    db: Tables, failed: list[FailedRow], heads: dict[int, HeadRow], materials: dict[int, MaterialRow]
) -> list[Row]:
    """Settings that failed, with the names of what their ids mean and, in words, how they came out."""
    burns, patches = {one["burn_id"] for one in failed}, {one["patch"] for one in failed}
    read = {step: reading_table.readings_of(db, burns, patches, step=step) for step in {one["step"] for one in failed}}
    shown = []
    for one in failed:
        process = PROCESSES[one["process"]]
        reading = next(
            (
                row
                for row in read[one["step"]].get(one["burn_id"], [])
                if (row["patch"], row["face"]) == (one["patch"], process.deciding_face)
            ),
            None,
        )
        came = outcome_of(process.key, reading)
        turned = None if reading is None else reading["values"].get("turned")
        mark = mark_of(turned, materials[one["material_id"]]["mark"])
        words = None if came is None else SCALES[process.outcome].word(came, mark)
        shown.append({**named(one, heads, materials), "came_out": words})
    return shown


def outcome_of(process: str, reading: ReadElement | None) -> int | None:
    """The deciding degree of a reading."""
    outcome = None if reading is None else reading["values"].get(PROCESSES[process].outcome)
    return None if outcome is None else int(outcome)


def thumbnail(plate: dict[str, Any], key: str, scores: dict[str, int | None], not_burned: list[str]) -> Row:
    """Just enough of a plate to draw it small: places, doses and how each patch came out, by its first step of a
    process."""
    process = PROCESSES[key]
    plate = document_in_step(plate, step_of_process(plate, key))
    dose_key = process.dose_key
    return {
        **plate["plate"],
        "process": process.key,
        "most": int(SCALES[process.outcome].high),
        "patches": [
            {
                **{key: patch[key] for key in ("id", "x_mm", "y_mm", "width_mm", "height_mm", "burn")},
                "dose": patch[dose_key],
                "outcome": None if patch["id"] in not_burned else scores.get(patch["id"]),
            }
            for patch in plate["patches"]
        ],
    }


def _stage(latest: RevisionRow, burns: list[BurnRow], planned: int, scored: int, kept: int) -> str:
    """Where a trial stands: plan, burn, read, decide or kept."""
    if not burns:
        return "burn" if latest["frozen_at"] else "plan"
    if scored < planned:
        return "read"
    return "kept" if kept else "decide"


def _warned(db: Tables, trial: TrialRow, plate: Plate) -> Plate:
    return warned_today(plate, today_of(db, trial), is_linked(db, trial))


def _drawn_plate(
    db: Tables, shop: Shop, trial: TrialRow, latest: RevisionRow
) -> tuple[dict[str, Any] | None, Plate | None, Row | None]:
    """The plate of the latest revision as document and plan, or the reason why a draft cannot be planned."""
    try:
        if latest["plate"] is not None:
            plate = _warned(db, trial, frozen_plate(db, latest["id"]))
            return seen(plate), plate, None
        plate = _warned(db, trial, plan_design(db, shop, trial, latest["number"], latest["design"]))
        return seen(plate), plate, None
    except RezeptError as error:
        return None, None, {"path": error.path, "detail": error.sentence}


def _progress(
    db: Tables,
    trial: TrialRow,
    latest: RevisionRow,
    burns: list[BurnRow],
    plate: dict[str, Any] | None,
    known: Observed | None,
) -> Row:
    """Readings, marks and recipes of one burn of a trial, counted."""
    readings = known.readings if known else []
    not_burned = known.not_burned if known else []
    recipes = [recipe for one in burns for recipe in book_table.recipes_of_burn(db, one["id"])]
    to_read = {patch["id"] for patch in plate["patches"] if patch["burn"]} - set(not_burned) if plate else set()
    key = (known.step.process if known else PROCESSES[trial["process"]]).outcome
    done = {r["patch"] for r in readings if key in r["values"] or r["cannot_tell"]} & to_read
    return {
        "stage": _stage(latest, burns, len(to_read), len(done), len(recipes)),
        "patches": len(to_read),
        "scored": len(done),
        "readings": readings,
        "not_burned": not_burned,
        "recipes": recipes,
    }


def _steps(db: Tables, burn: BurnRow | None, plate: Plate | None, known: Observed | None) -> list[Row]:
    """The steps of the burn a page is about, else of its plan, where there are several: by which of them each is read,
    and which is shown."""
    if burn is not None:
        planned = frozen_plate(db, burn["revision_id"])
        kept = {one["step"]: one["read_as"] for one in trial_table.steps_of(db, burn["revision_id"])}
    elif plate is not None:
        planned, kept = plate, {number + 1: as_step + 1 for number, as_step in enumerate(read_as(plate))}
    else:
        return []
    shown = planned.trial.judged if known is None else known.step.number
    steps = planned.trial.steps
    return [
        {
            "step": number + 1,
            "name": step.name,
            "process": step.process.key,
            "read_as": kept[number + 1],
            "shown": number == shown,
        }
        for number, step in enumerate(steps)
        if len(steps) > 1
    ]


def _checklist(db: Tables, trial: TrialRow, plate: Plate | None, stands: Row | None) -> list[Row]:
    """What to see to before this trial is burned."""
    head = equipment_table.head(db, trial["head_id"])
    material = material_of(equipment_table.material(db, trial["material_id"]))
    hold: dict[str, float] = dict(plate.trial.hold) if plate else {}
    varied = plate.varied() if plate else []
    fire = fire_words(plate) if plate else None
    assumed = {*head["machine_assumed"], *head["assumed"]}
    through = PROCESSES[trial["process"]].passes_through
    checks = checklist(machine_of(head), material, hold, varied, fire, head["link"] != "", assumed, through)
    recipes = book_table.known_recipes(
        db, head_id=trial["head_id"], material_id=trial["material_id"], process=trial["process"]
    )
    pinned = pinned_checks(recipe["pinned"] for recipe in recipes)
    if stands is not None and stands["height_by"] is not None:
        checks.append(Check("stand_off", " ".join(filter(None, (stands["words"], stands["cost"])))))
    return [dict(vars(check)) for check in (*pinned, *checks)]


def _burned_plate(known: Observed, planned: Plate) -> dict[str, Any]:
    """The document of a plate that was burned, with what its patches really got."""
    burned = document_as_burned(seen(planned), runs_of(known.runs))
    return document_in_step(burned, known.step.number)


def _otherwise_read(db: Tables, burn: BurnRow, step: int) -> list[Row]:
    """What was read of the piece while it was treated otherwise than it is judged by, treatment by treatment."""
    others = [one for one in TREATMENTS if one != burn["treatment"]]
    read = set(reading_table.treatments_read(db, burn["id"]))
    return [
        {"treatment": one, "readings": reading_table.readings(db, burn["id"], one, step)}
        for one in others
        if one in read
    ]


def _kerf_of(db: Tables, trial: TrialRow) -> Row | None:
    """The recipe whose kerf a trial finds."""
    if trial["kerf_of_recipe"] is None:
        return None
    recipe = book_table.recipe(db, trial["kerf_of_recipe"])
    return {"recipe_id": recipe["id"], "edit": recipe["edit"], "kerf_mm": recipe["kerf_mm"]}


def _known_kerf(db: Tables, trial: TrialRow) -> float | None:
    """How wide a cut is here, by the best recipe that says it."""
    cuts = [key for key, process in PROCESSES.items() if process.passes_through]
    known = (
        recipe
        for key in cuts
        for recipe in book_table.known_recipes(
            db, head_id=trial["head_id"], material_id=trial["material_id"], process=key
        )
    )
    return next((recipe["kerf_mm"] for recipe in known if recipe["kerf_mm"] is not None), None)


def _said(seen: Observations) -> list[Row]:
    """What a burn says of each patch: at which dose it was burned, and whether it counts."""
    columns = zip(seen.element, seen.state, seen.dose.tolist(), strict=True)
    return [{"patch": patch, "state": state, "dose": dose} for patch, state, dose in columns]


def _shown(burns: list[BurnRow], burn_id: int | None) -> BurnRow | None:
    """The burn a page is about: the one that is asked for, else the latest."""
    if burn_id is None:
        return burns[0] if burns else None
    found = next((burn for burn in burns if burn["id"] == burn_id), None)
    if found is None:
        raise NotFound("There is no such burn of this trial.", "burn")
    return found


def trial_page(shop: Shop, trial_id: int, burn_id: int | None = None, step: int | None = None) -> Row:
    """Everything the trial's page shows; what is read, of one of several steps, counted from 1 (None: of what the trial
    set out to do).

    `plate` is the latest design's document, for planning; `burned` that of the burn it is about (the latest, unless
    another is asked for), for reading and deciding; `planned` and `planned_burned` are the same as the core's plates.
    """
    with shop.database.reading() as db:
        heads, materials = titles(db)
        trial = trial_table.trial(db, trial_id)
        latest = trial_table.latest_revision(db, trial_id)
        burns = burn_table.burns_of_trial(db, trial_id)
        document, plate, problem = _drawn_plate(db, shop, trial, latest)
        burn = _shown(burns, burn_id)
        known = observed(db, burn["id"], step=step) if burn else None
        just_burned = burn is not None and burn["revision_id"] == latest["id"]
        planned_burned = plate if just_burned else frozen_plate(db, burn["revision_id"]) if burn else None
        if known and planned_burned:
            planned_burned = planned_burned.of_step(known.step.number)
        burned = _burned_plate(known, planned_burned) if known and planned_burned else None
        progress = _progress(db, trial, latest, burns, burned or document, known)
        photos = photo_table.photos_of(db, burn["id"]) if burn else []
        conditions = burn_table.last_conditions(db, trial)
        place = heads[trial["head_id"]], materials[trial["material_id"]]
        today = today_of(db, trial)
        stands = of_plate(db, *place, plate, latest["design"]) if plate else None
        return {
            **named(trial, heads, materials),
            **progress,
            "recipes": [named(recipe, heads, materials) for recipe in progress["recipes"]],
            "failed": failed_shown(db, failed_table.failed_settings(db, trial_id=trial_id), heads, materials),
            "revision": latest["number"],
            "frozen": latest["frozen_at"] is not None,
            "code": plate.trial.code if plate else plate_code(db, trial["number"], latest["number"]),
            "design": latest["design"],
            "plate": document,
            "planned": plate,
            "against": against_the_one_before(db, trial, plate) if plate else None,
            "problem": problem,
            "burned": burned,
            "planned_burned": planned_burned,
            "observed": _said(known.seen) if known else [],
            "repeated": words_of_repeats(known.seen) if known else {},
            "otherwise_read": _otherwise_read(db, burn, known.step.read_as) if burn and known else [],
            "burn": burn,
            "burns": [{**one, **burn_table.counted(db, one["id"])} for one in burns],
            "photos": [with_handles(planned_burned, one) for one in photos] if planned_burned else [],
            "part_photos": part_table.of_burn(db, burn["id"]) if burn else [],
            "files": offered(plate, today) if plate else [],
            "burnable": plate is not None and is_burnable(plate, today),
            "last_conditions": conditions,
            "runs": known.runs if known else [],
            "remarks": run_table.remarks(db, burn["id"]) if burn else [],
            "checklist": _checklist(db, trial, plate, stands),
            "stand_off": stands,
            "link": heads[trial["head_id"]]["link"] != "",
            "zero": work_zero(plate.trial) if plate else None,
            "proven_cut": proven_cut(db, materials[trial["material_id"]], heads[trial["head_id"]]),
            "face": (known.step.process if known else PROCESSES[trial["process"]]).deciding_face,
            "steps": _steps(db, burn, plate, known),
            "kerf_of": _kerf_of(db, trial),
            "known_kerf_mm": _known_kerf(db, trial),
            "proof": proof_page(db, trial, known, plate),
            "proofs": proofs_of(db, burn["id"]) if burn else [],
        }


def burn_page(shop: Shop, burn_id: int, step: int | None = None) -> Row:
    """One burn of a trial with its plate as burned, to be laid beside others; `step` as in `observed`."""
    with shop.database.reading() as db:
        heads, materials = titles(db)
        known = observed(db, burn_id, step=step)
        return {
            "burn": known.burn,
            "trial": _of_burn(db, known.burn, heads, materials),
            "plate": _burned_plate(known, frozen_plate(db, known.burn["revision_id"]).of_step(known.step.number)),
            "photos": photo_table.photos_of(db, burn_id),
            "readings": known.readings,
            "not_burned": known.not_burned,
        }


def _of_burn(db: Tables, burn: BurnRow, heads: dict[int, HeadRow], materials: dict[int, MaterialRow]) -> Row:
    trial = named(trial_table.trial(db, burn["trial_id"]), heads, materials)
    return {key: trial[key] for key in ("id", "number", "process", "process_name", "head", "material", "material_id")}


def comparable_burns(shop: Shop, burn_id: int) -> list[Row]:
    """Burns of the same process, those on the same material first, the newest of each before the others; of very many
    the first of these."""
    with shop.database.reading() as db:
        heads, materials = titles(db)
        first = _of_burn(db, burn_table.burn(db, burn_id), heads, materials)
        burns = burn_table.burns_of_process(db, first["process"], first["material_id"], MOST_COMPARABLE)
        return [
            {
                "burn": burn,
                "trial": _of_burn(db, burn, heads, materials),
                "photos": photo_table.photos_of(db, burn["id"]),
            }
            for burn in burns
        ]
