"""What to see to before a burn, from the machine and the material."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass

from rezept.core.machine import Machine
from rezept.core.machine_facts import names_of_assumed
from rezept.core.material import Material
from rezept.core.plan.words import told_by_word
from rezept.core.sheet_facts import sheet_cautions
from rezept.core.wording import together

_FREE = "The head is free to move over the whole plate."


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


def _air(machine: Machine, hold: Mapping[str, float], varied: Collection[str]) -> Check | None:
    if machine.air == "none":
        return None
    key = "air_kpa" if machine.air == "pressure" else "air_level"
    if key in varied:
        if told_by_word(key, machine):
            return Check("air", "The program switches the air patch by patch: its valve open.")
        return Check("air", "The air differs from patch to patch: set it by hand as the settings sheet says.")
    if key not in hold:
        return Check("air", "Nobody has said how the air is: set it yourself.")
    if key == "air_kpa":
        return Check("air", f"Air at {hold[key]:g} kPa.")
    level = int(hold[key])
    if machine.air_levels and level:
        return Check("air", f"Air at {machine.air_levels[level - 1].words}.")
    return Check("air", ("Air off.", "Air on.", "Air on, high.")[level])


def _assumed(machine: Machine, assumed: Collection[str]) -> Check | None:
    """What decides how much power comes out, and was only taken for usual."""
    names = names_of_assumed("power", assumed)
    if not names:
        return None
    return Check(
        "assumed",
        f"Only assumed of {machine.name}: {together(names)}. More or less power than planned may come out: watch the"
        " first patch, and look it up in the Shop.",
    )


def _focus(machine: Machine, hold: Mapping[str, float], varied: Collection[str]) -> Check:
    """The offset with its sign, in words that leave no doubt which way it goes."""
    if "focus_offset_mm" in varied:
        if told_by_word("focus_offset_mm", machine):
            words = "Focus set on the surface; the program moves it from patch to patch."
        else:
            words = "The focus differs from patch to patch: set it by hand as the settings sheet says."
        return Check("focus", f"{words} {_FREE}")
    offset = hold.get("focus_offset_mm", 0.0)
    if offset == 0:
        return Check("focus", f"Focus set on the surface. {_FREE}")
    where = f"{abs(offset):g} mm {'above' if offset > 0 else 'below'} the surface"
    if told_by_word("focus_offset_mm", machine):
        return Check("focus", f"Focus set on the surface; the program moves it by {offset:+g} mm, {where}. {_FREE}")
    return Check("focus", f"Focus offset {offset:+g} mm: the focus lies {where}. {_FREE}")


def pinned_checks(lines: Iterable[str]) -> list[Check]:
    """What recipes of this very work say that has to be read, each line once."""
    return [Check(f"pinned_{i}", line, grave=True) for i, line in enumerate(dict.fromkeys(filter(None, lines)))]


def checklist(
    machine: Machine,
    material: Material,
    hold: Mapping[str, float],
    varied: Collection[str],
    fire: str | None,
    live: bool,
    assumed: Collection[str] = (),
    passes_through: bool = False,
) -> list[Check]:
    """Everything to see to, the gravest first.

    varied : keys of the settings that differ from patch to patch
    fire : what the plan says of patches that may catch fire
    live : Rezept will drive the machine
    assumed : keys of the machine's and the head's figures that nobody has looked up yet
    """
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
        None if fire is None else Check("hot_patches", fire, grave=True),
        *(Check(*one) for one in sheet_cautions(material.family, material.facts, passes_through)),
        _assumed(machine, assumed),
        _air(machine, hold, varied),
        _focus(machine, hold, varied),
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
