"""What a plate can be written as."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from rezept.core.errors import Refused
from rezept.core.plan import Plate
from rezept.core.plan.by_hand import hand_only, hand_stops
from rezept.core.plan.distinct import split
from rezept.core.plan.gate import Refusal, Today, Via, gate, gate_of_trace, refuse
from rezept.core.plan.growing import still_to_burn
from rezept.formats.dxf import write_dxf
from rezept.formats.gcode import write_gcode
from rezept.formats.plate_file import write_plate_file
from rezept.formats.sheet import write_printed_sheet, write_sheet
from rezept.formats.svg import write_svg
from rezept.formats.trace import write_trace


@dataclass(frozen=True)
class Target:
    """One kind of file.

    via : by which way it burns, None where nobody burns from it
    takes : which of a machine's kinds of files it is; empty for what no machine is given
    numbered : it holds only as many distinct settings as the machine takes, and comes in numbered files
    shows : it burns nothing, and shows where the plate will lie
    """

    key: str
    name: str
    suffix: str
    media_type: str
    via: Via | None
    write: Callable[[Plate], bytes]
    takes: str
    judge: Callable[[Plate, Today, Via], list[Refusal]] = gate
    numbered: bool = False
    shows: bool = False


_GCODE, _CSV = "text/plain", "text/csv"
TARGETS: dict[str, Target] = {
    target.key: target
    for target in (
        Target("gcode", "Program (G-code)", ".gcode", _GCODE, "program", write_gcode, "gcode"),
        Target(
            "trace",
            "Outline first (G-code)",
            ".outline.gcode",
            _GCODE,
            "program",
            write_trace,
            "gcode",
            gate_of_trace,
            shows=True,
        ),
        Target(
            "tight",
            "Outline first, drawn tight (G-code)",
            ".tight.gcode",
            _GCODE,
            "program",
            partial(write_trace, outline="tight"),
            "gcode",
            partial(gate_of_trace, outline="tight"),
            shows=True,
        ),
        Target("svg", "Drawing (SVG)", ".svg", "image/svg+xml", "drawing", write_svg, "svg", numbered=True),
        Target("dxf", "Drawing (DXF)", ".dxf", "image/vnd.dxf", "drawing", write_dxf, "dxf", numbered=True),
        Target("pdf", "Settings sheet (PDF)", ".pdf", "application/pdf", "drawing", write_printed_sheet, "sheet"),
        Target("csv", "Settings sheet (CSV)", ".csv", _CSV, "drawing", write_sheet, "sheet"),
        Target("json", "Plate file (JSON)", ".plate.json", "application/json", None, write_plate_file, ""),
    )
}


def refuse_unresolved(plate: Plate) -> None:
    """No file that burns leaves the house while the plate has a refusal."""
    refusals = plate.refusals()
    if refusals:
        first, more = refusals[0], len(refusals) - 1
        rest = f" ({more} more like this.)" if more else ""
        raise Refused(
            f"{first.sentence}{rest} Mend it first; there are no files until then.",
            first.path,
            first.value,
            first.limit,
        )


def check_target(target: Target, plate: Plate, today: Today) -> None:
    """Raise `Refused` where the gate has something against this file, or where nobody knows how its lettering was."""
    if target.via is None:
        return
    refuse_unresolved(plate)
    refuse_unknown_lettering(plate)
    refuse(target.judge(plate, today, target.via))


def refuse_unknown_lettering(plate: Plate) -> None:
    """A plate read from a file that does not say how it is drawn is not drawn anew by guess."""
    if not plate.drawn_known:
        raise Refused(
            "This plate does not say how its lettering, marks and cuts were drawn. Its patches can be written exactly"
            " where they were, without the rest: rezept files --without-lettering.",
            "drawn",
        )


def parts_of(target: Target, plate: Plate) -> list[Plate]:
    """The plate as this target takes it: what of it is still to burn, whole or in numbered parts that register to each
    other, one for every turn of a hand and for as many settings as a file holds."""
    if target.via is None or target.takes == "sheet":
        return [plate if target.via is None else still_to_burn(plate)]
    plate = still_to_burn(plate)
    machine = plate.trial.machine
    waits = machine.stops_in_program and target.takes == "gcode"
    stops = [] if waits or target.shows else hand_stops(plate)
    turned = [hand_only(plate, stop) for stop in stops] or [plate]
    return [part for one in turned for part in split(one, machine.distinct_settings if target.numbered else None)]


def numbered_suffix(target: Target, number: int, count: int) -> str:
    """``.svg``, or ``.2of3.svg`` where there are several."""
    return target.suffix if count == 1 else f".{number}of{count}{target.suffix}"


def targets_of(plate: Plate) -> list[Target]:
    """The kinds of files that are of use with the plate's machine."""
    takes = plate.trial.machine.takes
    return [target for target in TARGETS.values() if takes is None or not target.takes or target.takes in takes]
