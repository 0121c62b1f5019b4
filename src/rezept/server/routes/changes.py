"""Who did what, live and in retrospect."""

from __future__ import annotations

import json
import threading
from collections import Counter
from collections.abc import Iterator
from typing import Any

from flask import Response, current_app, request
from flask_openapi3 import APIBlueprint
from werkzeug.exceptions import ServiceUnavailable

from rezept.actions.commands import equipment
from rezept.actions.commands.signing_in import Session, session_of
from rezept.actions.open_shop import Shop
from rezept.actions.queries import following
from rezept.actions.running.live_burns import LiveBurns
from rezept.server import shapes
from rezept.server.here import live, me, shop
from rezept.server.identity import current_session

bp = APIBlueprint("changes", __name__, url_prefix="/api/changes")

# Each stream holds one of the server's 64 threads.
MOST_STREAMS = 48
# More screens than a PC, a phone and one more nobody looks at; whoever leaves them open must not take all places.
MOST_OF_ONE = 3
# Two of these after a client has hung up its place is free: the first finds out, the second cannot be sent.
HEARTBEAT_S = 3.0


class Places:
    """The places to follow from, in all and of each member."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._taken: Counter[int | None] = Counter()

    def take(self, member: int | None) -> None:
        """Take a place; `member` None counts for nobody.

        Raises
        ------
        ServiceUnavailable : all are taken, or all that this member may have
        """
        with self._lock:
            if self._taken.total() >= MOST_STREAMS:
                raise ServiceUnavailable(f"{MOST_STREAMS} screens follow already; this one asks again later.")
            if member is not None and self._taken[member] >= MOST_OF_ONE:
                raise ServiceUnavailable(f"{MOST_OF_ONE} of your screens follow already; this one asks again later.")
            self._taken[member] += 1

    def free(self, member: int | None) -> None:
        with self._lock:
            self._taken[member] -= 1

    def taken(self) -> int:
        with self._lock:
            return self._taken.total()


@bp.get("", responses={"200": shapes.changes.Changes})
def list_changes(query: shapes.changes.ChangesQuery) -> dict[str, Any]:
    """Who did what, newest first."""
    return {"changes": following.log(shop(), query.subject, query.id, query.before, query.most)}


class Events:
    """Server-sent events of one follower; closing it frees its place, and so does the end of their session."""

    def __init__(
        self,
        opened: Shop,
        burning: LiveBurns,
        session: Session | None,
        places: Places,
        batches: Iterator[list[dict[str, Any]]],
    ) -> None:
        # In the demo everybody is whom they pick: there are no sessions, and all share the places.
        self._member = None if session is None else session.member.id
        places.take(self._member)
        self._shop = opened
        self._burning = burning
        self._seen: dict[str, int] = {}
        self._session = session
        self._batches = batches
        self._places = places
        self._open = True
        self._greeted = False

    def __iter__(self) -> Iterator[bytes]:
        return self

    def __next__(self) -> bytes:
        if not self._greeted:
            # Something to send at once, so that the browser knows the stream is open.
            self._greeted = True
            return b": following\nretry: 2000\n\n"
        batch = next(self._batches)
        if self._session is not None and session_of(self._shop, self._session.token) is None:
            raise StopIteration
        said = [f"id: {row['id']}\ndata: {json.dumps(row)}\n\n" for row in batch]
        for run in self._burning.runs():
            if self._seen.get(run.key) != run.version:
                self._seen[run.key], news = run.news()
                said.append(f"event: live\ndata: {news}\n\n")
        return "".join(said).encode() or b": still here\n\n"

    def close(self) -> None:
        if self._open:
            self._open = False
            self._places.free(self._member)


@bp.get("/stream")
def stream(query: shapes.changes.StreamQuery) -> Response:
    """Changes after the line `since` as they happen (server-sent events)."""
    places: Places = current_app.extensions["rezept_streams"]
    # After a lost connection the browser says itself what it has seen.
    seen = request.headers.get("Last-Event-ID", "")
    since = int(seen) if seen.isdecimal() and len(seen) < 16 else query.since
    batches = following.follow(shop(), since, HEARTBEAT_S)
    events = Events(shop(), live(), current_session(shop()), places, batches)
    response = Response(events, content_type="text/event-stream")
    response.headers["X-Accel-Buffering"] = "no"
    return response


@bp.post("/<int:id>/take-back", responses={"200": shapes.changes.TakenBack, "409": shapes.common.Problem})
def take_back(path: shapes.common.IdPath) -> dict[str, Any]:
    """Undo one change of the shop's equipment."""
    subject, row = equipment.take_back(shop(), me(), path.id)
    return {"subject": subject, "row": row}
