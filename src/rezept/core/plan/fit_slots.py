"""Slots and a tab as the patch of a trial."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.path.figure import Figure
from rezept.core.path.slots import kerf_mm, size_mm, slots_and_tab

USUAL_TAB_MM = 5.0
# Cuts from 0.05 to 0.4 mm wide, in steps one feels.
USUAL_KERFS_MM = tuple(round(0.05 * step, 2) for step in range(8, 0, -1))
MOST_SLOTS = 20
_WIDTHS = "widths_mm"


@dataclass(frozen=True)
class FitSlots:
    """A tab, and slots from narrow to wide, as they are drawn, mm."""

    tab_mm: float
    widths_mm: tuple[float, ...]

    @property
    def size_mm(self) -> tuple[float, float]:
        return size_mm(self.tab_mm, self.widths_mm)

    @property
    def figure(self) -> Figure:
        return slots_and_tab(self.tab_mm, self.widths_mm)

    def kerf_mm(self, slot: int) -> float:
        """The kerf, where the tab fits the slot of this number, from 1.

        Raises
        ------
        InvalidInput : there is no such slot
        """
        if not 1 <= slot <= len(self.widths_mm):
            raise InvalidInput(
                f"There are slots 1 to {len(self.widths_mm)}, the first beside the corner that is cut off.",
                "values.fit_slot",
                slot,
                len(self.widths_mm),
            )
        return round(kerf_mm(self.tab_mm, self.widths_mm[slot - 1]), 4)

    def document(self) -> dict[str, Any]:
        return {"tab_mm": self.tab_mm, _WIDTHS: list(self.widths_mm)}


def slots_around(tab_mm: float) -> FitSlots:
    """The slots a tab is usually tried in."""
    return FitSlots(tab_mm, tuple(round(tab_mm - 2 * kerf, 4) for kerf in USUAL_KERFS_MM))


USUAL_SLOTS = slots_around(USUAL_TAB_MM)


def read_fit_slots(fields: Fields) -> FitSlots:
    """
    Raises
    ------
    InvalidInput : the slots do not go from narrow to wide, or lie farther from the tab than any cut is wide
    """
    tab = fields.number("tab_mm", USUAL_TAB_MM, at_least=1.0, at_most=100.0)
    items = fields.take(_WIDTHS, list(slots_around(tab).widths_mm))
    if not isinstance(items, list) or not 1 <= len(items) <= MOST_SLOTS:
        raise InvalidInput(f"Slots are a list of 1 to {MOST_SLOTS} widths.", fields.at(_WIDTHS))
    widths = tuple(
        Fields({"width": item}, f"{fields.at(_WIDTHS)}[{i}]").number("width", at_least=tab / 2, at_most=tab)
        for i, item in enumerate(items)
    )
    if any(after <= before for before, after in pairwise(widths)):
        raise InvalidInput("Slots go from narrow to wide.", fields.at(_WIDTHS))
    fields.finish()
    return FitSlots(tab, widths)


def kerf_of_reading(patch: Mapping[str, Any], values: Mapping[str, float]) -> float | None:
    """The kerf that follows from which slot fits, of a patch as a trial's document says it; None where neither says."""
    slots, fits = patch.get("slots"), values.get("fit_slot")
    if slots is None or fits is None:
        return None
    # As wide as the tab: a cut without any width is none.
    return FitSlots(slots["tab_mm"], tuple(slots[_WIDTHS])).kerf_mm(int(fits)) or None
