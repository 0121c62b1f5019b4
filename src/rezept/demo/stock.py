"""What stands in the demo shop. All made up; the figures belong to the bench's materials."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

SHOP_NAME = "Lantern Walk Workshop"
SHOP_TAG = "7K3Q"

# The first one founds the shop; the first of each first name is who the story calls by it.
MEMBERS = (
    ("Kay Example", "keeper"),
    ("Tess Sample", "technician"),
    ("Moss Sample", "member"),
    ("Gil Guest", "guest"),
    ("Olive Example", "keeper"),
    ("Rowan Sample", "technician"),
    ("Fern Example", "member"),
    ("Alder Sample", "member"),
    ("Una Visitor", "guest"),
)

WREN: dict[str, Any] = {
    "name": "Wren", "source": "co2_glass", "motion": "gantry", "rated_power_w": 60.0,
    "field_width_mm": 600.0, "field_height_mm": 400.0, "max_speed_mm_s": 500.0, "travel_speed_mm_s": 400.0,
    "acceleration_mm_s2": 4000.0, "firing_floor_pct": 9.0, "max_power_pct": 85.0, "air": "on_off",
    "s_at_full_power": 1000.0, "trace_power_pct": 9.0, "beam_drops_at_rest": True,
}  # fmt: skip
FINCH: dict[str, Any] = {
    "name": "Finch", "source": "diode", "motion": "gantry", "rated_power_w": 12.0,
    "field_width_mm": 410.0, "field_height_mm": 380.0, "max_speed_mm_s": 200.0, "travel_speed_mm_s": 180.0,
    "acceleration_mm_s2": 1500.0, "firing_floor_pct": 2.0, "max_power_pct": 100.0, "air": "on_off",
    "s_at_full_power": 1000.0, "trace_power_pct": 2.0, "beam_drops_at_rest": True,
}  # fmt: skip
HERON: dict[str, Any] = {
    "name": "Heron", "source": "fibre_mopa", "motion": "galvo", "rated_power_w": 30.0,
    "field_width_mm": 110.0, "field_height_mm": 110.0, "max_speed_mm_s": 5000.0, "travel_speed_mm_s": 5000.0,
    "jump_delay_us": 250.0, "settle_us": 200.0, "firing_floor_pct": 5.0, "max_power_pct": 90.0, "air": "none",
    "hears_settings": True, "beam_drops_at_rest": True,
    "frequency_khz": [5.0, 2000.0],
    "pulse_widths": [
        {"ns": 20.0, "frequency_khz": [90.0, 2000.0], "full_power_from_khz": 450.0},
        {"ns": 100.0, "frequency_khz": [30.0, 1000.0], "full_power_from_khz": 120.0},
        {"ns": 200.0, "frequency_khz": [15.0, 500.0], "full_power_from_khz": 60.0},
    ],
}  # fmt: skip
MACHINES: tuple[tuple[dict[str, Any], tuple[dict[str, Any], ...]], ...] = (
    (WREN, ({"name": "50 mm lens", "spot_mm": 0.18, "m2": 1.3, "focal_mm": 50.0, "height_by": "scale",
             "datum_mm": 228.0},)),
    (FINCH, ({"name": "fixed head", "spot_mm": 0.1, "m2": 3.0, "focal_mm": 38.0, "height_by": "spacer",
              "datum_mm": 7.0},)),
    (
        HERON,
        (
            {"name": "110", "spot_mm": 0.045, "m2": 1.4, "focal_mm": 163.0, "height_by": "entered"},
            {"name": "175", "spot_mm": 0.07, "m2": 1.4, "focal_mm": 254.0, "field_width_mm": 175.0,
             "field_height_mm": 175.0},
        ),
    ),
)  # fmt: skip


@dataclass(frozen=True)
class Stocked:
    """A material of the demo shop, and what it is on the bench; lots as name and measured thickness."""

    name: str
    family: str
    thickness_mm: float
    processes: tuple[str, ...]
    substance: str
    colour: str
    hazards: tuple[str, ...] = ()
    mark: str = "darker"
    density_kg_m3: float | None = None
    hardness: int | None = None
    supplier_code: str = ""
    note: str = ""
    lots: tuple[tuple[str, float], ...] = ()
    pieces: tuple[dict[str, Any], ...] = field(default=())


MATERIALS = (
    Stocked(
        "Poplar plywood", "wood", 4.0, ("cut", "line", "area"), "poplar", "#e3cfa6", ("fire",),
        density_kg_m3=430.0, hardness=2, supplier_code="PP-4",
        lots=(("autumn delivery", 3.7), ("pallet by the door", 4.1)),
        pieces=({"name": "offcut by the window", "width_mm": 300.0, "height_mm": 180.0, "margin_mm": 5.0},),
    ),
    Stocked(
        "Poplar plywood", "wood", 6.0, ("cut", "line", "area"), "poplar", "#e3cfa6", ("fire",),
        density_kg_m3=430.0, hardness=2, supplier_code="PP-6", lots=(("autumn delivery", 5.8),),
    ),
    Stocked(
        "Vegetable-tanned leather", "leather", 2.2, ("cut", "line", "area"), "leather", "#cfa277", ("fumes",),
        density_kg_m3=900.0, hardness=2, lots=(("shoulder, tan", 2.3),),
    ),
    Stocked(
        "Wool felt", "textile", 3.0, ("cut", "line"), "felt", "#6f7d4b", ("fire", "fumes"),
        density_kg_m3=250.0, hardness=1, lots=(("roll 4, moss green", 3.1),),
    ),
    Stocked(
        "Cast acrylic, amber", "plastic", 5.0, ("cut", "line", "area"), "acrylic", "#d9952b", ("fumes",),
        mark="lighter", density_kg_m3=1190.0, hardness=4, supplier_code="CA-5-AMB", lots=(("crate 2", 5.1),),
    ),
    Stocked(
        "Printing linoleum", "linoleum", 3.2, ("cut", "area", "deep"), "linoleum", "#8a7a5e", ("fumes",),
        density_kg_m3=1200.0, hardness=2, lots=(("roll from the press room", 3.2),),
    ),
    Stocked(
        "Cast acrylic, clear", "plastic", 5.0, ("cut", "line", "area"), "acrylic", "#e9eef0", ("fumes",),
        mark="lighter", density_kg_m3=1190.0, hardness=4, supplier_code="CA-5-CLR",
    ),
    Stocked(
        "Polypropylene, translucent", "plastic", 0.8, ("cut", "line"), "polypropylene", "#eef0ea", ("fire",),
        density_kg_m3=905.0, hardness=2, lots=(("sheets for the shades", 0.8),),
    ),
    Stocked(
        "Laser rubber", "rubber", 2.3, ("cut", "area", "deep"), "rubber", "#77706a", ("fumes",),
        density_kg_m3=1300.0, hardness=1, lots=(("stamp set", 2.3),),
    ),
    Stocked(
        "Nickel-silver token", "metal", 1.2, ("surface", "deep"), "nickel silver", "#c9c4b6",
        density_kg_m3=8700.0, hardness=4, lots=(("bag of forty", 1.2),),
        pieces=({"name": "blank", "shape": "disc", "width_mm": 30.0, "margin_mm": 2.0},),
    ),
    Stocked(
        "Tea-tin lid, stainless", "metal", 0.4, ("surface",), "stainless", "#c6c9cb",
        density_kg_m3=7900.0, hardness=5, lots=(("box of lids", 0.4),),
    ),
    Stocked(
        "Luggage tag, anodised", "coated metal", 1.5, ("surface", "line"), "anodised", "#3b4d63",
        mark="lighter", density_kg_m3=2700.0, hardness=3, lots=(("blue, twenty of them", 1.5),),
    ),
    Stocked(
        "Vinyl sheet", "plastic", 1.0, (), "acrylic", "#2c2c30", ("chlorine",),
        density_kg_m3=1400.0, hardness=2, note="Came with the shop. It stays on the shelf.",
    ),
)  # fmt: skip

# What a material that somebody adds to the demo is on the bench, by its family.
_BY_FAMILY = {
    "wood": "beech",
    "paper": "poplar",
    "leather": "leather",
    "textile": "felt",
    "plastic": "acrylic",
    "rubber": "rubber",
    "linoleum": "linoleum",
    "metal": "stainless",
    "coated metal": "anodised",
    "stone": "slate",
    "glass": "slate",
    "ceramic": "slate",
}


def substance_of(name: str, family: str) -> str:
    """What a material is on the bench: one of the stock as it is there, any other like its family."""
    stocked = next((one.substance for one in MATERIALS if one.name == name), None)
    return stocked or _BY_FAMILY.get(family, "poplar")
