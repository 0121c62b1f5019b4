"""From a keystroke in an axis field to the redrawn plate, in headless Chromium on a real server."""

from __future__ import annotations

import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright
from tests.browser.browser_case import ARGUMENTS, BENCH_SCREEN
from tests.demo_copy import copy_demo
from tests.server.real_server import Server

from benchmarks.brought import wave
from benchmarks.timing import Figure

STROKES = 40

# Types one digit, waits until a figure on the plate has changed and the browser has drawn it.
MEASURE = """
async ([strokes, first]) => {
  const field = document.querySelector('[aria-label="speed to, x axis"]')
  const setter = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
  const plate = document.querySelector('[data-plate]')
  const figure = () => document.querySelector('[data-patch=A5] text').textContent
  const frame = () => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
  const times = [], frames = []
  for (let i = 0; i < strokes; i++) {
    const before = figure()
    const began = performance.now()
    setter.call(field, String(first + (i % 2 ? 3 : 9) + i * 0.25))
    field.dispatchEvent(new Event('input', { bubbles: true }))
    await new Promise((done) => {
      const watcher = new MutationObserver(() => {
        if (figure() !== before) { watcher.disconnect(); done() }
      })
      if (figure() !== before) done()
      watcher.observe(plate, { subtree: true, characterData: true, childList: true, attributes: true })
    })
    await frame()
    times.push(performance.now() - began)
    const idle = performance.now()
    await frame()
    frames.push(performance.now() - idle)
    await new Promise((done) => setTimeout(done, 60))
  }
  return [times, frames]
}
"""


def brought_trial(server: Server) -> int:
    """A 10 x 10 plate of a brought figure of 1000 corners, two sets of lines over one another."""
    material = server.path("{material: Poplar plywood 4 mm}")
    wanted = {"process": "area", "material": int(material), "head": int(server.path("{head: Wren}"))}
    trial = server.ask("POST", "/api/trials", wanted)["id"]
    page = server.ask("GET", f"/api/trials/{trial}")
    design = page["design"]
    hold = {
        key: value for key, value in design["hold"].items() if key not in ("speed_mm_s", "power_pct", "line_spacing_mm")
    }
    sets = [{"line_spacing_mm": 0.2}, {"line_spacing_mm": 0.2, "hatch_angle_deg": 90}]
    design["steps"] = [{"name": "fill", "process": "area", "hold": hold, "hatch": sets}]
    design["axes"] = [
        {"parameter": "speed_mm_s", "along": "x", "from": 100, "to": 400, "count": 10, "step": "fill"},
        {"parameter": "power_pct", "along": "y", "from": 10, "to": 80, "count": 10, "step": "fill"},
    ]
    design["patch"] |= {"shape": "figure", "figure": {"svg": wave(1000, 9)}, "width_mm": 12, "height_mm": None}
    design = {key: value for key, value in design.items() if "dose" not in key}
    server.ask("PUT", f"/api/trials/{trial}/design", {"edit": page["edit"], "design": design})
    return int(trial)


def figures() -> list[Figure]:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        copy_demo(Path(folder) / "shop")
        server = Server(Path(folder) / "shop")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport=BENCH_SCREEN)  # type: ignore[arg-type]
        measured = []
        plates = {"": (6, 24, 60), " of 10 x 10 brought figures": (brought_trial(server), 300, 360)}
        for plate, (trial, warm, first) in plates.items():
            page.goto(f"{server.base}/trials/{trial}/plan")
            page.locator("[data-patch=A5] text").wait_for()
            page.evaluate(MEASURE, [5, warm])
            # Other values than those of the warm-up, so that none is answered from memory.
            times, frames = page.evaluate(MEASURE, [STROKES, first])
            slowest_tenth = sorted(times)[STROKES * 9 // 10]
            measured.append(
                Figure(
                    f"keystroke to redrawn plate{plate}, median",
                    statistics.median(times),
                    "ms",
                    50,
                    f"an empty frame {statistics.median(frames):.1f} ms; nine of ten within {slowest_tenth:.0f} ms",
                )
            )
        browser.close()
        server.stop()
    return measured
