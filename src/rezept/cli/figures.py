"""What is understood of a drawing somebody brings."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from rezept.actions.commands import exporting
from rezept.cli.words import main, read_input, says_why
from rezept.formats.drawing import read_figure
from rezept.formats.strict_json import write_json


@main.command()
@click.argument("drawing")
@click.option(
    "--close-gaps-mm",
    type=click.FloatRange(0, 10),
    default=0.0,
    help="Join ends that lie no farther apart by a straight line.",
)
@click.option("--json", "json", metavar="FILE", help="Write what was understood; - for standard output.")
@says_why
def figure(drawing: str, close_gaps_mm: float, json: str | None) -> None:
    """Say what is understood of DRAWING (an SVG or DXF file, or - for standard input): its size, its outlines, what
    does not close and what was left out."""
    brought = read_figure(read_input(drawing), close_gaps_mm)
    document = brought.document()
    if json == "-":
        sys.stdout.buffer.write(write_json(document))
        return
    if json:
        exporting.write_all({Path(json): write_json(document)})
    for line in brought.words():
        click.echo(line)
