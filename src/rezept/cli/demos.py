"""The demo shop, and a machine that is not there."""

from __future__ import annotations

import shutil
from pathlib import Path

import click

from rezept.actions.commands import clearing
from rezept.actions.open_shop import open_shop, served_here
from rezept.cli.serving import Where, serve_shop
from rezept.cli.words import main, port_option, read_input, says_why
from rezept.core.errors import InvalidInput
from rezept.formats.strict_json import read_json


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
@says_why
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

    machine = read_json(read_input(machine_file), machine_file) if machine_file else None
    bench_order = BenchOrder(
        machine, port, speed_up, faults, substance, thickness, piece, photos, truth, card, jitter, seed
    )
    run_bench(bench_order, click.echo)


@main.command()
@click.option("--data", type=click.Path(path_type=Path), default=Path(".demo"), show_default=True, help="Its folder.")
@click.option("--fresh", is_flag=True, help="Throw an earlier demo shop away first.")
@click.option("--build-only", is_flag=True, help="Make the demo shop and do not serve it.")
@port_option
@says_why
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
        data.mkdir(0o700, parents=True)
        (data / clearing.DEMO_BEGUN).touch(0o600)
        build_demo(data)
        done.touch(0o600)
    if not build_only:
        from rezept.demo.benches import benches_beside

        serve_shop(open_shop(data), Where(port), beside=benches_beside)
