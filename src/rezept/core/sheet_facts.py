"""What is known of a sheet beyond its family and thickness: one table, each fact in words, none of them demanded."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from rezept.core.colour import read_hex
from rezept.core.fields import Fields

LONGEST = 80
BELOW_COLOUR, THICKNESS_SAID = "below_colour", "thickness_said"
# Somebody looked and could not find out; where nothing stands nobody has looked.
UNKNOWN = "unknown"


@dataclass(frozen=True)
class SheetFact:
    """One fact: its key, its name, and what people usually say, by family or for all (empty key).

    colour : it is a colour, written ``#rrggbb``
    process : it is asked only of what is meant for that
    asked : it is asked for by itself; else it is said with another
    """

    key: str
    name: str
    usual: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    colour: bool = False
    process: str = ""
    asked: bool = True


SHEET_FACTS: dict[str, SheetFact] = {
    fact.key: fact
    for fact in (
        SheetFact(
            "kind",
            "which one",
            {
                "wood": ("poplar", "birch", "beech", "oak", "walnut", "maple", "pine", "bamboo", "MDF", "cork"),
                "paper": ("card", "greyboard", "corrugated", "tissue"),
                "leather": ("vegetable tanned", "chrome tanned", "imitation"),
                "textile": ("cotton", "felt of wool", "felt of polyester", "polyester", "denim"),
                "plastic": ("acrylic, cast", "acrylic, extruded", "PC", "ABS", "PET", "PE", "PP", "POM", "PVC"),
                "rubber": ("natural", "silicone", "foam"),
                "metal": ("steel", "stainless steel", "aluminium", "brass", "copper", "nickel silver", "titanium"),
                "coated metal": ("steel", "aluminium", "brass"),
                "stone": ("slate", "granite", "marble"),
                "": (UNKNOWN,),
            },
        ),
        SheetFact("finish", "finish", {"": ("raw", "sanded", "oiled", "polished", "brushed", "matt", "anodised")}),
        SheetFact("coating", "coating", {"": ("lacquer", "powder coat", "foil", "paint", "wax")}),
        SheetFact("backing", "backing", {"": ("paper", "film", "cloth", "veneer", "foam")}),
        SheetFact("adhesive", "adhesive", {"": ("on the back", "between the plies", "on both sides")}),
        SheetFact("grain", "grain", {"": ("along the long side", "across", "none")}),
        SheetFact("maker", "maker"),
        # Typed as the thickness: 1/8 in, 16 ga steel, 300 g/m2.
        SheetFact(THICKNESS_SAID, "thickness as people say it", asked=False),
        # Of laminates, anodised, painted and coated sheets: what shows once the layer is off.
        SheetFact(BELOW_COLOUR, "colour below its layer", colour=True, process="layer"),
    )
}
# Families in which a sheet of unknown kind may hold chlorine.
_MAY_HOLD_CHLORINE = frozenset({"plastic", "leather", "textile", "rubber", "coated metal", "other"})


def read_sheet_facts(fields: Fields) -> dict[str, str]:
    """The facts that are said, in the order of the table."""
    said = {key: fields.text(key, "", longest=LONGEST).strip() for key in SHEET_FACTS if key in fields.data}
    for key, text in said.items():
        if text and SHEET_FACTS[key].colour:
            read_hex(text, fields.at(key))
    return {key: text for key, text in said.items() if text}


def alike_by(facts: Mapping[str, str]) -> str:
    """What two sheets of a family have to have in common to be of one kind: which one it is, with its coating; empty
    where that is not known."""
    kind = facts.get("kind", "")
    if kind in ("", UNKNOWN):
        return ""
    return ", ".join(part.lower() for part in (kind, facts.get("coating", "")) if part)


def sheet_cautions(family: str, facts: Mapping[str, str], passes_through: bool) -> list[tuple[str, str, bool]]:
    """What to see to because of them: key, sentence, and whether somebody gets hurt otherwise."""
    said: list[tuple[str, str, bool]] = []
    if facts.get("kind") == UNKNOWN and family in _MAY_HOLD_CHLORINE:
        said.append(
            (
                "unknown_kind",
                "Nobody knows which it is: what holds chlorine must not be burned. Hold a hot copper wire to a scrap,"
                " then into a flame; where it burns green, leave it.",
                True,
            )
        )
    if "adhesive" in facts:
        said.append(
            (
                "adhesive",
                "Its adhesive gums edges and what lies below: a spare sheet under it, optics clean after.",
                False,
            )
        )
    if "backing" in facts:
        said.append(("backing", f"It has a backing ({facts['backing']}): the same side up as in its trial.", False))
    if facts.get("grain", "none") != "none" and passes_through:
        said.append(("grain", f"Its grain: {facts['grain']}. Lay the piece as the trial lay.", False))
    return said
