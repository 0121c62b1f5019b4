"""Decisions against worlds nobody fitted: how fast one may go, how often it fails on fresh sheets, and what others do.

The worlds (`benchmarks.worlds`) know what is true. Nothing here was used to set a prior or a threshold but the seeds
below `JUDGED_FROM`; the table is drawn from those above it.
"""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from benchmarks.timing import Figure, cpu_seconds
from benchmarks.worlds import LAWS, CutWorld, cut_world, first_array, mark_world
from rezept.core.fields import Fields
from rezept.core.findings.choices import Wanted, Wish
from rezept.core.findings.decision import Decision, decide
from rezept.core.findings.observations import Observations, joined
from rezept.core.machine import Machine, read_machine
from rezept.core.process import CUT, PROCESSES
from rezept.core.scales import BLACKEST, darkness_to_lightness, lightness_unsure_by_eye

Floats = NDArray[np.float64]
JUDGED_FROM, WORLDS = 90_000, 200
AIMS = ("fastest", "gentlest", "forgiving", "cleanest")
_NEIGHBOURS = 5


def machine_of(world: CutWorld) -> Machine:
    return read_machine(
        Fields({
            "name": "Drawn",
            "source": "co2_glass",
            "motion": "gantry",
            "wavelength_nm": 10600,
            "field_width_mm": 600,
            "field_height_mm": 400,
            "rated_power_w": world.rated_w,
            "max_speed_mm_s": world.top_speed,
            "acceleration_mm_s2": 3000,
            "firing_floor_pct": world.floor_pct,
            "max_power_pct": world.top_pct,
        })
    )  # fmt: skip


def observed(
    world: CutWorld,
    speed: Floats,
    power: Floats,
    sheet: float,
    lot: str,
    burn: int,
    chance: np.random.Generator,
    passes: Floats | None = None,
) -> Observations:
    """A plate of these settings, burned on a sheet and scored by eye."""
    count = len(speed)
    whole = np.arange(count)
    added = np.ones(count) if passes is None else passes
    return Observations(
        process=CUT,
        element=tuple(f"{burn}-{i}" for i in range(count)),
        burn=np.full(count, burn, np.int64),
        day=("",) * count,
        lot=(lot,) * count,
        measured_mm=np.full(count, np.nan),
        state=("burned",) * count,
        settings={"speed_mm_s": speed, "power_pct": power, **({} if passes is None else {"passes": passes})},
        dose=world.rated_w * power / 100 / speed * added,
        outcome=world.burn(speed, power, sheet, chance, added).astype(float),
        doubt=np.zeros(count),
        row=whole,
        column=whole,
        block=np.zeros(count, np.int64),
        x_mm=np.zeros(count),
        y_mm=np.zeros(count),
        others={"char": np.rint(world.char(speed, power) + 0.2 * chance.standard_normal(count)).clip(0, 3)},
    )


def by_photo(seen: Observations, which: NDArray[np.bool_], chance: np.random.Generator) -> Observations:
    """The same, some of it read from a photograph: of each it says how sure it is, and it is a step off as often as
    that."""
    doubt = np.where(which, chance.choice([0.01, 0.05, 0.25], len(seen), p=[0.6, 0.25, 0.15]), 0.0)
    slipped = chance.random(len(seen)) < doubt
    step = chance.choice([-1, 1], len(seen))
    outcome = np.where(slipped, np.clip(seen.outcome + step, 0, 3), seen.outcome)
    return replace(seen, outcome=outcome, doubt=doubt)


def axes_of(decision: Decision) -> tuple[Floats, Floats] | None:
    """Speeds and powers of the next array."""
    if decision.next is None or decision.next.axes is None:
        return None
    values = {axis["parameter"]: axis["values"] for axis in decision.next.axes}
    values.setdefault("power_pct", [decision.next.hold.get("power_pct", 0.0)])
    speed, power = np.meshgrid(values["speed_mm_s"], values["power_pct"])
    return speed.ravel().astype(float), power.ravel().astype(float)


