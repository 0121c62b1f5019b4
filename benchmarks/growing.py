"""A plate that grows by sixty coupons: how long each next one takes to be planned, and to be offered."""

from __future__ import annotations

import statistics
import tempfile
from collections.abc import Iterator
from pathlib import Path

from tests.demo_copy import copy_demo

from benchmarks.timing import Figure, seconds
from rezept.actions.commands import burning, growing, people, planning, reading
from rezept.actions.open_shop import open_shop
from rezept.actions.queries import views
from rezept.actions.queries.next_coupon import coupon_after
from rezept.store import equipment as equipment_table

COUPONS = 60


def figures() -> Iterator[Figure]:
    with tempfile.TemporaryDirectory() as folder:
        copy_demo(Path(folder) / "shop")
        shop = open_shop(Path(folder) / "shop")
        try:
            keeper = people.first_keeper(shop)
            with shop.database.reading() as db:
                [sheet] = [one["id"] for one in equipment_table.materials(db) if one["title"] == "Poplar plywood 6 mm"]
                [head] = [one["id"] for one in equipment_table.heads(db) if one["machine"] == "Wren"]
            trial = planning.new_trial(shop, keeper, "cut", sheet, head, one_by_one=True)
            planned, offered = [], []
            for i in range(COUPONS):
                edit = views.trial_page(shop, trial)["edit"]
                speed = 6 + 0.2 * (i % 30)
                said: list[str] = []

                def plan(edit: int = edit, speed: float = speed, said: list[str] = said) -> None:
                    settings = {"speed_mm_s": speed, "power_pct": 80}
                    said.append(growing.set_coupon(shop, keeper, trial, edit, settings, {})["patch"])

                planned.append(seconds(plan))
                burn = burning.mark_burned(shop, keeper, trial, edit + 1, {})
                reading.score(shop, keeper, burn, said[0], 0, {"values": {"through": 3 if speed < 10 else 1}})
                offered.append(seconds(lambda: coupon_after(shop, trial)))
        finally:
            shop.close()
    last = 1000 * statistics.median(planned[-10:])
    yield Figure("growing: the next coupon planned", last, "ms", 30, f"median of the last ten of {COUPONS}")
    yield Figure(
        "growing: the next coupon offered",
        1000 * statistics.median(offered[-10:]),
        "ms",
        300,
        "models of all that is known; the Decide page's limit",
    )
