"""The shop, its tables and its equipment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from flask import current_app
from flask_openapi3 import APIBlueprint

from rezept.actions.commands import equipment, people
from rezept.actions.commands.equipment import HARDNESS
from rezept.actions.commands.safekeeping import Schedule, backup_now, latest_backup
from rezept.actions.members import ROLES, reach
from rezept.actions.queries.shop_facts import inventory
from rezept.core.errors import Refused
from rezept.core.lay import BELOW, LAYS
from rezept.core.machine import AIRS, FILE_KINDS, NEVER_BY_HAND, POWER_MODES, SOURCES
from rezept.core.machine_facts import FACTS, START_VALUES
from rezept.core.material import FAMILIES, HAZARDS, NEVER_BURN, USUALLY_MEANT_FOR
from rezept.core.names import public_address
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.design import DESIGN
from rezept.core.process import PROCESSES
from rezept.core.put_back import PUT_BACK, doubt_words
from rezept.core.recipe import FAILED_BECAUSE, KEPT_AS, STANDINGS, WITHOUT_PLATE, reason_fits
from rezept.core.remark import REMARKS
from rezept.core.scales import SCALES
from rezept.core.sheet_facts import SHEET_FACTS
from rezept.core.stand_off import HEIGHT_BY, TOPS
from rezept.core.treatment import TREATMENTS
from rezept.core.units import UNITS
from rezept.link.stream import CORRECTION_STEP, CORRECTION_UNIT, MOST_STEPS
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("shop", __name__, url_prefix="/api")


def _named(words: Mapping[Any, str]) -> list[dict[str, str]]:
    return [{"key": key, "name": name} for key, name in words.items()]


@bp.put("/shop/address", responses={"204": None})
def put_address(body: shapes.equipment.ShopAddress) -> tuple[str, int]:
    """Say where the shop is reached, for the codes on printed cards."""
    people.set_address(shop(), me(), public_address(body.address) if body.address.strip() else None)
    return "", 204


@bp.get("/shop", responses={"200": shapes.equipment.Inventory})
def get_shop() -> dict[str, Any]:
    """The shop with its machines, materials and members, and the tables the interface works with."""
    return {
        **inventory(shop()),
        "parameters": [
            {key: getattr(row, key) for key in shapes.equipment.ParameterOut.model_fields}
            for row in PARAMETERS.values()
        ],
        "processes": [
            {key: getattr(process, key) for key in shapes.equipment.ProcessOut.model_fields if key != "put_back_doubt"}
            | {"put_back_doubt": doubt_words(process)}
            for process in PROCESSES.values()
        ],
        "units": {quantity: [asdict(unit) for unit in units] for quantity, units in UNITS.items()},
        "corrections": [
            {"what": what, "step": step, "unit": CORRECTION_UNIT[what], "most": MOST_STEPS}
            for what, step in CORRECTION_STEP.items()
        ],
        "design_keys": [
            {key: getattr(row, key) for key in shapes.equipment.DesignKeyOut.model_fields} for row in DESIGN.values()
        ],
        "scales": [asdict(scale) for scale in SCALES.values()],
        "roles": [{"key": key, "does": does, "reach": reach(key)} for key, does in ROLES.items()],
        "standings": list(STANDINGS),
        "kept_as": list(KEPT_AS),
        "written_down_as": _named(WITHOUT_PLATE),
        "failed_because": [
            {
                "key": key,
                "name": name,
                "processes": [process.key for process in PROCESSES.values() if reason_fits(key, process)],
            }
            for key, name in FAILED_BECAUSE.items()
        ],
        "remarks": [asdict(remark) for remark in REMARKS.values()],
        "forms": {
            "facts": [asdict(fact) for fact in FACTS],
            "height_by": _named(HEIGHT_BY),
            "tops": _named(TOPS),
            "sources": [
                {"key": key, "name": name, "wavelength_nm": nm, "start": START_VALUES[key]}
                for key, (name, nm) in SOURCES.items()
            ],
            "airs": [asdict(air) for air in AIRS.values()],
            "lays": _named(LAYS),
            "put_back": _named(PUT_BACK),
            "treatments": _named(TREATMENTS),
            "below": list(BELOW),
            "by_hand": [key for key in PARAMETERS if key not in NEVER_BY_HAND],
            "power_modes": _named(POWER_MODES),
            "file_kinds": _named(FILE_KINDS),
            "families": list(FAMILIES),
            "sheet_facts": [asdict(fact) for fact in SHEET_FACTS.values()],
            "usually_meant_for": {family: list(processes) for family, processes in USUALLY_MEANT_FOR.items()},
            "hazards": [{"key": key, "consequence": HAZARDS[key], "never": key in NEVER_BURN} for key in HAZARDS],
            "hardness": list(HARDNESS),
        },
    }


@bp.get("/backup", responses={"200": shapes.equipment.BackupState})
def get_backup() -> dict[str, Any]:
    """When the shop was last backed up, and how often it is."""
    schedule: Schedule | None = current_app.extensions["rezept_schedule"]
    if schedule is None:
        return {"folder": None, "every_hours": None, "keep": None, "latest": None, "warning": ""}
    latest, warning = latest_backup(schedule.folder, shop().clock())
    return {
        "folder": str(schedule.folder),
        "every_hours": schedule.hours,
        "keep": schedule.keep,
        "latest": latest,
        "warning": warning,
    }


@bp.post("/backup", responses={"201": shapes.equipment.BackupState})
def make_backup() -> tuple[dict[str, Any], int]:
    """Back up now, into the folder of the scheduled backups."""
    schedule: Schedule | None = current_app.extensions["rezept_schedule"]
    if schedule is None:
        raise Refused("No folder for backups is set; use `rezept backup` where the server runs.")
    backup_now(shop(), schedule)
    return get_backup(), 201


def _change(kind: str, row_id: int, body: shapes.equipment.ChangeEquipment) -> dict[str, Any]:
    return equipment.change(shop(), me(), kind, row_id, body.edit, body.facts, body.units, body.retired)


@bp.post("/machines", responses={"201": shapes.common.Created})
def add_machine(body: shapes.equipment.NewMachine) -> tuple[dict[str, Any], int]:
    """Add a machine with its heads; answers with the first head's id."""
    return {"id": equipment.add_machine(shop(), me(), body.facts, body.heads, body.units)[0]}, 201


