"""What to see to before a burn, from the machine and the material."""

from __future__ import annotations

from dataclasses import dataclass

from rezept.core.machine import Machine
from rezept.core.material import Material


@dataclass(frozen=True)
class Check:
    """One thing to see to. `grave`: somebody gets hurt otherwise."""

    key: str
    sentence: str
    grave: bool = False


def _eyewear(machine: Machine) -> Check:
    wavelength = (
        f"{machine.wavelength_nm / 1000:g} µm" if machine.wavelength_nm >= 2000 else f"{machine.wavelength_nm:g} nm"
    )
    return Check(
        "eyewear", f"Eyewear made for {wavelength} on, or the lid shut. Other goggles do not help.", grave=True
    )


def _air(machine: Machine, air_level: float | None, air_kpa: float | None) -> Check | None:
    if machine.air == "none":
        return None
    if machine.air == "pressure":
        return Check("air", f"Air at {air_kpa:g} kPa." if air_kpa is not None else "Air pressure as noted.")
    if air_level is None:
        return Check("air", "Nobody has said whether the air is on: set it yourself.")
    return Check("air", ("Air off.", "Air on.", "Air on, high.")[int(air_level)])


def checklist(machine: Machine, material: Material, hold: dict[str, float], live: bool) -> list[Check]:
    """Everything to see to, the gravest first; `live`: Rezept will drive the machine."""
    checks: list[Check | None] = [
        _eyewear(machine),
        Check("never_alone", "Somebody stays beside the machine until the last patch has cooled.", grave=True),
        Check(
            "chlorine", f"{material.title} gives off chlorine. It eats lungs and machine: do not burn it.", grave=True
        )
        if "chlorine" in material.hazards
        else None,
        Check("cyanide", f"{material.title} gives off cyanide: do not burn it.", grave=True)
        if "cyanide" in material.hazards
        else None,
        Check("fire", "It may catch fire: extinguisher and water spray within reach.", grave=True)
        if material.can_burn
        else None,
        Check("extraction", "Extraction on." + (" The smoke is harmful." if "fumes" in material.hazards else "")),
        _air(machine, hold.get("air_level"), hold.get("air_kpa")),
        Check("focus", "Focus set, and the head free to move over the whole plate."),
        Check(
            "stop",
            "Know where the emergency stop is. Stop on this screen is no emergency stop: it goes through a computer"
            " and a wire.",
            grave=True,
        )
        if live
        else None,
    ]
    return sorted((check for check in checks if check is not None), key=lambda check: not check.grave)
