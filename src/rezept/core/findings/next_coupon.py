"""The next coupon of a plate that grows: bracket, halve, and then what the models choose.

One looks at what has been burned beside the last coupon with the same other settings, and walks the speed: by as much
as the outcome lacks until both sides are known, then to the middle of them, until it lies closer than patches scatter.
From there on the models say what holds on fresh sheets, and that is burned until it has come out twice.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.candidates import Candidate
from rezept.core.findings.choices import finest, shown
from rezept.core.findings.observations import Observations
from rezept.core.findings.ordered_law import STEPS
from rezept.core.machine import Machine
from rezept.core.scales import SCALES

# By so much slower where it came out on the level 0, 1 or 2 short of the wanted one: what lacks most needs most.
_LACKS = (1.5, 1.25, 1.12)
_FASTER, _TOO_MUCH, _SHADE = 1.25, 1.5, 1.25
# Nearer than this in speed finer steps tell little beside how patches and sheets scatter.
CLOSE = 1.12
# A setting so near to what is chosen is as good.
_AS_GOOD = 0.04
# So often the chosen setting has to come out before it is enough.
TWICE = 2


@dataclass(frozen=True)
class NextCoupon:
    """
    settings : all of them; why : in a sentence
    settled : where it turns is known as well as patches scatter, and what was chosen came out: one may stop
    """

    settings: dict[str, float]
    why: str
    settled: bool = False


def next_coupon(here: Observations, last: int, machine: Machine, chosen: Candidate | None) -> NextCoupon:
    """What to burn after coupon `last` of a plate.

    Parameters
    ----------
    here : the observations of the plate, at least one row
    last : row of the last coupon
    chosen : what the models choose by all that is known, None where they do not
    """
    settings = here.settings_of(last)
    if not here.counts[last]:
        return NextCoupon(settings, f"{here.element[last]} has not been read yet.")
    if here.process.outcome not in STEPS:
        return _next_shade(here, last, machine)
    return _Walk(here, last, machine, chosen).next()


def _alike(here: Observations, last: int) -> NDArray[np.bool_]:
    """``(n,)`` what counts and differs from the last coupon in speed at most."""
    alike = here.counts.copy()
    for key, column in here.settings.items():
        if key != "speed_mm_s":
            alike &= np.isclose(column, column[last], rtol=1e-6, equal_nan=True)
    return alike


@dataclass(frozen=True)
class _Walk:
    """Along the speed, all else as the last coupon had it."""

    here: Observations
    last: int
    machine: Machine
    chosen: Candidate | None

    def _at(self, speed: float, why: str, settled: bool = False) -> NextCoupon:
        top = self.machine.of_head("max_speed_mm_s")
        least = finest(self.machine, "speed_mm_s")
        walked = shown(self.machine, "speed_mm_s", min(max(speed, least), top))
        return NextCoupon({**self.here.settings_of(self.last), "speed_mm_s": walked}, why, settled)

    def _came(self, row: int) -> str:
        word = SCALES[self.here.process.outcome].word(float(self.here.outcome[row]), "darker")
        return f"{self.here.element[row]} came out “{word}” at {self.here.settings['speed_mm_s'][row]:g} mm/s"

    def next(self) -> NextCoupon:
        here = self.here
        rows = np.flatnonzero(_alike(here, self.last))
        speed, outcome = here.settings["speed_mm_s"][rows], here.outcome[rows]
        steps = STEPS[here.process.outcome]
        wanted, short, over = steps.as_wanted(outcome), outcome < steps.wanted[0], outcome > steps.wanted[1]
        if not wanted.any():
            return self._none_wanted(rows, speed, short, over)
        fastest = int(rows[wanted][np.argmax(speed[wanted])])
        held = float(here.settings["speed_mm_s"][fastest])
        beyond = speed[short & (speed > held)]
        if not short.any():
            return self._faster(fastest, held)
        if not len(beyond):
            # What failed is slower than what came out: they lie as close as patches scatter.
            return self._chosen(held)
        failed = float(beyond.min())
        if failed / held <= CLOSE:
            return self._chosen(held)
        words = f"Between {held:g} mm/s, where it came out, and {failed:g}, where it did not."
        return self._at(math.sqrt(held * failed), words)

    def _none_wanted(
        self, rows: NDArray[np.int64], speed: NDArray[np.float64], short: NDArray[np.bool_], over: NDArray[np.bool_]
    ) -> NextCoupon:
        if short.any() and over.any():
            slow, fast = float(speed[over].max()), float(speed[short].min())
            return self._at(
                math.sqrt(slow * fast), f"Between {slow:g} mm/s, where it was too much, and {fast:g}, too little."
            )
        if over.any():
            row = int(rows[np.argmax(speed)])
            return self._at(float(speed.max()) * _TOO_MUCH, f"{self._came(row)}: plainly faster.")
        row = int(rows[np.argmin(speed)])
        least = STEPS[self.here.process.outcome].wanted[0]
        lacks = _LACKS[min(max(3 - (least - int(self.here.outcome[row])), 0), 2)]
        slower = float(speed.min()) / lacks
        if slower < finest(self.machine, "speed_mm_s"):
            settings = self.here.settings_of(self.last)
            passes = settings.get("passes", 1.0) + 1
            return NextCoupon(
                {**settings, "passes": passes}, f"{self._came(row)}, and it goes no slower: one pass more."
            )
        return self._at(slower, f"{self._came(row)}: {100 * (1 - 1 / lacks):.0f} % slower.")

    def _faster(self, fastest: int, held: float) -> NextCoupon:
        top = self.machine.of_head("max_speed_mm_s")
        if held < top:
            return self._at(
                held * _FASTER, f"{self._came(fastest)}, and nothing faster has failed yet: a quarter faster."
            )
        settings = self.here.settings_of(self.last)
        power = shown(self.machine, "power_pct", settings["power_pct"] * 0.8)
        return NextCoupon(
            {**settings, "power_pct": power}, f"{self._came(fastest)}, and it goes no faster: less power."
        )

    def _chosen(self, held: float) -> NextCoupon:
        """What the models choose, or what was burned near it already: until that came out twice."""
        here = self.here
        settings = here.settings_of(self.last)
        chosen = dict(self.chosen.settings) if self.chosen is not None else {**settings, "speed_mm_s": 0.9 * held}
        chosen["speed_mm_s"] = shown(self.machine, "speed_mm_s", chosen["speed_mm_s"], "down")
        near = here.counts.copy()
        for key, value in chosen.items():
            near &= np.isclose(here.settings.get(key, np.full(len(here), np.nan)), value, rtol=_AS_GOOD)
        came = np.flatnonzero(near & STEPS[here.process.outcome].as_wanted(here.outcome))
        if len(came):
            chosen = here.settings_of(int(came[0]))
        where = f"{chosen['speed_mm_s']:g} mm/s and {chosen['power_pct']:g} %"
        if len(came) >= TWICE:
            often = "twice" if len(came) == TWICE else f"{len(came)} times"
            return NextCoupon(chosen, f"{where} came out {often}: keep it, or try another sheet.", settled=True)
        if len(came):
            return NextCoupon(chosen, f"{where} came out; once more, to be sure.")
        return NextCoupon(chosen, f"Where it turns is known. {where} should hold on fresh sheets.")


def _next_shade(here: Observations, last: int, machine: Machine) -> NextCoupon:
    """Of a mark there is no right or wrong: on as the last step went, else a step darker."""
    settings = here.settings_of(last)
    speeds = here.settings["speed_mm_s"][np.flatnonzero(_alike(here, last))]
    ratio = 1 / _SHADE
    if len(speeds) > 1 and speeds[-1] != speeds[-2]:
        ratio = float(speeds[-1] / speeds[-2])
    top = machine.of_head("max_speed_mm_s")
    speed = shown(machine, "speed_mm_s", min(settings["speed_mm_s"] * ratio, top))
    went = "slower, so that more comes through" if ratio < 1 else "faster, so that less comes through"
    return NextCoupon({**settings, "speed_mm_s": speed}, f"On as before: {went}.")
