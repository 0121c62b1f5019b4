"""The Flask application of one open shop."""

from __future__ import annotations

from flask_openapi3 import Info, OpenAPI

from rezept import __version__
from rezept.actions.open_shop import Shop
from rezept.actions.reading import LARGEST_PHOTO_BYTES
from rezept.server import guard, pages, problems, shapes
from rezept.server.routes import book, burns, shop, trials


def create_app(opened: Shop) -> OpenAPI:
    """The application; every request works on `opened`."""
    app = OpenAPI(
        "rezept",
        info=Info(title="Rezept", version=__version__),
        doc_ui=False,
        static_folder=None,
        validation_error_status=400,
        validation_error_model=shapes.Problem,
        validation_error_callback=problems.describe_invalid_request,
    )
    app.extensions["rezept"] = opened
    app.config["MAX_CONTENT_LENGTH"] = LARGEST_PHOTO_BYTES + 1024
    app.json.sort_keys = False  # type: ignore[attr-defined]
    problems.register(app)
    guard.register(app)
    for subject in (shop, trials, burns, book):
        app.register_api(subject.bp)
    app.register_blueprint(pages.bp)
    return app
