"""Trials of every kind there is, by a seed: most can be burned, many break a rule or two."""

from __future__ import annotations

from random import Random
from typing import Any

from tests.made import BLANK, HERON, POPLAR, WREN, trial_document
from tests.random_figures import drawing

GANTRY: dict[str, Any] = {
    **WREN,
    "beam_drops_at_rest": True,
    "dwells_with_beam": True,
    "trace_power_pct": 1.0,
    "head": {"name": "lens", "spot_mm": 0.2},
}
GALVO: dict[str, Any] = {
    **HERON,
    "hears_settings": True,
    "beam_drops_at_rest": True,
    "trace_power_pct": 1.0,
    "head": {"name": "110", "spot_mm": 0.05},
}


def _axis(random: Random, key: str, along: str, low: float, high: float) -> dict[str, Any]:
    count = random.randint(1, 3)
    values = sorted({round(random.uniform(low, high), 2) for _ in range(count)})
    return {"parameter": key, "along": along, "values": values}


def _line(random: Random, galvo: bool, wild: float) -> dict[str, float]:
    settings: dict[str, float] = {
        "speed_mm_s": random.uniform(20, 300) * (50 if random.random() < wild else 1),
        "power_pct": random.uniform(12, 80) if random.random() > wild else random.choice([5.0, 90.0, 100.0]),
    }
    if random.random() < 0.3:
        settings["passes"] = random.randint(1, 2)
    if galvo and random.random() < 0.4:
        settings |= {"pulse_width_ns": random.choice([20, 200]), "frequency_khz": random.choice([60.0, 90.0, 2000.0])}
    return settings


def machine_of(random: Random, galvo: bool) -> dict[str, Any]:
    machine = dict(GALVO if galvo else GANTRY)
    machine["s_at_full_power"] = random.choice([1000.0, 255.0, 100.0, 1.0])
    machine["power_mode"] = random.choice(["constant", "follows_speed"])
    return machine


def turned_by_hand(document: dict[str, Any], random: Random) -> dict[str, Any]:
    """The same trial on a machine with a dial, some of them with one whose scale ends early."""
    dial = {"unit": "mA", "pairs": [[2, 5], [random.choice([12, 20]), random.choice([60, 100])]]}
    machine = {
        **document["machine"],
        "by_hand": ["power_pct"],
        "curves": {"power_pct": dial},
        "stops_in_program": random.random() < 0.5,
    }
    return {**document, "machine": machine}


def random_trial(seed: int, wild: float = 0.15) -> dict[str, Any]:
    """A trial document; `wild` is how likely each figure is one that a machine should not be given."""
    random = Random(seed)
    galvo = random.random() < 0.4
    machine = machine_of(random, galvo)
    process = random.choice(["surface", "deep", "line"] if galvo else ["cut", "line", "area", "deep"])
    hatched = process in ("surface", "area", "deep")
    shape = random.choice(["rectangle", "disc", "coupon", "lettering"])
    size = round(random.uniform(3, 6), 2)
    top, ceiling = (3500, 85) if galvo else (480, 84)
    hold: dict[str, float] = {
        "speed_mm_s": random.uniform(20, top) * (3 if random.random() < wild else 1),
        "power_pct": random.uniform(10, ceiling) if random.random() > wild else random.choice([0.05, 5.0, 95.0]),
    }
    if hatched:
        hold |= {"line_spacing_mm": 0.5, "hatch_angle_deg": random.choice([0, 45, 90, 17])}
        hold["hatch_turn_deg"] = random.choice([0, 60])
    if galvo and random.random() < 0.6:
        hold |= {
            "pulse_width_ns": random.choice([20, 200]),
            "frequency_khz": random.choice([60.0, 100.0, 30.0, 1000.0]),
        }
    if process == "cut" and random.random() < 0.3:
        hold["pierce_dwell_ms"] = 100
    if not galvo:
        hold["air_level"] = random.choice([0, 1])
        if not hatched and random.random() < wild:
            hold["corner_power_pct"] = random.choice([5.0, 30.0, 100.0])
    axes = [_axis(random, "passes", "block_x", 1, 3)] if random.random() < 0.3 else []
    for axis in axes:
        axis["values"] = sorted({round(value) for value in axis["values"]})
    for key, along, low, high in (("speed_mm_s", "x", 20, top), ("power_pct", "y", 10, ceiling)):
        # Blocks need an axis inside them.
        if random.random() < 0.7 or (axes and along == "y" and len(axes) == 1):
            axes.append(_axis(random, key, along, low, high))
            hold.pop(key)
    labels: dict[str, Any] = {"on": random.random() < 0.4, "qr": random.random() < 0.15, "marks": random.random() < 0.3}
    if any(labels.values()):
        labels |= {"height_mm": 2.0, "settings": _line(random, galvo, wild)}
    document = trial_document(
        machine=machine,
        material=BLANK if galvo else POPLAR,
        process=process,
        hold=hold,
        axes=axes or [{"parameter": "passes", "along": "x", "values": [1, 2]}],
        patch={
            "shape": shape,
            "width_mm": size,
            "height_mm": size,
            "gap_mm": 2.0,
            **({"text": "Ag5"} if shape == "lettering" else {}),
        },
        labels=labels,
        code="7K3Q-T014.2",
        order=random.choice(["rows", "weakest_first", "scattered"]),
        place={
            "at": random.choice(["corner", "centre"]),
            "x_mm": random.choice([0, 5, 300, -40, -560]) if random.random() < 2 * wild else 0,
            "y_mm": 0,
            "turn_deg": random.choice([0, 90, 17]),
        },
    )
    if document["hold"].get("passes") is None and not any(axis["parameter"] == "passes" for axis in document["axes"]):
        document["hold"]["passes"] = random.randint(1, 2)
    if galvo and document["place"]["at"] == "corner":
        document["place"]["at"] = "centre"
    if random.random() < 0.25:
        document |= {"cut_out": True, "hang_hole_mm": random.choice([0, 4]), "cut_settings": _line(random, galvo, wild)}
    if random.random() < 0.3:
        document["piece"] = {"width_mm": 100, "height_mm": 100}
    if random.random() < 0.4:
        zeros = ["piece", "lower_left", "lower_right", "upper_left", "upper_right", "middle"]
        document["zero"] = {"at": random.choice(zeros), "x_mm": random.choice([0, 0, 12.5]), "y_mm": 0}
    return document


