"""What the browser works out by itself although the server knows it, too: both say the same.

The server's word is kept in `golden/agreement.json`, by which `web/tests/agreement.test.ts` judges the browser's.
`python -m tests.test_agreement --write` writes it anew.
"""

import json
import sys
import unittest
from pathlib import Path
from typing import Any

from rezept.actions.commands import burning, planning
from rezept.actions.queries import views
from rezept.actions.running.again import Again, again_by_hand
from rezept.core.units import UNITS
from rezept.store import runs as run_table
from tests.made import ShopCase

KEPT = Path(__file__).parent / "golden" / "agreement.json"
# Unlike amounts, so that no factor is right by chance.
AMOUNTS = (0.037, 1.0, 28.0, 640.0)


def units() -> list[dict[str, Any]]:
    """Amounts used inside, and what they are in every unit of their quantity."""
    return [
        {"quantity": quantity, "unit": unit.symbol, "inside": inside, "shown": unit.from_inside(inside)}
        for quantity, offered in UNITS.items()
        for unit in offered
        for inside in AMOUNTS
    ]


class AgreementTest(ShopCase):
    def burned(self) -> tuple[int, int]:
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        return trial, burning.mark_burned(self.shop, self.member, trial, 1, {})

    def told(self, trial: int) -> dict[str, Any]:
        """What a page is told of a burn: its runs and bare patches, and what each patch says by them."""
        page = views.trial_page(self.shop, trial)
        runs = [{"kind": run["kind"], "parts": run["parts"]} for run in page["runs"]]
        states = {row["patch"]: row["state"] for row in page["observed"]}
        return {"order": page["burned"]["order"], "runs": runs, "not_burned": page["not_burned"], "states": states}

    def run_of(self, burn: int, parts: dict[str, str]) -> None:
        """A run over the link as the records have it after it broke off: what became of each part."""
        rows = [{"name": name, "kind": "patch", "passes": 1} for name in parts]
        with self.shop.database.writing() as db:
            run = run_table.add_run(db, burn, "whole", "link", rows, self.member.id, self.shop.now())
            for name, state in parts.items():
                db.execute("UPDATE run_part SET state = ? WHERE run_id = ? AND name = ?", (state, run, name))
            run_table.end_run(db, run, "interrupted", "it broke off", self.shop.now())

    def burns(self) -> list[dict[str, Any]]:
        by_hand, burn = self.burned()
        burning.mark_not_burned(self.shop, self.member, burn, "A2", True)
        again_by_hand(self.shop, self.member, burn, Again(["A3"], 1))
        linked, broken = self.burned()
        order = views.trial_page(self.shop, linked)["burned"]["order"]
        self.run_of(
            broken, {**dict.fromkeys(order, "waiting"), order[0]: "done", order[1]: "uncertain", order[2]: "bare"}
        )
        burning.mark_not_burned(self.shop, self.member, broken, order[0], True)
        return [self.told(by_hand), self.told(linked)]

    def said(self) -> dict[str, Any]:
        tables = {key: [vars(unit) for unit in offered] for key, offered in UNITS.items()}
        return {"tables": tables, "units": units(), "burns": self.burns()}

    def test_what_is_kept_is_what_the_server_says(self):
        self.assertEqual(json.loads(KEPT.read_text()), json.loads(json.dumps(self.said())))

    def test_every_state_occurs(self):
        states = {state for burn in self.burns() for state in burn["states"].values()}
        self.assertLessEqual({"burned", "uncertain", "not_burned"}, states)


def write() -> None:
    case = AgreementTest()
    case.setUp()
    try:
        KEPT.write_text(json.dumps(case.said(), indent=1) + "\n")
    finally:
        case.doCleanups()


if __name__ == "__main__":
    if sys.argv[1:] == ["--write"]:
        write()
    else:
        unittest.main()
