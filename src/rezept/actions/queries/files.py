"""The files that can be had of a plate, and what keeps them back."""

from __future__ import annotations

from typing import Any

from rezept.core.errors import NotFound, Refused, quoted
from rezept.core.plan import Plate
from rezept.core.plan.gate import Today
from rezept.formats.targets import (
    TARGETS,
    Target,
    check_target,
    numbered_suffix,
    parts_of,
    targets_of,
)


def target_named(key: str) -> Target:
    if key not in TARGETS:
        raise NotFound(f"There is no file of the kind {quoted(key)}; there are {', '.join(TARGETS)}.", "kind")
    return TARGETS[key]


def _kept_back(target: Target, plate: Plate, today: Today) -> str | None:
    """The sentence why the plate cannot be written so; None where it can."""
    try:
        check_target(target, plate, today)
    except Refused as error:
        return error.sentence
    return None


def is_burnable(plate: Plate, today: Today) -> bool:
    """Whether the machine takes any file that burns the plate, and the plate can be written as it."""
    burning = [target for target in targets_of(plate) if target.via is not None and not target.shows]
    # What there is against a drawing was worked out when the plate was planned.
    burning.sort(key=lambda target: target.via != "drawing")
    return any(_kept_back(target, plate, today) is None for target in burning)


def offered(plate: Plate, today: Today) -> list[dict[str, Any]]:
    """Every kind of file the machine takes, with the sentence why not where this plate cannot be written as it."""
    files = []
    for target in targets_of(plate):
        refused = _kept_back(target, plate, today)
        count = 1 if refused else len(parts_of(target, plate))
        for number in range(1, count + 1):
            name = target.name if count == 1 else f"{target.name}, {number} of {count}"
            suffix = numbered_suffix(target, number, count)
            files.append({"kind": target.key, "part": number, "name": name, "suffix": suffix, "refused": refused})
    return files