def _random_step(random: Random, galvo: bool, number: int) -> dict[str, Any]:
    process = random.choice(["surface", "deep", "line"] if galvo else ["cut", "line", "area", "deep"])
    top, ceiling = (3500, 85) if galvo else (300, 84)
    step: dict[str, Any] = {
        "name": f"{process} {number}",
        "process": process,
        "hold": {
            "speed_mm_s": round(random.uniform(20, top), 3),
            "power_pct": round(random.uniform(12, ceiling), 3),
            "passes": random.randint(1, 3),
        },
        "inset_mm": random.choice([0, 0, 0.5, 1]),
    }
    if random.random() < 0.15:
        step |= {"text": "Ko"}
    if process in ("cut", "line"):
        return step
    step |= {"part": random.choice(["fill", "fill", "both"]), "one_way": random.random() < 0.3}
    step["hold"]["hatch_turn_deg"] = random.choice([0, 60])
    sets = [
        {"line_spacing_mm": round(random.uniform(0.3, 0.7), 3), "hatch_angle_deg": random.choice([0, 90, 45, 17, -30])}
        for _ in range(random.randint(1, 3))
    ]
    if len(sets) > 1:
        return {**step, "hatch": sets}
    step["hold"] |= sets[0]
    return step


def _random_patch(random: Random, size: float, inset_mm: float) -> dict[str, Any]:
    # Of a small coupon with its tongue, or of whatever somebody brings, nothing may lie a millimetre inside; of the
    # stems of letters, nothing at all.
    shapes = ["rectangle", "disc"]
    if inset_mm < 1:
        shapes += ["coupon", "figure", "figure"]
    if inset_mm == 0:
        shapes += ["lettering"] * 2
    shape = random.choice(shapes)
    if shape == "figure":
        return {"shape": shape, "figure": {"svg": drawing(random.randrange(1000))}, "width_mm": 2 * size, "gap_mm": 2.0}
    text = {"text": random.choice(["Ag5", "B8"])} if shape == "lettering" else {}
    return {"shape": shape, "width_mm": size, "height_mm": size, "gap_mm": 2.0, **text}


def random_steps_trial(seed: int) -> dict[str, Any]:
    """A trial of one to four steps, in rounds some of them, of patches of several shapes."""
    random = Random(seed)
    galvo = random.random() < 0.4
    size = round(random.uniform(4, 7), 2)
    steps = [_random_step(random, galvo, number) for number in range(1, random.randint(1, 4) + 1)]
    # One step that says no more than its process would be written as that.
    rounds = random.choice([1, 1, 2]) if len(steps) > 1 else 2
    axes = []
    for along, step in zip(("x", "y"), random.sample(steps, min(2, len(steps))), strict=False):
        key = random.choice(["speed_mm_s", "power_pct"])
        low, high = (20, 3500 if galvo else 300) if key == "speed_mm_s" else (12, 80)
        axes.append({**_axis(random, key, along, low, high), "step": step["name"]})
        del step["hold"][key]
    document = trial_document(
        machine=machine_of(random, galvo),
        material=BLANK if galvo else POPLAR,
        steps=steps,
        rounds=rounds,
        steps_order=random.choice(["plate", "plate", "patch"]),
        axes=axes,
        patch=_random_patch(random, size, max(0 if "text" in step else step["inset_mm"] for step in steps)),
        order=random.choice(["rows", "weakest_first", "scattered"]),
        place={"at": "centre" if galvo else "corner", "turn_deg": random.choice([0, 90, 17])},
        code="7K3Q-T014.2",
    )
    del document["process"], document["hold"]
    return document
