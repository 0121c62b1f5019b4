"""A scale of a machine's own control that is no unit: milliamperes of a dial, turns of a valve, counts."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields, plain

Way = Literal["down", "near", "up"]
FEWEST_PAIRS, MOST_PAIRS = 2, 40


@dataclass(frozen=True)
class Curve:
    """Pairs of what the control shows and what that is inside, straight between them; nothing is known beyond them.

    pairs : ``(shown, inside)``, `shown` rising, `inside` rising or falling throughout
    step : the finest difference one can read off; None where nobody has said
    """

    unit: str
    pairs: tuple[tuple[float, float], ...]
    step: float | None = None

    @property
    def shown_range(self) -> tuple[float, float]:
        return self.pairs[0][0], self.pairs[-1][0]

    @property
    def inside_range(self) -> tuple[float, float]:
        ends = self.pairs[0][1], self.pairs[-1][1]
        return min(ends), max(ends)

    def shown(self, inside: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """What the control shows for values inside, same shape; NaN beyond the curve."""
        shown, values = np.array(sorted(self.pairs, key=lambda pair: pair[1])).T
        return np.interp(inside, values, shown, left=np.nan, right=np.nan)

    def inside(self, shown: float, path: str, name: str) -> float:
        """What a reading of the control is inside.

        Raises
        ------
        InvalidInput : beyond the curve
        """
        low, high = self.shown_range
        if not low <= shown <= high:
            raise InvalidInput(
                f"{name} goes from {plain(low)} to {plain(high)} {self.unit} as far as anybody has measured it, but is"
                f" {plain(shown)} {self.unit}.",
                path,
                shown,
                low if shown < low else high,
            )
        columns = np.array(self.pairs).T
        return float(f"{float(np.interp(shown, *columns)):.10g}")

    def nearest(self, inside: NDArray[np.float64], way: Way = "near") -> NDArray[np.float64]:
        """Values as one can turn the control to them, same shape; what lies beyond the curve stays as it is.

        way : to the next reading below or above, by what comes of it, or to the nearest
        """
        if self.step is None:
            return inside
        places = self.shown(inside) / self.step
        rising = self.pairs[-1][1] > self.pairs[0][1]
        down, up = (np.floor, np.ceil) if rising else (np.ceil, np.floor)
        turned = {"down": down(places + (1e-9 if rising else -1e-9)), "near": np.floor(places + 0.5 + 1e-9)}
        turned["up"] = up(places - (1e-9 if rising else -1e-9))
        shown, values = np.array(self.pairs).T
        # Where the next reading lies beyond the curve, its end is the nearest that is known.
        reached = np.interp(np.clip(turned[way] * self.step, *self.shown_range), shown, values)
        return np.where(np.isnan(places), inside, reached)

    def document(self) -> dict[str, Any]:
        said: dict[str, Any] = {"unit": self.unit, "pairs": [list(pair) for pair in self.pairs]}
        return said if self.step is None else {**said, "step": self.step}


def read_curve(fields: Fields) -> Curve:
    unit = fields.text("unit", longest=12, empty=False).strip()
    items = fields.items("pairs")
    if not FEWEST_PAIRS <= len(items) <= MOST_PAIRS:
        raise InvalidInput(f"A curve has {FEWEST_PAIRS} to {MOST_PAIRS} pairs.", fields.at("pairs"), len(items))
    at = fields.at("pairs")
    each = Fields({f"{at}[{i}]": item for i, item in enumerate(items)})
    pairs = sorted((pair[0], pair[1]) for key in each.data if (pair := each.numbers(key, 2)) is not None)
    shown = [b[0] - a[0] for a, b in pairwise(pairs)]
    inside = [b[1] - a[1] for a, b in pairwise(pairs)]
    if min(shown) <= 0 or not (min(inside) > 0 or max(inside) < 0):
        raise InvalidInput(
            "Along a curve what the control shows and what comes of it rise or fall together, each pair another.",
            fields.at("pairs"),
            [list(pair) for pair in pairs],
        )
    step = fields.number("step", above=0.0) if fields.data.get("step") is not None else None
    fields.known.add("step")
    fields.finish()
    return Curve(unit, tuple(pairs), step)
