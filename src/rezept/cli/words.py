"""What all commands share: their root, how they say no, where a shop lies, and reading what they are given."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Any, NoReturn

import click
import platformdirs

from rezept import __version__
from rezept.core.errors import InvalidInput, RezeptError, SeveralErrors

MISUSE = 2
DEFAULT_PORT = 8137
DATA = Path(platformdirs.user_data_dir("rezept"))


def says_why(command: Callable[..., Any]) -> Callable[..., Any]:
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
        except OSError as error:
            # Too long a path, a folder that may not be read, a disk that may not be written.
            click.echo(f"{(error.filename or 'The disk')!s:.200}: {error.strerror or error}.", err=True)
        sys.exit(MISUSE)

    return run


def _end(number: int, frame: object) -> NoReturn:
    raise SystemExit(128 + number)


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
    # Ended by the system a command ends as by Ctrl+C: what it staged is taken away, what it holds is let go.
    signal.signal(signal.SIGTERM, _end)


def read_input(source: str) -> bytes:
    if source == "-":
        return sys.stdin.buffer.read()
    try:
        return Path(source).read_bytes()
    except OSError as error:
        raise InvalidInput(f"{source} cannot be read: {error.strerror}.") from error


data_option = click.option(
    "--data", type=click.Path(path_type=Path), default=DATA, show_default=True, help="The shop's folder."
)
port_option = click.option("--port", type=click.IntRange(0, 65535), default=DEFAULT_PORT, show_default=True)
