"""A demo shop on a real server, walked in headless Chromium."""

from __future__ import annotations

import os
import tempfile
import unittest
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import Browser, BrowserContext, ConsoleMessage, Page, Playwright, expect, sync_playwright

from tests.demo_copy import copy_demo
from tests.server.real_server import Server

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
# Generous: a busy machine must not fail a test; nothing waits longer than it has to.
WAIT_MS = 20_000
expect.set_options(timeout=WAIT_MS)

# Pages so many times slower than they are: what holds only by luck on a quick machine shows itself.
SLOWER = float(os.environ.get("REZEPT_SLOWER", "1"))

BENCH_SCREEN = {"width": 1280, "height": 800}
PHONE_SCREEN = {"width": 390, "height": 844}


def settle(page: Page) -> None:
    """Wait until the page shows itself: its title, or why there is none, and nothing that still waits. A quiet network
    alone may be the pause before a busy machine has drawn anything."""
    page.locator("main").locator("h1, [role=alert], [data-nothing]").first.wait_for()
    page.wait_for_load_state("networkidle")
    expect(page.get_by_label("Waiting for")).to_have_count(0)


class BrowserCase(unittest.TestCase):
    """Each class has its own demo shop, each test its own page; errors in the page's console fail the test."""

    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]
    server: ClassVar[Server]
    # Else an empty folder, in which nobody has founded a shop yet.
    demo: ClassVar[bool] = True

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        if cls.demo:
            copy_demo(Path(folder.name) / "shop")
        cls.prepare(Path(folder.name) / "shop")
        cls.server = Server(Path(folder.name) / "shop")
        cls.addClassCleanup(cls.server.stop)
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = cls.playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        cls.addClassCleanup(cls.browser.close)

    @classmethod
    def prepare(cls, folder: Path) -> None:
        """What a class does to its shop before it is served."""

    def setUp(self) -> None:
        self.complaints: list[str] = []
        # What a test provokes on purpose, as part of the console's message.
        self.expected_complaints: tuple[str, ...] = ()
        self.page = self.open_page()
        self.addCleanup(self.check_complaints)

    def open_page(self, screen: dict[str, int] = BENCH_SCREEN) -> Page:
        context: BrowserContext = self.browser.new_context(viewport=screen, accept_downloads=True)  # type: ignore[arg-type]
        context.set_default_timeout(WAIT_MS)
        self.addCleanup(context.close)
        page = context.new_page()
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", self._hear)
        if SLOWER > 1:
            context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
        return page

    def _hear(self, message: ConsoleMessage) -> None:
        if message.type == "error":
            self.complaints.append(message.text)

    def check_complaints(self) -> None:
        unexpected = [c for c in self.complaints if not any(part in c for part in self.expected_complaints)]
        self.assertEqual(unexpected, [])

    def go(self, path: str, page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(self.server.base + self.server.path(path))
        settle(page)
        return page

    def become(self, name: str) -> None:
        """Pick who I am in the top bar."""
        box = self.page.get_by_label("Who I am")
        with self.page.expect_response("**/api/me"):
            box.select_option(label=box.locator("option", has_text=name).inner_text())
