"""Serving a shop."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from pathlib import Path

import click

from rezept.actions import people, photos, safekeeping
from rezept.actions.live_burns import LiveBurns
from rezept.actions.open_shop import Shop, open_shop, served_here
from rezept.cli.words import data_option, main, port_option, says_why
from rezept.core.errors import InvalidInput

HERE = "127.0.0.1"


def serve_shop(
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


@main.command()
@data_option
@port_option
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
@says_why
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
        serve_shop(shop, port, schedule=schedule)
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
    serve_shop(shop, port, host, [own, f"{own}.local", *(name.lower() for name in names)], schedule)