@dataclass
class Tally:
    """What came of one way to choose, world by world: share of fresh patches that drop out, and share of speed lost."""

    success: list[float] = field(default_factory=list)
    lost: list[float] = field(default_factory=list)
    patches: list[int] = field(default_factory=list)

    def add(self, success: float, lost: float, patches: int) -> None:
        self.success.append(success)
        self.lost.append(lost)
        self.patches.append(patches)

    def line(self, name: str) -> str:
        return (
            f"{name:34} success {100 * np.mean(self.success):6.2f} %   lost, median {100 * np.median(self.lost):6.1f} %"
            f"   patches {np.mean(self.patches):5.1f}   of {len(self.success)}"
        )


def eye_rule(seen: Observations) -> tuple[float, float] | None:
    """One step safer than the best-looking patch: the fastest that dropped out, at the next slower speed burned."""
    speed, power = seen.settings["speed_mm_s"], seen.settings["power_pct"]
    out = np.flatnonzero(seen.outcome == 3)
    if not len(out):
        return None
    best = out[np.argmax(speed[out])]
    slower = speed[(power == power[best]) & (speed < speed[best])]
    return float(slower.max() if len(slower) else speed[best]), float(power[best])


def halving(world: CutWorld, sheet: float, chance: np.random.Generator, coupons: int = 6) -> tuple[float, float]:
    """A ladder by halving, coupon by coupon at full power; then 10 % slower than the fastest that dropped out."""
    power = world.top_pct
    low, high = world.holding_speed(power, 0.0) / 3, world.holding_speed(power, 0.0) * 3
    best = low
    for _ in range(coupons):
        speed = float(np.sqrt(low * high))
        if world.burn(np.array([speed]), np.array([power]), sheet, chance)[0] == 3:
            low = best = speed
        else:
            high = speed
    return best * 0.9, power


def plain_logistic(seen: Observations, powers: Floats, speeds: Floats) -> tuple[float, float] | None:
    """Logistic regression on logs with a weak ridge, as one would do in an afternoon: fastest with 99 in 100."""
    x = np.column_stack([np.ones(len(seen)), np.log(seen.settings["power_pct"]), np.log(seen.settings["speed_mm_s"])])
    x[:, 1:] -= (middle := x[:, 1:].mean(axis=0))
    y = (seen.outcome == 3).astype(float)
    w = np.zeros(3)
    for _ in range(40):
        p = 1 / (1 + np.exp(-np.clip(x @ w, -30, 30)))
        w += np.linalg.solve((x * (p * (1 - p))[:, None]).T @ x + 0.05 * np.eye(3), x.T @ (y - p) - 0.05 * w)
    best: tuple[float, float] | None = None
    for power in powers:
        logit = w[0] + w[1] * (np.log(power) - middle[0]) + w[2] * (np.log(speeds) - middle[1])
        held = speeds[logit >= np.log(99)]
        if len(held) and (best is None or held.max() > best[0]):
            best = float(held.max()), float(power)
    return best


@dataclass
class Judged:
    """What was seen over all worlds."""

    ways: dict[str, Tally] = field(default_factory=dict)
    gentle: list[float] = field(default_factory=list)
    forgiving: list[float] = field(default_factory=list)
    dirt: list[float] = field(default_factory=list)
    brier: list[float] = field(default_factory=list)
    brier_near: list[float] = field(default_factory=list)
    covered: list[bool] = field(default_factory=list)
    milliseconds: list[float] = field(default_factory=list)

    def add(self, way: str, world: CutWorld, chosen: tuple[float, float] | None, fastest: float, patches: int) -> None:
        if chosen is None:
            self.ways.setdefault(way, Tally()).add(1.0, 1.0, patches)
            return
        share = float(world.share([chosen[0]], [chosen[1]])[0])
        self.ways.setdefault(way, Tally()).add(share, 1 - chosen[0] / fastest, patches)


