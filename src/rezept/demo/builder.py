"""What the story of the demo is told with: everything goes through `actions`, with a clock that is handed in, so the
same shop comes out every time. Outcomes and photos come from the bench."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

from rezept.actions.commands import burning, equipment, keeping, people, photos, planning, reading
from rezept.actions.members import Member
from rezept.actions.open_shop import Clock, Shop, open_shop
from rezept.actions.queries import asking, views
from rezept.bench.picture import Spot, photograph
from rezept.bench.response import SUBSTANCES, Beam, cut, mark
from rezept.core.colour import lab_to_srgb
from rezept.core.process import PROCESSES
from rezept.core.scales import SCALES
from rezept.demo import stock

FIRST_DAY = datetime(2026, 9, 28, 9, 30, tzinfo=UTC)
Sheet = tuple[str, float]
CHARRED, FROSTED = (0.16, 0.11, 0.08), (0.93, 0.93, 0.91)


def _steady_clock(start: datetime) -> Clock:
    """A clock that moves on by half a minute each time somebody looks."""

    def ticks() -> Iterator[datetime]:
        now = start
        while True:
            yield now
            now += timedelta(seconds=30)

    ticking = ticks()
    return lambda: next(ticking)


@dataclass
class Builder:
    """The shop while its story is told."""

    shop: Shop
    people: dict[str, Member]
    heads: dict[str, int]
    materials: dict[Sheet, int]
    random: Random

    def on_day(self, days: int) -> None:
        """Let the shop's clock go on from that many days after the first."""
        self.shop = replace(self.shop, clock=_steady_clock(FIRST_DAY + timedelta(days=days)))

    def planned(
        self, by: str, process: str, sheet: Sheet, machine: str, changes: dict[str, Any]
    ) -> tuple[int, dict[str, Any]]:
        """A trial from the book's suggestion with some of its design changed; its id and page."""
        member = self.people[by]
        trial = planning.new_trial(self.shop, member, process, self.materials[sheet], self.heads[machine])
        page = views.trial_page(self.shop, trial)
        planning.change_draft(self.shop, member, trial, page["edit"], {**page["design"], **changes}, {})
        return trial, views.trial_page(self.shop, trial)

    def burned(self, by: str, trial: int, conditions: dict[str, Any]) -> int:
        page = views.trial_page(self.shop, trial)
        return burning.mark_burned(self.shop, self.people[by], trial, page["edit"], conditions)

    def read(self, by: str, trial: int, burn: int, most: int | None = None, photo: bool = True) -> dict[str, int]:
        """Score the first `most` patches as the bench says they came out, and photograph the plate; the outcome by
        patch."""
        page = views.trial_page(self.shop, trial)
        plate = page["burned"]
        machine, material = plate["trial"]["machine"], plate["trial"]["material"]
        stocked = next(one for one in stock.MATERIALS if (one.name, one.thickness_mm) == _sheet_of(material))
        substance = SUBSTANCES[stocked.substance]
        beam = Beam(machine["rated_power_w"], machine["wavelength_nm"], machine["firing_floor_pct"])
        process = PROCESSES[page["process"]]
        outcomes: dict[str, int] = {}
        spots = []
        for i, patch in enumerate(plate["patches"]):
            if process.passes_through:
                seen = cut(substance, beam, material["thickness_mm"], patch["settings"], self.random)
                tags = ["back_burn"] if seen["char"] >= 2 else []
            else:
                seen = mark(substance, beam, patch["settings"], self.random)
                tags = []
            left_out = patch["id"] in page["not_burned"]
            if (most is None or i < most) and not left_out:
                outcomes[patch["id"]] = seen[process.outcome]
                values = {key: value for key, value in seen.items() if key in SCALES}
                reading.score(
                    self.shop, self.people[by], burn, patch["id"], 0, {"values": {**values, **dict.fromkeys(tags, 1)}}
                )
            if not left_out:
                place = (patch["x_mm"], patch["y_mm"], patch["width_mm"], patch["height_mm"])
                spots.append(
                    Spot(*place, seen.get("through"), seen.get("darkness"), seen.get("char", 0), process.draws_lines)
                )
        if photo:
            self._photograph(by, burn, plate, spots, process.faces)
        return outcomes

    def _photograph(self, by: str, burn: int, plate: dict[str, Any], spots: list[Spot], faces: tuple[str, ...]) -> None:
        material = plate["trial"]["material"]
        colours = {
            "ground": lab_to_srgb(material["ground_lab"]).tolist(),
            "mark": FROSTED if material["mark"] == "lighter" else CHARRED,
        }
        size = plate["plate"]
        for face in faces:
            data = photograph(size["width_mm"], size["height_mm"], spots, colours, face, seed=burn)
            photos.bring_in(self.shop, self.people[by], data, burn, face, read=False, pushed=False)

    def keep(self, by: str, burn: int, patch: str, **document: Any) -> int:
        return keeping.keep_recipe(self.shop, self.people[by], burn, patch, document)

    def wrote_down(
        self, by: str, process: str, sheet: Sheet, machine: str, settings: dict[str, Any], **words: Any
    ) -> int:
        place = {"process": process, "material": self.materials[sheet], "head": self.heads[machine]}
        return keeping.write_down(self.shop, self.people[by], {**place, **words}, settings, {})

    def held(self, by: str, recipe: int, held: bool = True, note: str = "") -> None:
        keeping.confirm(self.shop, self.people[by], recipe, held, note)

    def said(self, by: str, recipe: int, **change: Any) -> None:
        """Change what the book says of a recipe."""
        edit = asking.recipe_page(self.shop, self.people[by], recipe)["edit"]
        keeping.change_recipe(self.shop, self.people[by], recipe, edit, change)


def _sheet_of(material: dict[str, Any]) -> Sheet:
    return material["name"], material["thickness_mm"]


def founded(folder: Path) -> Builder:
    """The shop with its people, machines and materials, before anything is burned."""
    shop = open_shop(folder, _steady_clock(FIRST_DAY))
    keeper = people.found_shop(shop, stock.SHOP_NAME, stock.SHOP_TAG, stock.MEMBERS[0][0], demo=True)
    members = {keeper.name.split()[0]: keeper}
    for name, role in stock.MEMBERS[1:]:
        members[name.split()[0]] = people.add_member(shop, keeper, name, role)
    heads: dict[str, int] = {}
    for machine, of_machine in stock.MACHINES:
        ids = equipment.add_machine(shop, keeper, machine, [dict(head) for head in of_machine])
        for head, head_id in zip(of_machine, ids, strict=True):
            heads[machine["name"] if len(ids) == 1 else f"{machine['name']} {head['name']}"] = head_id
    materials: dict[Sheet, int] = {}
    for stocked in stock.MATERIALS:
        material = equipment.add(shop, keeper, "material", _facts(stocked), {})
        materials[stocked.name, stocked.thickness_mm] = material
        for name, measured in stocked.lots:
            equipment.add_lot(shop, keeper, material, name, measured)
        for piece in stocked.pieces:
            equipment.add(shop, keeper, "piece", {"material_id": material, **piece}, {})
    return Builder(shop, members, heads, materials, Random(20261123))


def _facts(stocked: stock.Stocked) -> dict[str, Any]:
    keys = ("name", "family", "thickness_mm", "mark", "density_kg_m3", "hardness", "supplier_code", "note")
    facts: dict[str, Any] = {key: getattr(stocked, key) for key in keys}
    lists = {"hazards": list(stocked.hazards), "processes": list(stocked.processes)}
    return {**facts, **lists, "ground_colour": stocked.colour}
