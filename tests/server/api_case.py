"""A shop behind a test client that holds every response against its documented shape."""

from __future__ import annotations

import re
from typing import Any

from rezept.actions.commands.signing_in import Session, start_session
from rezept.actions.open_shop import Shop
from rezept.server import create_app, shapes
from tests.made import ShopCase

# Which shape each answer has; the first pattern that fits counts.
SHAPES: list[tuple[str, str, Any]] = [
    ("GET", r"/api/shop", shapes.equipment.Inventory),
    ("GET", r"/api/door", shapes.people.Door),
    ("POST", r"/api/(door/found|session)", shapes.people.Me),
    ("(GET|PUT)", r"/api/me", shapes.people.Me),
    ("GET", r"/api/me/sessions", shapes.people.Sessions),
    ("POST", r"/api/members", shapes.common.Created),
    ("PUT", r"/api/members/\d+", shapes.people.MemberOut),
    ("(GET|POST)", r"/api/backup", shapes.equipment.BackupState),
    ("POST", r"/api/(machines|heads|materials|lots|pieces)", shapes.common.Created),
    ("PUT", r"/api/machines/\d+", shapes.equipment.MachineOut),
    ("PUT", r"/api/heads/\d+", shapes.equipment.HeadOut),
    ("PUT", r"/api/materials/\d+", shapes.equipment.MaterialOut),
    ("PUT", r"/api/lots/\d+", shapes.equipment.LotOut),
    ("PUT", r"/api/pieces/\d+", shapes.equipment.PieceOut),
    ("GET", r"/api/changes(\?.*)?", shapes.changes.Changes),
    ("POST", r"/api/changes/\d+/take-back", shapes.changes.TakenBack),
    ("GET", r"/api/trials(\?.*)?", shapes.trial_cards.Trials),
    ("POST", r"/api/trials", shapes.common.Created),
    ("POST", r"/api/figures", shapes.figures.BroughtFigure),
    ("GET", r"/api/kept-figures", shapes.figures.KeptFigures),
    ("POST", r"/api/kept-figures", shapes.common.Created),
    ("GET", r"/api/kept-figures/\d+", shapes.figures.BroughtFigure),
    ("GET", r"/api/trials/\d+", shapes.trials.TrialPage),
    ("POST", r"/api/trials/\d+/preview", shapes.trials.PreviewOut),
    ("GET", r"/api/trials/\d+/next-coupon", shapes.trials.NextCouponOut),
    ("POST", r"/api/trials/\d+/coupons", shapes.trials.CouponOut),
    ("PUT", r"/api/trials/\d+/design", shapes.trials.TrialPage),
    ("POST", r"/api/trials/\d+/files", shapes.trials.Exported),
    ("POST", r"/api/trials/\d+/burns", shapes.common.Created),
    ("PUT", r"/api/burns/\d+/patches/\w+/reading", shapes.burns.ReadingOut),
    ("GET", r"/api/live", shapes.live.LiveRuns),
    ("GET", r"/api/burns/\d+/finding(\?.*)?", shapes.findings.FindingOut),
    ("POST", r"/api/burns/\d+/next", shapes.common.Created),
    ("POST", r"/api/burns/\d+/candidates", shapes.findings.KeptCandidate),
    ("POST", r"/api/(burns/\d+/(proof|more-passes)(\?.*)?|recipes/\d+/(proof|kerf))", shapes.common.Created),
    ("POST", r"/api/(trials/\d+/live|burns/\d+/(rest|again))", shapes.live.LiveOut),
    ("POST", r"/api/(trials/\d+/by-clock|burns/\d+/clock(/\w+)?)", shapes.live.LiveOut),
    ("POST", r"/api/burns/\d+/remarks", shapes.live.RemarkOut),
    ("GET", r"/api/burns/\d+", shapes.trials.BurnPage),
    ("GET", r"/api/burns/\d+/comparable", shapes.trials.ComparableBurns),
    ("GET", r"/api/burns/\d+/decision", shapes.burns.Decision),
    ("POST", r"/api/burns/\d+/(finer|patches/\w+/around)", shapes.common.Created),
    ("GET", r"/api/arrays", shapes.arrays.KeptArrays),
    ("POST", r"/api/arrays(/file)?", shapes.common.Created),
    ("POST", r"/api/arrays/\d+/design", shapes.arrays.ArrayDesign),
    ("PUT", r"/api/burns/\d+/readings", shapes.burns.ReadingsOut),
    ("GET", r"/api/burns/\d+/measured", shapes.photos.Measured),
    ("GET", r"/api/looks(\?.*)?", shapes.photos.Looks),
    ("POST", r"/api/photos(\?.*)?", shapes.jobs.JobOut),
    ("POST", r"/api/pieces/outline", shapes.jobs.JobOut),
    ("POST", r"/api/burns/\d+/parts/\w+/photos", shapes.common.Created),
    ("PUT", r"/api/(burns/\d+/photos/\w+|plate-photos/\d+/corners)", shapes.jobs.JobOut),
    ("GET", r"/api/jobs/\d+(\?.*)?", shapes.jobs.JobOut),
    ("GET", r"/api/jobs", shapes.jobs.JobList),
    ("PUT", r"/api/plate-photos/\d+", shapes.photos.BroughtPhoto),
    ("GET", r"/api/(me|members/\d+)/data", shapes.people.KeptOf),
    ("GET", r"/api/ask\?.*", shapes.book.Answer),
    ("GET", r"/api/failed-settings(\?.*)?", shapes.book.FailedSettings),
    ("POST", r"/api/failed-settings", shapes.common.Created),
    ("GET", r"/api/trials/\d+/first-axis(\?.*)?", shapes.trials.FirstAxisOut),
    ("GET", r"/api/trials/\d+/first-step(\?.*)?", shapes.trials.FirstStepOut),
    ("GET", r"/api/machines/\d+/wall", shapes.book.Wall),
    ("GET", r"/api/map\?.*", shapes.book.BookMap),
    ("POST", r"/api/recipes/(written-down|\d+/confirmations)", shapes.common.Created),
    ("POST", r"/api/recipes/\d+/restore", shapes.book.RecipePage),
    ("GET", r"/api/recipes(\?.*)?", shapes.book.Book),
    ("POST", r"/api/recipes", shapes.common.Created),
    ("(GET|PUT)", r"/api/recipes/\d+", shapes.book.RecipePage),
]


