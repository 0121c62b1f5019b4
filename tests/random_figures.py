"""Drawings of all kinds of figures, as SVG text, made up from a seed."""

from __future__ import annotations

import math
from random import Random


def svg(body: str, width: float = 40, height: float = 40) -> str:
    box = f'width="{width:g}mm" height="{height:g}mm" viewBox="0 0 {width:g} {height:g}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {box}>{body}</svg>'


def _points(points: list[tuple[float, float]]) -> str:
    return "M" + " ".join(f"{x:.5f} {y:.5f}" for x, y in points) + "z"


def star(random: Random, corners: int, x: float = 20, y: float = 20, size: float = 18) -> str:
    inner = random.uniform(0.3, 0.8) * size
    turn = random.uniform(0, math.tau)
    return _points(
        [
            (x + r * math.cos(turn + math.pi * i / corners), y + r * math.sin(turn + math.pi * i / corners))
            for i in range(2 * corners)
            for r in [size if i % 2 else inner]
        ]
    )


def comb(random: Random) -> str:
    """Teeth of all widths and lengths: its edges lie along rows and columns, but never just on one of a filling."""
    teeth = random.randint(2, 12)
    sides = sorted(random.uniform(2.5, 37.5) for _ in range(2 * teeth))
    root = random.uniform(26, 34)
    points = [(2.0, 36.0), (2.0, root)]
    for left, right in zip(sides[::2], sides[1::2], strict=True):
        top = random.uniform(3, 25)
        points += [(left, root), (left, top), (right, top), (right, root)]
    return _points([*points, (38.0, root), (38.0, 36.0)])


def ring(random: Random) -> str:
    rings = random.uniform(8, 18), random.uniform(2, 7)
    arcs = [(r, f"a{r:.5f} {r:.5f} 0 1 0 {{:.5f}} 0") for r in rings]
    return "".join(f"M{20 - r:.5f} 20{arc.format(2 * r)}{arc.format(-2 * r)}z" for r, arc in arcs)


def blob(random: Random) -> str:
    """A closed run of cubic curves around the middle, their control points on rays one after the other."""
    count = 3 * random.randint(3, 8)
    rays = []
    for i in range(count):
        reach, angle = random.uniform(6, 18), math.tau * i / count
        rays.append((20 + reach * math.cos(angle), 20 + reach * math.sin(angle)))
    curves = ""
    for i in range(0, count, 3):
        points = [rays[i + 1], rays[i + 2], rays[(i + 3) % count]]
        curves += "C" + " ".join(f"{x:.5f} {y:.5f}" for x, y in points)
    return f"M{rays[0][0]:.5f} {rays[0][1]:.5f}{curves}z"


def letter(random: Random) -> str:
    """An A: a stem that leans, its bar, and the hole between."""
    lean, bar, sill = random.uniform(8, 16), random.uniform(24, 27), random.uniform(20, 23)
    legs = [(20 - lean, 36), (18, 4), (22, 4), (20 + lean, 36), (16 + lean, 36)]
    hole = [(20 - lean / 3, sill), (20 + lean / 3, sill), (20, 12)]
    return _points([*legs, (20 + lean / 2, bar), (20 - lean / 2, bar), (24 - lean, 36)]) + _points(hole)


def path_data(random: Random) -> str:
    """One figure that closes and does not cross itself; what is inside of it is so by the even-odd rule."""
    kind = random.choice([comb, ring, blob, letter, None])
    return star(random, random.randint(3, 60)) if kind is None else kind(random)


def drawing(seed: int) -> str:
    """A figure of one closed path, some of them with a line that does not close beside it."""
    random = Random(seed)
    body = f'<path fill-rule="evenodd" d="{path_data(random)}"/>'
    if random.random() < 0.3:
        body += '<path fill="none" stroke="black" d="M1 1 L 5 1.5 L 6 3"/>'
    return svg(body)
