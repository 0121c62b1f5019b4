"""What the screens show of the book: the answer to Ask, lists, one recipe's page, the map."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.actions.members import Member
from rezept.actions.open_shop import Shop
from rezept.actions.queries.observed import observed
from rezept.actions.queries.shop_facts import machine_of
from rezept.actions.queries.spent import spent_on
from rezept.actions.queries.standing import of_pieces
from rezept.actions.queries.starting import Reckoned, known_for, reckoned, sheet_of_row, start_from_book
from rezept.actions.queries.steps import step_of_recipe
from rezept.actions.queries.views import failed_shown, named, thumbnail, titles
from rezept.actions.queries.wall import trial_list
from rezept.core.begin.board import holds_a_board
from rezept.core.begin.known import Known, why_it_counts
from rezept.core.begin.ladder import why_ladder_first
from rezept.core.lay import LayKey
from rezept.core.material import NEVER_BURN
from rezept.core.names import trial_name
from rezept.core.plan.typed_settings import types_settings
from rezept.core.process import PROCESSES, known_process
from rezept.core.recipe import KNOWN_HERE, STANDING_RULES, STANDINGS, offered, worth_proving
from rezept.core.scales import SCALES
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import confirmations as confirmation_table
from rezept.store import equipment as equipment_table
from rezept.store import failed as failed_table
from rezept.store import findings as finding_table
from rezept.store import photos as photo_table
from rezept.store import trials as trial_table
from rezept.store.book import RecipeRow
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.rows import Row

Tables = sqlite3.Connection
MOST_NEIGHBOURS = 5
MOST_PLATES = 12


def _card(db: Tables, recipe: RecipeRow, heads: dict[int, HeadRow], materials: dict[int, MaterialRow]) -> Row:
    """A recipe with its evidence: the patch on its plate, how it came out, how it was burned, the photos."""
    card = {**named(recipe, heads, materials), "evidence": None}
    if recipe["burn_id"] is not None:
        known = observed(db, recipe["burn_id"], recipe["treatment"], step_of_recipe(db, recipe))
        process = PROCESSES[recipe["process"]]
        reading = next(
            (r for r in known.readings if (r["patch"], r["face"]) == (recipe["patch"], process.deciding_face)), None
        )
        came = None if reading is None else reading["values"].get(process.outcome)
        card["evidence"] = {
            "burn": known.burn,
            "code": known.plate.trial.code,
            "reading": reading,
            "failed": came is not None and SCALES[process.outcome].failed(came),
            "picture": thumbnail(known.plate.light(), known.step.process.key, known.outcomes, known.not_burned),
            "photos": photo_table.photos_of(db, known.burn["id"]),
        }
    return card


def _finding(db: Tables, finding_id: int) -> Row:
    """What a recipe was chosen for, and from which plates."""
    kept = finding_table.one(db, finding_id)
    plates = [burn_table.burn(db, burn) for burn in kept["burns"]]
    names = {plate["trial_id"]: trial_name(trial_table.trial(db, plate["trial_id"])["number"]) for plate in plates}
    return {
        **{key: kept[key] for key in ("aim", "predicted", "model", "at", "by_name")},
        "plates": [
            {"trial": plate["trial_id"], "burn": plate["id"], "name": names[plate["trial_id"]]} for plate in plates
        ],
    }


def recipe_page(shop: Shop, by: Member, recipe_id: int) -> Row:
    """A recipe with its evidence, confirmations, history, what the member may say of it, and what else is known of its
    material on its head."""
    # Models load much of SciPy; only those who look at a recipe wait for it.
    from rezept.actions.queries.chance import chances_of

    with shop.database.reading() as db:
        heads, materials = titles(db)
        recipe = book_table.recipe(db, recipe_id)
        confirmations = confirmation_table.of_recipe(db, recipe_id)
        others = book_table.known_recipes(db, material_id=recipe["material_id"], head_id=recipe["head_id"])
        return {
            **_card(db, recipe, heads, materials),
            "history": book_table.history(db, recipe_id),
            "confirmations": confirmations,
            "worth_proving": worth_proving(recipe["standing"], [one["held"] for one in confirmations]),
            "offered": offered(recipe["standing"], by.may("technician")) if by.may("member") else [],
            "rules": list(STANDING_RULES),
            "stand_off": of_pieces(
                db, heads[recipe["head_id"]], materials[recipe["material_id"]], recipe["steps"][0]["settings"]
            )
            if len(recipe["steps"]) == 1
            else [],
            "chance": chances_of(db, [recipe]).get(recipe_id),
            "finding": None if recipe["finding_id"] is None else _finding(db, recipe["finding_id"]),
            "spent": spent_on(db, recipe),
            "siblings": [named(other, heads, materials) for other in others if other["id"] != recipe_id],
        }


def book(
    shop: Shop,
    text: str = "",
    head_id: int | None = None,
    material_id: int | None = None,
    process: str | None = None,
    standing: str | None = None,
    skip: int = 0,
    most: int = 60,
) -> Row:
    """How many recipes match, and some of them, best standing first, each with a small picture of its evidence."""
    with shop.database.reading() as db:
        heads, materials = titles(db)
        total, found = book_table.search_recipes(
            db,
            text,
            head_id=head_id,
            material_id=material_id,
            process=process,
            standing=standing,
            skip=skip,
            most=most,
        )
        return {"total": total, "recipes": [_card(db, recipe, heads, materials) for recipe in found]}


def wall_card(shop: Shop, machine_id: int) -> list[Row]:
    """What hangs beside a machine: all that is proven or tried on its heads, by material."""
    with shop.database.reading() as db:
        heads, materials = titles(db)
        equipment_table.one(db, "machine", machine_id)
        recipes = [
            named(recipe, heads, materials)
            for head in heads.values()
            if head["machine_id"] == machine_id and not head["retired"]
            for recipe in book_table.known_recipes(db, head_id=head["id"])
            if recipe["standing"] in KNOWN_HERE and not materials[recipe["material_id"]]["retired"]
        ]
    return sorted(recipes, key=lambda recipe: (recipe["head_id"], recipe["material"], recipe["process"]))


def _best_first(recipe: RecipeRow, card: Row) -> tuple[int, float]:
    """By standing, and of equals those before that dropped out by themselves; a darkness is no better than another."""
    process, evidence = PROCESSES[recipe["process"]], card["evidence"]
    reading = None if evidence is None else evidence["reading"]
    came = 0.0 if reading is None or not process.passes_through else reading["values"].get(process.outcome, 0.0)
    return STANDINGS.index(recipe["standing"]), -came


def ask(shop: Shop, process: str, material_id: int, head_id: int, lay: LayKey = "flat") -> Row:
    """What do we use for this? `recipes` that were tried here answer it; what is only `unproven` (heard of, estimated,
    doubtful), what was found on a piece that `lay_otherwise`, and what comes near does not, nor what `failed`; they say
    where to start."""
    # Models load much of SciPy; only those who ask wait for it.
    from rezept.actions.queries.chance import chances_of

    known_process(process)
    with shop.database.reading() as db:
        heads, materials = titles(db)
        material, head = equipment_table.material(db, material_id), equipment_table.head(db, head_id)
        same = book_table.known_recipes(db, material_name=material["name"])

        def fits(recipe: RecipeRow) -> bool:
            return (recipe["material_id"], recipe["head_id"], recipe["process"]) == (material_id, head_id, process)

        of_it = sorted(
            ((recipe, _card(db, recipe, heads, materials)) for recipe in same if fits(recipe)),
            key=lambda one: _best_first(*one),
        )
        cards = [one for one in of_it if one[0]["lay"] == lay]
        found = [card for recipe, card in cards if recipe["standing"] in KNOWN_HERE]
        unproven = [card for recipe, card in cards if recipe["standing"] not in KNOWN_HERE]
        here = {recipe["id"] for recipe, _ in of_it}
        known = [] if found else known_for(db, process, material, head)
        elsewhere = reckoned(process, material, head, known)
        near = [one for one in _near(process, material, head, known, elsewhere) if one[0] not in here][:MOST_NEIGHBOURS]
        by_id = {row["id"]: row for row in book_table.recipes_of(db, [recipe_id for recipe_id, _, _ in near])}
        shown = {*by_id, *here}
        begin = start_from_book(db, process, material, head, elsewhere)
        start = begin.start
        does_not = next(
            (
                row["reason"]
                for row in book_table.not_working(db, process)
                if (row["material_id"], row["head_id"]) == (material_id, head_id)
            ),
            None,
        )
        failed = failed_table.failed_settings(db, material_name=material["name"], process=process)
        answer = {
            "meant": process in material["processes"],
            "never": [f"{material['title']} {NEVER_BURN[key]}." for key in material["hazards"] if key in NEVER_BURN],
            "does_not_work": does_not,
            "recipes": found,
            "unproven": unproven,
            "lay_otherwise": [card for recipe, card in of_it if recipe["lay"] != lay],
            "chances": chances_of(db, [recipe for recipe, _ in of_it]),
            "failed": failed_shown(db, failed, heads, materials),
            "near": [
                {"recipe": _card(db, by_id[recipe_id], heads, materials), "reasons": reasons, "weight": weight}
                for recipe_id, reasons, weight in near
            ],
            "related": [_card(db, recipe, heads, materials) for recipe in same if recipe["id"] not in shown],
            "start": {
                "speed_mm_s": [start.speed_mm_s.start, start.speed_mm_s.end],
                "power_pct": [start.power_pct.start, start.power_pct.end],
                "centre": start.centre,
                "reason": start.reason,
                "trial": begin.trial,
                "burn": begin.burn,
                "patch": begin.patch,
                "on_a_board": holds_a_board(material["processes"], process),
                "ladder_first": _ladder_first(db, process, material, head, begin.trial is not None),
            },
        }
    plates = trial_list(shop, None, None, material_name=material["name"], burned=True, most=MOST_PLATES)
    return {**answer, "plates": plates}


def _ladder_first(db: Tables, process: str, material: MaterialRow, head: HeadRow, burned: bool) -> str:
    """Why one would begin with a ladder; empty where an array is as good. `burned`: a plate of it waits."""
    of_name = book_table.known_recipes(
        db, material_name=material["name"], process=process, head_id=head["id"], lay="flat"
    )
    other = any(recipe["standing"] in KNOWN_HERE and recipe["material_id"] != material["id"] for recipe in of_name)
    return why_ladder_first(types_settings(machine_of(head)), material["name"], other and not burned)


def _near(
    process: str, material: MaterialRow, head: HeadRow, known: list[Known], elsewhere: Reckoned | None
) -> list[tuple[int, tuple[str, ...], float]]:
    """What the starting point rests on: recipe, why it counts, its share; then what is doubtful, which has none."""
    counted = (
        [] if elsewhere is None else [(one.id, source.reasons, source.weight) for one, source in elsewhere.sources]
    )
    here = PROCESSES[process], sheet_of_row(material), machine_of(head)
    doubtful = [(one.id, why_it_counts(*here, one), 0.0) for one in known if one.standing == "doubtful"]
    return [*counted, *doubtful]


def failed_settings(
    shop: Shop, material_id: int | None = None, head_id: int | None = None, process: str | None = None
) -> list[Row]:
    """What was burned and failed, the latest first."""
    with shop.database.reading() as db:
        failed = failed_table.failed_settings(db, material_id=material_id, head_id=head_id, process=process)
        return failed_shown(db, failed, *titles(db))


def book_map(shop: Shop, process: str) -> Row:
    """Materials down, heads across, for one process: what is known, what is not, what is not meant or does not work."""
    known_process(process)
    with shop.database.reading() as db:
        best = book_table.best_of_each(db, process)
        failed = book_table.not_working(db, process)
        heads = [row for row in equipment_table.all_of(db, "head") if not row["retired"]]
        materials = [row for row in equipment_table.all_of(db, "material") if not row["retired"]]
    by_place: dict[tuple[int, int], dict[str, Any]] = {}
    for row in failed:
        by_place[row["material_id"], row["head_id"]] = {"state": "does_not_work", "reason": row["reason"]}
    for row in best:
        by_place[row["material_id"], row["head_id"]] = {
            "state": "known",
            "recipe": row["id"],
            "standing": row["standing"],
            "purpose": row["purpose"],
            "known": row["known"],
            "settings": row["settings"],
            "outcome": None if row["outcome"] is None else int(row["outcome"]),
        }
    rows = []
    for material in materials:
        never = [NEVER_BURN[key] for key in material["hazards"] if key in NEVER_BURN]
        cells = []
        for head in heads:
            cell = by_place.get((material["id"], head["id"]))
            if never:
                cell = {"state": "never", "reason": f"{never[0]}; it is never burned here"}
            elif cell is None:
                meant = process in material["processes"]
                cell = {"state": "gap"} if meant else {"state": "not_meant", "reason": "not meant for this"}
            cells.append({"head_id": head["id"], **cell})
        if process in material["processes"] or any(cell["state"] == "known" for cell in cells):
            rows.append({"material_id": material["id"], "title": material["title"], "cells": cells})
    return {
        "process": process,
        "heads": [{"id": head["id"], "title": head["title"]} for head in heads],
        "rows": rows,
        "gaps": sum(cell["state"] == "gap" for row in rows for cell in row["cells"]),
        "known": sum(cell["state"] == "known" for row in rows for cell in row["cells"]),
    }
