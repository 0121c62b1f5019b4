"""The settings sheet, to type from where a machine takes no file: one line a distinct setting, in burn order, in the
units the machine's own control shows. As CSV and as a page to print."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import Any
from xml.sax.saxutils import escape

from rezept.core.control import in_control_order, own_amount, own_unit
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan import Plate
from rezept.core.plan.distinct import Distinct, distinct_settings
from rezept.core.plan.elements import Step
from rezept.core.plan.plate_words import title_words

_MM_A_PAGE_EDGE = 14
_CELL_PADDING = 13.0
_ROWS_A_TABLE = 200


def _heading(machine: Machine, key: str) -> str:
    symbol = own_unit(machine, key)
    return f"{PARAMETERS[key].name} {'%' if symbol == '%' else symbol}".strip()


def _amounts(machine: Machine, settings: Mapping[str, float]) -> list[str]:
    return [own_amount(machine, key, value) for key, value in settings.items()]


def _in_columns(machine: Machine, keys: list[str], settings: Mapping[str, float]) -> list[str]:
    """The settings in their columns; what a step has not stays empty."""
    return [own_amount(machine, key, settings[key]) if key in settings else "" for key in keys]


def _unit(step: Step) -> str:
    return step.process.dose_unit.replace("²", "2")


def _warnings(plate: Plate, kind: Distinct) -> str:
    """What is to be said of these patches in this step, each sentence once."""
    said = dict.fromkeys(warning.sentence for index in kind.elements for warning in plate.warnings_of(index, kind.step))
    return " ".join(said)


def _keys(plate: Plate) -> list[str]:
    """Every setting of any step, as the fields of the control come."""
    return in_control_order(plate.trial.machine, dict.fromkeys(key for step in plate.steps for key in step.settings))


def _rows(plate: Plate, keys: list[str]) -> list[list[str]]:
    """The heading and one row a setting, with the settings `keys` in columns of their own."""
    machine, several = plate.trial.machine, len(plate.steps) > 1
    # Of several steps each says which it is, and its dose with its unit.
    dose = "dose" if several else f"dose {_unit(plate.steps[0])}"
    rows = [
        ["setting", *(["step"] if several else []), "turns", "patches", *[_heading(machine, key) for key in keys]]
        + [dose, "seconds each", "warnings"]
    ]
    for kind in distinct_settings(plate):
        first, step = kind.elements[0], plate.steps[kind.step]
        rows.append(
            [
                str(kind.number),
                *([f"{kind.step + 1} {plate.step_name(kind.step)}"] if several else []),
                " ".join(str(place + 1) for place in kind.parts.tolist()),
                " ".join(plate.elements.ids[index] for index in kind.elements),
                *_in_columns(machine, keys, kind.settings),
                f"{step.dose[first]:.6g}" + (f" {_unit(step)}" if several else ""),
                f"{step.seconds[first]:.2f}",
                _warnings(plate, kind),
            ]
        )
    return rows


def write_sheet(plate: Plate) -> bytes:
    """CSV (RFC 4180, UTF-8); units stand in the headings."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    heading, *rows = _rows(plate, _keys(plate))
    writer.writerow(["plate", *heading])
    writer.writerows([plate.trial.code or "", *row] for row in rows)
    return out.getvalue().encode()


def write_printed_sheet(plate: Plate) -> bytes:
    """The same as a PDF of A4 pages, headings repeated, what the labels and cuts take below."""
    # reportlab takes longer to import than a plan takes; only those who print wait for it.
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.lib.styles import getSampleStyleSheet
    from reportlab.lib.units import mm
    from reportlab.pdfbase.pdfmetrics import stringWidth
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Table, TableStyle

    styles = getSampleStyleSheet()
    small = styles["BodyText"].clone("small", fontSize=8, leading=9.5)
    # What is the same all over stands once above the table.
    shown = (*plate.varied(), "speed_mm_s", "power_pct")
    heading, *rows = _rows(plate, [key for key in _keys(plate) if key in shown])
    widths = _widths(heading, landscape(A4)[0] - 2 * _MM_A_PAGE_EDGE * mm)

    def cell(word: str, width: float) -> Any:
        # Only what has to be broken into lines is a paragraph: those take a hundred times as long.
        fits = stringWidth(word, small.fontName, small.fontSize) < width - _CELL_PADDING
        return word if fits else Paragraph(escape(word), small)

    head = [Paragraph(f"<b>{escape(word)}</b>", small) for word in heading]
    look = TableStyle(
        [
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, "#94876F"),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("FONT", (0, 0), (-1, -1), small.fontName, small.fontSize, small.leading),
        ]
    )
    # A table works out the heights of all its rows for every page it goes on to: one for some pages each.
    tables = []
    for first in range(0, len(rows), _ROWS_A_TABLE):
        some = [[cell(*one) for one in zip(row, widths, strict=True)] for row in rows[first : first + _ROWS_A_TABLE]]
        tables.append(Table([head, *some], repeatRows=1, colWidths=widths, style=look))
    words = [Paragraph(escape("Settings of " + (plate.trial.code or "a plate without code")), styles["Heading2"])]
    words.append(Paragraph(escape(" · ".join(title_words(plate.trial)[1:])), small))
    words += tables
    for what, last in (("Labels", False), ("Cut out", True)):
        for settings in [part.settings for part in plate.drawn if part.last == last][:1]:
            amounts = zip(settings, _amounts(plate.trial.machine, settings), strict=True)
            said = ", ".join(f"{_heading(plate.trial.machine, key)}: {amount}" for key, amount in amounts)
            words.append(Paragraph(escape(f"{what}: {said}"), small))
    out = io.BytesIO()
    SimpleDocTemplate(
        out,
        pagesize=landscape(A4),
        title=f"Settings of {plate.trial.code or plate.trial.title}",
        author="Rezept",
        leftMargin=_MM_A_PAGE_EDGE * mm,
        rightMargin=_MM_A_PAGE_EDGE * mm,
        topMargin=_MM_A_PAGE_EDGE * mm,
        bottomMargin=_MM_A_PAGE_EDGE * mm,
        invariant=1,
    ).build(words)
    return out.getvalue()


# What the columns of words take of the room that figures leave.
_SHARES = {"turns": 0.2, "patches": 1 / 3, "warnings": 1.4 / 3}
_STEP_FIGURES = 1.5


def _widths(heading: list[str], width: float) -> list[float]:
    """Column widths: the lists of turns and patches and the warnings take what the figures leave."""
    figures = sum(_STEP_FIGURES if word == "step" else 1.0 for word in heading if word not in _SHARES)
    figure = min(48.0, width / (len(heading) + 4))
    left = width - figure * figures
    return [
        left * _SHARES[word] if word in _SHARES else figure * (_STEP_FIGURES if word == "step" else 1.0)
        for word in heading
    ]
