"""A decision as a document: `rezept-decision`, version 1; see `docs/formats/decision.md`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from rezept.core.findings.decision import Decision
from rezept.core.findings.next_array import NextArray
from rezept.core.plan import Trial

FORMAT, VERSION = "rezept-decision", 1
DIGITS = 4


def next_trial(trial: Trial, following: NextArray) -> dict[str, Any] | None:
    """The trial of the next array: all else as in the last one, on a piece just as large as it needs."""
    if not following.is_any:
        return None
    document = trial.with_array(*following.in_trial())
    document |= {"piece": None, "code": None, "date": None, "title": "", "burned_ground": []}
    return {key: value for key, value in document.items() if value is not None and key not in ("defaulted", "place")}


def decision_document(
    decision: Decision,
    trial: Trial,
    files: Sequence[str],
    sources: Sequence[int],
    probes: Sequence[Mapping[str, float]],
) -> dict[str, Any]:
    """
    Parameters
    ----------
    files : names of the readings; sources : of each observation which of them it is from
    probes : settings somebody asks about
    """
    following = decision.next
    predicted = [decision.predicted(settings) for settings in probes]
    rounded: dict[str, Any] = _rounded(
        {
            "format": FORMAT,
            "version": VERSION,
            "candidates": [one.document() for one in decision.candidates],
            "next": None if following is None else next_trial(trial, following),
            "next_on": None if following is None else following.on,
            "next_why": None if following is None else following.why,
            "model": decision.model,
            "questions": list(decision.questions),
            "look_again": [
                {"file": files[sources[one.row]], "id": one.element, "why": one.why} for one in decision.look_again
            ],
            "probes": [None if one is None else one.document() for one in predicted],
        }
    )
    return rounded


def _rounded(value: Any) -> Any:
    """Computed figures to four decimals; settings have fewer as they are."""
    if isinstance(value, float):
        return round(value, DIGITS)
    if isinstance(value, dict):
        return {key: inner if key == "next" else _rounded(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_rounded(inner) for inner in value]
    return value
