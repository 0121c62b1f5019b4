"""Plots of the bench's laws, made from its code: `make plots` renews docs/plots."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.made import planned, trial_document  # noqa: E402

from rezept.bench.controller import Controller, Setup  # noqa: E402
from rezept.bench.energy import Grid, Samples, Source, sampled  # noqa: E402
from rezept.bench.film import THICKEST_NM, film_colours  # noqa: E402
from rezept.bench.material import Sheet, burn, warmth  # noqa: E402
from rezept.formats.gcode import write_gcode  # noqa: E402

Floats = NDArray[np.float64]
SOURCE = Source(60, 10_600, spot_mm=0.18)
POPLAR = Sheet("poplar", 4.0, (0.76, 0.62, 0.38), (0.02, 0.01, 0.01), bed_mm=0.0)
WIDTH, HEIGHT, LEFT, BOTTOM = 560, 300, 60, 46
INKS = ("#A63A10", "#275673", "#4C6A2C")


def _ran(program: bytes) -> Controller:
    controller = Controller(Setup())
    for line in program.splitlines():
        controller.take(line + b"\n")
        controller.advance(controller.clock + 1e9)
    controller.advance(controller.clock + 1e9, drain=True)
    return controller


def _ticks(low: float, high: float) -> list[float]:
    step = 10 ** np.floor(np.log10((high - low) / 3))
    step *= next(factor for factor in (1, 2, 5, 10) if (high - low) / (step * factor) <= 6)
    return [float(f"{value:.6g}") for value in np.arange(np.ceil(low / step) * step, high + step / 1e6, step)]


def plot(name: str, across: str, up: str, curves: dict[str, tuple[Floats, Floats]]) -> None:
    """A plain drawing of some curves with their names."""
    xs = np.concatenate([x for x, _ in curves.values()])
    ys = np.concatenate([y for _, y in curves.values()])
    x0, x1, y0, y1 = float(xs.min()), float(xs.max()), 0.0, float(ys.max()) * 1.08

    def px(x: Floats | float) -> Floats:
        return LEFT + (np.asarray(x) - x0) / (x1 - x0) * (WIDTH - LEFT - 16)

    def py(y: Floats | float) -> Floats:
        return HEIGHT - BOTTOM - (np.asarray(y) - y0) / (y1 - y0) * (HEIGHT - BOTTOM - 16)

    text = 'font-family="Barlow, sans-serif" font-size="13" fill="#6A5E50"'
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}" width="{WIDTH}" height="{HEIGHT}">',
        f'<rect width="{WIDTH}" height="{HEIGHT}" fill="#FFFDF8"/>',
    ]
    for tick in _ticks(x0, x1):
        parts.append(f'<text x="{px(tick):.1f}" y="{HEIGHT - 28}" text-anchor="middle" {text}>{tick:g}</text>')
    for tick in _ticks(y0, y1):
        parts.append(
            f'<path d="M{LEFT},{py(tick):.1f}H{WIDTH - 16}" stroke="#E0D6C4"/>'
            f'<text x="{LEFT - 8}" y="{py(tick) + 4:.1f}" text-anchor="end" {text}>{tick:g}</text>'
        )
    for i, (words, (x, y)) in enumerate(curves.items()):
        path = "M" + "L".join(f"{a:.1f},{b:.1f}" for a, b in zip(px(x), py(y), strict=True))
        parts.append(f'<path d="{path}" fill="none" stroke="{INKS[i]}" stroke-width="2"/>')
        parts.append(f'<text x="{LEFT + 12}" y="{28 + 18 * i}" {text.replace("#6A5E50", INKS[i])}>{words}</text>')
    parts.append(f'<text x="{(LEFT + WIDTH) / 2}" y="{HEIGHT - 8}" text-anchor="middle" {text}>{across}</text>')
    parts.append(f'<text transform="translate(16 {HEIGHT / 2}) rotate(-90)" text-anchor="middle" {text}>{up}</text>')
    (ROOT / "docs/plots" / f"{name}.svg").write_text("\n".join([*parts, "</svg>\n"]))


def corner() -> None:
    """Energy along 20 mm round a sharp corner."""
    curves = {}
    for words, arm in (("constant power", b"M3S0"), ("power that follows the speed", b"M4S0")):
        samples = sampled(_ran(arm + b"\nG1X10F6000S500\nG1Y10\n").stretches, SOURCE, 0.05)
        way = np.cumsum(np.full(len(samples), 20 / len(samples)))
        curves[words] = (way, samples.energy_j / (20 / len(samples)))
    plot("corner", "mm along the way; the corner is at 10", "J/mm", curves)


def _line(dose: float, z_mm: float, passes: int = 1, speed: float = 20.0) -> Samples:
    count = 400
    x = np.linspace(0, 6, count)
    once = np.column_stack([x, np.full(count, 1.0)])
    of = np.repeat(np.arange(passes), count)
    return Samples(
        points=np.tile(once, (passes, 1)),
        energy_j=np.full(count * passes, dose * 6 / count),
        speed_mm_s=np.full(count * passes, speed),
        z_mm=np.full(count * passes, z_mm),
        visit=of,
        part=np.zeros(count * passes, np.int64),
        air=np.ones(count * passes, bool),
        frequency_khz=np.zeros(count * passes),
    )


def depth() -> None:
    grid = Grid(1.0, 0.0, 0.02, (100, 200))
    doses = np.linspace(0.05, 3.0, 16)
    even = Sheet("acrylic", 50.0, (0.8, 0.8, 0.8), (0.9, 0.9, 0.9), bed_mm=0.0)
    curves = {}
    for words, z, passes in (
        ("in focus", 0.0, 1),
        ("2 mm out of focus", 2.0, 1),
        ("two passes of half the dose", 0.0, 2),
    ):
        deep = [
            float(np.median(burn(even, _line(dose / passes, z, passes), SOURCE, grid).depth_mm.max(axis=0)))
            for dose in doses
        ]
        curves[words] = (doses, np.array(deep))
    plot("depth", "line dose in all, J/mm", "depth, mm", curves)


def darkening() -> None:
    doses = np.linspace(0.0, 3.2, 24)
    curves = {}
    for words, substance in (("poplar", "poplar"), ("leather", "leather")):
        shades = []
        for dose in doses:
            x, y = np.meshgrid(np.arange(0.025, 4, 0.05), np.arange(0.025, 4, 0.05))
            count = x.size
            points = np.column_stack([x.ravel(), y.ravel()])
            nothing = np.zeros(count)
            samples = Samples(points, np.full(count, dose * 0.0025), nothing, nothing, nothing.astype(np.int64),
                              nothing.astype(np.int64), np.ones(count, bool), nothing)  # fmt: skip
            sheet = Sheet(substance, 50.0, (0.7, 0.55, 0.35), (0.02, 0.01, 0.01), bed_mm=0.0)
            inside = burn(sheet, samples, SOURCE, Grid(0.0, 0.0, 0.05, (80, 80))).front[20:60, 20:60, 1]
            shades.append(1 - float(inside.mean()) / 0.55)
        curves[words] = (doses, np.maximum(np.array(shades), 0.0))
    plot("darkening", "area dose, J/mm2", "how much darker than the ground", curves)


def heat() -> None:
    axes = [
        {"parameter": "speed_mm_s", "along": "x", "values": [10, 10.5, 11, 11.5, 12, 12.5]},
        {"parameter": "power_pct", "along": "y", "values": [60, 62, 64, 66, 68, 70]},
    ]
    curves = {}
    for words in ("rows", "scattered"):
        document = trial_document(axes=axes, patch={"width_mm": 6, "height_mm": 6, "gap_mm": 1}, order=words)
        warm = warmth(sampled(_ran(write_gcode(planned(document))).stretches, SOURCE, 0.05))
        curves[f"burned {words}" if words == "scattered" else "burned row by row"] = (np.arange(1.0, 37.0), warm[-36:])
    plot("heat", "patch, in burn order", "heat found there, J/mm2", curves)


def film() -> None:
    """The colours of an oxide film by its thickness."""
    linear = np.clip(film_colours() * 0.62, 0, 1)
    srgb = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
    step = (WIDTH - 32) / (THICKEST_NM + 1)
    bars = "".join(
        f'<rect x="{16 + i * step:.2f}" y="14" width="{step + 0.4:.2f}" height="60" fill="#'
        + "".join(f"{round(255 * value):02x}" for value in colour)
        + '"/>'
        for i, colour in enumerate(srgb.tolist())
    )
    text = 'font-family="Barlow, sans-serif" font-size="13" fill="#6A5E50" text-anchor="middle"'
    words = "".join(f'<text x="{16 + nm * step:.1f}" y="92" {text}>{nm}</text>' for nm in range(0, THICKEST_NM, 50))
    (ROOT / "docs/plots/film.svg").write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} 118" width="{WIDTH}" height="118">\n'
        f'<rect width="{WIDTH}" height="118" fill="#FFFDF8"/>{bars}{words}\n'
        f'<text x="{WIDTH / 2}" y="112" {text}>thickness of the film, nm</text></svg>\n'
    )


if __name__ == "__main__":
    for draw in (corner, depth, darkening, heat, film):
        draw()