def _chosen(decision: Decision, aim: str = "fastest") -> tuple[float, float] | None:
    found = next((one for one in decision.candidates if one.aim == aim), None)
    return None if found is None else (found.settings["speed_mm_s"], found.settings["power_pct"])


def _powers(world: CutWorld) -> Floats:
    return np.arange(np.ceil(world.floor_pct), world.top_pct + 0.5, 1.0)


def true_gentlest(world: CutWorld, fastest: float) -> float:
    """The least power at no less than half the fastest speed that holds."""
    margin = world.held_margin
    return next(float(p) for p in _powers(world) if world.holding_speed(p, margin) >= fastest / 2)


def true_forgiving(world: CutWorld) -> float:
    """The fastest at which 97 in 100 drop out with a tenth less power and a tenth more speed."""
    speeds = np.geomspace(0.5, world.top_speed, 1500)
    best = 0.0
    for power in _powers(world)[::4].tolist() + [world.top_pct]:
        fine = world.share(speeds * 1.1, np.full(len(speeds), 0.9 * power)) >= 0.97
        best = max(best, float(speeds[np.flatnonzero(fine)[-1]]) if fine.any() else 0.0)
    return best


def judge(judged: Judged, seed: int) -> None:
    """One world: a first array, a second one on the same sheet and on another, and what they lead to."""
    chance = np.random.default_rng(seed)
    world = cut_world(chance)
    machine = machine_of(world)
    speeds = {float(p): world.holding_speed(p) for p in _powers(world)}
    fastest = max(speeds.values())
    sheet = world.sheet(chance)
    speed, power = first_array(world, chance)
    first = observed(world, speed, power, sheet, "a", 1, chance)
    decision = decide(first, machine, aims=AIMS, wish=Wish())
    judged.milliseconds.append(1000 * cpu_seconds(lambda: decide(first, machine, aims=AIMS, wish=Wish())))
    judged.add("5 x 5", world, _chosen(decision), fastest, 25)
    judged.add("one step safer by eye", world, eye_rule(first), fastest, 25)
    every = np.geomspace(0.5, world.top_speed, 900)
    judged.add("plain logistic regression", world, plain_logistic(first, np.unique(power), every), fastest, 25)
    judged.add("halving ladder, six coupons", world, halving(world, sheet, chance), fastest, 6)
    # Drawn beside: what follows is as it was without them.
    photo, passes = chance.spawn(2)
    for way, which in (("5 x 5 by photo", np.ones(25, bool)), ("5 x 5, half by photo", np.arange(25) % 2 == 0)):
        seen = by_photo(first, which, photo)
        judged.add(way, world, _chosen(decide(seen, machine, aims=("fastest",), wish=Wish())), fastest, 25)
    _judge_passes(judged, world, machine, passes)
    _judge_shares(judged, world, decision, first, chance)
    _judge_aims(judged, world, decision, fastest)
    following = axes_of(decision)
    for way, lot, luck in (
        ("and one array, same sheet", "a", sheet),
        ("and one array, another", "b", world.sheet(chance)),
    ):
        if following is None:
            judged.add(way, world, _chosen(decision), fastest, 25)
            continue
        second = observed(world, *following, luck, lot, 2, chance)
        both = decide(joined([first, second]), machine, aims=("fastest",), wish=Wish())
        judged.add(way, world, _chosen(both), fastest, 25 + len(second))
    speed, power = first_array(world, chance, 3, 3)
    small = observed(world, speed, power, sheet, "a", 1, chance)
    judged.add("3 x 3", world, _chosen(decide(small, machine, aims=("fastest",), wish=Wish())), fastest, len(small))
    following = axes_of(decide(small, machine, aims=("fastest",), wish=Wish(most=6)))
    if following is not None:
        small = joined([small, observed(world, *following, world.sheet(chance), "b", 2, chance)])
    judged.add(
        "15 patches in all", world, _chosen(decide(small, machine, aims=("fastest",), wish=Wish())), fastest, len(small)
    )


