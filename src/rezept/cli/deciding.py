"""Decisions without a shop: from readings files to settings, the next array, and what is missing."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import click

from rezept.actions.commands import exporting
from rezept.cli.words import main, read_input, says_why
from rezept.core.colour import read_hex
from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.findings.candidates import Aim
from rezept.core.findings.choices import LEAST_PIECE, MOST_PIECE, Wanted, Wish
from rezept.core.findings.from_readings import ReadPlate
from rezept.core.parameters import NEVER_DEFAULTED, parameter, read_settings
from rezept.core.plan import Trial
from rezept.core.process import PROCESSES, Process
from rezept.core.scales import SCALES, scale_of
from rezept.core.wording import settings_name
from rezept.formats.strict_json import read_json, write_json

WANTED_AS = {
    "darkness": "Say how dark: darkness=40, an L* from 0 (black) to 100 (white).",
    "depth": "Say how deep: depth=0.5 in mm, or depth=0.5+-0.1 with what it may be off.",
    "colour": "Say which colour: colour=#a06030, as a screen shows it.",
}
LEAST_PATCHES, MOST_PATCHES = 1, 400


@main.command()
@click.argument("readings", nargs=-1, required=True)
@click.option(
    "--aim",
    "aims",
    multiple=True,
    metavar="AIM",
    help="fastest, gentlest, forgiving, cleanest, darkness=L (L* from 0 to 100), depth=MM or depth=MM+-OFF,"
    " colour=#RRGGBB; several may be named.",
)
@click.option("--at-most", multiple=True, metavar="SETTING=VALUE", help="Choose no more of a setting: power_pct=70.")
@click.option(
    "--bound", multiple=True, metavar="SCALE=VALUE", help="Expect no more of what is read (no less evenness): char=1."
)
@click.option("--piece-mm", type=float, help="Say seconds for so many mm of outline (mm2 of what is filled), not 100.")
@click.option("--most", type=int, default=16, show_default=True, help="Patches the next array may have.")
@click.option("--probe", metavar="FILE", help="A list of settings to say what is expected of.")
@click.option("--json", "json", metavar="FILE", help="Write the decision; - for standard output.")
@says_why
def decide(
    readings: tuple[str, ...],
    aims: tuple[str, ...],
    at_most: tuple[str, ...],
    bound: tuple[str, ...],
    piece_mm: float | None,
    most: int,
    probe: str | None,
    json: str | None,
) -> None:
    """Decide by READINGS (rezept-readings files of one material, process and head).

    Files with one name of a lot share a sheet's luck; a file without it is from a sheet of its own.
    """
    # What models need of SciPy takes longer to import than a plan takes.
    from rezept.core.findings.decision import aims_of
    from rezept.core.findings.decision import decide as decided
    from rezept.core.findings.from_readings import ground_lightness, read_readings
    from rezept.core.findings.observations import joined
    from rezept.core.findings.report import decision_document

    plates = [read_readings(read_json(read_input(file), file), burn) for burn, file in enumerate(readings, start=1)]
    trial = _one_thing(readings, plates)
    process = trial.process
    named, wanted = _aims(aims, aims_of(process))
    wish = Wish(
        _bounds(at_most, process, settings=True), _bounds(bound, process, settings=False), _piece(piece_mm), _most(most)
    )
    decision = decided(
        joined([one.seen for one in plates]),
        trial.machine,
        aims=named,
        wish=wish,
        ground=ground_lightness(plates[-1].plate),
        wanted=wanted,
    )
    sources = [i for i, one in enumerate(plates) for _ in range(len(one.seen))]
    document = decision_document(decision, trial, readings, sources, _probes(probe))
    if json == "-":
        sys.stdout.buffer.write(write_json(document))
        return
    if json:
        exporting.write_all({Path(json): write_json(document)})
    for candidate in decision.candidates:
        click.echo(f"{candidate.aim}: {settings_name(candidate.settings)}. {candidate.why}")
    if decision.next is not None:
        click.echo(f"next: {decision.next.why}")
    for sentence in [*decision.questions, *(one.why for one in decision.look_again)]:
        click.echo(sentence, err=True)


def _one_thing(files: Sequence[str], plates: Sequence[ReadPlate]) -> Trial:
    """The trial all of them are of: one process, machine, head and material.

    Raises
    ------
    InvalidInput : two of them differ in one of these
    """
    first = plates[0].plate.trial
    for file, one in zip(files, plates, strict=True):
        trial = one.plate.trial
        for what, here, there in (
            ("process", trial.process.key, first.process.key),
            ("machine", trial.machine.name, first.machine.name),
            ("head", trial.machine.head.name, first.machine.head.name),
            ("material", trial.material.title, first.material.title),
        ):
            if here != there:
                raise InvalidInput(
                    f"{file} is of another {what} ({here or 'unnamed'}) than {files[0]} ({there or 'unnamed'});"
                    " a decision is for one.",
                    what,
                    here,
                )
    return plates[-1].plate.trial


def _aims(named: Sequence[str], known: Sequence[Aim]) -> tuple[list[Aim], Wanted]:
    """The aims asked for, all but those that want something where none is, and what is wanted."""
    wanted = Wanted()
    found: list[Aim] = []
    for name in named:
        aim, sign, value = name.partition("=")
        if aim in WANTED_AS and not sign:
            raise InvalidInput(WANTED_AS[aim], "aim", name)
        if aim not in known or (sign and aim not in WANTED_AS):
            raise InvalidInput(f"There is no aim {quoted(name)} for this process. There is: {', '.join(known)}.", "aim")
        wanted = _wanted(wanted, aim, value)
        found.append(next(one for one in known if one == aim))
    return (found or [aim for aim in known if aim not in WANTED_AS]), wanted


def _wanted(wanted: Wanted, aim: str, value: str) -> Wanted:
    """The same, and what an aim says is wanted."""
    if aim == "darkness":
        return replace(wanted, lightness=_number(value, "aim", 0.0, 100.0))
    if aim == "depth":
        depth, sign, off = value.partition("+-")
        least, most = 0.001, SCALES["depth_mm"].high
        depth_off = _number(off, "aim", least, most) if sign else None
        return replace(wanted, depth_mm=_number(depth, "aim", least, most), depth_off_mm=depth_off)
    if aim == "colour":
        return replace(wanted, lab=read_hex(value, "aim"))
    return wanted


def _number(text: str, path: str, low: float, high: float) -> float:
    try:
        value = float(text)
    except ValueError:
        raise InvalidInput(f"{quoted(text)} is no number.", path, text) from None
    if not low <= value <= high:
        raise InvalidInput(f"{text} should be from {low:g} to {high:g}.", path, value)
    return value


def _bounds(named: Sequence[str], process: Process, *, settings: bool) -> dict[str, float]:
    """``KEY=VALUE`` words as bounds of settings or of what is read."""
    option = "--at-most" if settings else "--bound"
    found = {}
    for word in named:
        key, sign, value = word.partition("=")
        if not sign:
            raise InvalidInput(
                f"{option} takes a name and a value: {'power_pct=70' if settings else 'char=1'}.", option
            )
        row = parameter(key, option) if settings else scale_of(key, process, option)
        found[row.key] = _number(value, option, row.low, row.high)
    return found


def _piece(size: float | None) -> float | None:
    if size is not None and not LEAST_PIECE <= size <= MOST_PIECE:
        raise InvalidInput(f"A piece is {LEAST_PIECE:g} mm long or more.", "--piece-mm", size)
    return size


def _most(most: int) -> int:
    if not LEAST_PATCHES <= most <= MOST_PATCHES:
        raise InvalidInput(f"An array has {LEAST_PATCHES} to {MOST_PATCHES} patches.", "--most", most)
    return most


def _probes(file: str | None) -> list[dict[str, float]]:
    """The settings somebody asks about: a list of objects, each with speed and power at least."""
    if file is None:
        return []
    asked: Any = read_json(read_input(file), file)
    if not isinstance(asked, list):
        raise InvalidInput("Settings to ask about come as a list of objects.", "probe")
    found = []
    for i, one in enumerate(asked):
        path = f"probe[{i}]"
        if not isinstance(one, dict):
            raise InvalidInput("Each of the settings to ask about is an object with keys.", path)
        for key in NEVER_DEFAULTED:
            if key not in one:
                raise InvalidInput(f"{parameter(key, path).name.capitalize()} is missing.", f"{path}.{key}")
        found.append(read_settings(Fields(one, path)))
    return found


@main.command()
@click.option("--machine", "machine_file", metavar="FILE", required=True, help="The machine, as in a trial file.")
@click.option("--material", "material_file", metavar="FILE", required=True, help="The material, as in a trial file.")
@click.option("--process", required=True, metavar="PROCESS", help=f"{', '.join(PROCESSES)}.")
@click.option("--known", metavar="FILE", help="What is known already: a rezept-recipes file.")
@click.option("--json", "json", metavar="FILE", help="Write the starting point; - for standard output.")
@says_why
def start(machine_file: str, material_file: str, process: str, known: str | None, json: str | None) -> None:
    """Say where to begin with a material on a machine: a setting, its spread, and the range to test.

    Never more than an estimate, whatever it rests on.
    """
    from rezept.core.begin.estimate import Source, estimate
    from rezept.core.begin.from_recipes import read_recipes, sheet_of
    from rezept.core.machine import read_machine
    from rezept.core.material import read_material

    if process not in PROCESSES:
        raise InvalidInput(f"A process is one of {', '.join(PROCESSES)}.", "process", process)
    machine = read_machine(Fields(read_json(read_input(machine_file), machine_file), "machine"))
    material = read_material(Fields(read_json(read_input(material_file), material_file), "material"))
    recipes = [] if known is None else read_recipes(read_json(read_input(known), known), process)
    found = estimate(PROCESSES[process], sheet_of(material), machine, [one for _, one in recipes])
    # Its sources are counted in the file, where there may be others between them.
    sources = tuple(Source(recipes[one.index][0], one.weight, one.reasons) for one in found.sources)
    document = replace(found, sources=sources).document()
    if json == "-":
        sys.stdout.buffer.write(write_json(document))
        return
    if json:
        exporting.write_all({Path(json): write_json(document)})
    click.echo(f"begin at {settings_name(found.settings)}; 80 in 100 between {found.low:g} and {found.high:g} mm/s")
    for one in sources:
        click.echo(f"{100 * one.weight:.0f} %: recipe {one.index + 1}: {', '.join(one.reasons)}")
