"""Starting points against shops nobody fitted: how far a first guess lies from what a sheet really takes.

Beside it stands what people do without a model: the nearest thickness, slower in proportion.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.timing import Figure
from benchmarks.worlds import StockWorld, stock_world
from rezept.core.begin.estimate import Estimate, estimate
from rezept.core.begin.known import Known, Sheet
from rezept.core.fields import Fields
from rezept.core.machine import Machine, read_machine
from rezept.core.process import CUT

JUDGED_FROM, WORLDS = 70_000, 300
THICKNESSES = (2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0)


def machine_of(world: StockWorld, number: int) -> Machine:
    return read_machine(
        Fields({
            "name": f"Drawn {number}",
            "source": "co2_glass",
            "motion": "gantry",
            "wavelength_nm": 10600,
            "field_width_mm": 600,
            "field_height_mm": 400,
            "rated_power_w": world.watts[number],
            "max_speed_mm_s": 600,
            "acceleration_mm_s2": 3000,
        })
    )  # fmt: skip


def _recipe(world: StockWorld, material: int, machine: int, thickness: float, chance: np.random.Generator) -> Known:
    power = float(chance.integers(55, 90))
    speed = world.speed(material, machine, thickness, power) * float(np.exp(world.scatter * chance.standard_normal()))
    standing = "proven" if chance.random() < 0.5 else "tried"
    on = machine_of(world, machine)
    settings = {"speed_mm_s": speed, "power_pct": power, "passes": 1.0}
    return Known(0, standing, settings, _sheet(world, material, thickness), on, on.name)


def _sheet(world: StockWorld, material: int, thickness: float) -> Sheet:
    return Sheet(f"Board {material}", "wood", thickness, world.densities[material], None, None)


def _off(world: StockWorld, found: Estimate, material: int, thickness: float) -> tuple[float, bool]:
    """Log of the speed over the true one at the same power, and whether the interval holds that."""
    true = world.speed(material, 0, thickness, found.settings["power_pct"])
    return float(np.log(found.settings["speed_mm_s"] / true)), found.low <= true <= found.high


def judged(seed: int) -> dict[str, tuple[float, bool]]:
    """A shop whose book fills: of a material nothing but its kin, one thickness on the other machine, three here."""
    chance = np.random.default_rng(seed)
    world = stock_world(chance)
    wanted, *others = chance.choice(THICKNESSES, 4, replace=False)
    here, sheet = machine_of(world, 0), _sheet(world, 0, float(wanted))
    kin = [_recipe(world, m, int(chance.integers(2)), float(chance.choice(THICKNESSES)), chance) for m in (1, 2, 3)]
    other = [_recipe(world, 0, 1, float(others[0]), chance)]
    three = [_recipe(world, 0, 0, float(thickness), chance) for thickness in others]
    found = {
        name: _off(world, estimate(CUT, sheet, here, book), 0, float(wanted))
        for name, book in (
            ("nothing", []),
            ("three kin", kin),
            ("one thickness on another machine", kin + other),
            ("three thicknesses", kin + other + three),
        )
    }
    nearest = min(three, key=lambda one: abs(np.log((one.sheet.thickness_mm or 1.0) / wanted)))
    power = nearest.settings["power_pct"]
    speed = nearest.settings["speed_mm_s"] * (nearest.sheet.thickness_mm or 1.0) / wanted
    return found | {"nearest in proportion": (float(np.log(speed / world.speed(0, 0, float(wanted), power))), True)}


def figures() -> Iterator[Figure]:
    every = [judged(seed) for seed in range(JUDGED_FROM, JUDGED_FROM + WORLDS)]

    def factor(name: str) -> float:
        return float(np.exp(np.median([abs(one[name][0]) for one in every])))

    def covered(name: str) -> float:
        return 100 * float(np.mean([one[name][1] for one in every]))

    for name in every[0]:
        print(f"       starting from {name:34} off by a factor {factor(name):.2f}   covered {covered(name):3.0f} %")
    of = f"{WORLDS} drawn shops; nearest thickness in proportion: {factor('nearest in proportion'):.2f}"
    yield Figure("starting point, three thicknesses: off by", factor("three thicknesses"), "x", 1.25, of)
    for name in ("three kin", "one thickness on another machine", "three thicknesses"):
        yield Figure(
            f"80 % of a starting point from {name}, off 80", abs(covered(name) - 80), "%", 15.0, "of such shops"
        )