def _judge_passes(judged: Judged, world: CutWorld, machine: Machine, chance: np.random.Generator) -> None:
    """A plate of 4 x 3 in one pass and in two: what is chosen against the quickest that holds in either."""
    speed, power = first_array(world, chance, 4, 3)
    once = np.ones(len(speed))
    settings = (np.tile(speed, 2), np.tile(power, 2))
    seen = observed(world, *settings, world.sheet(chance), "a", 1, chance, np.concatenate([once, 2 * once]))
    quickest = max(
        world.holding_speed(float(p), passes=float(n)) / n for n in (1, 2) for p in _powers(world)[::2].tolist()
    )
    decision = decide(seen, machine, aims=("fastest",), wish=Wish())
    tally = judged.ways.setdefault("4 x 3 in one pass and two", Tally())
    if not decision.candidates:
        tally.add(1.0, 1.0, len(seen))
        return
    at = decision.candidates[0].settings
    share = float(world.share([at["speed_mm_s"]], [at["power_pct"]], at["passes"])[0])
    tally.add(share, 1 - at["speed_mm_s"] / at["passes"] / quickest, len(seen))


def _judge_shares(
    judged: Judged, world: CutWorld, decision: Decision, seen: Observations, chance: np.random.Generator
) -> None:
    """Stated probabilities at random settings, beside the share among the five nearest patches."""
    speed, power = seen.settings["speed_mm_s"], seen.settings["power_pct"]
    for _ in range(24):
        at = {
            "speed_mm_s": float(np.exp(chance.uniform(np.log(speed.min()), np.log(speed.max())))),
            "power_pct": float(chance.uniform(power.min(), power.max())),
        }
        predicted = decision.predicted(at)
        assert predicted is not None
        true = float(world.share([at["speed_mm_s"]], [at["power_pct"]])[0])
        away = np.hypot(
            np.log(speed / at["speed_mm_s"]) / np.ptp(np.log(speed)), (power - at["power_pct"]) / np.ptp(power)
        )
        near = np.argsort(away)[:_NEIGHBOURS]
        # What it comes to on average over what may come out.
        chanced = true * (1 - true)
        judged.brier.append((predicted.value - true) ** 2 + chanced)
        judged.brier_near.append((float((seen.outcome[near] == 3).mean()) - true) ** 2 + chanced)
        if 0.02 < true < 0.98:
            judged.covered.append(predicted.low <= true <= predicted.high)


def _judge_aims(judged: Judged, world: CutWorld, decision: Decision, fastest: float) -> None:
    gentle = _chosen(decision, "gentlest")
    if gentle is not None:
        judged.gentle.append(gentle[1] / true_gentlest(world, fastest) - 1)
    forgiving = _chosen(decision, "forgiving")
    if forgiving is not None:
        judged.forgiving.append(1 - forgiving[0] / true_forgiving(world))
    clean = _chosen(decision, "cleanest")
    if clean is not None:
        margin = world.held_margin
        grid_p = _powers(world)[_powers(world) >= 0.4 * world.top_pct]
        best = min(float(world.char([v], [p])[0]) for p in grid_p if (v := world.holding_speed(p, margin)) > 0)
        judged.dirt.append(float(world.char([clean[0]], [clean[1]])[0]) - best)


@dataclass
class Marked:
    """What came of a wanted lightness: bias and median miss in L*, the miss nobody can avoid, and what the interval
    covered."""

    bias: list[float] = field(default_factory=list)
    miss: list[float] = field(default_factory=list)
    unavoidable: list[float] = field(default_factory=list)
    covered: list[float] = field(default_factory=list)


