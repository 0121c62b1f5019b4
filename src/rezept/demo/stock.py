"""What stands in the demo shop. All made up; the figures belong to the bench's materials."""

from __future__ import annotations

from typing import Any

SHOP_NAME = "Lantern Walk Workshop"
SHOP_TAG = "7K3Q"

MEMBERS = (("Kay Example", "keeper"), ("Tess Sample", "technician"), ("Moss Sample", "member"), ("Gil Guest", "guest"))

WREN: dict[str, Any] = {
    "name": "Wren", "source": "co2_glass", "motion": "gantry", "rated_power_w": 60.0,
    "field_width_mm": 600.0, "field_height_mm": 400.0, "max_speed_mm_s": 500.0, "travel_speed_mm_s": 400.0,
    "acceleration_mm_s2": 4000.0, "firing_floor_pct": 9.0, "max_power_pct": 85.0, "air": "on_off",
    "s_at_full_power": 1000.0,
}  # fmt: skip
WREN_HEAD = {"name": "50 mm lens", "spot_mm": 0.18, "m2": 1.3, "focal_mm": 50.0}

FINCH: dict[str, Any] = {
    "name": "Finch", "source": "diode", "motion": "gantry", "rated_power_w": 12.0,
    "field_width_mm": 410.0, "field_height_mm": 380.0, "max_speed_mm_s": 200.0, "travel_speed_mm_s": 180.0,
    "acceleration_mm_s2": 1500.0, "firing_floor_pct": 2.0, "max_power_pct": 100.0, "air": "on_off",
    "s_at_full_power": 1000.0,
}  # fmt: skip
FINCH_HEAD = {"name": "fixed head", "spot_mm": 0.1, "m2": 3.0, "focal_mm": 38.0}

# name, family, thickness, hazards, processes, substance on the bench
MATERIALS: tuple[tuple[str, str, float, list[str], list[str], str], ...] = (
    ("Poplar plywood", "wood", 4.0, ["fire"], ["cut", "line", "area"], "poplar"),
    ("Poplar plywood", "wood", 6.0, ["fire"], ["cut", "line", "area"], "poplar"),
    ("Vegetable-tanned leather", "leather", 2.2, ["fumes"], ["cut", "line", "area"], "leather"),
    ("Wool felt", "textile", 3.0, ["fire", "fumes"], ["cut", "line"], "felt"),
    ("Cast acrylic, amber", "plastic", 5.0, ["fumes"], ["cut", "line", "area"], "acrylic"),
    ("Printing linoleum", "linoleum", 3.2, ["fumes"], ["cut", "area", "deep"], "linoleum"),
)

LOTS = {
    ("Poplar plywood", 4.0): ("autumn delivery", 3.7),
    ("Poplar plywood", 6.0): ("autumn delivery", 5.8),
    ("Vegetable-tanned leather", 2.2): ("shoulder, tan", 2.3),
    ("Wool felt", 3.0): ("roll 4, moss green", 3.1),
}
