"""The door, who I am, and the shop's members."""

from __future__ import annotations

from typing import Any

from flask import Response, current_app, jsonify, make_response, request
from flask_openapi3 import APIBlueprint

from rezept.actions.commands import clearing, people, personal, signing_in
from rezept.actions.commands.signing_in import Session
from rezept.actions.members import Member, NotAllowed
from rezept.formats.strict_json import write_json
from rezept.server import identity, shapes
from rezept.server.here import live, me, shop

bp = APIBlueprint("people", __name__, url_prefix="/api")


def _described(member: Member, session: Session | None) -> dict[str, Any]:
    return {
        **vars(member),
        "may_write": member.may("member"),
        "may_prove": member.may("technician"),
        "may_keep": member.may("keeper"),
        "form_token": session.form_token if session else "",
    }


def _device() -> str:
    """What the browser says it is, short enough to recognise it by."""
    return (request.user_agent.string or "unknown")[:120]


def _came_in(session: Session, status: int) -> tuple[Response, int]:
    response = jsonify(_described(session.member, session))
    identity.begin(shop(), response, session)
    return response, status


@bp.get("/door", responses={"200": shapes.people.Door})
def get_door() -> dict[str, Any]:
    """How one comes in."""
    state = identity.door_state(shop())
    return {
        "state": state,
        "shop": people.shop_name(shop()),
        "signed_in": identity.may_enter(shop()),
        "here_only": current_app.config["here_only"],
    }


@bp.post("/door/found", responses={"201": shapes.people.Me})
def found(body: shapes.people.FoundShop) -> tuple[Response, int]:
    """First run: found the shop and sign its keeper in."""
    if not current_app.config["here_only"]:
        raise NotAllowed("A shop is founded at its own machine, not over the network.", None)
    session = signing_in.found_and_enter(shop(), body.name, body.tag, body.keeper, body.secret, _device())
    return _came_in(session, 201)


@bp.post("/door/clear-demo", responses={"204": None})
def clear_demo() -> tuple[str, int]:
    """Take the demo away, so that a shop of one's own can be founded in its place."""
    clearing.clear_demo(shop(), me(), live().runs())
    return "", 204


@bp.post("/session", responses={"201": shapes.people.Me, "401": shapes.common.Problem, "429": shapes.common.Problem})
def sign_in(body: shapes.people.SignIn) -> tuple[Response, int]:
    """Sign in by name and PIN or passphrase."""
    address = request.remote_addr or ""
    return _came_in(signing_in.sign_in(shop(), body.name, body.secret, address, _device()), 201)


@bp.delete("/session", responses={"204": None})
def sign_out() -> tuple[Response, int]:
    """Sign out on this device."""
    session = identity.current_session(shop())
    if session is not None:
        signing_in.sign_out(shop(), session)
    response = jsonify(None)
    identity.end(shop(), response)
    # Where the browser listens to it (on this machine, or behind a certificate), nothing shown here stays with it.
    response.headers["Clear-Site-Data"] = '"cache"'
    return response, 204


@bp.get("/me", responses={"200": shapes.people.Me})
def get_me() -> dict[str, Any]:
    """Who I am and what I may do."""
    return _described(me(), identity.current_session(shop()))


@bp.put("/me", responses={"200": shapes.people.Me})
def put_me(body: shapes.people.PickMember) -> Response:
    """Pick who I am, in the demo; remembered in a cookie."""
    member = people.member_by_id(shop(), body.member)
    response = jsonify(_described(member, None))
    identity.pick(shop(), response, member)
    return response


@bp.put("/me/secret", responses={"204": None})
def put_my_secret(body: shapes.people.ChangeSecret) -> tuple[str, int]:
    """Change my own PIN or passphrase; I am signed out everywhere else."""
    session = identity.current_session(shop())
    if session is None:
        raise NotAllowed("In the demo nobody has a passphrase.", None)
    signing_in.change_own_secret(shop(), session, body.old, body.new, request.remote_addr or "")
    return "", 204


@bp.get("/me/sessions", responses={"200": shapes.people.Sessions})
def get_sessions() -> dict[str, Any]:
    """Where I am signed in."""
    current = identity.current_session(shop())
    rows = signing_in.sessions(shop(), me())
    return {"sessions": [{**row, "current": current is not None and row["id"] == current.id} for row in rows]}


@bp.get("/me/data", responses={"200": shapes.people.KeptOf})
def get_my_data() -> Response:
    """Everything that is kept of me, to look at and to keep."""
    return _as_file(personal.kept_of(shop(), me(), me().id))


@bp.get("/members/<int:id>/data", responses={"200": shapes.people.KeptOf})
def get_data(path: shapes.common.IdPath) -> Response:
    """Everything that is kept of a member."""
    return _as_file(personal.kept_of(shop(), me(), path.id))


def _as_file(document: dict[str, Any]) -> Response:
    response = make_response(write_json(document))
    response.content_type = "application/json"
    response.headers["Content-Disposition"] = f"attachment; filename=member-{document['member']['id']}.json"
    return response


@bp.delete("/members/<int:id>", responses={"204": None})
def delete_member(path: shapes.common.IdPath) -> tuple[str, int]:
    """Remove a member for good: what they did was done by somebody from now on."""
    personal.remove_for_good(shop(), me(), path.id)
    return "", 204


@bp.delete("/me/sessions/<int:id>", responses={"204": None})
def delete_session(path: shapes.common.IdPath) -> tuple[str, int]:
    """Sign one of my devices out."""
    signing_in.end_session(shop(), me(), path.id)
    return "", 204


@bp.delete("/members/<int:id>/sessions", responses={"204": None})
def delete_sessions(path: shapes.common.IdPath) -> tuple[str, int]:
    """Sign a member out everywhere."""
    signing_in.end_sessions_of(shop(), me(), path.id)
    return "", 204


@bp.post("/members", responses={"201": shapes.common.Created})
def add_member(body: shapes.people.NewMember) -> tuple[dict[str, Any], int]:
    """Add a member, with or without a first PIN or passphrase."""
    return {"id": signing_in.add_member(shop(), me(), body.name, body.role, body.secret or "").id}, 201


@bp.put("/members/<int:id>", responses={"200": shapes.people.MemberOut, "409": shapes.common.Problem})
def put_member(path: shapes.common.IdPath, body: shapes.people.ChangeMember) -> dict[str, Any]:
    """Rename a member, change their role, or let them go."""
    return dict(people.change_member(shop(), me(), path.id, body.edit, body.name, body.role, body.retired))


@bp.put("/members/<int:id>/secret", responses={"204": None})
def put_secret(path: shapes.common.IdPath, body: shapes.people.NewSecret) -> tuple[str, int]:
    """Give a member a new PIN or passphrase."""
    signing_in.set_secret(shop(), me(), path.id, body.secret)
    return "", 204
