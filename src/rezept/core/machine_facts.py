"""The facts of a machine or head as a table: what a form asks for, in which quantity, and where to start."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal


@dataclass(frozen=True)
class Fact:
    """One figure of a machine or head.

    Parameters
    ----------
    quantity : a key of `units.UNITS`; what people may type
    needed : a machine cannot be without it
    motion : only machines that move that way have it; empty for all
    of : whose it is; a head may differ from its machine in those marked `both`
    """

    key: str
    name: str
    unit: str
    quantity: str
    help: str = ""
    needed: bool = False
    motion: Literal["", "gantry", "galvo"] = ""
    of: Literal["machine", "head", "both"] = "machine"


FACTS = (
    Fact("rated_power_w", "rated power", "W", "watts", "optical power at 100 %", needed=True),
    Fact("wavelength_nm", "wavelength", "nm", "wavelength"),
    Fact("field_width_mm", "field width", "mm", "length", needed=True, of="both"),
    Fact("field_height_mm", "field depth", "mm", "length", needed=True, of="both"),
    Fact("max_speed_mm_s", "top speed", "mm/s", "speed", "while burning", needed=True, of="both"),
    Fact("travel_speed_mm_s", "travel speed", "mm/s", "speed", "with the beam off", of="both"),
    Fact("acceleration_mm_s2", "acceleration", "mm/s²", "acceleration", motion="gantry", of="both"),
    Fact(
        "corner_jump_mm_s",
        "jump at corners",
        "mm/s",
        "speed",
        "how much the velocity may jump at a corner without slowing",
        motion="gantry",
    ),
    Fact("jump_delay_us", "jump delay", "µs", "delay", motion="galvo"),
    Fact("settle_us", "settling time", "µs", "delay", "after a jump", motion="galvo"),
    Fact(
        "polygon_delay_us", "polygon delay", "µs", "delay", "for turning back; a corner costs its share", motion="galvo"
    ),
    Fact("firing_floor_pct", "fires from", "%", "percent", "below this power nothing comes out"),
    Fact("max_power_pct", "power ceiling", "%", "percent", "what the source can bear for long"),
    Fact("trace_power_pct", "trace power", "%", "percent", "shows the outline without marking"),
    Fact("s_at_full_power", "S at full power", "", "count", "the S number that means 100 %", motion="gantry"),
    Fact(
        "distinct_settings",
        "settings a file",
        "",
        "count",
        "how many different ones a file holds; empty for any number",
    ),
    Fact("shows.speed_mm_s", "steps of speed", "mm/s", "speed", "the finest its control shows"),
    Fact("shows.power_pct", "steps of power", "%", "percent", "the finest its control shows"),
    Fact("spot_mm", "spot", "mm", "spacing", "width of a single line in focus", of="head"),
    Fact("m2", "beam quality M²", "", "count", of="head"),
    Fact("focal_mm", "focal length", "mm", "length", of="head"),
)

# Where a form starts for each kind of source: middling figures to be checked against the machine's own papers.
# Rated power, field and top speed stay empty: a wrong guess there would burn.
START_VALUES: dict[str, dict[str, Any]] = {
    "co2_glass": {"motion": "gantry", "firing_floor_pct": 10, "max_power_pct": 85, "air": "on_off", "spot_mm": 0.2},
    "co2_rf": {"motion": "gantry", "firing_floor_pct": 2, "max_power_pct": 100, "air": "on_off", "spot_mm": 0.15},
    "diode": {"motion": "gantry", "firing_floor_pct": 2, "max_power_pct": 100, "air": "on_off", "spot_mm": 0.1},
    "fibre_q": {"motion": "galvo", "max_power_pct": 90, "air": "none", "frequency_khz": [20, 80], "spot_mm": 0.05},
    "fibre_mopa": {"motion": "galvo", "max_power_pct": 90, "air": "none", "frequency_khz": [5, 2000], "spot_mm": 0.05},
    "uv": {"motion": "galvo", "max_power_pct": 95, "air": "none", "frequency_khz": [20, 150], "spot_mm": 0.03},
    "ir_diode": {"motion": "gantry", "firing_floor_pct": 5, "max_power_pct": 100, "air": "none", "spot_mm": 0.08},
}
