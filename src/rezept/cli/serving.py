"""Serving a shop."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass, replace
from pathlib import Path

import click

from rezept.actions.commands import people, photos, safekeeping
from rezept.actions.open_shop import Shop, open_shop, served_here
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.worker import Jobs, Worker
from rezept.cli.words import data_option, main, port_option, says_why
from rezept.core.errors import InvalidInput
from rezept.core.names import public_address

HERE = "127.0.0.1"
# What can wait begins once the first pages have been served.
FIRST_PAGES_S = 10.0
LOOK_EVERY_S = 300.0


@dataclass(frozen=True)
class Where:
    """Where a shop is served.

    names : what it is called there beside the machine's own name
    proxy : address of the proxy on this machine that stands before it
    """

    port: int
    host: str = HERE
    names: tuple[str, ...] = ()
    proxy: str | None = None

    @property
    def network(self) -> bool:
        return self.host not in (HERE, "localhost")


Beside = Callable[[Shop, LiveBurns, Jobs], AbstractContextManager[None]]


def serve_shop(
    shop: Shop, where: Where, schedule: safekeeping.Schedule | None = None, beside: Beside | None = None
) -> None:
    """Serve a shop until somebody ends it, with what runs `beside` it."""
    with served_here(shop.folder):
        _serve_alone(shop, where, schedule, beside)


def _serve_alone(shop: Shop, where: Where, schedule: safekeeping.Schedule | None, beside: Beside | None) -> None:
    from rezept.server import create_app
    from rezept.server.listening import listen

    try:
        burning, worker = LiveBurns(shop), Worker(shop, ready_after_s=FIRST_PAGES_S)
        app = create_app(shop, where.names, where.network, where.proxy, schedule, burning, worker)
        server = listen(app, where.host, where.port, where.proxy)
    except OSError as error:
        raise InvalidInput(
            f"{where.host}:{where.port} cannot be used: {error.strerror}. Choose another with --port."
        ) from error
    here = f"http://{HERE if where.host == '0.0.0.0' else where.host}:{server.effective_port}/"
    click.echo(f"Rezept is at {here}  (Ctrl+C ends it)")
    if where.proxy:
        click.echo(f"The proxy makes it {where.proxy}/")
    over = threading.Event()
    threading.Thread(target=_read_photos, args=(shop, worker, over), daemon=True).start()
    keeping_safe = None
    if schedule is not None:
        keeping_safe = threading.Thread(target=_keep_safe, args=(shop, schedule, over), daemon=True)
        keeping_safe.start()
    try:
        with beside(shop, burning, worker) if beside else nullcontext():
            server.run()
    finally:
        over.set()
        if keeping_safe is not None:
            keeping_safe.join()
        server.close()
        worker.close()
        burning.close()
        shop.close()


def _read_photos(shop: Shop, worker: Jobs, over: threading.Event) -> None:
    """Have photos read that came unread, and those again that were read by another rule, once the first pages have been
    served."""
    keeper = people.first_keeper(shop)
    if keeper is not None and not over.wait(FIRST_PAGES_S):
        for photo in photos.unread(shop):
            worker.submit(keeper, "read", {"photo": photo})
        for photo in photos.by_another_rule(shop):
            worker.submit(keeper, "read_again", {"photo": photo})


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
@click.option("--name", "names", multiple=True, help="What this machine is called, too; may be repeated.")
@click.option(
    "--behind-proxy", "proxy", metavar="ADDRESS", help="A proxy on this machine makes it https://shop.example."
)
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
    proxy: str | None,
    backup_to: Path | None,
    backup_every: float,
    backup_keep: int,
) -> None:
    """Serve the shop in a folder, on this machine only unless --host says otherwise."""
    shop = open_shop(data)
    folder = backup_to or data / "backups"
    schedule = safekeeping.Schedule(folder, backup_every, backup_keep) if backup_every else None
    where = Where(port, host, names, proxy and _proxy_address(proxy))
    if where.network or where.proxy:
        where = _for_others(shop, where)
    serve_shop(shop, where, schedule)


def _proxy_address(text: str) -> str:
    address = public_address(text, "--behind-proxy")
    if not address.startswith("https://"):
        raise InvalidInput("A proxy is worth having for its certificate: --behind-proxy https://...", "--behind-proxy")
    return address


def _for_others(shop: Shop, where: Where) -> Where:
    """What has to hold, and what has to be said, before other machines are let in."""
    if people.shop_name(shop) is None:
        raise InvalidInput("Found the shop first, on this machine: rezept found, or rezept serve without --host.")
    if people.is_demo(shop):
        raise InvalidInput("The demo shop has no sign-in, so it is served on this machine only.")
    if where.proxy:
        if where.network:
            raise InvalidInput(f"A proxy on this machine asks at {HERE}; leave --host out, or others get past it.")
        return where
    click.echo(
        "Everybody in this network can now reach the sign-in page. What they type travels unencrypted unless a"
        " proxy with a certificate stands before it (--behind-proxy): use it in the shop's own network, never on the"
        " open internet."
    )
    own = socket.gethostname().lower()
    return replace(where, names=(own, f"{own}.local", *where.names))
