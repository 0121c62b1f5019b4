"""The shop, its tables, and who I am."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Response, jsonify
from flask_openapi3 import APIBlueprint

from rezept.actions.equipment import inventory
from rezept.actions.people import Member, member_by_id
from rezept.core.parameters import PARAMETERS
from rezept.core.process import PROCESSES
from rezept.core.reading import DARKNESS, DEGREES, EVENNESS, TAGS, THROUGH
from rezept.core.units import UNITS
from rezept.server import identity, shapes
from rezept.server.here import me, shop

bp = APIBlueprint("shop", __name__, url_prefix="/api")

_PARAMETER_KEYS = ("key", "name", "unit", "quantity", "scale", "step", "default", "processes", "sources", "motions")


def _tagged(table: dict[str, tuple[str, ...]]) -> list[dict[str, Any]]:
    return [{"key": key, "processes": list(processes)} for key, processes in table.items()]


@bp.get("/shop", responses={"200": shapes.Inventory})
def get_shop() -> dict[str, Any]:
    """The shop with its machines, materials and members, and the tables the interface works with."""
    return {
        **inventory(shop()),
        "parameters": [{key: getattr(row, key) for key in _PARAMETER_KEYS} for row in PARAMETERS.values()],
        "processes": [
            {
                **asdict(process),
                "dose_key": process.dose_key,
                "dose_unit": process.dose_unit,
                "outcome": process.outcome,
            }
            for process in PROCESSES.values()
        ],
        "units": {quantity: [asdict(unit) for unit in units] for quantity, units in UNITS.items()},
        "words": {
            "through": THROUGH,
            "darkness": DARKNESS,
            "evenness": EVENNESS,
            "degrees": _tagged(DEGREES),
            "tags": _tagged(TAGS),
        },
    }


def _described(member: Member) -> dict[str, Any]:
    return {**asdict(member), "may_prove": member.may("technician"), "may_write": member.may("member")}


@bp.get("/me", responses={"200": shapes.Me})
def get_me() -> dict[str, Any]:
    """Who I am and what I may do."""
    return _described(me())


@bp.put("/me", responses={"200": shapes.Me})
def put_me(body: shapes.PickMember) -> Response:
    """Pick who I am; remembered in a cookie."""
    member = member_by_id(shop(), body.member)
    response = jsonify(_described(member))
    identity.remember(response, member)
    return response
