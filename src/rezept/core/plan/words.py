"""What the words of a program can say, and in which figures."""

from __future__ import annotations

from rezept.core.machine import Machine

# Said by the words of the program or drawn into its lines.
CARRIED = frozenset(
    ("speed_mm_s", "power_pct", "passes", "line_spacing_mm", "hatch_angle_deg", "hatch_turn_deg", "pierce_dwell_ms")
)
WRITTEN_DECIMALS = 3
# Figures of a control that works out the moves itself. One that is fed programs has no place to type them.
OF_OWN_CONTROL = frozenset(("corner_power_pct", "step_down_mm"))


def told_by_word(key: str, machine: Machine) -> bool:
    """Whether a word of the program, or the lines it draws, say a setting; what is turned by hand none does."""
    return key not in machine.by_hand and (
        key in CARRIED
        or (key == "focus_offset_mm" and machine.focus_by_z)
        or (key == "air_level" and machine.air in ("none", "on_off"))
    )


def per_word(key: str, machine: Machine) -> float:
    """What the number of a word is for one unit of a setting: F counts mm/min, S shares of full power."""
    return 60.0 if key == "speed_mm_s" else machine.s_at_full_power / 100.0


def power_in_words(power_pct: float, machine: Machine) -> float:
    """The power a program says, per cent: all of it where a dial says how much that is."""
    return 100.0 if "power_pct" in machine.by_hand else power_pct
