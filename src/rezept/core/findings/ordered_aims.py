"""Choosing by its aim what comes out in steps: a cut that is to drop out, a layer that is to come off and no more."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.candidates import FAR, HOLDS, Aim, Candidate, Predicted, expected_share, lost_at, seconds_for
from rezept.core.findings.choices import Choices, Wish
from rezept.core.findings.coding import columns_of
from rezept.core.findings.graded import GradedModel, within
from rezept.core.findings.ordered_fit import OrderedModel
from rezept.core.findings.ordered_words import WORDS, OrderedWords
from rezept.core.process import Process

Floats = NDArray[np.float64]

# What is expected of fresh sheets before a setting is called one that holds: not the 99 in 100 of a setting that is
# known, since what is not known yet is in it, too. One sheet alone says nothing of how sheets differ, so more is asked
# of it. `make bench` shows what comes of both.
HELD_ON_ONE, HELD_ON_SEVERAL = 0.98, 0.967
# Between too little and too much there may be room for less than that: then nearly the best there is has to do, if it
# comes out more often than not.
NEARLY_BEST, MORE_OFTEN = 0.97, 0.5
# Still expected with power and speed both a tenth off: 97 in 100 where all is known.
FORGIVING_OFF, FORGIVING_SHARE = 0.1, 0.965
# No slower than half the fastest; how often it may be lost before a margin is used up.
GENTLE_SPEED, MARGIN_SHARE = 0.5, 0.9


@dataclass(frozen=True)
class Curve:
    """The fastest that holds at each power, with one set of held settings: ``(p,)``, NaN where none does."""

    held: Mapping[str, float]
    speeds: Floats


def _best_of(expected: list[Floats], fine: list[NDArray[np.bool_]]) -> float:
    """The greatest share that is expected where somebody allows it."""
    return max(float(np.where(ok, table, 0.0).max()) for table, ok in zip(expected, fine, strict=True))


@dataclass(frozen=True)
class OrderedAims:
    """Candidates from the model of what comes out; `others` are models of what else was read (char, soot, ...)."""

    model: OrderedModel
    others: Mapping[str, GradedModel]
    choices: Choices
    wish: Wish
    process: Process

    @property
    def words(self) -> OrderedWords:
        return WORDS[self.process.outcome]

    @cached_property
    def enough(self) -> float:
        """What is expected of a setting before it is called one that holds."""
        held = HELD_ON_ONE if len(self.model.lots) == 1 else HELD_ON_SEVERAL
        return max(min(held, NEARLY_BEST * self._best), MORE_OFTEN) if self.model.steps.is_window else held

    @cached_property
    def _best(self) -> float:
        """The greatest share expected of anything one may choose."""
        return _best_of(self.as_set, self._fine)

    def shares(self, settings: Mapping[str, Floats]) -> Floats:
        """``(n,)`` expected share of fresh sheets that come out as wanted."""
        return np.asarray(self.model.shares(settings).mean(axis=0))

    def allowed(self, settings: Mapping[str, Floats]) -> NDArray[np.bool_]:
        """``(n,)`` where what else is expected stays within what somebody allows."""
        return within(self.others, self.wish.outcome_bounds, settings)

    @cached_property
    def as_set(self) -> list[Floats]:
        """Of each set of held settings the ``(p, v)`` share expected at every power and speed."""
        return [self._expected(held, 0.0) for held in self.choices.held]

    @cached_property
    def all_off(self) -> list[Floats]:
        """The same with power and speed off the wrong way."""
        return [self._expected(held, FORGIVING_OFF) for held in self.choices.held]

    def _expected(self, held: Mapping[str, float], off: float) -> Floats:
        grid = self.choices.grid(held)
        # Of a window too much is wrong as well.
        ways = (off, -off) if self.model.steps.is_window and off else (off,)
        worst = [
            self.shares(
                {**grid, "power_pct": grid["power_pct"] * (1 - way), "speed_mm_s": grid["speed_mm_s"] * (1 + way)}
            )
            for way in ways
        ]
        return np.asarray(np.min(worst, axis=0)).reshape(len(self.choices.powers), len(self.choices.speeds))

    @cached_property
    def _fine(self) -> list[NDArray[np.bool_]]:
        """The same: what somebody allows."""
        shape = len(self.choices.powers), len(self.choices.speeds)
        return [self.allowed(self.choices.grid(held)).reshape(shape) for held in self.choices.held]

    def curves(self, share: float, expected: list[Floats]) -> list[Curve]:
        """The fastest at each power at which `share` is expected."""
        return [
            Curve(held, np.array([self._fastest(row, ok, share) for row, ok in zip(table, fine, strict=True)]))
            for held, table, fine in zip(self.choices.held, expected, self._fine, strict=True)
        ]

    @cached_property
    def holding(self) -> list[Curve]:
        """The fastest that holds at each power."""
        return self.curves(self.enough, self.as_set)

    def _fastest(self, expected: Floats, fine: NDArray[np.bool_], share: float) -> float:
        """Where the expected share, falling with speed, crosses `share`; the fastest allowed below it."""
        speeds = np.log(self.choices.speeds)
        if self.model.steps.is_window:
            # It rises first, from where the beam does too much; what is slower than its top is not chosen.
            fine = fine & (expected >= share)
            expected = np.where(np.arange(len(expected)) < expected.argmax(), expected.max(), expected)
        falling = np.minimum.accumulate(np.clip(expected, 1e-9, 1 - 1e-9))
        if falling[0] < share:
            return np.nan
        odds = np.log(falling / (1 - falling)) - np.arange(len(falling)) * 1e-9
        crossing = float(np.interp(-np.log(share / (1 - share)), -odds, speeds))
        below = np.flatnonzero(fine & (speeds <= crossing + 1e-12))
        if not len(below):
            return np.nan
        last = below[-1]
        # All is allowed up to the crossing, or something stops it before.
        whole = last == len(speeds) - 1 or speeds[last + 1] > crossing
        return float(np.exp(crossing if whole else speeds[last]))

    def _options(self, curves: list[Curve]) -> Iterator[tuple[Mapping[str, float], float, float, float]]:
        """Held settings, power, speed and seconds of every point of the curves."""
        for curve in curves:
            for power, speed in zip(self.choices.powers, curve.speeds, strict=True):
                if not np.isnan(speed):
                    slower = self.choices.slower(float(speed))
                    if slower > 0:
                        settings = {**curve.held, "power_pct": float(power), "speed_mm_s": slower}
                        yield curve.held, float(power), slower, seconds_for(self.process, settings, self.wish.length)

    def fastest(self) -> Candidate | None:
        best = min(self._options(self.holding), key=lambda one: one[3], default=None)
        if best is None:
            return None
        held, power, speed, _ = best
        sure = min(self._options(self.curves(HOLDS, self.as_set)), key=lambda one: one[3], default=None)
        if sure is not None and sure[3] <= best[3] * 1.03:
            # For next to nothing it is certain.
            held, power, speed, _ = sure
        found = self._candidate("fastest", held, power, speed)
        if found.certain:
            return replace(found, why="Any faster, and more than one of 100 fresh sheets would fail.")
        if self.enough < HELD_ON_SEVERAL:
            of = int(100 * self._best)
            return replace(found, why=f"Nothing {self.words.comes_out} on more than {of} of 100 fresh sheets, as far as"
                                      " that is known; this is the fastest that does nearly as well.")  # fmt: skip
        why = "Any faster, and too many fresh sheets would fail; plates of other sheets may allow more."
        return replace(found, why=why)

    def gentlest(self) -> Candidate | None:
        """The least power at which it is still at least half as fast as the fastest."""
        best = min(self._options(self.holding), key=lambda one: one[3], default=None)
        if best is None:
            return None
        slowest = best[3] / GENTLE_SPEED
        found: tuple[float, Mapping[str, float]] | None = None
        for curve in self.holding:
            known = ~np.isnan(curve.speeds)
            passes = curve.held.get("passes", 1.0)
            needed = np.log(passes * self.wish.length / slowest)
            speeds = np.log(curve.speeds[known])
            powers = self.choices.powers[known]
            enough = np.flatnonzero(speeds >= needed - 1e-12)
            if not len(enough):
                continue
            first = enough[0]
            power = float(powers[0])
            if first > 0:
                power = float(np.exp(np.interp(needed, speeds[first - 1 : first + 1],
                                               np.log(powers[first - 1 : first + 1]))))  # fmt: skip
            power = self.choices.stronger(power)
            if found is None or power < found[0]:
                found = power, curve.held
        if found is None:
            return None
        power, held = found
        speed = self._speed_at(held, power)
        if speed is None:
            return None
        one = self._candidate("gentlest", held, power, speed)
        return replace(one, why="The least power that still goes at half the speed of the fastest.")

    def _speed_at(self, held: Mapping[str, float], power: float) -> float | None:
        columns = self.choices.columns(held, np.full(len(self.choices.speeds), power), self.choices.speeds)
        speed = self._fastest(self.shares(columns), self.allowed(columns), self.enough)
        return None if np.isnan(speed) else self.choices.slower(speed)

    def forgiving(self) -> Candidate | None:
        share, lasting = FORGIVING_SHARE, "nearly every fresh sheet"
        if self.model.steps.is_window and (best_off := _best_of(self.all_off, self._fine)) * NEARLY_BEST < share:
            share, lasting = max(best_off * NEARLY_BEST, MORE_OFTEN), f"{int(100 * best_off)} of 100 fresh sheets"
        best = min(self._options(self.curves(share, self.all_off)), key=lambda one: one[3], default=None)
        if best is None:
            return None
        other_way = ", or the other way" if self.model.steps.is_window else ""
        why = (
            f"The fastest that still {self.words.comes_out} on {lasting} with a tenth less power and a tenth more"
            f" speed{other_way}."
        )
        return replace(self._candidate("forgiving", *best[:3]), why=why)

    def cleanest(self) -> Candidate | None:
        """Least char and soot among what holds; None where neither was read."""
        dirt = [self.others[key] for key in ("char", "soot") if key in self.others]
        if not dirt:
            return None
        best: tuple[float, Mapping[str, float], float, float] | None = None
        for curve, fine, table in zip(self.holding, self._fine, self.as_set, strict=True):
            grid = self.choices.grid(curve.held)
            limit = np.repeat(curve.speeds, len(self.choices.speeds))
            holds = (grid["speed_mm_s"] <= limit) & fine.ravel()
            if self.model.steps.is_window:
                holds &= table.ravel() >= self.enough
            if not holds.any():
                continue
            rows = {key: column[holds] for key, column in grid.items()}
            expected = sum((one.expected(rows).mean for one in dirt), np.zeros(int(holds.sum())))
            # Of what is as clean as can be told the fastest.
            clean = np.flatnonzero(expected <= expected.min() + 0.1)
            index = clean[np.argmax(rows["speed_mm_s"][clean])]
            power = float(rows["power_pct"][index])
            score = float(expected[index])
            if best is None or score < best[0]:
                best = score, curve.held, power, self.choices.slower(float(rows["speed_mm_s"][index]))
        if best is None:
            return None
        one = self._candidate("cleanest", *best[1:])
        return replace(one, why=f"The least char and soot of all that holds: about {best[0]:.1f} degrees together.")

    def of(self, aim: Aim) -> Candidate | None:
        """
        Raises
        ------
        KeyError : what comes out in steps has no such aim
        """
        every = {
            "fastest": self.fastest,
            "gentlest": self.gentlest,
            "forgiving": self.forgiving,
            "cleanest": self.cleanest,
        }
        return every[aim]()

    def predicted(self, settings: Mapping[str, float]) -> Predicted:
        shares = self.model.shares(columns_of(settings))[:, 0]
        value, low, high = (float(one) for one in expected_share(shares))
        return Predicted(self.words.key, value, low, high)

    def _is_lost(self, settings: Mapping[str, Floats]) -> NDArray[np.bool_]:
        """``(n,)`` where more than one in ten fresh sheets is lost, of those there are to lose."""
        return self.shares(settings) < MARGIN_SHARE * min(self.enough / HELD_ON_SEVERAL, 1.0)

    def _candidate(self, aim: Aim, held: Mapping[str, float], power: float, speed: float) -> Candidate:
        settings = {**held, "speed_mm_s": speed, "power_pct": power}
        predicted = self.predicted(settings)
        return Candidate(
            aim=aim,
            settings=settings,
            predicted=predicted,
            power_down_pct=lost_at(settings, "power_pct", 1 / FAR, self._is_lost),
            speed_up_pct=lost_at(settings, "speed_mm_s", FAR, self._is_lost),
            seconds=seconds_for(self.process, settings, self.wish.length),
            certain=predicted.value >= HOLDS,
            why="",
        )
