"""Made-up documents the tests start from."""

from __future__ import annotations

import copy
import itertools
import tempfile
import unittest
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from rezept.actions.commands import equipment, exporting, people
from rezept.actions.members import Member
from rezept.actions.open_shop import Shop, open_shop
from rezept.core.plan import Plate, plan, read_trial
from rezept.core.plan.gate import Today

WREN: dict[str, Any] = {
    "name": "Wren",
    "source": "co2_glass",
    "motion": "gantry",
    "rated_power_w": 60.0,
    "field_width_mm": 600.0,
    "field_height_mm": 400.0,
    "max_speed_mm_s": 500.0,
    "travel_speed_mm_s": 400.0,
    "acceleration_mm_s2": 4000.0,
    "firing_floor_pct": 9.0,
    "max_power_pct": 85.0,
    "air": "on_off",
}
HERON: dict[str, Any] = {
    "name": "Heron",
    "source": "fibre_mopa",
    "motion": "galvo",
    "rated_power_w": 30.0,
    "field_width_mm": 110.0,
    "field_height_mm": 110.0,
    "max_speed_mm_s": 4000.0,
    "jump_delay_us": 300.0,
    "settle_us": 200.0,
    "frequency_khz": [1, 4000],
    "pulse_widths": [
        {"ns": 20, "frequency_khz": [60, 2000], "full_power_from_khz": 400},
        {"ns": 200, "frequency_khz": [20, 600], "full_power_from_khz": 40},
    ],
}
POPLAR: dict[str, Any] = {"name": "Poplar plywood", "family": "wood", "thickness_mm": 4.0, "hazards": ["fire"]}
BLANK: dict[str, Any] = {"name": "Nickel-silver blank", "family": "metal", "thickness_mm": 1.2}

SPEED = {"parameter": "speed_mm_s", "along": "x", "from": 8, "to": 32, "count": 4, "spacing": "linear"}
POWER = {"parameter": "power_pct", "along": "y", "from": 30, "to": 80, "count": 3, "spacing": "linear"}


def trial_document(**changes: Any) -> dict[str, Any]:
    """A small cut trial on Wren: speeds 8, 16, 24, 32 along x, powers 30, 55, 80 along y."""
    document = {
        "format": "rezept-trial",
        "version": 1,
        "machine": WREN,
        "material": POPLAR,
        "process": "cut",
        "hold": {},
        "axes": [SPEED, POWER],
    }
    return copy.deepcopy({**document, **changes})


def area_document(**changes: Any) -> dict[str, Any]:
    """A small engraving on Wren: 100 and 200 mm/s, 20 %, lines 0.1 mm apart on 8 x 6 mm patches."""
    document = trial_document(
        process="area",
        hold={"power_pct": 20, "line_spacing_mm": 0.1},
        axes=[{"parameter": "speed_mm_s", "along": "x", "values": [100, 200]}],
        patch={"width_mm": 8, "height_mm": 6, "gap_mm": 3},
    )
    return copy.deepcopy({**document, **changes})


def token_document(**changes: Any) -> dict[str, Any]:
    """A surface mark on Heron, frequency by pulse width."""
    document = trial_document(
        machine=HERON,
        material=BLANK,
        process="surface",
        hold={"speed_mm_s": 800, "power_pct": 60, "line_spacing_mm": 0.05},
        axes=[
            {"parameter": "frequency_khz", "along": "x", "values": [60, 120, 480]},
            {"parameter": "pulse_width_ns", "along": "y", "values": [20, 200]},
        ],
        patch={"width_mm": 6, "height_mm": 6, "gap_mm": 2},
    )
    return copy.deepcopy({**document, **changes})


def planned(document: dict[str, Any]) -> Plate:
    return plan(read_trial(document))


def own_facts(plate: Plate) -> Today:
    """The facts a plate was planned by, as those of today."""
    return Today(plate.trial.machine, plate.trial.material)


def leaving(plate: Plate, kind: str = "gcode", today: Today | None = None) -> list[bytes]:
    """The bytes of a file of a plate, through the gate."""
    return exporting.written_files(plate, [kind], today or own_facts(plate))[kind]


def ticking() -> Callable[[], datetime]:
    """A clock that goes on by a second each time somebody looks, from whatever thread."""
    seconds = itertools.count()
    return lambda: datetime(2026, 11, 23, 9, 0, tzinfo=UTC) + timedelta(seconds=next(seconds))


class ShopCase(unittest.TestCase):
    """A test with a founded shop in a fresh folder: Wren, Heron, poplar 4 and 6 mm, a blank, four members."""

    shop: Shop
    keeper: Member
    technician: Member
    member: Member
    guest: Member

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.shop = open_shop(self.folder, ticking())
        self.addCleanup(self.shop.close)
        self.keeper = people.found_shop(self.shop, "Test shop", "T3ST", "Kay")
        self.technician = people.add_member(self.shop, self.keeper, "Tess", "technician")
        self.member = people.add_member(self.shop, self.keeper, "Moss", "member")
        self.guest = people.add_member(self.shop, self.keeper, "Gil", "guest")
        self.wren = equipment.add_machine(self.shop, self.keeper, WREN, [{"name": "lens", "spot_mm": 0.2}])[0]
        self.heron = equipment.add_machine(self.shop, self.keeper, HERON, [{"name": "110"}, {"name": "175"}])[0]
        self.poplar = equipment.add_material(self.shop, self.keeper, POPLAR, ["cut", "line", "area"])
        thick = {**POPLAR, "thickness_mm": 6.0}
        self.thick = equipment.add_material(self.shop, self.keeper, thick, ["cut", "line", "area"])
        self.blank = equipment.add_material(self.shop, self.keeper, BLANK, ["surface", "deep"])
