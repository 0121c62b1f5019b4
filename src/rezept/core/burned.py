"""What a patch really got: passes add up over the runs in place, corrections change what was planned."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Share:
    """One run's share in a patch.

    power, speed : what corrections made of the planned figures, 1 where nothing was corrected
    focus_mm : what they added to the focus offset
    sure : nothing changed while it burned, and it is known to have burned whole
    """

    passes: float
    power: float = 1.0
    speed: float = 1.0
    focus_mm: float = 0.0
    sure: bool = True

    @property
    def rate(self) -> tuple[float, float, float]:
        return self.power, self.speed, self.focus_mm


@dataclass(frozen=True)
class Received:
    """A patch as it was burned. `mixed`: no single setting says what it got, so none can be kept from it."""

    settings: dict[str, float]
    dose: float
    mixed: bool


def received(planned: Mapping[str, float], dose: float, shares: Sequence[Share]) -> Received:
    """What a patch got that was planned with these settings and this dose.

    Dose is ``P n / v`` (over the line spacing), so every share adds ``passes x power / speed`` of the planned dose of
    one pass. The settings are those of the last share, with all passes.
    """
    last = shares[-1]
    settings = dict(planned)
    settings["passes"] = sum(share.passes for share in shares)
    settings["power_pct"] = float(f"{planned['power_pct'] * last.power:.10g}")
    settings["speed_mm_s"] = float(f"{planned['speed_mm_s'] * last.speed:.10g}")
    if last.focus_mm or "focus_offset_mm" in planned:
        settings["focus_offset_mm"] = float(f"{planned.get('focus_offset_mm', 0.0) + last.focus_mm:.10g}")
    one_pass = dose / planned["passes"]
    total = sum(share.passes * share.power / share.speed for share in shares) * one_pass
    mixed = len({share.rate for share in shares}) > 1 or not all(share.sure for share in shares)
    return Received(settings, total, mixed)
