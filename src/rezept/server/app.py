"""The Flask application of one open shop."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from flask.json.provider import DefaultJSONProvider
from flask_openapi3 import Info, OpenAPI

from rezept import __version__
from rezept.actions.commands.safekeeping import Schedule
from rezept.actions.open_shop import Shop
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.worker import HereAndNow, Jobs
from rezept.server import bodies, guard, pages, permissions, problems, shapes
from rezept.server.identity import session_cookie
from rezept.server.routes import arrays, book, burns, changes, figures, jobs, people, photos, proofs, shop, trials
from rezept.server.routes import live as live_routes


class _Json(DefaultJSONProvider):
    """Answers in the order they are written in, and in numbers JSON knows: no browser reads an infinity or NaN."""

    sort_keys = False

    def dumps(self, obj: Any, **options: Any) -> str:
        return super().dumps(obj, allow_nan=False, **options)


def create_app(
    opened: Shop,
    names: Sequence[str] = (),
    network: bool = False,
    proxy: str | None = None,
    schedule: Schedule | None = None,
    live: LiveBurns | None = None,
    worker: Jobs | None = None,
) -> OpenAPI:
    """The application; every request works on `opened`.

    `names` are what the shop is called beside `localhost`; in a `network` it also answers by its number. `proxy` is
    the address of the proxy it stands behind. `schedule` tells where backups go, for those who ask. `live` is where
    burns go on, `worker` what is done beside; whoever made them closes them.
    """
    app = OpenAPI(
        "rezept",
        info=Info(title="Rezept", version=__version__),
        security_schemes={"session": {"type": "apiKey", "in": "cookie", "name": session_cookie("KEY")}},
        doc_ui=False,
        static_folder=None,
        validation_error_status=400,
        validation_error_model=shapes.common.Problem,
        validation_error_callback=problems.describe_invalid_request,
    )
    app.extensions["rezept"] = opened
    app.extensions["rezept_live"] = live or LiveBurns(opened)
    app.extensions["rezept_worker"] = worker or HereAndNow(opened)
    app.extensions["rezept_schedule"] = schedule
    app.extensions["rezept_streams"] = changes.Places()
    app.config["here_only"] = not network and proxy is None
    app.config["proxy"] = proxy
    app.json = _Json(app)
    problems.register(app)
    # In this order: who may ask at all, who may do this, and only then what they brought.
    guard.register(app, names, network, proxy)
    permissions.register(app)
    bodies.register(app)
    for subject in (people, shop, changes, trials, burns, photos, proofs, figures, jobs, live_routes, book, arrays):
        app.register_api(subject.bp)
    app.register_blueprint(pages.bp)
    missing = permissions.unlisted(app)
    if missing:
        raise AssertionError(f"routes without a role: {missing}")
    return app
