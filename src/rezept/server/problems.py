"""Errors as problem JSON (RFC 9457): which becomes which status stands here and nowhere else."""

from __future__ import annotations

import logging
from typing import Any

from flask import Flask, Response, current_app, jsonify, make_response
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from rezept.actions.commands.exporting import CannotWrite
from rezept.actions.commands.passphrases import TooManyAtOnce
from rezept.actions.commands.people import who_may
from rezept.actions.commands.signing_in import NotSignedIn, TooManyAttempts
from rezept.actions.members import NotAllowed
from rezept.actions.open_shop import FolderTrouble
from rezept.core.errors import LONGEST_PATH, InvalidInput, NotFound, Refused, RezeptError, SeveralErrors, WhichOne
from rezept.store.errors import NotSaved, Stale, Unreadable

log = logging.getLogger(__name__)

# The first class an error is an instance of counts.
STATUS: tuple[tuple[type[RezeptError], int, str], ...] = (
    (Stale, 409, "Changed in the meantime"),
    (NotFound, 404, "Not there"),
    (NotAllowed, 403, "Not allowed"),
    (NotSignedIn, 401, "Not signed in"),
    (TooManyAttempts, 429, "Too many attempts"),
    (TooManyAtOnce, 429, "Too many at once"),
    (Refused, 422, "Refused"),
    (WhichOne, 409, "Which one?"),
    (InvalidInput, 400, "That cannot be"),
    (NotSaved, 503, "Not saved"),
    (Unreadable, 503, "Records unreadable"),
    (FolderTrouble, 503, "Data folder unusable"),
    (CannotWrite, 503, "Not written"),
    (RezeptError, 400, "That cannot be"),
)


def problem(status: int, title: str, detail: str, errors: list[dict[str, str]], **more: Any) -> Response:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, "errors": errors, **more}
    response = make_response(jsonify(body), status)
    response.content_type = "application/problem+json"
    return response


def _who_can(error: RezeptError) -> str:
    """What one may not do oneself, somebody else can: their names."""
    if not isinstance(error, NotAllowed) or error.least is None:
        return ""
    names = who_may(current_app.extensions["rezept"], error.least)[:4]
    return f" That is: {', '.join(names)}." if names else ""


def describe(error: RezeptError) -> Response:
    """A Rezept error as a response, with the path of each value it is about."""
    status, title = next((code, words) for kind, code, words in STATUS if isinstance(error, kind))
    each = error.errors if isinstance(error, SeveralErrors) else [error]
    sentence = f"{error.sentence}{_who_can(error)}"
    errors = [{"path": one.path, "detail": one.sentence} for one in each]
    more: dict[str, Any] = {}
    if isinstance(error, Stale):
        more = {"current": error.current, "yours": error.yours}
    elif isinstance(error, WhichOne):
        more = {"choices": error.choices}
    response = problem(status, title, sentence, errors, **more)
    if isinstance(error, TooManyAttempts):
        response.headers["Retry-After"] = str(error.seconds)
    return response


def describe_invalid_request(error: ValidationError) -> Response:
    """What flask-openapi3 calls when a request does not fit its shape."""
    errors = []
    for one in error.errors(include_url=False, include_input=False, include_context=False):
        path = ".".join(str(part) for part in one["loc"])[:LONGEST_PATH]
        errors.append({"path": path, "detail": f"{path or 'The request'}: {one['msg']}."})
    return problem(400, "That cannot be", errors[0]["detail"], errors)


def register(app: Flask) -> None:
    @app.errorhandler(RezeptError)
    def rezept_error(error: RezeptError) -> Response:
        return describe(error)

    @app.errorhandler(HTTPException)
    def http_error(error: HTTPException) -> Response:
        if error.response is not None:
            return error.response  # type: ignore[return-value]
        detail = error.description or error.name
        return problem(error.code or 500, error.name, detail, [{"path": "", "detail": detail}])

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        log.error("unexpected failure", exc_info=error)
        detail = "Something went wrong inside Rezept; it was written to the log. Nothing you entered was changed."
        return problem(500, "Rezept failed", detail, [{"path": "", "detail": detail}])
