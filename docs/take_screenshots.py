"""Renews docs/screenshots from a fresh demo shop: `make screenshots`."""

from __future__ import annotations

import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.bench_port import link_in  # noqa: E402
from tests.browser.browser_case import ARGUMENTS, BENCH_SCREEN, PHONE_SCREEN, settle  # noqa: E402
from tests.demo_copy import copy_demo  # noqa: E402
from tests.server.real_server import Server  # noqa: E402

from rezept.bench.controller import Controller, Setup  # noqa: E402
from rezept.bench.serve import BenchServer  # noqa: E402


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


def shade(page: Page) -> None:
    page.get_by_role("group", name="Shades").get_by_role("button").nth(60).click()
    page.get_by_role("list", name="Nearest patches").wait_for()
    page.wait_for_timeout(1500)


def burning(page: Page) -> None:
    """Some way into a burn, in the dark theme, with a remark and a correction."""
    page.get_by_role("button", name="Dark theme").click()
    page.get_by_label("All seen to").check()
    page.get_by_role("button", name="Start the burn").click()
    page.locator('[aria-label^="B4"][aria-label$=", burned"]').wait_for(timeout=90_000)
    page.keyboard.press("s")
    page.get_by_role("button", name="speed up").click()
    page.get_by_text("speed +2 %").wait_for()


def watching(page: Page) -> None:
    """The same burn on a phone, a little later."""
    page.locator('[aria-label^="C3"][aria-label$=", burned"]').wait_for(timeout=90_000)


def coupons(page: Page) -> None:
    """Coupon by coupon: three of them burned by hand, and the next one offered."""
    page.get_by_role("button", name="Burn coupon by coupon").click()
    for came in ("1 partly", "3 drops out", "2 with a push"):
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("button", name=came).click()
        page.get_by_label("speed of the next coupon").wait_for()


VIEWS: tuple[tuple[str, str, dict[str, int], Callable[[Page], None]], ...] = (
    ("ask", "/?process=cut&material=1&head=1", BENCH_SCREEN, nothing),
    ("ask-unknown", "/?process=cut&material=2&head=1", BENCH_SCREEN, nothing),
    ("ask-phone", "/?process=cut&material=1&head=1", PHONE_SCREEN, nothing),
    ("burn", "/trials/6/burn", BENCH_SCREEN, nothing),
    ("read", "/trials/4/read", BENCH_SCREEN, nothing),
    ("compare", "/compare?sides=2,4&by=place&face=back&patch=C2", BENCH_SCREEN, nothing),
    ("by-look", "/book?view=look", BENCH_SCREEN, shade),
    ("decide", "/trials/2/decide?patch=F3", BENCH_SCREEN, nothing),
    ("trials", "/trials", BENCH_SCREEN, nothing),
    ("book", "/book?process=area", BENCH_SCREEN, square),
    ("book-list", "/book?view=list", BENCH_SCREEN, nothing),
    ("recipe", "/book/3", BENCH_SCREEN, nothing),
    ("recipe-phone", "/book/2", PHONE_SCREEN, nothing),
    ("shop", "/shop?part=materials", BENCH_SCREEN, nothing),
    ("wall-card", "/print/wall/1", BENCH_SCREEN, nothing),
    # Last, since they change the trial; the burn that begins goes on in the next picture.
    ("burn-live", "/trials/6/burn", BENCH_SCREEN, burning),
    ("burn-phone", "/trials/6/burn", PHONE_SCREEN, watching),
    ("plan", "/trials/6/plan", BENCH_SCREEN, hot_end),
    ("coupons-phone", "/?process=cut&material=6&head=1", PHONE_SCREEN, coupons),
)


def main() -> None:
    target = ROOT / "docs" / "screenshots"
    target.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        copy_demo(Path(folder) / "shop")
        bench = BenchServer(Controller(Setup()), speed_up=5)
        threading.Thread(target=bench.run, daemon=True).start()
        link_in(Path(folder) / "shop", "Wren", bench.url)
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