def carry(client: Any, shop: Shop, session: Session) -> None:
    """Give a test client a session as a browser has it: its cookie, and the token of our own pages."""
    client.set_cookie(cookie_of(shop), session.token, domain="localhost")
    client.environ_base["HTTP_X_REZEPT_FORM"] = session.form_token


def cookie_of(shop: Shop) -> str:
    with shop.database.reading() as db:
        return "rezept_session_" + db.execute("SELECT key FROM shop").fetchone()[0]


class ApiCase(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.app = create_app(self.shop)
        self.app.testing = False
        self.client = self.app.test_client()
        self.become(self.member.id)

    def become(self, member: int) -> None:
        """Sign in as a member, without the slow hash."""
        session = start_session(self.shop, member, "test")
        carry(self.client, self.shop, session)

    def call(self, method: str, url: str, status: int = 200, **kwargs: Any) -> Any:
        """The JSON of an answer, after checking its status and shape."""
        response = self.client.open(url, method=method, **kwargs)
        self.assertEqual(response.status_code, status, response.get_data()[:400])
        if status >= 400:
            self.assertEqual(response.content_type, "application/problem+json")
            shapes.common.Problem.model_validate(response.json)
            self.assertNotIn("Traceback", response.get_data(as_text=True))
            return response.json
        for verb, pattern, shape in SHAPES:
            if re.fullmatch(verb, method) and re.fullmatch(pattern, url):
                shape.model_validate(response.json)
                return response.json
        # What has no shape here is a file, or nothing; an answer in JSON always has one.
        says_json = bool(response.get_data()) and response.content_type == "application/json"
        self.assertFalse(says_json, f"no shape is known for {method} {url}")
        return response

    def new_trial(self, process: str = "cut") -> dict[str, Any]:
        body = {"process": process, "material": self.poplar, "head": self.wren}
        trial = self.call("POST", "/api/trials", 201, json=body)["id"]
        page: dict[str, Any] = self.call("GET", f"/api/trials/{trial}")
        return page

    def burned_trial(self, process: str = "cut") -> tuple[dict[str, Any], int]:
        page = self.new_trial(process)
        burn = self.call("POST", f"/api/trials/{page['id']}/burns", 201, json={"edit": page["edit"]})["id"]
        return self.call("GET", f"/api/trials/{page['id']}"), burn
