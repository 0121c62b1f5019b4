"""Planning a 10 x 10 plate: in the core, and as an answer of the server."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

from tests.demo_copy import copy_demo

from benchmarks.timing import Figure, median_ms
from rezept.actions.open_shop import open_shop
from rezept.actions.queries import previews, views, wall
from rezept.core.plan import plan, read_trial
from rezept.server import create_app

EXAMPLE = Path(__file__).parents[1] / "docs/formats/examples/lantern-sides.trial.json"


def ten_by_ten() -> dict[str, Any]:
    """The example trial with 100 patches and labels; the values differ from run to run as while typing."""
    document: dict[str, Any] = json.loads(EXAMPLE.read_text())
    for axis in document["axes"]:
        axis["count"] = 10
    return document


def core_figure() -> Figure:
    document = ten_by_ten()
    turn = iter(range(10**6))

    def typed() -> None:
        document["axes"][0]["to"] = 32 + 0.01 * next(turn)
        plan(read_trial(document))

    value = median_ms(typed)
    reference = median_ms(lambda: json.dumps(plan(read_trial(document)).document()), 10)
    return Figure("planning 10 x 10 in the core, median", value, "ms", 10, f"with its JSON {reference:.1f} ms")


def four_axes_figure() -> Figure:
    """400 patches: speed x power inside, passes x pierce dwell outside."""
    document = ten_by_ten()
    document["axes"][0]["count"] = document["axes"][1]["count"] = 5
    document["axes"] += [
        {"parameter": "passes", "along": "block_x", "values": [1, 2, 3, 4]},
        {"parameter": "pierce_dwell_ms", "along": "block_y", "values": [0, 100, 200, 400]},
    ]
    document |= {"patch": {"shape": "coupon", "width_mm": 10, "height_mm": 10}, "order": "scattered"}
    turn = iter(range(10**6))

    def typed() -> None:
        document["axes"][0]["to"] = 32 + 0.01 * next(turn)
        assert len(plan(read_trial(document)).elements) == 400

    return Figure("planning 400 coupons over 4 axes, median", median_ms(typed), "ms", 30, "labels, scattered")


def http_figure() -> Figure:
    with tempfile.TemporaryDirectory() as folder:
        copy_demo(Path(folder) / "shop")
        shop = open_shop(Path(folder) / "shop")
        client = create_app(shop).test_client()
        trial = wall.trial_list(shop, None, None)[0]["id"]
        design = views.trial_page(shop, trial)["design"]
        for axis in design["axes"]:
            axis["count"] = 10
        turn = iter(range(10**6))

        def typed() -> None:
            design["axes"][0]["to"] = f"{24 + 0.01 * next(turn)} mm/s"
            response = client.post(f"/api/trials/{trial}/preview", json={"design": design, "units": {}})
            assert response.status_code == 200, response.text

        value = median_ms(typed)
        reference = median_ms(lambda: previews.preview(shop, trial, design, {}), 10)
        shop.close()
    return Figure("its answer over HTTP, in-process, median", value, "ms", 20, f"the action alone {reference:.1f} ms")


def figures() -> list[Figure]:
    return [core_figure(), four_axes_figure(), http_figure()]
