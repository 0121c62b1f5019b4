"""Building the demo shop: a workshop that prepares its winter lantern walk.

Everything goes through `actions`, with a clock that is handed in, so the same shop comes out every time.
Outcomes come from the bench.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

from rezept.actions import burning, equipment, exporting, keeping, people, planning, reading, views
from rezept.actions.open_shop import Clock, Shop, open_shop
from rezept.actions.people import Member
from rezept.bench.response import SUBSTANCES, Beam, cut, mark
from rezept.core.reading import TAGS
from rezept.demo import stock

FIRST_DAY = datetime(2026, 10, 12, 9, 30, tzinfo=UTC)


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
class _Builder:
    shop: Shop
    people: dict[str, Member]
    heads: dict[str, int]
    materials: dict[tuple[str, float], int]
    substances: dict[int, str]
    random: Random

    def on_day(self, days: int) -> None:
        """Let the shop's clock go on from that many days after the first."""
        self.shop = replace(self.shop, clock=_steady_clock(FIRST_DAY + timedelta(days=days)))

    def planned(
        self, by: str, process: str, sheet: tuple[str, float], machine: str, changes: dict[str, Any]
    ) -> tuple[int, dict[str, Any]]:
        """A trial from the book's suggestion with some of its design changed; its id and page."""
        member = self.people[by]
        trial = planning.new_trial(self.shop, member, process, self.materials[sheet], self.heads[machine])
        page = views.trial_page(self.shop, trial)
        design = {**page["design"], **changes}
        planning.change_draft(self.shop, member, trial, page["edit"], design, {})
        return trial, views.trial_page(self.shop, trial)

    def burned(self, by: str, trial: int, conditions: dict[str, Any]) -> int:
        page = views.trial_page(self.shop, trial)
        return burning.mark_burned(self.shop, self.people[by], trial, page["edit"], conditions)

    def read(self, by: str, trial: int, burn: int, machine: dict[str, Any], most: int | None = None) -> dict[str, int]:
        """Score the first `most` patches as the bench says they came out; the outcome by patch."""
        page = views.trial_page(self.shop, trial)
        substance = SUBSTANCES[self.substances[page["material_id"]]]
        beam = Beam(machine["rated_power_w"], 10_600.0 if machine is stock.WREN else 450.0, machine["firing_floor_pct"])
        thickness = page["burned"]["trial"]["material"]["thickness_mm"]
        outcomes: dict[str, int] = {}
        for patch in page["burned"]["patches"][:most]:
            if page["process"] == "cut":
                seen = cut(substance, beam, thickness, patch["settings"], self.random)
                outcomes[patch["id"]] = seen["through"]
                tags = ["back_burn"] if seen["char"] >= 2 and "cut" in TAGS["back_burn"] else []
            else:
                seen = mark(substance, beam, patch["settings"], self.random)
                outcomes[patch["id"]] = seen["darkness"]
                tags = []
            reading.score(self.shop, self.people[by], burn, patch["id"], 0, {**seen, "tags": tags})
        return outcomes

    def keep(self, by: str, burn: int, patch: str, **document: str) -> int:
        return keeping.keep_recipe(self.shop, self.people[by], burn, patch, document)


def _found(folder: Path) -> _Builder:
    shop = open_shop(folder, _steady_clock(FIRST_DAY))
    keeper = people.found_shop(shop, stock.SHOP_NAME, stock.SHOP_TAG, stock.MEMBERS[0][0], demo=True)
    members = {keeper.name.split()[0]: keeper}
    for name, role in stock.MEMBERS[1:]:
        members[name.split()[0]] = people.add_member(shop, keeper, name, role)
    heads = {
        machine["name"]: equipment.add_machine(shop, keeper, machine, [head])[0]
        for machine, head in ((stock.WREN, stock.WREN_HEAD), (stock.FINCH, stock.FINCH_HEAD))
    }
    materials: dict[tuple[str, float], int] = {}
    substances: dict[int, str] = {}
    for name, family, thickness, hazards, processes, substance in stock.MATERIALS:
        facts = {"name": name, "family": family, "thickness_mm": thickness, "hazards": hazards}
        material = equipment.add_material(shop, keeper, facts, processes)
        materials[name, thickness] = material
        substances[material] = substance
        if (name, thickness) in stock.LOTS:
            lot, measured = stock.LOTS[name, thickness]
            equipment.add_lot(shop, keeper, material, lot, measured)
    return _Builder(shop, members, heads, materials, substances, Random(20261123))


def _axis(parameter: str, along: str, start: float, end: float, count: int, spacing: str = "linear") -> dict[str, Any]:
    return {"parameter": parameter, "along": along, "from": start, "to": end, "count": count, "spacing": spacing}


