"""The demo shop for tests: built once in this process, then copied."""

from __future__ import annotations

import atexit
import functools
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from rezept.actions.commands import photos, reading_photos
from rezept.actions.open_shop import Shop, open_shop
from rezept.demo import build_demo


@functools.cache
def _built() -> Path:
    folder = tempfile.mkdtemp()
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    build_demo(Path(folder) / "shop")
    # What a server would read by and by is read once here, and not by every server of every test.
    shop = open_shop(Path(folder) / "shop")
    for photo in photos.unread(shop):
        reading_photos.read_photo_of(shop, photo)
    shop.close()
    return Path(folder) / "shop"


def copy_demo(folder: Path) -> None:
    """Put a fresh demo shop into `folder`, which does not exist yet."""
    shutil.copytree(_built(), folder)


def open_demo(cleanup: Callable[[Callable[[], object]], object]) -> Shop:
    """A fresh demo shop, open; `cleanup` (`addCleanup` of a test, `addClassCleanup` of its class) ends it."""
    folder = tempfile.TemporaryDirectory()
    cleanup(folder.cleanup)
    copy_demo(Path(folder.name) / "shop")
    shop = open_shop(Path(folder.name) / "shop")
    cleanup(shop.close)
    return shop
