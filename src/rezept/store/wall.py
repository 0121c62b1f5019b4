"""What a wall of trials shows, in one question for all of them rather than one for each."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from typing import Any

from rezept.store.burns import BARE
from rezept.store.readings import READ, read_by
from rezept.store.rows import Row, as_json
from rezept.store.runs import read_off
from rezept.store.trials import parsed_plate


def standing(db: sqlite3.Connection, trials: Iterable[int]) -> dict[int, Row]:
    """By trial: its latest revision (`revision`, `number`, `frozen`), the latest burn that counts (`burn`,
    `burned_at`), the revision whose plate is shown (`shown`: the burned one, else the latest), and how many recipes
    rest on its burns (`kept`)."""
    rows = db.execute(
        """
        WITH asked AS (SELECT value AS id FROM json_each(?)),
        latest AS (
            SELECT revision.trial_id, revision.id, max(revision.number) AS number, revision.frozen_at
            FROM revision JOIN asked ON asked.id = revision.trial_id GROUP BY revision.trial_id
        ),
        burned AS (
            SELECT revision.trial_id, max(burn.id) AS burn, burn.revision_id, burn.at
            FROM burn JOIN revision ON revision.id = burn.revision_id JOIN asked ON asked.id = revision.trial_id
            WHERE burn.taken_back_at IS NULL GROUP BY revision.trial_id
        ),
        known AS (
            SELECT revision.trial_id, count(DISTINCT evidence.recipe_id) AS recipes
            FROM evidence JOIN burn ON burn.id = evidence.burn_id JOIN revision ON revision.id = burn.revision_id
            JOIN asked ON asked.id = revision.trial_id
            WHERE burn.taken_back_at IS NULL GROUP BY revision.trial_id
        )
        SELECT latest.trial_id, latest.id AS revision, latest.number, latest.frozen_at IS NOT NULL AS frozen,
               burned.burn, coalesce(burned.revision_id, latest.id) AS shown, burned.at AS burned_at,
               coalesce(known.recipes, 0) AS kept
        FROM latest LEFT JOIN burned ON burned.trial_id = latest.trial_id
        LEFT JOIN known ON known.trial_id = latest.trial_id
        """,
        (as_json(list(trials)),),
    )
    return {row["trial_id"]: {**dict(row), "frozen": bool(row["frozen"])} for row in rows}


def designs(db: sqlite3.Connection, revisions: Iterable[int]) -> dict[int, Row]:
    rows = db.execute(
        "SELECT id, design FROM revision WHERE id IN (SELECT value FROM json_each(?))", (as_json(list(revisions)),)
    )
    return {row["id"]: json.loads(row["design"]) for row in rows}


def plates(db: sqlite3.Connection, revisions: Iterable[int]) -> dict[int, dict[str, Any]]:
    """Frozen plates as they were kept. Nobody may write into them."""
    rows = db.execute(
        "SELECT id, plate FROM revision WHERE plate IS NOT NULL AND id IN (SELECT value FROM json_each(?))",
        (as_json(list(revisions)),),
    )
    return {row["id"]: parsed_plate(row["plate"]) for row in rows}


# A frozen plate never changes: how many of its patches burn is counted once for each, some bytes each.
_burning: dict[tuple[str, int], int] = {}


def burning_patches(db: sqlite3.Connection, revisions: Iterable[int], shop: str) -> dict[int, int]:
    """How many patches of frozen plates burn; `shop` tells these records from others in the same process."""
    asked = list(revisions)
    missing = [one for one in asked if (shop, one) not in _burning]
    rows = db.execute(
        """
        SELECT revision.id, (SELECT count(*) FROM json_each(revision.plate, '$.patches')
                             WHERE json_extract(json_each.value, '$.burn')) AS patches
        FROM revision WHERE plate IS NOT NULL AND id IN (SELECT value FROM json_each(?))
        """,
        (as_json(missing),),
    )
    _burning.update({(shop, row["id"]): row["patches"] for row in rows})
    return {one: _burning[shop, one] for one in asked if (shop, one) in _burning}


def scored(db: sqlite3.Connection, burns: Iterable[int], outcome: str) -> dict[int, tuple[int, int]]:
    """By burn: how many of its patches have been read for `outcome`, bare ones left out, and how many are bare."""
    asked = read_by(burns, outcome)
    rows = db.execute(
        f"""
        WITH {BARE}, {READ}
        SELECT burn_id, count(*) AS patches FROM read
        WHERE NOT EXISTS (SELECT 1 FROM bare WHERE bare.burn_id = read.burn_id AND bare.patch = read.element)
        GROUP BY burn_id
        """,
        asked,
    )
    read = {row["burn_id"]: row["patches"] for row in rows}
    left = db.execute(f"WITH {BARE} SELECT burn_id, count(*) AS patches FROM bare GROUP BY burn_id", asked)
    bare = {row["burn_id"]: row["patches"] for row in left}
    return {burn: (read.get(burn, 0), bare.get(burn, 0)) for burn in json.loads(asked["burns"])}


def front_photos(db: sqlite3.Connection, burns: Iterable[int]) -> dict[int, Row]:
    """By burn: its front as it was photographed (`id`, `edit`, `laid`), where there is a photo; one in which the plate
    was found goes before the others."""
    rows = db.execute(
        """
        SELECT burn_id, id, edit, matrix IS NOT NULL AS laid FROM plate_photo
        WHERE burn_id IN (SELECT value FROM json_each(?)) AND face = 'front' AND NOT removed
        ORDER BY matrix IS NULL, picked DESC, id DESC
        """,
        (as_json(list(burns)),),
    )
    photos: dict[int, Row] = {}
    for row in rows:
        photos.setdefault(row["burn_id"], {"id": row["id"], "edit": row["edit"], "laid": bool(row["laid"])})
    return photos


def run_parts(db: sqlite3.Connection, burns: Iterable[int]) -> dict[int, list[Row]]:
    """By burn: its runs, each with the kind and the parts that say what its patches got."""
    runs: dict[int, dict[int, Row]] = {}
    rows = db.execute(
        """
        SELECT burn_run.burn_id, burn_run.id AS run, burn_run.kind AS run_kind, doubtful, run_part.name, run_part.kind,
               run_part.state, run_part.passes, run_part.power, run_part.speed, run_part.focus_mm, run_part.mixed
        FROM burn_run LEFT JOIN run_part ON run_part.run_id = burn_run.id
        WHERE burn_run.burn_id IN (SELECT value FROM json_each(?)) ORDER BY burn_run.id, run_part.position
        """,
        (as_json(list(burns)),),
    )
    found = rows.fetchall()
    turned = read_off(db, {row["run"] for row in found})
    for row in found:
        run = runs.setdefault(row["burn_id"], {}).setdefault(
            row["run"], {"kind": row["run_kind"], "doubtful": bool(row["doubtful"]), "parts": []}
        )
        if row["name"] is not None:
            read = turned.get(row["run"], {}).get(row["name"], {})
            run["parts"].append({**dict(row), "mixed": bool(row["mixed"]), "read_off": read})
    return {burn: list(of_burn.values()) for burn, of_burn in runs.items()}
