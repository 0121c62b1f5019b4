"""Plates without a shop: planned from a trial file, written from a plate file, read from photographs."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import click

from rezept.actions.commands import exporting
from rezept.cli.words import main, read_input, says_why
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.findings.between import between as steps_between
from rezept.core.machine import read_machine
from rezept.core.material import read_material
from rezept.core.plan import Plate, Trial, read_plate, read_trial
from rezept.core.plan import plan as plan_trial
from rezept.core.plan.gate import Today
from rezept.core.plan.kept_array import array_of, laid_on, read_array
from rezept.formats.strict_json import read_json, write_json
from rezept.formats.trial_file import read_trial_file


def _file_options(*kinds: str) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """An option for each kind of file a command writes."""

    def with_options(command: Callable[..., Any]) -> Callable[..., Any]:
        for kind in reversed(kinds):
            command = click.option(f"--{kind}", kind, metavar="FILE", help=_WRITES[kind])(command)
        return command

    return with_options


_WRITES = {
    "svg": "Write the plate as a drawing.",
    "dxf": "Write the plate as a drawing with a layer for each setting.",
    "gcode": "Write the plate as a program.",
    "trace": "Write the program that shows the outline at harmless power.",
    "tight": "Write the same, drawn tight round all that burns.",
    "csv": "Write the settings sheet.",
    "pdf": "Write the settings sheet to print.",
    "json": "Write the plate file: every patch with settings, dose, warnings, and how all of it is drawn.",
    "array": "Write the array without machine and material, to be laid on others.",
}
_machine_option = click.option(
    "--machine", "machine_file", metavar="FILE", help="Judge by this machine instead of the file's own."
)
_material_option = click.option(
    "--material", "material_file", metavar="FILE", help="Judge by this material instead of the file's own."
)


def _planned(trial: str, array: str | None, between: tuple[str, str] | None) -> Plate:
    """The plate of a trial file, with a kept array in place of its own or with finer steps between two patches."""
    asked = read_trial_file(read_input(trial))
    if array is not None:
        document, notes = laid_on(asked, read_array(read_json(read_input(array), array)))
        for note in notes:
            click.echo(f"note: {note[0].upper()}{note[1:]}.", err=True)
        asked = read_trial(document)
    plate = plan_trial(asked)
    if between is None:
        return plate
    return plan_trial(read_trial(plate.trial.with_array(*steps_between(plate, *between))))


@main.command()
@click.argument("trial")
@click.option("--lay", metavar="ARRAY", help="Lay this kept array round the middle of the trial's own range.")
@click.option(
    "--between", nargs=2, metavar="FAILED WORKED", help="Plan the finer steps from a patch that failed to one that did."
)
@_file_options(*_WRITES)
@_machine_option
@_material_option
@says_why
def plan(
    trial: str,
    lay: str | None,
    between: tuple[str, str] | None,
    machine_file: str | None,
    material_file: str | None,
    **files_named: str | None,
) -> None:
    """Plan TRIAL (a rezept-trial file, or - for standard input) and write its files.

    FILE may be - for standard output, once. Either all files are written or none. Where the machine takes only so
    many settings in a file, drawings come in parts: plate.1of3.svg. Without any file, a summary is printed. Exit code
    2 and one sentence where something cannot be.
    """
    plate = _planned(trial, lay, between)
    wanted = _wanted(files_named)
    today, by = _today(plate.trial, machine_file, material_file)
    files = exporting.written_files(plate, [kind for kind in wanted if kind != "array"], today)
    if "array" in wanted:
        files["array"] = [write_json(array_of(plate.trial, plate.trial.title or plate.trial.process.name).document())]
    _hand_out(wanted, files)
    if "-" not in wanted.values():
        minutes, seconds = divmod(round(plate.total_seconds), 60)
        click.echo(
            f"{plate.burning_words}, {plate.width_mm:.1f} x {plate.height_mm:.1f} mm, {minutes}:{seconds:02d} min"
        )
    for warning in [*plate.warnings, *(warning for patch in plate.patch_warnings for warning in patch)]:
        click.echo(f"{warning.level}: {warning.sentence}", err=True)
    if wanted:
        click.echo(by, err=True)


def _wanted(files_named: dict[str, str | None]) -> dict[str, str]:
    """The files asked for, by kind; at most one of them to standard output, and no two of one name."""
    wanted = {kind: file for kind, file in files_named.items() if file}
    if list(wanted.values()).count("-") > 1:
        raise InvalidInput("Only one file can go to standard output.")
    names = [Path(file).resolve() for file in wanted.values() if file != "-"]
    if len(set(names)) < len(names):
        raise InvalidInput("Two of the files have the same name.")
    return wanted


def _today(trial: Trial, machine_file: str | None, material_file: str | None) -> tuple[Today, str]:
    """By which facts files are judged here, where there is no shop, and the words for it."""
    machine, material = trial.machine, trial.material
    if machine_file is not None:
        machine = read_machine(Fields(read_json(read_input(machine_file), machine_file), "machine"))
    if material_file is not None:
        material = read_material(Fields(read_json(read_input(material_file), material_file), "material"))
    sources = [
        f"{what} {name} as {f'{file} says' if file else 'the plan says'}"
        for what, name, file in (("machine", machine.name, machine_file), ("material", material.title, material_file))
    ]
    return Today(machine, material), f"judged by: {' and '.join(sources)}"


def _hand_out(wanted: dict[str, str], files: dict[str, list[bytes]]) -> None:
    """Write all files or none, and print the one that goes to standard output."""
    printed = next((parts for kind, parts in files.items() if wanted[kind] == "-"), [])
    if len(printed) > 1:
        raise InvalidInput(f"This file comes in {len(printed)} parts; name it, standard output takes one.")
    exporting.write_all(
        {
            exporting.part_name(Path(wanted[kind]), number, len(parts)): data
            for kind, parts in files.items()
            for number, data in enumerate(parts, start=1)
            if wanted[kind] != "-"
        }
    )
    for data in printed:
        sys.stdout.buffer.write(data)


@main.command()
@click.argument("plate")
@click.option("--without-lettering", is_flag=True, help="Only the patches, exactly where they were.")
@_machine_option
@_material_option
@_file_options(*(kind for kind in _WRITES if kind != "array"))
@says_why
def files(
    plate: str,
    without_lettering: bool,
    machine_file: str | None,
    material_file: str | None,
    **files_named: str | None,
) -> None:
    """Write the files of PLATE (a rezept-plate file, or - for standard input) from what it says; nothing is planned.

    A plate file of an older Rezept does not say how its lettering was drawn; --without-lettering leaves it out.
    """
    wanted = _wanted(files_named)
    if not wanted:
        raise InvalidInput("Name a file to write: --gcode, --svg, --dxf, --csv, --pdf, --trace, --tight or --json.")
    frozen = read_plate(read_json(read_input(plate), plate))
    if without_lettering:
        frozen = replace(frozen, drawn=(), drawn_known=True, texts=())
    today, by = _today(frozen.trial, machine_file, material_file)
    _hand_out(wanted, exporting.written_files(frozen, list(wanted), today))
    click.echo(by, err=True)


@main.command()
@click.argument("plate")
@click.option("--front", metavar="PHOTO", help="Photo of the front.")
@click.option("--back", metavar="PHOTO", help="Photo of the back; cuts are decided by it.")
@click.option("--step", metavar="NAME", help="Which of several steps is read; the first, where none is named.")
@click.option("--json", "json", metavar="FILE", help="Write the readings; - for standard output.")
@says_why
def read(plate: str, front: str | None, back: str | None, step: str | None, json: str | None) -> None:
    """Read PLATE (a rezept-plate file, or -) from photographs of its faces.

    What can be read in part is, and says which part could not. Exit code 2 and one sentence where nothing can be read.
    """
    # What reading needs of SciPy takes longer to import than a plan takes; only those who read wait for it.
    from rezept.actions.queries import photo_reading

    named = {face: file for face, file in (("front", front), ("back", back)) if file}
    if not named:
        raise InvalidInput("Name a photo: --front, --back or both.")
    planned = read_plate(read_json(read_input(plate), plate))
    if step is not None:
        planned = planned.by_name(step)
    document, missed = photo_reading.read_plate(planned, {face: read_input(file) for face, file in named.items()})
    if json == "-":
        sys.stdout.buffer.write(write_json(document))
    elif json:
        exporting.write_all({Path(json): write_json(document)})
    for face in document["faces"]:
        if json != "-":
            click.echo(f"{face['face']}: found by {face['found_by']}, {face['residual_mm']:.2f} mm off")
        for doubt in face["doubts"]:
            click.echo(f"{face['face']}: {doubt}", err=True)
    for sentence in missed:
        click.echo(f"not read: {sentence}", err=True)
