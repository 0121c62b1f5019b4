"""The command line of Rezept."""

from __future__ import annotations

import shutil
import socket
import sys
import threading
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from dataclasses import replace
from functools import wraps
from pathlib import Path
from typing import Any

import click
import platformdirs

from rezept import __version__
from rezept.actions import clearing, equipment, exporting, people, photos, safekeeping, signing_in
from rezept.actions.live_burns import LiveBurns
from rezept.actions.open_shop import DATABASE_NAME, Shop, open_shop, served_here
from rezept.core.errors import InvalidInput, RezeptError, SeveralErrors
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

MISUSE = 2
DEFAULT_PORT = 8137
_DATA = Path(platformdirs.user_data_dir("rezept"))


def _says_why(command: Callable[..., Any]) -> Callable[..., Any]:
    """A command whose Rezept errors become sentences on stderr and exit code 2."""

    @wraps(command)
    def run(*args: Any, **kwargs: Any) -> Any:
        try:
            return command(*args, **kwargs)
        except SeveralErrors as error:
            for one in error.errors:
                click.echo(str(one), err=True)
        except RezeptError as error:
            click.echo(str(error), err=True)
        sys.exit(MISUSE)

    return run


@click.group(context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(__version__, prog_name="rezept")
def main() -> None:
    """Test arrays for laser machines: plan them, burn them, read them, decide, and keep what works.

    \b
    A shop in the browser:     rezept demo
                               rezept found DIR --name "Our shop" --keeper "Kay"
                               rezept serve --data DIR
    A trial without a shop:    rezept plan trial.json --svg plate.svg --gcode plate.gcode
    """


def _read_input(source: str) -> bytes:
    if source == "-":
        return sys.stdin.buffer.read()
    try:
        return Path(source).read_bytes()
    except OSError as error:
        raise InvalidInput(f"{source} cannot be read: {error.strerror}.") from error


def _planned(trial: str, array: str | None, between: tuple[str, str] | None) -> Plate:
    """The plate of a trial file, with a kept array in place of its own or with finer steps between two patches."""
    asked = read_trial_file(_read_input(trial))
    if array is not None:
        document, notes = laid_on(asked, read_array(read_json(_read_input(array), array)))
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
@click.option("--svg", metavar="FILE", help="Write the plate as a drawing.")
@click.option("--dxf", metavar="FILE", help="Write the plate as a drawing with a layer for each setting.")
@click.option("--gcode", metavar="FILE", help="Write the plate as a program.")
@click.option("--trace", metavar="FILE", help="Write the program that shows the outline at harmless power.")
@click.option("--csv", metavar="FILE", help="Write the settings sheet.")
@click.option("--pdf", metavar="FILE", help="Write the settings sheet to print.")
@click.option("--json", "json", metavar="FILE", help="Write the plate file: every patch with settings, dose, warnings.")
@click.option("--array", metavar="FILE", help="Write the array without machine and material, to be laid on others.")
@click.option("--machine", "machine_file", metavar="FILE", help="Judge by this machine instead of the trial's own.")
@click.option("--material", "material_file", metavar="FILE", help="Judge by this material instead of the trial's own.")
@_says_why
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
            f"{len(plate.order)} patches, {plate.width_mm:.1f} x {plate.height_mm:.1f} mm, {minutes}:{seconds:02d} min"
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
        machine = read_machine(Fields(read_json(_read_input(machine_file), machine_file), "machine"))
    if material_file is not None:
        material = read_material(Fields(read_json(_read_input(material_file), material_file), "material"))
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
@click.option("--machine", "machine_file", metavar="FILE", help="Judge by this machine instead of the plate's own.")
@click.option("--material", "material_file", metavar="FILE", help="Judge by this material instead of the plate's own.")
@click.option("--svg", metavar="FILE", help="Write the plate as a drawing.")
@click.option("--dxf", metavar="FILE", help="Write the plate as a drawing with a layer for each setting.")
@click.option("--gcode", metavar="FILE", help="Write the plate as a program.")
@click.option("--trace", metavar="FILE", help="Write the program that shows the outline at harmless power.")
@click.option("--csv", metavar="FILE", help="Write the settings sheet.")
@click.option("--pdf", metavar="FILE", help="Write the settings sheet to print.")
@click.option("--json", "json", metavar="FILE", help="Write the plate file again.")
@_says_why
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
        raise InvalidInput("Name a file to write: --gcode, --svg, --dxf, --csv, --pdf, --trace or --json.")
    frozen = read_plate(read_json(_read_input(plate), plate))
    if without_lettering:
        frozen = replace(frozen, drawn=(), drawn_known=True, texts=())
    today, by = _today(frozen.trial, machine_file, material_file)
    _hand_out(wanted, exporting.written_files(frozen, list(wanted), today))
    click.echo(by, err=True)


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
@_says_why
def found(folder: Path, name: str, keeper: str, tag: str, passphrase: str) -> None:
    """Found a new shop in FOLDER. (`rezept serve` on an empty folder offers the same in the browser.)"""
    shop = open_shop(folder)
    people.found_shop(shop, name, tag, keeper, signing_in.hashed(passphrase, "passphrase"))
    click.echo(f"{name} is founded in {folder}. Add machines and materials, then: rezept serve --data {folder}")


@main.group()
def add() -> None:
    """Add a machine, a material or a member to a shop."""


_data_option = click.option(
    "--data", type=click.Path(path_type=Path), default=_DATA, show_default=True, help="The shop's folder."
)


def _keeper_of(shop: Shop) -> Any:
    """Whoever can run this command owns the folder, so it acts for the shop's first keeper."""
    keeper = people.first_keeper(shop)
    if keeper is None:
        raise InvalidInput("This shop has not been founded yet: rezept found DIR --name ... --keeper ...")
    return keeper


@add.command("machine")
@click.argument("file")
@_data_option
@_says_why
def add_machine(file: str, data: Path) -> None:
    """Add the machine in FILE: the machine object of a trial file, with "head" or a list "heads"."""
    document = read_json(_read_input(file), file)
    if not isinstance(document, dict):
        raise InvalidInput("A machine file holds one object.")
    heads = document.pop("heads", None) or [document.pop("head", {})]
    shop = open_shop(data)
    equipment.add_machine(shop, _keeper_of(shop), document, heads)
    click.echo(f"{document['name']} is in the shop.")


@add.command("material")
@click.argument("file")
@click.option("--process", "processes", multiple=True, help="A process it is meant for; may be repeated.")
@_data_option
@_says_why
def add_material(file: str, processes: tuple[str, ...], data: Path) -> None:
    """Add the material in FILE: the material object of a trial file."""
    document = read_json(_read_input(file), file)
    shop = open_shop(data)
    equipment.add_material(shop, _keeper_of(shop), document, list(processes) or ["cut", "line", "area"])
    click.echo(f"{document['name']} is in the shop.")


@add.command("member")
@click.argument("name")
@click.option("--role", default="member", show_default=True, help="guest, member, technician or keeper.")
@_data_option
@_says_why
def add_member(name: str, role: str, data: Path) -> None:
    """Add the member NAME."""
    shop = open_shop(data)
    people.add_member(shop, _keeper_of(shop), name, role)
    click.echo(f"{name} is a {role} of the shop.")


@main.command()
@click.argument("name")
@_data_option
@_passphrase_option
@_says_why
def passphrase(name: str, data: Path, passphrase: str) -> None:
    """Give the member NAME a new PIN or passphrase, when nobody can sign in to do it."""
    shop = open_shop(data)
    signing_in.set_secret(shop, _keeper_of(shop), people.member_named(shop, name).id, passphrase)
    click.echo(f"{name} signs in with the new passphrase from now on and was signed out everywhere.")


HERE = "127.0.0.1"


def _serve(
    shop: Shop,
    port: int,
    host: str = HERE,
    names: list[str] | None = None,
    schedule: safekeeping.Schedule | None = None,
    beside: Callable[[Shop, LiveBurns], AbstractContextManager[None]] | None = None,
) -> None:
    """Serve a shop until somebody ends it, with what runs `beside` it."""
    with served_here(shop.folder):
        _serve_alone(shop, port, host, names, schedule, beside)


def _serve_alone(
    shop: Shop,
    port: int,
    host: str,
    names: list[str] | None,
    schedule: safekeeping.Schedule | None,
    beside: Callable[[Shop, LiveBurns], AbstractContextManager[None]] | None,
) -> None:
    from waitress.server import create_server

    from rezept.server import create_app

    try:
        burning = LiveBurns(shop)
        server = create_server(create_app(shop, names, schedule, burning), host=host, port=port, threads=64)
    except OSError as error:
        raise InvalidInput(f"{host}:{port} cannot be used: {error.strerror}. Choose another with --port.") from error
    click.echo(f"Rezept is at http://{HERE if host == '0.0.0.0' else host}:{server.effective_port}/  (Ctrl+C ends it)")
    over = threading.Event()
    threading.Thread(target=_read_photos, args=(shop, over), daemon=True).start()
    keeping_safe = None
    if schedule is not None:
        keeping_safe = threading.Thread(target=_keep_safe, args=(shop, schedule, over), daemon=True)
        keeping_safe.start()
    try:
        with beside(shop, burning) if beside else nullcontext():
            server.run()
    finally:
        over.set()
        if keeping_safe is not None:
            keeping_safe.join()
        server.close()
        burning.close()
        shop.close()


FIRST_PAGES_S, BETWEEN_PHOTOS_S = 10.0, 0.5
LOOK_EVERY_S = 300.0


def _read_photos(shop: Shop, over: threading.Event) -> None:
    """Read photos that came unread, one by one and only once the first pages have been served."""
    if not over.wait(FIRST_PAGES_S):
        while photos.read_next(shop) and not over.wait(BETWEEN_PHOTOS_S):
            pass


def _keep_safe(shop: Shop, schedule: safekeeping.Schedule, over: threading.Event) -> None:
    """Make the scheduled backups until the server ends."""
    while True:
        if people.shop_name(shop) is not None and not people.is_demo(shop):
            safekeeping.run_if_due(shop, schedule, lambda sentence: click.echo(sentence, err=True))
        if over.wait(LOOK_EVERY_S):
            return


_port_option = click.option("--port", type=click.IntRange(0, 65535), default=DEFAULT_PORT, show_default=True)


@main.command()
@_data_option
@_port_option
@click.option(
    "--host", default=HERE, show_default=True, help="Address to listen on; 0.0.0.0 is every network of this machine."
)
@click.option("--name", "names", multiple=True, help="What the shop is called in its network; may be repeated.")
@click.option(
    "--backup-to", type=click.Path(path_type=Path), help="Folder for scheduled backups.  [default: DATA/backups]"
)
@click.option(
    "--backup-every", type=click.FloatRange(0), default=24.0, show_default=True, help="Hours; 0 makes no backups."
)
@click.option("--backup-keep", type=click.IntRange(1), default=7, show_default=True, help="How many stay.")
@_says_why
def serve(
    data: Path,
    port: int,
    host: str,
    names: tuple[str, ...],
    backup_to: Path | None,
    backup_every: float,
    backup_keep: int,
) -> None:
    """Serve the shop in a folder, on this machine only unless --host says otherwise."""
    shop = open_shop(data)
    folder = backup_to or data / "backups"
    schedule = safekeeping.Schedule(folder, backup_every, backup_keep) if backup_every else None
    if host in (HERE, "localhost"):
        _serve(shop, port, schedule=schedule)
        return
    if people.shop_name(shop) is None:
        raise InvalidInput("Found the shop first, on this machine: rezept found, or rezept serve without --host.")
    if people.is_demo(shop):
        raise InvalidInput("The demo shop has no sign-in, so it is served on this machine only.")
    own = socket.gethostname().lower()
    click.echo(
        "Everybody in this network can now reach the sign-in page. What they type travels unencrypted unless a"
        " proxy with a certificate stands before it: use it in the shop's own network, never on the open internet."
    )
    _serve(shop, port, host, [own, f"{own}.local", *(name.lower() for name in names)], schedule)


@main.command()
@click.argument("target", type=click.Path(path_type=Path))
@_data_option
@_says_why
def backup(target: Path, data: Path) -> None:
    """Write a backup of the shop to TARGET, a file or a folder, while it may go on being used."""
    if not (data / DATABASE_NAME).exists():
        raise InvalidInput(f"There is no shop in {data}.")
    made = safekeeping.backup(open_shop(data), target)
    click.echo(f"{made} holds the whole shop, {made.stat().st_size / 1e6:.1f} MB.")


@main.command()
@click.argument("source", type=click.Path(path_type=Path))
@click.argument("folder", type=click.Path(path_type=Path))
@_says_why
def restore(source: Path, folder: Path) -> None:
    """Put the shop of the backup SOURCE into FOLDER, which is new or empty."""
    safekeeping.restore(source, folder)
    serious = [finding for finding in safekeeping.check(folder) if finding.serious]
    for finding in serious:
        click.echo(finding.sentence, err=True)
    click.echo(f"The shop is in {folder}. Look at it: rezept serve --data {folder}")


@main.command()
@_data_option
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


@main.command()
@click.argument("plate")
@click.option("--front", metavar="PHOTO", help="Photo of the front.")
@click.option("--back", metavar="PHOTO", help="Photo of the back; cuts are decided by it.")
@click.option("--json", "json", metavar="FILE", help="Write the readings; - for standard output.")
@_says_why
def read(plate: str, front: str | None, back: str | None, json: str | None) -> None:
    """Read PLATE (a rezept-plate file, or -) from photographs of its faces.

    What can be read in part is, and says which part could not. Exit code 2 and one sentence where nothing can be read.
    """
    # What reading needs of SciPy takes longer to import than a plan takes; only those who read wait for it.
    from rezept.actions import photo_reading

    named = {face: file for face, file in (("front", front), ("back", back)) if file}
    if not named:
        raise InvalidInput("Name a photo: --front, --back or both.")
    planned = read_plate(read_json(_read_input(plate), plate))
    document, missed = photo_reading.read_plate(planned, {face: _read_input(file) for face, file in named.items()})
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


@main.command()
@click.option("--port", type=click.IntRange(0, 65535), default=9750, show_default=True, help="Where it listens.")
@click.option("--speed-up", type=click.FloatRange(0.1, 10_000), default=60.0, show_default=True, help="How fast.")
@click.option(
    "--fault", "faults", multiple=True, metavar="KIND@LINE", help="error, alarm, reset, silent, garbage, drop, lost_ok."
)
@click.option("--machine", "machine_file", metavar="FILE", help="The machine object of a trial file it stands for.")
@click.option("--substance", default="poplar", show_default=True, help="What lies on its bed.")
@click.option("--thickness", type=click.FloatRange(0.01), default=3.7, show_default=True, help="In mm.")
@click.option("--piece", nargs=2, type=float, default=(100.0, 100.0), show_default=True, help="Width and depth in mm.")
@click.option(
    "--photos", type=click.Path(path_type=Path), help="Folder for photographs of both faces, after every program."
)
@click.option("--truth", is_flag=True, help="Write what the camera knows beside every photograph.")
@click.option("--card", is_flag=True, help="Lay a reference card below the sheet.")
@click.option("--jitter", type=click.FloatRange(0, 0.5), default=0.0, show_default=True, help="Scatter of its times.")
@click.option("--seed", type=int, default=1, show_default=True)
@_says_why
def bench(
    port: int,
    speed_up: float,
    faults: tuple[str, ...],
    machine_file: str | None,
    substance: str,
    thickness: float,
    piece: tuple[float, float],
    photos: Path | None,
    truth: bool,
    card: bool,
    jitter: float,
    seed: int,
) -> None:
    """A machine that is not there: it takes a live link, burns a made-up sheet and photographs it.

    It speaks the stream of docs/formats/stream.md. The material it burns is described in docs/physics.md.
    """
    from rezept.demo.bench_command import BenchOrder, run_bench

    machine = read_json(_read_input(machine_file), machine_file) if machine_file else None
    bench_order = BenchOrder(
        machine, port, speed_up, faults, substance, thickness, piece, photos, truth, card, jitter, seed
    )
    run_bench(bench_order, click.echo)


@main.command()
@click.option("--data", type=click.Path(path_type=Path), default=Path(".demo"), show_default=True, help="Its folder.")
@click.option("--fresh", is_flag=True, help="Throw an earlier demo shop away first.")
@click.option("--build-only", is_flag=True, help="Make the demo shop and do not serve it.")
@_port_option
@_says_why
def demo(data: Path, fresh: bool, build_only: bool, port: int) -> None:
    """Make the demo shop, if it is not there yet, and serve it."""
    from rezept.demo import build_demo

    done = data / clearing.DEMO_COMPLETE
    if data.exists() and not done.exists() and any(data.iterdir()) and not clearing.belongs_to_demo(data):
        raise InvalidInput(f"{data} holds something else than a demo shop; choose another folder with --data.")
    if data.exists() and (fresh or not done.exists()):
        with served_here(data):
            shutil.rmtree(data)
    if not done.exists():
        data.mkdir(parents=True)
        (data / clearing.DEMO_BEGUN).touch()
        build_demo(data)
        done.touch()
    if not build_only:
        from rezept.demo.benches import benches_beside

        _serve(open_shop(data), port, beside=benches_beside)


if __name__ == "__main__":
    main()
