"""The shop's equipment, edited in place: machines with heads, materials, lots and pieces."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.shop_facts import MATERIAL_KEYS
from rezept.actions.typed import Units, resolved_facts
from rezept.core.colour import read_hex
from rezept.core.errors import InvalidInput, Refused
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.machine_facts import ASSUMABLE, refuse_beyond_bounds
from rezept.core.material import FAMILIES, USUALLY_MEANT_FOR, read_material
from rezept.core.names import clean_name
from rezept.core.plan.parts import read_piece
from rezept.core.process import PROCESSES
from rezept.core.sheet_facts import THICKNESS_SAID, read_sheet_facts
from rezept.core.thickness import as_said
from rezept.store import changes, search
from rezept.store import equipment as equipment_table
from rezept.store.errors import Stale
from rezept.store.rows import Row

# Who may add and change what.
LEAST = {"machine": "technician", "head": "technician", "material": "technician", "lot": "member", "piece": "member"}
_LINK = re.compile(r"/dev/[\w./-]+|COM\d{1,3}|socket://[\w.-]+:\d{1,5}", re.ASCII)
HARDNESS = ("very soft", "soft", "middling", "hard", "very hard")


# --- reading what a form or file says ---------------------------------------------------------------------


def _machine(_db: sqlite3.Connection, document: Row) -> Row:
    facts = dict(document)
    assumed = _assumed(facts)
    own = Fields({key: facts.pop(key, "") for key in ("note", "link")})
    note, link = own.text("note", longest=4000), own.text("link", longest=200).strip(" ")
    if link and not _LINK.fullmatch(link):
        raise InvalidInput("A live link is a serial line, like /dev/ttyUSB0, or socket://host:port.", "link", link)
    machine = read_machine(Fields(facts))
    refuse_beyond_bounds(machine)
    stored = machine.document()
    stored.pop("head")
    return {"name": clean_name(machine.name), "facts": stored, "assumed": assumed, "note": note, "link": link}


def _assumed(facts: Row) -> list[str]:
    """Takes out of a form which of its figures nobody has looked up yet; each must be one there is."""
    fields = Fields({"assumed": facts.pop("assumed", [])})
    return sorted(set(fields.keys("assumed", ASSUMABLE, "anything that is assumed of a machine")))


def _head(db: sqlite3.Connection, document: Row) -> Row:
    facts = dict(document)
    assumed = _assumed(facts)
    machine_id = Fields(facts).whole("machine_id", at_least=1)
    facts.pop("machine_id")
    machine = equipment_table.one(db, "machine", machine_id)
    # Read as part of its machine, so that a figure the machine cannot have is found; paths are the head's own.
    try:
        whole = read_machine(Fields({**machine["facts"], "head": facts}))
        head = whole.head
        refuse_beyond_bounds(whole)
    except InvalidInput as error:
        raise type(error)(error.sentence, error.path.removeprefix("head."), error.value, error.limit) from error
    return {"machine_id": machine_id, "name": head.name.strip(), "facts": head.document(), "assumed": assumed}


def _material(_db: sqlite3.Connection, document: Row) -> Row:
    facts = dict(document)
    own = Fields({key: facts.pop(key) for key in tuple(facts) if key not in (*MATERIAL_KEYS, "facts")})
    colour = own.text("ground_colour", None)
    if colour is not None:
        facts["ground_lab"] = read_hex(colour, "ground_colour") if colour else None
    usual = USUALLY_MEANT_FOR.get(str(facts.get("family", "other")), ())
    processes = own.keys("processes", PROCESSES, "a process", usual)
    said = Fields(facts.pop("facts", {}), "facts")
    known = read_sheet_facts(said)
    said.finish()
    stored = read_material(Fields(facts)).document()
    if stored["family"] not in FAMILIES:
        raise InvalidInput(f"A family is one of {', '.join(FAMILIES)}.", "family", stored["family"])
    row = {
        **stored,
        "name": clean_name(stored["name"]),
        "processes": [key for key in PROCESSES if key in processes],
        "density_kg_m3": own.number("density_kg_m3", None, above=0.0, at_most=25_000.0),
        "hardness": own.whole("hardness", None, at_least=1, at_most=len(HARDNESS)),
        "facts": known,
        "supplier_code": own.text("supplier_code", "", longest=120).strip(),
        "note": own.text("note", "", longest=4000),
    }
    own.finish()
    return row


def _lot(db: sqlite3.Connection, document: Row) -> Row:
    fields = Fields(document)
    row = {
        "material_id": fields.whole("material_id", at_least=1),
        "name": clean_name(fields.text("name")),
        "measured_mm": fields.number("measured_mm", None, above=0.0, at_most=1000.0),
        "supplier_code": fields.text("supplier_code", "", longest=120).strip(),
        "note": fields.text("note", "", longest=4000),
    }
    fields.finish()
    equipment_table.material(db, row["material_id"])
    return row


# What a piece is to a plate that lies on it.
PIECE_KEYS = ("shape", "width_mm", "height_mm", "margin_mm", "outline", "holes", "rise_mm", "top", "top_varies_mm")


def _shape_of(document: Row) -> Row:
    """The shape of a piece as a form has it: a disc has one measure, a rectangle that says one is square, and of any
    other the corners say how large it is."""
    facts = {"margin_mm": 2.0, **{key: document[key] for key in PIECE_KEYS if document.get(key) is not None}}
    if facts.get("shape") in ("disc", "outline"):
        facts.pop("height_mm", None)
    else:
        facts.setdefault("height_mm", facts.get("width_mm"))
        facts.pop("outline", None)
    if facts.get("shape") == "outline":
        facts.pop("width_mm", None)
    if facts.get("top") in ("", None, "level"):
        # What varies goes with a top that is not level.
        facts = {key: value for key, value in facts.items() if key not in ("top", "top_varies_mm")}
    piece = read_piece(facts, "", [])
    return {"outline": [], "holes": [], **piece.document()}


def _piece(db: sqlite3.Connection, document: Row) -> Row:
    fields = Fields({key: value for key, value in document.items() if key not in PIECE_KEYS})
    row = {
        "material_id": fields.whole("material_id", at_least=1),
        "lot_id": fields.whole("lot_id", None, at_least=1),
        "name": clean_name(fields.text("name")),
        **_shape_of(document),
        "count": fields.whole("count", 1, at_least=1, at_most=100_000),
        "note": fields.text("note", "", longest=4000),
    }
    fields.finish()
    if 2 * row["margin_mm"] >= min(row["width_mm"], row["height_mm"]):
        raise InvalidInput("The margin leaves nothing of the piece.", "margin_mm", row["margin_mm"])
    equipment_table.material(db, row["material_id"])
    if row["lot_id"] is not None and equipment_table.one(db, "lot", row["lot_id"])["material_id"] != row["material_id"]:
        raise InvalidInput("That lot is of another material.", "lot_id", row["lot_id"])
    return row


_READ = {"machine": _machine, "head": _head, "material": _material, "lot": _lot, "piece": _piece}


# --- adding, changing, taking back ------------------------------------------------------------------------


def _exists(kind: str, name: str) -> InvalidInput:
    return InvalidInput(f"There is a {kind} of that name already, perhaps a retired one.", "name", name)


def _added(db: sqlite3.Connection, shop: Shop, by: Member, kind: str, document: Row) -> int:
    row = _READ[kind](db, document)
    try:
        row_id = equipment_table.add(db, kind, row, by.id, shop.now())
    except sqlite3.IntegrityError as error:
        raise _exists(kind, row["name"]) from error
    after = equipment_table.one(db, kind, row_id)
    changes.log(db, kind, row_id, "added", after["title"], by.id, shop.now(), None, after)
    return row_id


def _read_form(kind: str, document: Mapping[str, Any], units: Units) -> Row:
    """A form with numbers in place of typed texts; a sheet keeps how its thickness was said."""
    plain = resolved_facts(document, units)
    if kind == "material" and "thickness_mm" in document:
        facts = {key: value for key, value in (plain.get("facts") or {}).items() if key != THICKNESS_SAID}
        said = as_said(document["thickness_mm"]) if plain.get("thickness_mm") is not None else ""
        plain["facts"] = facts | ({THICKNESS_SAID: said} if said else {})
    return plain


def add(shop: Shop, by: Member, kind: str, document: Mapping[str, Any], units: Units) -> int:
    """Add a head, material, lot or piece as a form has it; returns its id."""
    require(by, LEAST[kind], f"add {kind}s")
    with shop.database.writing() as db:
        return _added(db, shop, by, kind, _read_form(kind, document, units))


def change(
    shop: Shop, by: Member, kind: str, row_id: int, edit: int, document: Mapping[str, Any], units: Units, retired: bool
) -> Row:
    """Change or retire a piece of equipment, made from its version `edit`.

    Raises
    ------
    Stale : somebody changed it since
    """
    require(by, LEAST[kind], f"change {kind}s")
    with shop.database.writing() as db:
        before = equipment_table.one(db, kind, row_id)
        owner: Row = {
            key: before[key] for key in ("machine_id", "material_id") if key in before and key not in document
        }
        row = _READ[kind](db, {**_read_form(kind, document, units), **owner})
        return _changed(db, shop, by, kind, before, edit, row, retired)


def _changed(
    db: sqlite3.Connection, shop: Shop, by: Member, kind: str, before: Row, edit: int, row: Row, retired: bool
) -> Row:
    try:
        after = equipment_table.change(db, kind, before["id"], edit, row, retired, by.id, shop.now())
    except sqlite3.IntegrityError as error:
        raise _exists(kind, row["name"]) from error
    search.index(db, kind, before["id"])
    verb = "changed"
    if after["retired"] != before["retired"]:
        verb = "retired" if after["retired"] else "took back"
    changes.log(db, kind, before["id"], verb, after["title"], by.id, shop.now(), before, after)
    return after


def take_back(shop: Shop, by: Member, change_id: int) -> tuple[str, Row]:
    """Undo one change of equipment: what it was before stands again, as a new change.

    Returns what it was a change of, and the row. What was added is retired.

    Raises
    ------
    Stale : somebody went on changing it since
    """
    with shop.database.writing() as db:
        line = changes.change(db, change_id)
        kind = line["subject"]
        if kind not in LEAST or line["after"] is None:
            raise Refused("This cannot be taken back.", "change")
        require(by, LEAST[kind], f"change {kind}s")
        now = equipment_table.one(db, kind, line["subject_id"])
        if now["edit"] != line["after"]["edit"]:
            raise Stale(now["title"], now, line["before"] or line["after"])
        before = line["before"] or {**line["after"], "retired": True}
        return kind, _changed(db, shop, by, kind, now, now["edit"], before, before["retired"])


def add_machine(
    shop: Shop, by: Member, document: Mapping[str, Any], heads: list[dict[str, Any]], units: Units | None = None
) -> list[int]:
    """A machine with its heads, as in a trial file; returns the heads' ids in order."""
    require(by, "technician", "add machines")
    if not heads:
        raise InvalidInput("A machine needs at least one head.", "heads")
    with shop.database.writing() as db:
        machine_id = _added(db, shop, by, "machine", resolved_facts(document, units or {}))
        ids = []
        for i, head in enumerate(heads):
            try:
                facts = resolved_facts(head, units or {})
                ids.append(_added(db, shop, by, "head", {**facts, "machine_id": machine_id}))
            except InvalidInput as error:
                raise type(error)(error.sentence, f"heads[{i}].{error.path}", error.value, error.limit) from error
        return ids


def add_material(shop: Shop, by: Member, document: Mapping[str, Any], processes: list[str]) -> int:
    """A material as in a trial file, with the processes it is meant for."""
    return add(shop, by, "material", {**document, "processes": processes}, {})


def add_lot(shop: Shop, by: Member, material_id: int, name: str, measured_mm: float | None) -> int:
    return add(shop, by, "lot", {"material_id": material_id, "name": name, "measured_mm": measured_mm}, {})


def added_lot(
    db: sqlite3.Connection, shop: Shop, by: Member, material_id: int, name: str, measured_mm: float | None
) -> int:
    """A lot that turned up while burning, inside the caller's transaction."""
    return _added(db, shop, by, "lot", {"material_id": material_id, "name": name, "measured_mm": measured_mm})
