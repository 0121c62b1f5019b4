"""Choosing a mark by its aim: its lightness is what is expected of it, and its depth or colour where wanted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import special

from rezept.core.findings.candidates import EIGHTY, FAR, Aim, Candidate, Predicted, lost_at, seconds_for
from rezept.core.findings.choices import NOTHING_WANTED, Choices, Wanted, Wish
from rezept.core.findings.coding import columns_of
from rezept.core.findings.graded import Expected, GradedModel, within
from rezept.core.process import Process

Floats = NDArray[np.float64]

# From here on a mark is plainly one: so much of the greatest difference to the ground that is expected anywhere.
PLAIN_SHARE = 0.8
# Power and speed both a tenth off may change it by so much, as one step of darkness does.
FORGIVING_OFF, STEP_LIGHTNESS = 0.1, 6.0
# L* that is as wanted.
JUST = 0.5
# A depth that nobody bounded comes near within so much of it, and a colour within so much of CIELAB.
NEAR_DEPTH, NEAR_COLOUR = 0.2, 10.0
COLOUR = ("lightness", "a", "b")


def _chance_within(expected: Expected, low: float, high: float) -> Floats:
    """``(n,)`` chance of one fresh patch to lie between, by a normal law."""
    spread = np.maximum(expected.fresh, 1e-9)
    return np.asarray(special.ndtr((high - expected.mean) / spread) - special.ndtr((low - expected.mean) / spread))


@dataclass(frozen=True)
class MarkAims:
    """Candidates for a mark from the model of its lightness.

    others : of whatever else was read, a* and b* of its colour and its depth among it
    ground : L* of the bare sheet; wanted : what somebody wants it to be
    """

    model: GradedModel
    others: Mapping[str, GradedModel]
    choices: Choices
    wish: Wish
    process: Process
    ground: float
    wanted: Wanted = NOTHING_WANTED

    @cached_property
    def every(self) -> tuple[dict[str, Floats], Expected, NDArray[np.bool_]]:
        """All that may be chosen, what is expected of it, and what somebody allows."""
        grids = [self.choices.grid(held) for held in self.choices.held]
        columns = {key: np.concatenate([grid[key] for grid in grids]) for key in grids[0]}
        columns["speed_mm_s"] = np.array([self.choices.slower(float(speed)) for speed in columns["speed_mm_s"]])
        fine = columns["speed_mm_s"] > 0
        fine &= within(self.others, self.wish.outcome_bounds, columns)
        columns["speed_mm_s"] = np.maximum(columns["speed_mm_s"], 1e-6)
        return columns, self.model.expected(columns), fine

    def _seconds(self, columns: Mapping[str, Floats]) -> Floats:
        return np.asarray(seconds_for(self.process, columns, self.wish.length))

    def _plain(self, expected: Expected, fine: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Where the mark is plainly seen, and that is known."""
        away = np.abs(expected.mean - self.ground)
        known = expected.unsure <= np.maximum(expected.patches, 4.0)
        if not (fine & known).any():
            return fine & known
        return np.asarray(fine & known & (away >= PLAIN_SHARE * away[fine & known].max()))

    def _at(self, aim: Aim, columns: Mapping[str, Floats], index: int, why: str) -> Candidate:
        settings = {key: float(column[index]) for key, column in columns.items()}
        predicted = self.predicted(settings)

        def is_lost(changed: Mapping[str, Floats]) -> NDArray[np.bool_]:
            """Where the mark is a step lighter or darker."""
            return np.abs(self.model.expected(changed).mean - predicted.value) > STEP_LIGHTNESS

        return Candidate(
            aim=aim,
            settings=settings,
            predicted=predicted,
            power_down_pct=lost_at(settings, "power_pct", 1 / FAR, is_lost),
            speed_up_pct=lost_at(settings, "speed_mm_s", FAR, is_lost),
            seconds=seconds_for(self.process, settings, self.wish.length),
            certain=predicted.high - predicted.low <= 2 * STEP_LIGHTNESS,
            why=why,
        )

    def predicted(self, settings: Mapping[str, float]) -> Predicted:
        expected = self.model.expected(columns_of(settings))
        value, spread = float(expected.mean[0]), EIGHTY * float(expected.fresh[0])
        return Predicted("lightness", value, max(value - spread, 0.0), min(value + spread, 100.0))

    def darkness(self) -> Candidate | None:
        """What comes nearest to the lightness that is wanted, on fresh sheets; None where nothing comes near."""
        wanted = self.wanted.lightness
        if wanted is None:
            return None
        columns, expected, fine = self.every
        if not fine.any():
            return None
        miss = (expected.mean - wanted) ** 2 + expected.fresh**2
        miss = np.where(fine, miss, np.inf)
        if abs(float(expected.mean[np.argmin(miss)]) - wanted) > STEP_LIGHTNESS:
            return None
        # Of what is expected to be just that the one that differs least from sheet to sheet.
        just = fine & (np.abs(expected.mean - wanted) <= JUST)
        index = int(np.argmin(np.where(just, expected.fresh, np.inf) if just.any() else miss))
        return self._at("darkness", columns, index, f"Comes nearest to L* {wanted:.0f} on fresh sheets.")

    def depth(self) -> Candidate | None:
        """What comes nearest to the depth that is wanted on fresh sheets, or stays likeliest within what it may be off;
        None where nothing comes near or no depth was read."""
        wanted, off = self.wanted.depth_mm, self.wanted.depth_off_mm
        if wanted is None or "depth_mm" not in self.others:
            return None
        columns, _, fine = self.every
        expected = self.others["depth_mm"].expected(columns)
        near = fine & (np.abs(expected.mean - wanted) <= (NEAR_DEPTH * wanted if off is None else off))
        if not near.any():
            return None
        within_it = _chance_within(expected, wanted - (off or 0.0), wanted + (off or 0.0))
        score = (expected.mean - wanted) ** 2 + expected.fresh**2 if off is None else -within_it
        index = int(np.argmin(np.where(near, score, np.inf)))
        mean, spread = float(expected.mean[index]), EIGHTY * float(expected.fresh[index])
        says = f"{mean:.2f} mm deep on a fresh sheet ({max(mean - spread, 0.0):.2f} to {mean + spread:.2f})."
        if off is None:
            return self._at("depth", columns, index, f"Comes nearest to {wanted:g} mm: {says}")
        share = min(int(100 * within_it[index] + 1e-6), 99)
        return self._at("depth", columns, index, f"{says} Within {wanted:g} mm, {off:g} either way, on {share} of 100.")

    def colour(self) -> Candidate | None:
        """What comes nearest to the colour that is wanted on fresh sheets; None where nothing comes near or no colour
        was measured. Each of L*, a*, b* has a model of its own; near is CIE76, in which doubts add up."""
        wanted = self.wanted.lab
        models = {"lightness": self.model, **self.others}
        if wanted is None or not all(key in models for key in COLOUR):
            return None
        columns, _, fine = self.every
        every = [models[key].expected(columns) for key in COLOUR]
        away = np.sqrt(np.sum([(one.mean - to) ** 2 for one, to in zip(every, wanted, strict=True)], axis=0))
        doubt = np.sum([one.fresh**2 for one in every], axis=0)
        near = fine & (away <= NEAR_COLOUR)
        if not near.any():
            return None
        index = int(np.argmin(np.where(near, away**2 + doubt, np.inf)))
        a, b = (float(one.mean[index]) for one in every[1:])
        why = (
            f"Comes nearest to that colour: about a* {a:.0f}, b* {b:.0f}, {away[index]:.0f} from it in CIELAB, and"
            f" fresh sheets {np.sqrt(doubt[index]):.0f} about that."
        )
        return self._at("colour", columns, index, why)

    def _best(
        self, aim: Aim, score: Floats, among: NDArray[np.bool_], columns: dict[str, Floats], why: str
    ) -> Candidate:
        return self._at(aim, columns, int(np.argmin(np.where(among, score, np.inf))), why)

    def fastest(self) -> Candidate | None:
        columns, expected, fine = self.every
        plain = self._plain(expected, fine)
        if not plain.any():
            return None
        why = "The fastest that still gives a plain mark, four fifths of the strongest there is."
        return self._best("fastest", self._seconds(columns), plain, columns, why)

    def gentlest(self) -> Candidate | None:
        columns, expected, fine = self.every
        plain = self._plain(expected, fine)
        if not plain.any():
            return None
        seconds = self._seconds(columns)
        quick = plain & (seconds <= 2 * seconds[plain].min() + 1e-9)
        why = "The least power that still gives a plain mark, in no more than twice the time of the fastest."
        return self._best("gentlest", columns["power_pct"] + seconds * 1e-6, quick, columns, why)

    def forgiving(self) -> Candidate | None:
        columns, expected, fine = self.every
        plain = self._plain(expected, fine)
        if not plain.any():
            return None
        changed = []
        for less in (FORGIVING_OFF, -FORGIVING_OFF):
            off = {
                **columns,
                "power_pct": columns["power_pct"] * (1 - less),
                "speed_mm_s": columns["speed_mm_s"] * (1 + less),
            }
            changed.append(np.abs(self.model.expected(off).mean - expected.mean))
        change = np.maximum(*changed)
        change = np.hypot(change, expected.sheets)
        why = "A plain mark that changes least when power and speed are a tenth off, or the sheet is another."
        return self._best("forgiving", change, plain, columns, why)

    def cleanest(self) -> Candidate | None:
        """The most even plain mark with the least soot; None where neither was read."""
        dirt = {key: self.others[key] for key in ("soot", "evenness") if key in self.others}
        if not dirt:
            return None
        columns, expected, fine = self.every
        plain = self._plain(expected, fine)
        if not plain.any():
            return None
        score = np.zeros(len(plain))
        for key, model in dirt.items():
            mean = model.expected(columns).mean
            score += -mean if key == "evenness" else mean
        return self._best("cleanest", score, plain, columns, "The cleanest and most even of the plain marks.")

    def of(self, aim: Aim) -> Candidate | None:
        every = {
            "fastest": self.fastest,
            "gentlest": self.gentlest,
            "forgiving": self.forgiving,
            "cleanest": self.cleanest,
            "darkness": self.darkness,
            "depth": self.depth,
            "colour": self.colour,
        }
        return every[aim]()
