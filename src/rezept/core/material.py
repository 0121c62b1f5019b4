"""What is burned, as far as planning needs to know it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from rezept.core.colour import read_hex
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.process import ProcessKey
from rezept.core.sheet_facts import BELOW_COLOUR, THICKNESS_SAID, read_sheet_facts
from rezept.core.thickness import sheet_title

FAMILIES = (
    "wood",
    "paper",
    "leather",
    "textile",
    "plastic",
    "rubber",
    "linoleum",
    "metal",
    "coated metal",
    "stone",
    "glass",
    "ceramic",
    "other",
)
_ORGANIC: tuple[ProcessKey, ...] = ("cut", "line", "area")
_RELIEF: tuple[ProcessKey, ...] = (*_ORGANIC, "deep")
# What a material of each family is meant for until somebody says otherwise.
USUALLY_MEANT_FOR: dict[str, tuple[ProcessKey, ...]] = {
    "wood": _RELIEF,
    "paper": _ORGANIC,
    "leather": _ORGANIC,
    "textile": _ORGANIC,
    "plastic": _ORGANIC,
    "rubber": _RELIEF,
    "linoleum": _RELIEF,
    "metal": ("line", "deep", "surface"),
    "coated metal": ("line", "surface", "layer"),
    "stone": ("line", "area"),
    "glass": ("line", "area"),
    "ceramic": ("line", "area", "surface"),
    "other": _ORGANIC,
}
# These do not feed a flame; everything else, known or not, is taken as able to burn.
CANNOT_BURN = frozenset({"metal", "coated metal", "stone", "glass", "ceramic"})
# Each hazard with what follows from it.
HAZARDS = {
    "chlorine": "never burned here: its smoke is chlorine, which ruins lungs and machine",
    "cyanide": "never burned here: its smoke holds cyanide",
    "fire": "stay beside it while it burns; slow and strong patches are warned of",
    "fumes": "extraction on before the start",
}
NEVER_BURN = {
    "chlorine": "gives off chlorine, which ruins lungs and machine",
    "cyanide": "gives off cyanide",
}


LAB_RANGE = ((0.0, 100.0), (-200.0, 200.0), (-200.0, 200.0))


@dataclass(frozen=True)
class Material:
    """A sheet or blank. `mark` tells whether a mark comes out darker or lighter than the ground.

    hardness : 1 to 5; said : what else is known of it, key of `SHEET_FACTS` and words
    """

    name: str
    family: str
    thickness_mm: float | None
    mark: str
    hazards: tuple[str, ...]
    ground_lab: tuple[float, ...] | None
    hardness: int | None = None
    density_kg_m3: float | None = None
    said: tuple[tuple[str, str], ...] = ()

    @property
    def facts(self) -> dict[str, str]:
        return dict(self.said)

    @property
    def below_lab(self) -> tuple[float, float, float] | None:
        """The colour of what lies below its layer, where somebody has said it."""
        colour = self.facts.get(BELOW_COLOUR)
        return None if colour is None else read_hex(colour, BELOW_COLOUR)

    @property
    def can_burn(self) -> bool:
        return self.family not in CANNOT_BURN or "fire" in self.hazards

    @property
    def title(self) -> str:
        return sheet_title(self.name, self.thickness_mm, self.facts.get(THICKNESS_SAID, ""))

    def document(self) -> dict[str, Any]:
        """Its object in a document; what came later is there where it is known, so that older ones stay as they are."""
        known = {"hardness": self.hardness, "density_kg_m3": self.density_kg_m3, **self.facts}
        return {
            "name": self.name,
            "family": self.family,
            "thickness_mm": self.thickness_mm,
            "mark": self.mark,
            "hazards": list(self.hazards),
            "ground_lab": None if self.ground_lab is None else list(self.ground_lab),
            **{key: value for key, value in known.items() if value is not None},
        }


def read_material(fields: Fields) -> Material:
    """A material from its object in a document; see `docs/formats/trial.md` for keys and defaults."""
    hazards = fields.keys("hazards", HAZARDS, f"a hazard Rezept knows; it knows {', '.join(HAZARDS)}", [])
    material = Material(
        name=fields.text("name", empty=False),
        family=fields.text("family", "other"),
        thickness_mm=fields.number("thickness_mm", None, above=0.0, at_most=1000.0),
        mark=fields.choice("mark", ("darker", "lighter"), "darker"),
        hazards=tuple(hazards),
        ground_lab=fields.numbers("ground_lab", 3, None),
        hardness=None if "hardness" not in fields.data else fields.whole("hardness", None, at_least=1, at_most=5),
        density_kg_m3=None
        if "density_kg_m3" not in fields.data
        else fields.number("density_kg_m3", None, above=0.0, at_most=25_000.0),
        said=tuple(read_sheet_facts(fields).items()),
    )
    fields.finish()
    if material.ground_lab is not None and not all(
        low <= value <= high for value, (low, high) in zip(material.ground_lab, LAB_RANGE, strict=True)
    ):
        raise InvalidInput("A colour is L* from 0 to 100, a* and b* from -200 to 200.", fields.at("ground_lab"))
    return material
