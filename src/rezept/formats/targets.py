"""What a plate can be written as."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from rezept.core.errors import Refused
from rezept.core.plan import Plate
from rezept.formats.gcode import refuse_what_gcode_cannot_say, write_gcode
from rezept.formats.plate_file import write_plate_file
from rezept.formats.sheet import write_sheet
from rezept.formats.svg import write_svg


def _carries_all(_plate: Plate) -> None:
    """A target that carries every setting has nothing to refuse."""


@dataclass(frozen=True)
class Target:
    """One kind of file; `burns` tells whether a machine or a person burns from it."""

    key: str
    name: str
    suffix: str
    media_type: str
    burns: bool
    write: Callable[[Plate], bytes]
    check: Callable[[Plate], None] = _carries_all


TARGETS: dict[str, Target] = {
    target.key: target
    for target in (
        Target("gcode", "Program (G-code)", ".gcode", "text/plain", True, write_gcode, refuse_what_gcode_cannot_say),
        Target("svg", "Drawing (SVG)", ".svg", "image/svg+xml", True, write_svg),
        Target("csv", "Settings sheet (CSV)", ".csv", "text/csv", True, write_sheet),
        Target("json", "Plate file (JSON)", ".plate.json", "application/json", False, write_plate_file),
    )
}


def refuse_unresolved(plate: Plate) -> None:
    """No file that burns leaves the house while the plate has a refusal."""
    refusals = plate.refusals()
    if refusals:
        first, more = refusals[0], len(refusals) - 1
        rest = f" ({more} more like this.)" if more else ""
        raise Refused(f"{first.sentence}{rest} Mend it first; there are no files until then.", first.path, first.value)


def check_target(target: Target, plate: Plate) -> None:
    """Raise `Refused` where this file would burn something else than the plan, or something dangerous."""
    if target.burns:
        refuse_unresolved(plate)
    target.check(plate)