@bp.put("/machines/<int:id>", responses={"200": shapes.equipment.MachineOut, "409": shapes.common.Problem})
def put_machine(path: shapes.common.IdPath, body: shapes.equipment.ChangeEquipment) -> dict[str, Any]:
    """Change or retire a machine."""
    return _change("machine", path.id, body)


@bp.post("/heads", responses={"201": shapes.common.Created})
def add_head(body: shapes.equipment.NewEquipment) -> tuple[dict[str, Any], int]:
    """Add a head."""
    return {"id": equipment.add(shop(), me(), "head", body.facts, body.units)}, 201


@bp.put("/heads/<int:id>", responses={"200": shapes.equipment.HeadOut, "409": shapes.common.Problem})
def put_head(path: shapes.common.IdPath, body: shapes.equipment.ChangeEquipment) -> dict[str, Any]:
    """Change or retire a head."""
    return _change("head", path.id, body)


@bp.post("/materials", responses={"201": shapes.common.Created})
def add_material(body: shapes.equipment.NewEquipment) -> tuple[dict[str, Any], int]:
    """Add a material."""
    return {"id": equipment.add(shop(), me(), "material", body.facts, body.units)}, 201


@bp.put("/materials/<int:id>", responses={"200": shapes.equipment.MaterialOut, "409": shapes.common.Problem})
def put_material(path: shapes.common.IdPath, body: shapes.equipment.ChangeEquipment) -> dict[str, Any]:
    """Change or retire a material."""
    return _change("material", path.id, body)


@bp.post("/lots", responses={"201": shapes.common.Created})
def add_lot(body: shapes.equipment.NewEquipment) -> tuple[dict[str, Any], int]:
    """Add a lot."""
    return {"id": equipment.add(shop(), me(), "lot", body.facts, body.units)}, 201


@bp.put("/lots/<int:id>", responses={"200": shapes.equipment.LotOut, "409": shapes.common.Problem})
def put_lot(path: shapes.common.IdPath, body: shapes.equipment.ChangeEquipment) -> dict[str, Any]:
    """Change or retire a lot."""
    return _change("lot", path.id, body)


@bp.post("/pieces", responses={"201": shapes.common.Created})
def add_piece(body: shapes.equipment.NewEquipment) -> tuple[dict[str, Any], int]:
    """Add a piece."""
    return {"id": equipment.add(shop(), me(), "piece", body.facts, body.units)}, 201


@bp.put("/pieces/<int:id>", responses={"200": shapes.equipment.PieceOut, "409": shapes.common.Problem})
def put_piece(path: shapes.common.IdPath, body: shapes.equipment.ChangeEquipment) -> dict[str, Any]:
    """Change or retire a piece."""
    return _change("piece", path.id, body)
