"""What a plate can be written as."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from rezept.core.errors import Refused
from rezept.core.plan import Plate
from rezept.core.plan.distinct import split
from rezept.formats.dxf import write_dxf
from rezept.formats.gcode import refuse_what_gcode_cannot_say, write_gcode
from rezept.formats.plate_file import write_plate_file
from rezept.formats.sheet import write_printed_sheet, write_sheet
from rezept.formats.svg import write_svg
from rezept.formats.trace import refuse_a_trace_that_marks, write_trace


def _carries_all(_plate: Plate) -> None:
    """A target that carries every setting has nothing to refuse."""


@dataclass(frozen=True)
class Target:
    """One kind of file.

    burns : a machine or a person burns from it
    takes : which of a machine's kinds of files it is; empty for what no machine is given
    numbered : it holds only as many distinct settings as the machine takes, and comes in numbered files
    """

    key: str
    name: str
    suffix: str
    media_type: str
    burns: bool
    write: Callable[[Plate], bytes]
    takes: str
    check: Callable[[Plate], None] = _carries_all
    numbered: bool = False


_GCODE, _CSV = "text/plain", "text/csv"
TARGETS: dict[str, Target] = {
    target.key: target
    for target in (
        Target("gcode", "Program (G-code)", ".gcode", _GCODE, True, write_gcode, "gcode", refuse_what_gcode_cannot_say),
        Target(
            "trace",
            "Outline first (G-code)",
            ".outline.gcode",
            _GCODE,
            True,
            write_trace,
            "gcode",
            refuse_a_trace_that_marks,
        ),
        Target("svg", "Drawing (SVG)", ".svg", "image/svg+xml", True, write_svg, "svg", numbered=True),
        Target("dxf", "Drawing (DXF)", ".dxf", "image/vnd.dxf", True, write_dxf, "dxf", numbered=True),
        Target("pdf", "Settings sheet (PDF)", ".pdf", "application/pdf", True, write_printed_sheet, "sheet"),
        Target("csv", "Settings sheet (CSV)", ".csv", _CSV, True, write_sheet, "sheet"),
        Target("json", "Plate file (JSON)", ".plate.json", "application/json", False, write_plate_file, ""),
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


def parts_of(target: Target, plate: Plate) -> list[Plate]:
    """The plate as this target takes it: whole, or in numbered parts that register to each other."""
    return split(plate, plate.trial.machine.distinct_settings) if target.numbered else [plate]


def numbered_suffix(target: Target, number: int, count: int) -> str:
    """``.svg``, or ``.2of3.svg`` where there are several."""
    return target.suffix if count == 1 else f".{number}of{count}{target.suffix}"


def targets_of(plate: Plate) -> list[Target]:
    """The kinds of files that are of use with the plate's machine."""
    takes = plate.trial.machine.takes
    return [target for target in TARGETS.values() if takes is None or not target.takes or target.takes in takes]
