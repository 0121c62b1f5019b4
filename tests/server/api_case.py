"""A shop behind a test client that holds every response against its documented shape."""

from __future__ import annotations

import re
from typing import Any

from rezept.server import create_app, shapes
from tests.made import ShopCase

# Which shape each answer has; the first pattern that fits counts.
SHAPES: list[tuple[str, str, Any]] = [
    ("GET", r"/api/shop", shapes.Inventory),
    ("(GET|PUT)", r"/api/me", shapes.Me),
    ("GET", r"/api/trials(\?.*)?", shapes.Trials),
    ("POST", r"/api/trials", shapes.Created),
    ("GET", r"/api/trials/\d+", shapes.TrialPage),
    ("POST", r"/api/trials/\d+/preview", shapes.PreviewOut),
    ("PUT", r"/api/trials/\d+/design", shapes.TrialPage),
    ("POST", r"/api/trials/\d+/files", shapes.Exported),
    ("POST", r"/api/trials/\d+/burns", shapes.Created),
    ("PUT", r"/api/burns/\d+/patches/\w+/reading", shapes.ReadingOut),
    ("GET", r"/api/burns/\d+/decision", shapes.Decision),
    ("PUT", r"/api/burns/\d+/photos/\w+", shapes.FacePhoto),
    ("GET", r"/api/ask\?.*", shapes.Answer),
    ("GET", r"/api/recipes(\?.*)?", shapes.Book),
    ("POST", r"/api/recipes", shapes.Created),
    ("(GET|PUT)", r"/api/recipes/\d+", shapes.RecipePage),
]


class ApiCase(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.app = create_app(self.shop)
        self.app.testing = False
        self.client = self.app.test_client()
        self.become(self.member.id)

    def become(self, member: int) -> None:
        self.client.set_cookie("rezept_member", str(member), domain="localhost")

    def call(self, method: str, url: str, status: int = 200, **kwargs: Any) -> Any:
        """The JSON of an answer, after checking its status and shape."""
        response = self.client.open(url, method=method, **kwargs)
        self.assertEqual(response.status_code, status, response.get_data()[:400])
        if status >= 400:
            self.assertEqual(response.content_type, "application/problem+json")
            shapes.Problem.model_validate(response.json)
            self.assertNotIn("Traceback", response.get_data(as_text=True))
            return response.json
        for verb, pattern, shape in SHAPES:
            if re.fullmatch(verb, method) and re.fullmatch(pattern, url):
                shape.model_validate(response.json)
                return response.json
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