def judge_mark(marked: dict[str, Marked], seed: int) -> None:
    """One mark world: a plate of 25, a wanted lightness, and what a fresh sheet gives at what is chosen."""
    chance = np.random.default_rng(seed)
    world, machine = mark_world(chance), machine_of(cut_world(chance))
    middle = float(np.exp(0.2 * chance.standard_normal())) * 200
    speed, power = (one.ravel() for one in np.meshgrid(np.geomspace(middle / 2, min(2 * middle, 400), 5),
                                                       np.linspace(20, 80, 5)))  # fmt: skip

    def lightness(speed: Floats, power: Floats, luck: Floats) -> Floats:
        dose = np.log(power / 45) - np.log(speed / 200)
        return world.lightness(dose + luck, np.log(speed / 200)) + world.patch * chance.standard_normal(len(dose))

    seen = observed(cut_world(chance), speed, power, 0.0, "a", 1, chance)
    values = lightness(speed, power, np.full(25, world.sheets * chance.standard_normal())).clip(0, 100)
    seen = replace(seen, process=PROCESSES["area"], outcome=np.full(25, np.nan))
    low, high = np.quantile(values, [0.15, 0.85])
    wanted = float(chance.uniform(low, high))
    one = np.ones(400)
    luck = world.sheets * chance.standard_normal(400)
    by_eye = _scored_by_eye(values, world.ground, chance.spawn(1)[0])
    unsure = lightness_unsure_by_eye(world.ground, "darker")
    for way, which in (("photo", np.zeros(25, bool)), ("half by eye", np.arange(25) % 2 == 0), ("eye", one[:25] > 0)):
        read = replace(
            seen,
            others={"lightness": np.where(which, by_eye, values)},
            unsure={"lightness": np.where(which, unsure, 0.0)},
        )
        decision = decide(read, machine, aims=("darkness",), ground=world.ground, wanted=Wanted(lightness=wanted))
        if not decision.candidates:
            continue
        chosen = decision.candidates[0]
        fresh = lightness(chosen.settings["speed_mm_s"] * one, chosen.settings["power_pct"] * one, luck)
        tally = marked.setdefault(way, Marked())
        tally.bias.append(abs(float(fresh.mean()) - wanted))
        tally.miss.append(float(np.median(np.abs(fresh - wanted))))
        tally.unavoidable.append(float(np.median(np.abs(fresh - np.median(fresh)))))
        tally.covered.append(float(np.mean((fresh >= chosen.predicted.low) & (fresh <= chosen.predicted.high))))


def _scored_by_eye(values: Floats, ground: float, chance: np.random.Generator) -> Floats:
    """What somebody who counts in five steps from the ground to black makes of them, a quarter of a step unsure."""
    steps = (ground - values) / (ground - BLACKEST) * 5 + 0.25 * chance.standard_normal(len(values))
    return np.array([darkness_to_lightness(step, ground, "darker") for step in np.clip(np.round(steps), 0, 5)])


def _some(seeds: range) -> tuple[Judged, dict[str, Marked]]:
    judged: Judged = Judged()
    marked: dict[str, Marked] = {}
    for seed in seeds:
        judge(judged, seed)
        judge_mark(marked, seed)
    return judged, marked


def judged_worlds(first: int, count: int) -> tuple[Judged, dict[str, Marked]]:
    """Worlds from `first` on, in two processes."""
    judged: Judged = Judged()
    marked: dict[str, Marked] = {}
    seeds = range(first, first + count)
    with ProcessPoolExecutor(2) as pool:
        for one, other in pool.map(_some, [seeds[::2], seeds[1::2]]):
            for way, tally in one.ways.items():
                _extend(judged.ways.setdefault(way, Tally()), tally)
            _extend(judged, one)
            for way, mark in other.items():
                _extend(marked.setdefault(way, Marked()), mark)
    return judged, marked


def _extend(into: object, more: object) -> None:
    for name, values in vars(more).items():
        if isinstance(values, list):
            getattr(into, name).extend(values)


