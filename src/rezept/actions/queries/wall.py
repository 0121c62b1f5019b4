"""The wall of trials: a page of them as pictures, whatever number there is."""

from __future__ import annotations

import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Sequence
from typing import Any

from rezept.actions.open_shop import Shop
from rezept.actions.queries.previews import plan_design
from rezept.actions.queries.views import named, outcome_of, thumbnail, titles
from rezept.core.burned import document_as_burned, runs_of
from rezept.core.errors import RezeptError
from rezept.core.names import trial_name
from rezept.core.process import PROCESSES
from rezept.store import burns as burn_table
from rezept.store import changes, wall
from rezept.store import readings as reading_table
from rezept.store import shop as shop_table
from rezept.store import trials as trial_table
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.rows import Row, as_json
from rezept.store.trials import TrialRow

Tables = sqlite3.Connection
# Pictures of drafts stay for as long as nothing they are planned from has changed; of so many patches together, some
# 600 bytes each.
MOST_DRAWN = 100_000
AT_A_TIME = 200
_making_room = threading.Lock()
drafts_drawn: OrderedDict[tuple[Any, ...], Row | None] = OrderedDict()


def trial_list(
    shop: Shop,
    head_id: int | None,
    material_id: int | None,
    stages: tuple[str, ...] = (),
    material_name: str | None = None,
    burned: bool = False,
    skip: int = 0,
    most: int = 1000,
    text: str = "",
    away: bool | None = False,
) -> list[Row]:
    """Trials as pictures, newest first; of one head, one material, or all thicknesses of one. `most` of those that
    fit, after the first `skip`.

    text : every word of it stands in the trial's number, name, material, machine, process or author
    away : those that are put away; None: all
    """
    with shop.database.reading() as db:
        heads, materials = titles(db)
        trials = trial_table.trials(db, head_id, material_id, material_name)
        if away is not None:
            trials = [trial for trial in trials if (trial["put_away_at"] is not None) == away]
        words = text.casefold().split()
        if words:
            trials = [trial for trial in trials if _says(named(trial, heads, materials), words)]
        if not stages and not burned:
            trials, skip = trials[skip : skip + most], 0
        standing: dict[int, Row] = {}
        stage: dict[int, tuple[str, int, int]] = {}
        page: list[TrialRow] = []
        # Some at a time, until the page is full: those that fit are mostly among the latest.
        for first in range(0, len(trials), AT_A_TIME):
            some = trials[first : first + AT_A_TIME]
            standing.update(wall.standing(db, [trial["id"] for trial in some]))
            some = [trial for trial in some if not burned or standing[trial["id"]]["burn"]]
            stage.update(_stages(db, str(shop.folder), some, standing))
            page += [trial for trial in some if not stages or stage[trial["id"]][0] in stages]
            if len(page) >= skip + most:
                break
        page = page[skip : skip + most]
        pictures = _pictures(db, shop, page, standing, heads, materials)
        photos = wall.front_photos(db, _burns(page, standing))
        return [
            {
                **named(trial, heads, materials),
                **_counted(stage[trial["id"]], pictures[trial["id"]]),
                "kept": standing[trial["id"]]["kept"],
                "burned_at": standing[trial["id"]]["burned_at"],
                "picture": pictures[trial["id"]],
                "photo": photos.get(standing[trial["id"]]["burn"]),
            }
            for trial in page
        ]


def _says(trial: Row, words: Sequence[str]) -> bool:
    parts = (trial["name"], trial["material"], trial["head"], trial["process_name"], trial["author"])
    said = " ".join([trial_name(trial["number"]), *parts]).casefold()
    return all(word in said for word in words)


def _counted(stage: tuple[str, int, int], picture: Row | None) -> Row:
    """A trial's stage and numbers; how many patches a draft has stands in its picture."""
    name, patches, scored = stage
    if name == "plan" and picture is not None:
        patches = sum(patch["burn"] for patch in picture["patches"])
    return {"stage": name, "patches": patches, "scored": scored}


