"""What was done to a burned piece before somebody looked at it: the same patch is another one wiped or sanded."""

from __future__ import annotations

from typing import Literal

TreatmentKey = Literal["burned", "wiped", "sanded", "rubbed"]
TREATMENTS: dict[TreatmentKey, str] = {
    "burned": "as burned",
    "wiped": "wiped",
    "sanded": "sanded",
    "rubbed": "rubbed",
}


def treatment_words(treatment: TreatmentKey) -> str:
    """``sanded``; empty as burned, as nearly everything is judged."""
    return "" if treatment == "burned" else TREATMENTS[treatment]