def figures() -> Iterator[Figure]:
    judged, marked = judged_worlds(JUDGED_FROM, WORLDS)
    for name, tally in judged.ways.items():
        print(f"       {tally.line(name)}", flush=True)
    of = f"{WORLDS} drawn worlds of {len(LAWS)} laws"
    ways = judged.ways

    def failing(way: str, limit: float) -> Figure:
        return Figure(f"fastest, {way}: fails", 100 * (1 - float(np.mean(ways[way].success))), "%", limit, of)

    def lost(way: str, limit: float) -> Figure:
        return Figure(f"fastest, {way}: speed lost", 100 * float(np.median(ways[way].lost)), "%", limit, "median")

    yield failing("5 x 5", 3.5)
    for way, fails, slower in (
        ("and one array, same sheet", 3.0, 6.0),
        ("and one array, another", 3.0, 3.0),
        ("15 patches in all", 3.5, 9.0),
    ):
        yield failing(way, fails)
        yield lost(way, slower)
    for way in ("5 x 5 by photo", "5 x 5, half by photo", "4 x 3 in one pass and two"):
        yield failing(way, 3.5)
    eye, nine = ways["one step safer by eye"], ways["3 x 3"]
    yield Figure(
        "patches for what the eye rule takes 25 for",
        100 * float(np.mean(nine.patches) / np.mean(eye.patches)),
        "%",
        40.0,
        f"success {100 * np.mean(nine.success):.1f} % beside {100 * np.mean(eye.success):.1f} %",
    )
    yield Figure("gentlest: power above the least", 100 * float(np.median(judged.gentle)), "%", 10.0, "median")
    yield Figure("forgiving: slower than need be", 100 * float(np.median(judged.forgiving)), "%", 10.0, "median")
    yield Figure("cleanest: char above the least", float(np.median(judged.dirt)), "deg", 0.5, "median")
    near = float(np.mean(judged.brier_near))
    yield Figure("Brier score", float(np.mean(judged.brier)) / near, "", 0.75, "over that of the five nearest patches")
    covered = 100 * float(np.mean(judged.covered))
    yield Figure("80 % intervals of the share, off 80", abs(covered - 80), "%", 10.0, f"they cover {covered:.0f} %")
    for way, mark in marked.items():
        bias, covered = float(np.median(mark.bias)), 100 * float(np.mean(mark.covered))
        miss = float(np.median(np.array(mark.miss) / np.array(mark.unavoidable)))
        if way == "eye":
            print(f"       lightness by {way}: bias {bias:.2f} L*, miss {miss:.2f}, intervals cover {covered:.0f} %")
            continue
        yield Figure(f"wanted lightness, {way}: bias", bias, "L*", 1.3, f"{len(mark.bias)} marks, median")
        yield Figure(f"wanted lightness, {way}: miss", miss, "", 1.15, "over what nobody can avoid, median")
        yield Figure(
            f"80 % of the lightness, {way}, off 80", abs(covered - 80), "%", 5.0, f"they cover {covered:.0f} %"
        )
    yield from cost_figures()


def cost_figures() -> Iterator[Figure]:
    """CPU of a whole decision: a plate of 100 patches, and ten of them together."""
    chance = np.random.default_rng(3)
    world = cut_world(chance)
    machine = machine_of(world)
    speed, power = first_array(world, chance, 10, 10)
    plates = [observed(world, speed, power, world.sheet(chance), f"{i}", i, chance) for i in range(10)]
    decide(plates[0], machine, aims=AIMS)
    one = 1000 * min(cpu_seconds(lambda: decide(plates[0], machine, aims=AIMS)) for _ in range(5))
    yield Figure("a plate of 100 decided, CPU", one, "ms", 150.0, "models, four aims, next array")
    ten = joined(plates)
    every = 1000 * min(cpu_seconds(lambda: decide(ten, machine, aims=AIMS)) for _ in range(3))
    yield Figure("ten such plates together, CPU", every, "ms", 1000.0, "the same")
