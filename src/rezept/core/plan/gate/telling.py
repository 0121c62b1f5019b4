"""Rules about what a program can say."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.parameters import PARAMETERS
from rezept.core.plan.cautions import Caution
from rezept.core.plan.gate.asked import Asked
from rezept.core.plan.moves import PART_OF
from rezept.core.plan.words import WRITTEN_DECIMALS, per_word, told_by_word

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]
# So far what is written may be off from what was planned: a hundredth of it.
WRITTEN_WITHIN = 0.01
# Where the settings of what is drawn stand in a design.
DRAWN_PATH = {"labels": "labels.settings", "outline": "cut_settings"}


def written(asked: Asked) -> list[Caution]:
    """Speed and power that come out as nothing, or as something else, in the figures a program has."""
    if asked.via == "drawing":
        return []
    machine, name = asked.today.machine, asked.today.machine.name
    findings = []
    for key, most in (("speed_mm_s", machine.of_head("max_speed_mm_s")), ("power_pct", machine.max_power_pct)):
        if key in machine.by_hand:
            continue
        value = asked.moves.column(key)
        scale, row = per_word(key, machine), PARAMETERS[key]
        written = np.round(value * scale, WRITTEN_DECIMALS) / scale
        with np.errstate(invalid="ignore", divide="ignore"):
            off = np.abs(written - value) > WRITTEN_WITHIN * value
            over = (written > most * (1 + 1e-9)) & (value <= most * (1 + 1e-9))
        if key == "power_pct":
            # A trace may be dark altogether.
            off &= ~(asked.moves.of_kind("trace") & (value == 0))

        def sentence(v: float, lim: float, row: str = row.name, unit: str = row.unit) -> str:
            return (
                f"a program for {name} cannot say a {row} of {v:.4g} {unit}: it would say {lim:.4g} {unit}."
                f" Take more, or look at the machine's figures in the Shop."
            )

        findings.append(Caution("unwritable", "refusal", key, off | over, value, written, sentence))
    return findings


def _untold(key: str, values: Floats) -> Mask:
    """``(k,)`` where a setting that no word tells would be burned differently from what the plan says."""
    here = ~np.isnan(values)
    if not here.any():
        return here
    if key in ("focus_offset_mm", "step_down_mm", "on_delay_us", "off_delay_us", "air_kpa", "air_level"):
        # Left at nothing, they are what the machine does by itself.
        varies = np.nanmin(values) != np.nanmax(values)
        return here & (varies | (values != 0))
    return here


def _untold_finding(key: str, how: str, path: str, bad: Mask, values: Floats) -> Caution:
    name = PARAMETERS[key].name

    def sentence(_value: float, _limit: float) -> str:
        return f"G-code has no word for {name}, which {how} here. Use the settings sheet, or leave {name} out."

    return Caution("untold", "refusal", path, bad, values, np.zeros(len(values)), sentence, once=True, setting=key)


def told(asked: Asked) -> list[Caution]:
    """Settings that no word of the program says, of patches and of what is drawn."""
    machine = asked.today.machine
    if asked.via == "drawing" or machine.hears_settings:
        return []
    findings = []
    patches = asked.moves.of_kind("patch")
    for key, values in asked.moves.settings.items():
        if told_by_word(key, machine) or key in machine.by_hand:
            continue
        for rows in (patches, ~patches):
            bad = _untold(key, np.where(rows, values, np.nan))
            if bad.any():
                here = values[rows & ~np.isnan(values)]
                how = "varies" if np.ptp(here) > 0 else "is set"
                path = f"hold.{key}" if key in asked.trial.hold else "axes" if asked.trial.listed is None else "listed"
                if rows is not patches:
                    path = f"{DRAWN_PATH[PART_OF[asked.moves.kinds[int(np.flatnonzero(bad)[0])]]]}.{key}"
                findings.append(_untold_finding(key, how, path, bad, values))
    return findings
