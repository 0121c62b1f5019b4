"""The demo shop: a workshop that prepares its winter lantern walk."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Any

from rezept.actions.commands import burning, equipment, exporting, keeping
from rezept.actions.queries import views
from rezept.demo.builder import Builder, Sheet, founded
from rezept.demo.stock import MATERIALS

POPLAR, THICK = ("Poplar plywood", 4.0), ("Poplar plywood", 6.0)
LEATHER, FELT = ("Vegetable-tanned leather", 2.2), ("Wool felt", 3.0)
AMBER, CLEAR = ("Cast acrylic, amber", 5.0), ("Cast acrylic, clear", 5.0)
LINOLEUM, RUBBER = ("Printing linoleum", 3.2), ("Laser rubber", 2.3)
SHADES, TOKEN = ("Polypropylene, translucent", 0.8), ("Nickel-silver token", 1.2)
LID, TAG = ("Tea-tin lid, stainless", 0.4), ("Luggage tag, anodised", 1.5)


def _axis(parameter: str, along: str, start: float, end: float, count: int, spacing: str = "linear") -> dict[str, Any]:
    return {"parameter": parameter, "along": along, "from": start, "to": end, "count": count, "spacing": spacing}


def _grid(speeds: tuple[float, float, int], powers: tuple[float, float, int], **more: Any) -> dict[str, Any]:
    return {"axes": [_axis("speed_mm_s", "x", *speeds), _axis("power_pct", "y", *powers)], **more}


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


def _autumn(b: Builder) -> int:
    """Lines, cuts and leather; what the lanterns need first. Returns the recipe for the lantern sides."""
    # Lines first: they make the labels of everything after.
    b.on_day(0)
    design = _grid(
        (60, 240, 4), (12, 24, 3), hold={"air_level": 1.0},
        patch={"shape": "rectangle", "width_mm": 8.0, "height_mm": 8.0, "gap_mm": 3.0},
    )  # fmt: skip
    trial, _ = b.planned("Tess", "line", POPLAR, "Wren", design)
    burn = b.burned("Tess", trial, {"lot": "autumn delivery", "measured_mm": 3.7, "focus": "gauge", "air": "60 kPa"})
    b.read("Tess", trial, burn)
    b.keep("Tess", burn, "B3", standing="proven", purpose="labels and fold lines", note="Thin brown line, no char.")

    b.on_day(3)
    design = _grid((8, 32, 6), (30, 80, 6), hold={"air_level": 1.0})
    trial, _ = b.planned("Tess", "cut", POPLAR, "Wren", design)
    burn = b.burned("Tess", trial, {"lot": "autumn delivery", "measured_mm": 3.7, "focus": "gauge", "air": "60 kPa",
                                    "note": "Weighted down with the steel bars."})  # fmt: skip
    outcomes = b.read("Tess", trial, burn)
    sides = b.keep(
        "Tess", burn, _fastest(views.trial_page(b.shop, trial), outcomes, 3), standing="proven",
        note="Lantern sides. Mask the front; clean edge, drops out by itself.",
    )  # fmt: skip

    b.on_day(9)
    design = _grid((40, 190, 6), (20, 90, 5), hold={"air_level": 0.0, "line_spacing_mm": 0.1}, order="rows")
    trial, _ = b.planned("Moss", "area", LEATHER, "Finch", design)
    burn = b.burned("Moss", trial, {"lot": "shoulder, tan", "measured_mm": 2.3, "focus": "block", "air": "off"})
    outcomes = b.read("Moss", trial, burn)
    page = views.trial_page(b.shop, trial)
    dark = b.keep("Tess", burn, _fastest(page, outcomes, 4), standing="proven", purpose="dark",
                  note="Wipe with a **damp cloth** after.\n\n- the smell is strong: extraction on\n"
                  "- the grain side up")  # fmt: skip
    b.keep("Moss", burn, _fastest(page, outcomes, 2), purpose="merely tan")

    b.on_day(21)
    trial, _ = b.planned("Moss", "cut", FELT, "Wren", _grid((25, 125, 5), (20, 60, 5)))
    burn = b.burned("Moss", trial, {"lot": "roll 4, moss green", "measured_mm": 3.1, "focus": "gauge", "air": "60 kPa"})
    burning.mark_not_burned(b.shop, b.people["Moss"], burn, "A5", True)
    b.read("Moss", trial, burn)

    b.on_day(40)
    design = {
        "axes": [_axis("line_spacing_mm", "x", 0.06, 0.22, 5), _axis("power_pct", "y", 25, 75, 5)],
        "hold": {"speed_mm_s": 90.0, "air_level": 0.0},
    }
    trial, _ = b.planned("Moss", "area", LEATHER, "Finch", design)
    burn = b.burned("Moss", trial, {"lot": "shoulder, tan", "measured_mm": 2.3, "focus": "block", "air": "off"})
    b.read("Moss", trial, burn, most=11, photo=False)

    b.on_day(41)
    trial, page = b.planned("Tess", "cut", THICK, "Wren", {})
    exporting.freeze_latest(b.shop, b.people["Tess"], trial, page["edit"])
    b.held("Moss", dark)
    b.held("Fern", dark)
    return sides


def _winter(b: Builder) -> None:
    """Shades, stamps, tokens and tags, and a diode that reaches further than it should."""
    b.on_day(43)
    trial, _ = b.planned("Rowan", "cut", SHADES, "Wren", _grid((40, 240, 6), (15, 45, 4), hold={"air_level": 1.0}))
    burn = b.burned("Rowan", trial, {"lot": "sheets for the shades", "measured_mm": 0.8, "air": "60 kPa"})
    outcomes = b.read("Rowan", trial, burn)
    page = views.trial_page(b.shop, trial)
    shades = b.keep("Rowan", burn, _fastest(page, outcomes, 3), purpose="shades",
                    note="Melts back a little; pull the sheet off while it is warm.")  # fmt: skip

    b.on_day(44)
    design = _grid((60, 260, 5), (20, 70, 5), hold={"line_spacing_mm": 0.1, "air_level": 1.0})
    trial, _ = b.planned("Alder", "area", RUBBER, "Wren", design)
    burn = b.burned("Alder", trial, {"lot": "stamp set", "measured_mm": 2.3, "focus": "gauge", "air": "60 kPa"})
    outcomes = b.read("Alder", trial, burn)
    page = views.trial_page(b.shop, trial)
    stamps = b.keep("Tess", burn, _fastest(page, outcomes, 4), standing="proven", purpose="stamps")

    b.on_day(46)
    pulses = {"frequency_khz": 120.0, "pulse_width_ns": 100.0, "line_spacing_mm": 0.03}
    small = {"shape": "rectangle", "width_mm": 7.0, "height_mm": 7.0, "gap_mm": 2.0}
    design = _grid((100, 600, 6), (30, 80, 5), hold=pulses, patch=small)
    trial, _ = b.planned("Rowan", "surface", LID, "Heron 110", design)
    burn = b.burned("Rowan", trial, {"lot": "box of lids", "focus": "red dots"})
    outcomes = b.read("Rowan", trial, burn)
    page = views.trial_page(b.shop, trial)
    lids = b.keep("Rowan", burn, _fastest(page, outcomes, 4), standing="proven", purpose="black")
    b.keep("Rowan", burn, _fastest(page, outcomes, 2), purpose="fast draft")

    b.on_day(48)
    design = _grid((400, 2000, 5), (20, 60, 5), hold={**pulses, "line_spacing_mm": 0.05}, patch=small)
    trial, _ = b.planned("Fern", "surface", TAG, "Heron 175", design)
    burn = b.burned("Fern", trial, {"lot": "blue, twenty of them", "focus": "red dots"})
    outcomes = b.read("Fern", trial, burn)
    page = views.trial_page(b.shop, trial)
    tags = b.keep("Fern", burn, _fastest(page, outcomes, 4), purpose="names on luggage tags")

    b.on_day(50)
    design = _grid((100, 400, 5), (15, 45, 4), hold={"line_spacing_mm": 0.1, "air_level": 1.0})
    trial, _ = b.planned("Alder", "area", AMBER, "Wren", design)
    burn = b.burned("Alder", trial, {"lot": "crate 2", "measured_mm": 5.1, "focus": "gauge", "air": "20 kPa"})
    b.read("Alder", trial, burn)

    b.on_day(52)
    trial, _ = b.planned("Fern", "cut", AMBER, "Wren", _grid((4, 16, 5), (45, 85, 5), hold={"air_level": 1.0}))
    burn = b.burned("Fern", trial, {"lot": "crate 2", "measured_mm": 5.1, "focus": "gauge", "air": "20 kPa"})
    outcomes = b.read("Fern", trial, burn)
    page = views.trial_page(b.shop, trial)
    amber = b.keep("Fern", burn, _fastest(page, outcomes, 3))

    b.on_day(53)
    b.planned("Moss", "area", LINOLEUM, "Finch", {})
    b.planned("Rowan", "surface", TOKEN, "Heron 110", {"hold": pulses})
    small = {"shape": "rectangle", "width_mm": 4.0, "height_mm": 4.0, "gap_mm": 1.0, "block_gap_mm": 3.0}
    colours = {
        "title": "colours",
        "axes": [
            _axis("speed_mm_s", "x", 200, 800, 4),
            _axis("power_pct", "y", 30, 60, 3),
            _axis("frequency_khz", "block_x", 120, 480, 3, "geometric"),
            {"parameter": "pulse_width_ns", "along": "block_y", "values": [100.0, 20.0]},
        ],
        "hold": {"line_spacing_mm": 0.02},
        "patch": small,
        "labels": {"on": True, "height_mm": 1.2, "qr": True, "marks": True,
                   "settings": {"speed_mm_s": 400.0, "power_pct": 40.0, "frequency_khz": 120.0,
                                "pulse_width_ns": 100.0}},
        "order": "scattered",
    }  # fmt: skip
    b.planned("Rowan", "surface", LID, "Heron 110", colours)
    coupons = _grid((10, 26, 5), (60, 80, 3), hold={"air_level": 1.0}, order="weakest_first",
                    patch={"shape": "coupon", "width_mm": 14.0, "height_mm": 12.0, "gap_mm": 3.0})  # fmt: skip
    b.planned("Tess", "cut", POPLAR, "Wren", coupons)

    b.on_day(54)
    for by, recipe in (("Moss", shades), ("Fern", shades), ("Alder", shades), ("Moss", stamps), ("Fern", lids)):
        b.held(by, recipe)
    b.held("Alder", tags, False, "the blue came off in flakes")
    b.held("Fern", tags, False, "again, second bag")
    b.said(
        "Moss", amber, conditions="Paper left on both sides, honeycomb raised on the pins.", supplier_code="CA-5-AMB"
    )


def _processes(sheet: Sheet) -> tuple[str, ...]:
    return next(one.processes for one in MATERIALS if (one.name, one.thickness_mm) == sheet)


def _no_use(b: Builder, process: str, sheets: Iterable[Sheet], machines: tuple[str, ...], reason: str) -> None:
    """What the shop has found not to work at all."""
    for sheet in sheets:
        for machine in machines:
            place = (b.materials[sheet], b.heads[machine])
            keeping.say_not_working(b.shop, b.people["Tess"], process, *place, reason)


def _hearsay(b: Builder, sides: int) -> None:
    """What came from elsewhere, what is only reckoned, and what has had its day."""
    b.on_day(49)
    b.wrote_down("Alder", "cut", CLEAR, "Wren", {"speed_mm_s": "6", "power_pct": "80", "air_level": "1"},
                 note="From a visitor with a like tube.",
                 links=[{"title": "their note", "url": "https://example.org/clear"}])  # fmt: skip
    b.wrote_down("Fern", "deep", RUBBER, "Wren", {"speed_mm_s": "1.2 m/min", "power_pct": "70", "passes": "2"},
                 standing="estimate", purpose="stamps, one millimetre deep")  # fmt: skip
    old = b.wrote_down("Moss", "cut", POPLAR, "Wren", {"speed_mm_s": "12", "power_pct": "80", "air_level": "1"},
                       purpose="before the new lens")  # fmt: skip
    b.said("Tess", old, superseded_by=sides)
    gone = b.wrote_down("Tess", "cut", LEATHER, "Finch", {"speed_mm_s": "2", "power_pct": "100", "passes": "6"},
                        note="Smells for days and burns the edge. Use a knife.")  # fmt: skip
    b.said("Tess", gone, standing="retired")
    _no_use(b, "cut", (CLEAR, SHADES), ("Finch",), "The blue beam goes straight through.")
    _no_use(b, "cut", (AMBER,), ("Finch",), "Melts to a bubbled edge before it parts.")
    organic = (POPLAR, THICK, LEATHER, FELT, AMBER, CLEAR, LINOLEUM, RUBBER, SHADES)
    for process in ("cut", "line", "area", "deep"):
        meant = [one for one in organic if process in _processes(one)]
        _no_use(b, process, meant, ("Heron 110", "Heron 175"), "The near infrared hardly takes hold.")
    _no_use(b, "surface", (TOKEN, LID), ("Wren", "Finch"), "Bare metal throws the beam back.")
    _no_use(b, "deep", (TOKEN,), ("Wren", "Finch"), "Bare metal throws the beam back.")
    b.on_day(55)
    for by in ("Moss", "Fern", "Alder", "Rowan"):
        b.held(by, sides)
    b.held("Moss", sides, False, "the new pallet is thicker")
    b.held("Tess", sides, True, "measured 3.7 again")


def build_demo(folder: Path) -> None:
    """Make the demo shop in an empty folder."""
    b = founded(folder)
    sides = _autumn(b)
    _winter(b)
    _hearsay(b, sides)
    retired = equipment.add_lot(b.shop, b.people["Tess"], b.materials[POPLAR], "spring delivery", 4.0)
    facts = {"name": "spring delivery", "measured_mm": 4.0}
    equipment.change(b.shop, b.people["Tess"], "lot", retired, 1, facts, {}, True)
    b.shop.close()
