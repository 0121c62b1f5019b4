"""Renews docs/screenshots from a fresh demo shop: `make screenshots`."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.browser.browser_case import ARGUMENTS, BENCH_SCREEN, PHONE_SCREEN, settle  # noqa: E402
from tests.demo_copy import copy_demo  # noqa: E402
from tests.server.real_server import Server  # noqa: E402


def nothing(_page: Page) -> None:
    """As it opens."""


def hot_end(page: Page) -> None:
    """Slower and stronger than the starting dose allows, so that the hot end shows."""
    page.get_by_label("speed from, x axis").fill("4")
    page.get_by_label("speed from, x axis").blur()
    page.locator("[data-patch=D4]").click()


def square(page: Page) -> None:
    """A square of the map chosen, so that what it holds stands beside."""
    page.locator(".square.proven").first.click()


def dark(page: Page) -> None:
    page.get_by_role("button", name="Dark theme").click()


VIEWS: tuple[tuple[str, str, dict[str, int], Callable[[Page], None]], ...] = (
    ("ask", "/?process=cut&material=1&head=1", BENCH_SCREEN, nothing),
    ("ask-unknown", "/?process=cut&material=2&head=1", BENCH_SCREEN, nothing),
    ("ask-phone", "/?process=cut&material=1&head=1", PHONE_SCREEN, nothing),
    ("burn", "/trials/6/burn", BENCH_SCREEN, nothing),
    ("read", "/trials/4/read", BENCH_SCREEN, nothing),
    ("read-dark", "/trials/5/read", BENCH_SCREEN, dark),
    ("decide", "/trials/2/decide?patch=F3", BENCH_SCREEN, nothing),
    ("trials", "/trials", BENCH_SCREEN, nothing),
    ("book", "/book?process=area", BENCH_SCREEN, square),
    ("book-list", "/book?view=list", BENCH_SCREEN, nothing),
    ("recipe", "/book/3", BENCH_SCREEN, nothing),
    ("recipe-phone", "/book/2", PHONE_SCREEN, nothing),
    ("shop", "/shop?part=materials", BENCH_SCREEN, nothing),
    ("wall-card", "/print/wall/1", BENCH_SCREEN, nothing),
    # Last, since it changes the trial.
    ("plan", "/trials/6/plan", BENCH_SCREEN, hot_end),
)


def main() -> None:
    target = ROOT / "docs" / "screenshots"
    target.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        copy_demo(Path(folder) / "shop")
        server = Server(Path(folder) / "shop")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        for name, path, screen, act in VIEWS:
            page = browser.new_page(viewport=screen)  # type: ignore[arg-type]
            page.goto(server.base + path)
            settle(page)
            page.wait_for_timeout(400)
            act(page)
            page.wait_for_timeout(1200)
            page.screenshot(path=target / f"{name}.png")
            page.close()
        browser.close()
        server.stop()


if __name__ == "__main__":
    main()
