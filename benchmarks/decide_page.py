"""The Decide page as somebody waits for it: its answer from a real server, and the probe dragged in Chromium."""

from __future__ import annotations

import statistics
import tempfile
import urllib.request
from pathlib import Path

from playwright.sync_api import sync_playwright
from tests.browser.browser_case import ARGUMENTS, BENCH_SCREEN
from tests.demo_copy import copy_demo
from tests.server.real_server import Server

from benchmarks.timing import Figure, median_ms

# Burns of the demo shop: cuts and marks, with one plate beside them and with several.
BURNS, RUNS = (2, 4, 6, 9, 10), 9
MOVES = 150

# Moves the pointer once a frame and waits until what the probe says is another; how long frames took.
DRAG = """
async (moves) => {
  const plate = document.querySelector('[data-plate]')
  const box = document.querySelector('[data-map] image').getBoundingClientRect()
  const frame = () => new Promise((done) => requestAnimationFrame(done))
  const times = []
  let said = '', other = 0, before = await frame()
  for (let i = 0; i < moves; i++) {
    const turn = 2 * Math.PI * i / 60
    plate.dispatchEvent(new PointerEvent('pointermove', {
      bubbles: true, pointerType: 'mouse',
      clientX: box.x + box.width * (0.5 + 0.35 * Math.cos(turn)),
      clientY: box.y + box.height * (0.5 + 0.35 * Math.sin(2 * turn)),
    }))
    const now = await frame()
    times.push(now - before)
    before = now
    const says = document.querySelector('[data-probe]')?.textContent ?? ''
    other += says !== said
    said = says
  }
  return [times, other]
}
"""


def figures() -> list[Figure]:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        copy_demo(Path(folder) / "shop")
        server = Server(Path(folder) / "shop")

        def asked(burn: int) -> float:
            address = f"{server.base}/api/burns/{burn}/finding"
            return median_ms(lambda: urllib.request.urlopen(address).read(), RUNS)

        bare = median_ms(lambda: urllib.request.urlopen(f"{server.base}/api/trials/2").read(), RUNS)
        answers = {burn: asked(burn) for burn in BURNS}
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport=BENCH_SCREEN)  # type: ignore[arg-type]
        page.goto(f"{server.base}/trials/2/decide")
        page.locator("[data-map]").first.wait_for()
        page.evaluate(DRAG, 30)
        times, other = page.evaluate(DRAG, MOVES)
        browser.close()
        server.stop()
    assert other > 0.9 * MOVES, f"the probe said something new only {other} times of {MOVES}"
    slowest = max(answers, key=lambda burn: answers[burn])
    return [
        Figure(
            "what a plate means, answered",
            answers[slowest],
            "ms",
            300,
            f"the slowest of {len(BURNS)} plates; the trial's own page {bare:.0f} ms",
        ),
        Figure(
            "the probe dragged, a frame",
            statistics.mean(times),
            "ms",
            20,
            f"{1000 / statistics.mean(times):.0f} frames a second; {other} of {MOVES} said something new",
        ),
    ]