def _fastest(page: dict[str, Any], outcomes: dict[str, int], at_least: int, of_best_row: int = 0) -> str:
    """The fastest patch that came out at least so well and has a neighbour on its fast side that did, too."""
    patches = {patch["id"]: patch for patch in page["burned"]["patches"]}
    good = [
        patch
        for patch in patches.values()
        if outcomes.get(patch["id"], -1) >= at_least
        and outcomes.get(f"{patch['id'][0]}{patch['column'] + 1}", -1) >= at_least
    ]
    good.sort(key=lambda patch: (-patch["settings"]["speed_mm_s"], patch["settings"]["power_pct"]))
    chosen: str = good[of_best_row]["id"]
    return chosen


def build_demo(folder: Path) -> None:
    """Make the demo shop in an empty folder."""
    b = _found(folder)
    poplar, thick = ("Poplar plywood", 4.0), ("Poplar plywood", 6.0)
    leather, felt = ("Vegetable-tanned leather", 2.2), ("Wool felt", 3.0)

    # Lines first: they make the labels of everything after.
    b.on_day(0)
    design = {
        "hold": {"air_level": 1.0},
        "axes": [_axis("speed_mm_s", "x", 60, 240, 4), _axis("power_pct", "y", 12, 24, 3)],
        "patch": {"shape": "rectangle", "width_mm": 8.0, "height_mm": 8.0, "gap_mm": 3.0},
    }
    trial, _ = b.planned("Tess", "line", poplar, "Wren", design)
    burn = b.burned("Tess", trial, {"lot": "autumn delivery", "measured_mm": 3.7, "focus": "gauge", "air": "60 kPa"})
    b.read("Tess", trial, burn, stock.WREN)
    b.keep("Tess", burn, "B3", standing="proven", purpose="labels and fold lines", note="Thin brown line, no char.")

    b.on_day(3)
    design = {
        "axes": [_axis("speed_mm_s", "x", 8, 32, 6), _axis("power_pct", "y", 30, 80, 6)],
        "hold": {"air_level": 1.0},
    }
    trial, _ = b.planned("Tess", "cut", poplar, "Wren", design)
    burn = b.burned("Tess", trial, {"lot": "autumn delivery", "measured_mm": 3.7, "focus": "gauge", "air": "60 kPa",
                                    "note": "Weighted down with the steel bars."})  # fmt: skip
    outcomes = b.read("Tess", trial, burn, stock.WREN)
    page = views.trial_page(b.shop, trial)
    b.keep("Tess", burn, _fastest(page, outcomes, 3), standing="proven",
           note="Lantern sides. Mask the front; clean edge, drops out by itself.")  # fmt: skip

    b.on_day(9)
    design = {
        "axes": [_axis("speed_mm_s", "x", 40, 190, 6), _axis("power_pct", "y", 20, 90, 5)],
        "hold": {"air_level": 0.0, "line_spacing_mm": 0.1},
        "order": "rows",
    }
    trial, _ = b.planned("Moss", "area", leather, "Finch", design)
    burn = b.burned("Moss", trial, {"lot": "shoulder, tan", "measured_mm": 2.3, "focus": "block", "air": "off"})
    outcomes = b.read("Moss", trial, burn, stock.FINCH)
    page = views.trial_page(b.shop, trial)
    b.keep("Tess", burn, _fastest(page, outcomes, 4), standing="proven", purpose="dark",
           note="Wipe with a damp cloth after. The smell is strong: extraction on.")  # fmt: skip
    b.keep("Moss", burn, _fastest(page, outcomes, 2), purpose="merely tan")

    b.on_day(21)
    design = {"axes": [_axis("speed_mm_s", "x", 25, 125, 5), _axis("power_pct", "y", 20, 60, 5)]}
    trial, _ = b.planned("Moss", "cut", felt, "Wren", design)
    burn = b.burned("Moss", trial, {"lot": "roll 4, moss green", "measured_mm": 3.1, "focus": "gauge", "air": "60 kPa"})
    burning.mark_not_burned(b.shop, b.people["Moss"], burn, "A5", True)
    outcomes = b.read("Moss", trial, burn, stock.WREN)

    b.on_day(40)
    design = {
        "axes": [_axis("line_spacing_mm", "x", 0.06, 0.22, 5), _axis("power_pct", "y", 25, 75, 5)],
        "hold": {"speed_mm_s": 90.0, "air_level": 0.0},
    }
    trial, _ = b.planned("Moss", "area", leather, "Finch", design)
    burn = b.burned("Moss", trial, {"lot": "shoulder, tan", "measured_mm": 2.3, "focus": "block", "air": "off"})
    b.read("Moss", trial, burn, stock.FINCH, most=11)

    b.on_day(41)
    trial, page = b.planned("Tess", "cut", thick, "Wren", {})
    exporting.freeze_latest(b.shop, b.people["Tess"], trial, page["edit"])
    b.shop.close()