def _stages(
    db: Tables, shop: str, trials: Sequence[TrialRow], standing: dict[int, Row]
) -> dict[int, tuple[str, int, int]]:
    """By trial: where it stands (plan, burn, read, decide or kept), its patches to read, and those that are."""
    shop += shop_table.key(db)
    burned = [trial for trial in trials if standing[trial["id"]]["burn"]]
    known = wall.burning_patches(db, {one["shown"] for one in (standing[trial["id"]] for trial in trials)}, shop)
    read: dict[int, tuple[int, int]] = {}
    for outcome in {PROCESSES[trial["process"]].outcome for trial in burned}:
        burns = [standing[t["id"]]["burn"] for t in burned if PROCESSES[t["process"]].outcome == outcome]
        read.update(wall.scored(db, burns, outcome))
    found = {}
    for trial in trials:
        one = standing[trial["id"]]
        patches, scored = known.get(one["shown"], 0), 0
        if one["burn"]:
            scored, bare = read[one["burn"]]
            patches -= bare
            stage = "read" if scored < patches else "kept" if one["kept"] else "decide"
        else:
            stage = "burn" if one["frozen"] else "plan"
        found[trial["id"]] = (stage, patches, scored)
    return found


def _burns(page: Sequence[TrialRow], standing: dict[int, Row]) -> list[int]:
    """The latest burns of those trials that have one."""
    return [standing[trial["id"]]["burn"] for trial in page if standing[trial["id"]]["burn"]]


def _pictures(
    db: Tables,
    shop: Shop,
    page: Sequence[TrialRow],
    standing: dict[int, Row],
    heads: dict[int, HeadRow],
    materials: dict[int, MaterialRow],
) -> dict[int, Row | None]:
    burns = _burns(page, standing)
    shown = {one["shown"] for one in (standing[trial["id"]] for trial in page)}
    plates, drafts = wall.plates(db, shown), wall.designs(db, shown)
    bare, readings = burn_table.bare_patches(db, burns), reading_table.readings_of(db, burns)
    runs = wall.run_parts(db, burns)
    # What lies on a piece changes with whatever is burned.
    pieces = changes.latest_id(db)
    pictures: dict[int, Row | None] = {}
    for trial in page:
        one = standing[trial["id"]]
        plate = plates.get(one["shown"])
        if plate is None:
            known = (heads[trial["head_id"]], materials[trial["material_id"]])
            pictures[trial["id"]] = _draft(db, shop, trial, one, drafts[one["revision"]], known, pieces)
            continue
        burn = one["burn"]
        scores = {row["patch"]: outcome_of(trial["process"], row) for row in readings.get(burn, [])}
        seen = document_as_burned(plate, runs_of(runs.get(burn, []))) if burn else plate
        pictures[trial["id"]] = thumbnail(seen, trial["process"], scores, bare.get(burn, []))
    return pictures


def _draft(
    db: Tables, shop: Shop, trial: TrialRow, one: Row, design: Row, known: tuple[HeadRow, MaterialRow], pieces: int
) -> Row | None:
    """The picture of a draft, planned once for as long as it, its machine, its material and its piece stay as they
    are."""
    piece = pieces if design.get("piece_id") else 0
    key = (shop_table.key(db), str(shop.folder), trial["id"], trial["edit"], one["number"], as_json(known), piece)
    if key not in drafts_drawn:
        try:
            drafts_drawn[key] = thumbnail(
                plan_design(db, shop, trial, one["number"], design).light(), trial["process"], {}, []
            )
        except RezeptError:
            drafts_drawn[key] = None
        with _making_room:
            _make_room()
    return drafts_drawn.get(key)


def _make_room() -> None:
    """Forget the oldest pictures of drafts, but for the latest, while they are too large together."""
    drawn = [0 if picture is None else len(picture["patches"]) + 20 for picture in list(drafts_drawn.values())]
    total = sum(drawn)
    for patches in drawn[:-1]:
        if total <= MOST_DRAWN:
            return
        drafts_drawn.popitem(last=False)
        total -= patches
