"""The first load of the app on loopback with a cold cache, and how much JavaScript it takes."""

from __future__ import annotations

import gzip
import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright
from tests.browser.browser_case import ARGUMENTS, BENCH_SCREEN
from tests.demo_copy import copy_demo
from tests.server.real_server import Server

from benchmarks.timing import Figure

LOADS = 7
ASSETS = Path(__file__).parents[1] / "src/rezept/server/static/assets"


def figures() -> list[Figure]:
    times = []
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        copy_demo(Path(folder) / "shop")
        server = Server(Path(folder) / "shop")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        for _ in range(LOADS + 1):
            # A new context has an empty cache.
            context = browser.new_context(viewport=BENCH_SCREEN)  # type: ignore[arg-type]
            page = context.new_page()
            page.goto(server.base, wait_until="commit")
            page.get_by_text("17.6", exact=True).first.wait_for()
            times.append(page.evaluate("performance.now()"))
            context.close()
        browser.close()
        server.stop()
    scripts = list(ASSETS.glob("*.js"))
    size = sum(len(gzip.compress(file.read_bytes())) for file in scripts) / 1024
    return [
        Figure(
            "first load until the answer stands, median",
            statistics.median(times[1:]),
            "ms",
            1500,
            f"slowest {max(times[1:]):.0f} ms",
        ),
        Figure("JavaScript, gzipped, all of it", size, "kB", 350, f"{len(scripts)} files"),
    ]
