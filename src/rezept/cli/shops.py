"""Shops: founding one, adding to it, keeping it safe."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import click

from rezept.actions.commands import equipment, people, safekeeping, signing_in
from rezept.actions.open_shop import DATABASE_NAME, Shop, open_shop
from rezept.cli.words import data_option, main, read_input, says_why
from rezept.core.errors import InvalidInput
from rezept.formats.strict_json import read_json

_passphrase_option = click.option(
    "--passphrase",
    envvar="REZEPT_PASSPHRASE",
    prompt="PIN or passphrase",
    hide_input=True,
    confirmation_prompt=True,
    help="Asked for when not given; REZEPT_PASSPHRASE keeps it out of the list of processes.",
)


@main.command()
@click.argument("folder", type=click.Path(path_type=Path))
@click.option("--name", required=True, help="What the shop is called.")
@click.option("--keeper", required=True, help="Its first member, who keeps it.")
@click.option(
    "--tag", default="SH0P", show_default=True, help="Four capital letters or digits, first in every plate's code."
)
@_passphrase_option
@says_why
def found(folder: Path, name: str, keeper: str, tag: str, passphrase: str) -> None:
    """Found a new shop in FOLDER. (`rezept serve` on an empty folder offers the same in the browser.)"""
    shop = open_shop(folder)
    signing_in.found_with(shop, name, tag, keeper, passphrase, "passphrase")
    click.echo(f"{name} is founded in {folder}. Add machines and materials, then: rezept serve --data {folder}")


@main.group()
def add() -> None:
    """Add a machine, a material or a member to a shop."""


def _keeper_of(shop: Shop) -> Any:
    """Whoever can run this command owns the folder, so it acts for the shop's first keeper."""
    keeper = people.first_keeper(shop)
    if keeper is None:
        raise InvalidInput("This shop has not been founded yet: rezept found DIR --name ... --keeper ...")
    return keeper


@add.command("machine")
@click.argument("file")
@data_option
@says_why
def add_machine(file: str, data: Path) -> None:
    """Add the machine in FILE: the machine object of a trial file, with "head" or a list "heads"."""
    document = read_json(read_input(file), file)
    if not isinstance(document, dict):
        raise InvalidInput("A machine file holds one object.")
    heads = document.pop("heads", None) or [document.pop("head", {})]
    shop = open_shop(data)
    equipment.add_machine(shop, _keeper_of(shop), document, heads)
    click.echo(f"{document['name']} is in the shop.")


@add.command("material")
@click.argument("file")
@click.option("--process", "processes", multiple=True, help="A process it is meant for; may be repeated.")
@data_option
@says_why
def add_material(file: str, processes: tuple[str, ...], data: Path) -> None:
    """Add the material in FILE: the material object of a trial file."""
    document = read_json(read_input(file), file)
    shop = open_shop(data)
    equipment.add_material(shop, _keeper_of(shop), document, list(processes) or ["cut", "line", "area"])
    click.echo(f"{document['name']} is in the shop.")


@add.command("member")
@click.argument("name")
@click.option("--role", default="member", show_default=True, help="guest, member, technician or keeper.")
@data_option
@says_why
def add_member(name: str, role: str, data: Path) -> None:
    """Add the member NAME."""
    shop = open_shop(data)
    people.add_member(shop, _keeper_of(shop), name, role)
    click.echo(f"{name} is a {role} of the shop.")


@main.command()
@click.argument("name")
@data_option
@_passphrase_option
@says_why
def passphrase(name: str, data: Path, passphrase: str) -> None:
    """Give the member NAME a new PIN or passphrase, when nobody can sign in to do it."""
    shop = open_shop(data)
    signing_in.set_secret(shop, _keeper_of(shop), people.member_named(shop, name).id, passphrase)
    click.echo(f"{name} signs in with the new passphrase from now on and was signed out everywhere.")


@main.command()
@click.argument("target", type=click.Path(path_type=Path))
@data_option
@says_why
def backup(target: Path, data: Path) -> None:
    """Write a backup of the shop to TARGET, a file or a folder, while it may go on being used."""
    if not (data / DATABASE_NAME).exists():
        raise InvalidInput(f"There is no shop in {data}.")
    made = safekeeping.backup(open_shop(data), target)
    size = f"{made.path.stat().st_size / 1e6:.1f} MB"
    if made.missing:
        click.echo(f"{made.path}, {size}, is not whole. {made.sentence}", err=True)
        sys.exit(1)
    click.echo(f"{made.path} holds the whole shop, {size}.")


@main.command()
@click.argument("source", type=click.Path(path_type=Path))
@click.argument("folder", type=click.Path(path_type=Path))
@says_why
def restore(source: Path, folder: Path) -> None:
    """Put the shop of the backup SOURCE into FOLDER, which is new or empty.

    Exit code 1 where the backup itself lacked something: the rest is there.
    """
    safekeeping.restore(source, folder)
    serious = [finding for finding in safekeeping.check(folder) if finding.serious]
    for finding in serious:
        click.echo(finding.sentence, err=True)
    click.echo(f"The shop is in {folder}. Look at it: rezept serve --data {folder}")
    sys.exit(1 if serious else 0)


@main.command()
@data_option
@says_why
def check(data: Path) -> None:
    """Look for damaged records, missing photos, and photos no plate refers to. Changes nothing.

    Exit code 1 where something is lost or damaged.
    """
    findings = safekeeping.check(data)
    for finding in findings:
        click.echo(f"{'lost or damaged' if finding.serious else 'note'}: {finding.sentence}")
    if not findings:
        click.echo("All is well: records whole, every photo there and unchanged.")
    sys.exit(1 if any(finding.serious for finding in findings) else 0)
