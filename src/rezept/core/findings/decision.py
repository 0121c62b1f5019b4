"""What plates of one material, process and head say: models, candidates by aim, the next array, and what is odd."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.findings.candidates import Aim, Candidate, Predicted
from rezept.core.findings.choices import NOTHING_WANTED, Choices, Wanted, Wish, choices_of, patches_worth
from rezept.core.findings.coding import ALWAYS, coding_of
from rezept.core.findings.graded import STRANGE, GradedModel, fit_graded
from rezept.core.findings.mark_aims import MarkAims
from rezept.core.findings.next_array import NextArray, next_of_mark, next_of_ordered
from rezept.core.findings.observations import Observations, burns_of, lots_of
from rezept.core.findings.ordered_aims import OrderedAims
from rezept.core.findings.ordered_fit import OrderedModel, Scores, Tap, fit_ordered, stray_share
from rezept.core.findings.ordered_law import LEVELS, STEPS, STRAY, level_bounds, score_share
from rezept.core.findings.ordered_words import WORDS
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.process import Process
from rezept.core.scales import SCALES
from rezept.core.wording import counted

Floats = NDArray[np.float64]

ORDERED_AIMS: tuple[Aim, ...] = ("fastest", "gentlest", "forgiving", "cleanest")
# What has to be said what is wanted, and which readings tell it.
WANTED_BY: dict[Aim, tuple[str, ...]] = {"darkness": (), "depth": ("depth_mm",), "colour": ("a", "b")}
MARK_AIMS: tuple[Aim, ...] = (*ORDERED_AIMS, *WANTED_BY)
NO_WISH = Wish()
LIGHTNESS = "lightness"
# Between which a measure lies that is no scale; others lie between 0 and 100.
_REACH = {"a": (-128.0, 128.0), "b": (-128.0, 128.0)}
# Fewer readings of something say nothing of it.
FEWEST = 3
# So many of the scores may contradict all others before the law itself is doubted.
_CONTRADICTED = 0.15
# Patches of one sheet scatter by some per cent of dose; by so much no law is behind it.
_AT_RANDOM = 0.18


@dataclass(frozen=True)
class LookAgain:
    """An observation that contradicts the rest, by its row and by what it is called."""

    row: int
    element: str
    why: str


@dataclass(frozen=True)
class Decision:
    """What plates mean.

    aims : what chooses and predicts, for more questions; None where nothing counts
    candidates : one for each aim that was asked for and can be met
    questions : what is missing, in sentences
    """

    aims: OrderedAims | MarkAims | None
    candidates: tuple[Candidate, ...]
    next: NextArray | None
    questions: tuple[str, ...]
    look_again: tuple[LookAgain, ...]
    model: dict[str, Any]

    def predicted(self, settings: Mapping[str, float]) -> Predicted | None:
        return None if self.aims is None else self.aims.predicted(settings)


def is_ordered(process: Process) -> bool:
    """Whether what a process does comes out in steps, one of which is wanted: a cut that drops out, a layer that is
    off. Any other mark is as it is, and one wants it this way or that."""
    return process.outcome in STEPS


def aims_of(process: Process) -> tuple[Aim, ...]:
    return ORDERED_AIMS if is_ordered(process) else MARK_AIMS


def decide(
    seen: Observations,
    machine: Machine,
    *,
    aims: Sequence[Aim],
    wish: Wish = NO_WISH,
    ground: float = 80.0,
    wanted: Wanted = NOTHING_WANTED,
    taps: Sequence[Tap] = (),
) -> Decision:
    """Choose by what was observed.

    Parameters
    ----------
    seen : of one process, on one head
    aims : what to choose for; the next array is for the first of them
    taps : what was seen on fresh sheets nobody scored, of what comes out in steps
    ground : L* of the bare sheet; wanted : what the aims ``darkness``, ``depth`` and ``colour`` are for

    Raises
    ------
    InvalidInput : the process has no such aim
    """
    for aim in aims:
        if aim not in aims_of(seen.process):
            raise InvalidInput(f"{seen.process.name} has no aim {aim!r}.", "aim", aim)
    by = seen.outcome if is_ordered(seen.process) else seen.others.get(LIGHTNESS)
    if by is None or not _read(seen, by).any():
        nothing = "Nothing that was burned at one known setting has been read yet: score the plate first."
        return Decision(None, (), None, (nothing,), (), {})
    rows = _read(seen, by)
    wish = replace(wish, most=patches_worth(machine, wish.most))
    choices = choices_of(seen, rows, machine, wish)
    if not choices.any:
        kept_to = ", ".join(f"{PARAMETERS[key].name} at most {most:g}" for key, most in wish.at_most.items())
        beside = f"Nothing near what was burned keeps to that ({kept_to})."
        return Decision(None, (), None, (beside,), (), {})
    if is_ordered(seen.process):
        return _decide_ordered(seen, choices, aims, wish, taps)
    return _decide_mark(seen, choices, aims, wish, ground, wanted)


def _read(seen: Observations, values: Floats) -> NDArray[np.bool_]:
    """``(n,)`` what was burned at one setting, with power and speed, and of which a value was read."""
    rows = np.array([state == "burned" for state in seen.state], bool) & ~np.isnan(values)
    for key in ALWAYS:
        rows &= ~np.isnan(seen.settings.get(key, np.full(len(seen), np.nan)))
    return rows


def _graded(seen: Observations, key: str) -> GradedModel | None:
    """The model of something else that was read of enough of them; None where it was not, or is the same everywhere."""
    values = seen.others.get(key)
    if values is None:
        return None
    rows = _read(seen, values)
    if int(rows.sum()) < FEWEST:
        return None
    scale = SCALES.get(key)
    low, high = (scale.low, scale.high) if scale is not None else _REACH.get(key, (0.0, 100.0))
    settings = {name: column[rows] for name, column in seen.settings.items()}
    return fit_graded(
        settings,
        coding_of(seen, rows),
        values[rows],
        lots_of(seen, rows)[0],
        burns_of(seen, rows),
        np.nan_to_num(seen.unsure.get(key, np.zeros(len(seen)))[rows]),
        low=low,
        high=high,
    )


def can_be_wanted(seen: Observations) -> list[Aim]:
    """Aims that want something and can be met by what was read of marks."""
    if is_ordered(seen.process):
        return []
    return [aim for aim, told_by in WANTED_BY.items() if all(_enough(seen, key) for key in told_by)]


def can_be_bounded(seen: Observations) -> list[str]:
    """Scales by which a choice can be bounded: read of enough patches, and not what the process is decided by."""
    decided_by = {seen.process.outcome, "depth_mm"}
    return [
        key
        for key, scale in SCALES.items()
        if key not in decided_by and seen.process.key in scale.processes and _enough(seen, key)
    ]


def _enough(seen: Observations, key: str) -> bool:
    values = seen.others.get(key)
    return values is not None and int(_read(seen, values).sum()) >= FEWEST


def _others(seen: Observations, wish: Wish, keys: Sequence[str]) -> dict[str, GradedModel]:
    wanted = dict.fromkeys([*keys, *wish.outcome_bounds])
    found = {key: _graded(seen, key) for key in wanted}
    return {key: model for key, model in found.items() if model is not None}


def _unread(wish: Wish, others: Mapping[str, GradedModel]) -> list[str]:
    return [
        f"{SCALES[key].name.capitalize() if key in SCALES else key} was not read of enough patches, so nothing can be"
        " bounded by it."
        for key in wish.outcome_bounds
        if key not in others
    ]


@dataclass(frozen=True)
class Ordered:
    """The law of what comes out in steps, and what it was fitted to: the rows that were read, ``(n,)`` of them.

    rows : which of the observations; outcome : of those; dose : ``(s, n)`` what they got, as far as it reached, by each
        draw
    """

    model: OrderedModel
    rows: NDArray[np.bool_]
    outcome: Floats
    dose: Floats


def ordered_of(seen: Observations) -> Ordered:
    """The law of what comes out in steps; at least one row of `seen` was read."""
    rows = _read(seen, seen.outcome)
    lot, names = lots_of(seen, rows)
    coding = coding_of(seen, rows)
    outcome = seen.outcome[rows]
    coded = coding.matrix({key: column[rows] for key, column in seen.settings.items()})
    burn = burns_of(seen, rows)
    scores = Scores(coded, outcome, outcome, lot, burn, stray_share(seen.doubt[rows]))
    model = fit_ordered(scores, coding, names, STEPS[seen.process.outcome])
    return Ordered(model, rows, outcome, model.draws.dose(coded) + model.draws.luck(lot, burn))


def _missing(process: Process, outcome: Floats) -> str | None:
    """What outcomes lack before they tell where it turns; None where they lack nothing."""
    words, steps = WORDS[process.outcome], STEPS[process.outcome]
    short, over = outcome < steps.wanted[0], outcome > steps.wanted[1]
    if steps.as_wanted(outcome).any():
        return None if short.any() else words.all_wanted
    if not over.any():
        return words.too_little
    return words.beside if short.any() else words.too_much


def _decide_ordered(
    seen: Observations, choices: Choices, aims: Sequence[Aim], wish: Wish, taps: Sequence[Tap]
) -> Decision:
    found = ordered_of(seen)
    model, rows, outcome = found.model, found.rows, found.outcome
    if taps:
        model = model.after(taps)
    others = _others(seen, wish, ("char", "soot") if "cleanest" in aims else ())
    chooser = OrderedAims(model, others, choices, wish, seen.process)
    questions = _unread(wish, others)
    candidates: list[Candidate] = []
    missing = _missing(seen.process, outcome)
    if missing:
        questions.append(missing)
    if STEPS[seen.process.outcome].as_wanted(outcome).any():
        if "cleanest" in aims and not {"char", "soot"} & set(others):
            questions.append("Neither char nor soot was scored, so what is cleanest cannot be told.")
        chosen = [chooser.of(aim) for aim in aims]
        candidates = [one for one in chosen if one is not None]
        missed = [aim for aim, one in zip(aims, chosen, strict=True) if one is None and aim != "cleanest"]
        if missed:
            questions.append(f"Nothing that may be chosen holds on fresh sheets yet ({', '.join(missed)}).")
    if len({float(value) for value in seen.settings["power_pct"][rows]}) == 1:
        questions.append("Only one power was burned, so what another one does is not known: all is chosen at that.")
    if len({float(value) for value in seen.settings["speed_mm_s"][rows]}) == 1:
        questions.append("Only one speed was burned: what another one does is assumed from equal dose.")
    strange = _strays(found, seen)
    scatter = float(np.median(model.draws.scatter))
    if scatter > _AT_RANDOM:
        questions.append(
            f"Patches of one dose came out by {100 * scatter:.0f} % of dose apart: what came out contradicts the law of"
            " the dose. Something else changed from patch to patch, or the scores are mixed up."
        )
    elif len(strange) > max(_CONTRADICTED * len(outcome), 2):
        questions.append(
            f"{counted(len(strange), 'patch', 'patches')} of {len(outcome)} contradict the rest: what came out does not"
            " follow the dose here. Look at them again, or at what else changed."
        )
    following = next_of_ordered(chooser, candidates[0] if candidates else None, len(model.lots))
    return Decision(
        chooser, tuple(candidates), following, tuple(questions), tuple(strange), _ordered_words(model, len(outcome))
    )


def _strays(fitted: Ordered, seen: Observations) -> list[LookAgain]:
    """Scores more likely of something else than of the law."""
    draws, outcome, dose, rows = fitted.model.draws, fitted.outcome, fitted.dose, np.flatnonzero(fitted.rows)
    share, _, _ = score_share(dose, *level_bounds(outcome, draws.thresholds), draws.scale[:, None])
    by_law = share.mean(axis=0)
    odd = np.flatnonzero((1 - STRAY) * by_law < STRAY / LEVELS)
    bounds = level_bounds(np.arange(LEVELS, dtype=float), draws.thresholds)
    scale = SCALES[seen.process.outcome]
    found = []
    for i in odd.tolist():
        every, _, _ = score_share(dose[:, [i]], *bounds, draws.scale[:, None])
        came, rather = (scale.word(float(level), "darker") for level in (outcome[i], every.mean(axis=0).argmax()))
        why = f"{seen.element[rows[i]]} came out {came}; everything around it says {rather}. Look again."
        found.append(LookAgain(int(rows[i]), seen.element[rows[i]], why))
    return found


def _ordered_words(model: OrderedModel, count: int) -> dict[str, Any]:
    draws = model.draws

    def middle(values: Floats) -> list[float]:
        return [round(float(value), 4) for value in np.quantile(values, [0.5, 0.1, 0.9])]

    return {
        "law": "cumulative logit in the log of the dose",
        "patches": count,
        "sheets": len(model.lots),
        "by_power": middle(draws.by_power),
        "by_speed": middle(draws.by_speed),
        "sheets_scatter": middle(draws.tau),
        "patches_scatter": middle(draws.scatter),
    }


def _not_as_wanted(aim: Aim, wanted: Wanted, others: Mapping[str, GradedModel]) -> str:
    """Why nothing is as somebody wants it."""
    if aim == "depth":
        if "depth_mm" not in others:
            return "No depth was read of enough patches, so none can be chosen by it: measure some with callipers."
        return f"Nothing that may be chosen comes near {wanted.depth_mm:g} mm of depth."
    if aim == "colour":
        if not {"a", "b"} <= set(others):
            return "No colour was measured of enough patches, so none can be chosen by it: photograph the plate."
        return "Nothing that may be chosen comes near that colour."
    return f"Nothing that may be chosen comes near L* {wanted.lightness:.0f}."


def _decide_mark(
    seen: Observations, choices: Choices, aims: Sequence[Aim], wish: Wish, ground: float, wanted: Wanted
) -> Decision:
    questions: list[str] = []
    values = seen.others[LIGHTNESS]
    rows = _read(seen, values)
    lightness = _graded(seen, LIGHTNESS)
    if lightness is None:
        few = "Too few patches have a lightness, measured or scored, to say what comes out between them."
        return Decision(None, (), None, (few,), (), {})
    told_by = [key for aim in aims for key in WANTED_BY.get(aim, ())]
    others = _others(seen, wish, [*(("soot", "evenness") if "cleanest" in aims else ()), *told_by])
    questions += _unread(wish, others)
    chooser = MarkAims(lightness, others, choices, wish, seen.process, ground, wanted)
    found = [chooser.of(aim) for aim in aims]
    candidates = [one for one in found if one is not None]
    for aim, one in zip(aims, found, strict=True):
        if one is None and aim in WANTED_BY:
            questions.append(_not_as_wanted(aim, wanted, others))
        elif one is None and aim == "cleanest":
            questions.append("Neither soot nor evenness was scored, so what is cleanest cannot be told.")
        elif one is None:
            questions.append(f"No plain mark is known well enough yet ({aim}).")
    known = np.flatnonzero(rows)
    strange = [
        LookAgain(
            int(known[i]),
            seen.element[known[i]],
            f"{seen.element[known[i]]} came out otherwise than everything around it (L* {values[known[i]]:.0f}). Look"
            " again.",
        )
        for i in np.flatnonzero(lightness.strange > STRANGE)
    ]
    sheets = len(lots_of(seen, rows)[1])
    following = next_of_mark(chooser, candidates[0] if candidates else None, sheets)
    model = {
        "law": "a line in the log of the dose and a smooth remainder",
        "patches": len(known),
        "sheets": sheets,
        "patches_scatter": round(lightness.span * float(np.sqrt(max(
            one.choice.weight * one.choice.scatter**2 * one.amplitude for one in lightness.choices))), 2),
    }  # fmt: skip
    return Decision(chooser, tuple(candidates), following, tuple(questions), tuple(strange), model)
