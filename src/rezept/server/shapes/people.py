"""Members, sessions and the door."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.actions.members import RoleKey
from rezept.server.shapes.common import Edit, Id, Json, Shape


class Door(Shape):
    """How one comes in: an empty folder is founded, in the demo one picks oneself, a shop asks for a passphrase."""

    state: Literal["empty", "demo", "shop"]
    shop: str | None
    signed_in: bool
    here_only: bool


class FoundShop(Shape):
    name: str = Field(max_length=200)
    tag: str = Field(max_length=20)
    keeper: str = Field(max_length=200)
    secret: str = Field(max_length=1000)


class SignIn(Shape):
    name: str = Field(max_length=200)
    secret: str = Field(max_length=1000)


class PickMember(Shape):
    member: Id


class ChangeSecret(Shape):
    old: str = Field(max_length=1000)
    new: str = Field(max_length=1000)


class NewSecret(Shape):
    secret: str = Field(max_length=1000)


class NewMember(Shape):
    name: str = Field(max_length=200)
    role: RoleKey
    secret: str | None = Field(None, max_length=1000)


class ChangeMember(Edit):
    name: str = Field(max_length=200)
    role: RoleKey
    retired: bool


class MemberOut(Shape):
    id: int
    name: str
    role: RoleKey
    edit: int
    can_sign_in: bool
    retired: bool
    removed: bool


class KeptOf(Shape):
    """Everything the records hold of a member. `rows`: by `table.column`, every row that refers to them there."""

    format: Literal["rezept-personal"]
    version: int
    at: str
    member: Json
    names: list[str]
    rows: dict[str, list[Json]]
    sentences: list[str]
    tries_to_sign_in: list[Json]


class Me(Shape):
    """Who I am, what I may do, and the token every write must carry."""

    id: int
    name: str
    role: RoleKey
    may_write: bool
    may_prove: bool
    may_keep: bool
    form_token: str


class SessionOut(Shape):
    id: int
    member_id: int
    device: str
    started_at: str
    seen_at: str
    current: bool


class Sessions(Shape):
    sessions: list[SessionOut]
