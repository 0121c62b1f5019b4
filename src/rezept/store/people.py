"""Members, their sessions, and tries to sign in."""

from __future__ import annotations

import sqlite3
from typing import TypedDict

from rezept.core.names import name_key
from rezept.store.rows import Row, changed_once, declared, found

_MEMBERS = """
    SELECT id, name, role, edit, secret IS NOT NULL AS can_sign_in, retired_at IS NOT NULL AS retired,
           removed_at IS NOT NULL AS removed
    FROM member
"""


class MemberRow(TypedDict):
    id: int
    name: str
    role: str
    edit: int
    can_sign_in: bool
    retired: bool
    removed: bool


def _member(row: sqlite3.Row) -> MemberRow:
    flags = {key: bool(row[key]) for key in ("can_sign_in", "retired", "removed")}
    return declared(MemberRow, {**dict(row), **flags})


def add_member(db: sqlite3.Connection, name: str, role: str, secret: str | None, at: str) -> int:
    cursor = db.execute(
        "INSERT INTO member (name, name_key, role, secret, at) VALUES (?, ?, ?, ?, ?)",
        (name, name_key(name), role, secret, at),
    )
    return int(cursor.lastrowid or 0)


def members(db: sqlite3.Connection) -> list[MemberRow]:
    return [_member(row) for row in db.execute(_MEMBERS + " WHERE removed_at IS NULL ORDER BY id")]


def member(db: sqlite3.Connection, member_id: int) -> MemberRow:
    return _member(found(db.execute(_MEMBERS + " WHERE id = ?", (member_id,)).fetchone(), f"member {member_id}"))


def secret_of(db: sqlite3.Connection, key: str) -> tuple[int, str] | None:
    """Id and hashed secret of the member whose name is read so; None where nobody can."""
    row = db.execute(
        "SELECT id, secret FROM member WHERE name_key = ? AND secret IS NOT NULL AND retired_at IS NULL", (key,)
    ).fetchone()
    return None if row is None else (row["id"], row["secret"])


def change_member(
    db: sqlite3.Connection, member_id: int, edit: int, name: str, role: str, retired: str | None
) -> MemberRow:
    """Change what a member is called and may do; `retired` is since when they are gone.

    Raises
    ------
    Stale : the member was changed since `edit`
    """
    before = member(db, member_id)
    cursor = db.execute(
        "UPDATE member SET name = ?, name_key = ?, role = ?, retired_at = ?, edit = edit + 1 WHERE id = ? AND edit = ?",
        (name, name_key(name), role, retired, member_id, edit),
    )
    yours = {"name": name, "role": role, "retired": retired is not None, "edit": edit}
    changed_once(cursor.rowcount, before["name"], before, yours)
    return member(db, member_id)


def set_secret(db: sqlite3.Connection, member_id: int, secret: str) -> None:
    db.execute("UPDATE member SET secret = ? WHERE id = ?", (secret, member_id))


def add_session(db: sqlite3.Connection, token_sha256: str, member_id: int, device: str, at: str) -> int:
    cursor = db.execute(
        "INSERT INTO session (token_sha256, member_id, device, started_at, seen_at) VALUES (?, ?, ?, ?, ?)",
        (token_sha256, member_id, device, at, at),
    )
    return int(cursor.lastrowid or 0)


def live_session(db: sqlite3.Connection, token_sha256: str, started_after: str, seen_after: str) -> Row | None:
    """The session of a token that has neither ended nor run out, with its member."""
    row = db.execute(
        """
        SELECT session.id, session.member_id, session.seen_at FROM session
        JOIN member ON member.id = session.member_id
        WHERE token_sha256 = ? AND ended_at IS NULL AND member.retired_at IS NULL
              AND started_at > ? AND seen_at > ?
        """,
        (token_sha256, started_after, seen_after),
    ).fetchone()
    return None if row is None else dict(row)


def sessions_of(db: sqlite3.Connection, member_id: int, started_after: str, seen_after: str) -> list[Row]:
    """A member's live sessions, the one used last first."""
    rows = db.execute(
        """
        SELECT id, member_id, device, started_at, seen_at FROM session
        WHERE member_id = ? AND ended_at IS NULL AND started_at > ? AND seen_at > ? ORDER BY seen_at DESC, id DESC
        """,
        (member_id, started_after, seen_after),
    )
    return [dict(row) for row in rows]


def session(db: sqlite3.Connection, session_id: int) -> Row:
    row = db.execute("SELECT id, member_id FROM session WHERE id = ?", (session_id,)).fetchone()
    return dict(found(row, f"session {session_id}"))


def seen(db: sqlite3.Connection, session_id: int, at: str) -> None:
    db.execute("UPDATE session SET seen_at = ? WHERE id = ?", (at, session_id))


def end_session(db: sqlite3.Connection, session_id: int, at: str) -> None:
    db.execute("UPDATE session SET ended_at = ? WHERE id = ? AND ended_at IS NULL", (at, session_id))


def end_sessions_of(db: sqlite3.Connection, member_id: int, at: str, but: int | None = None) -> None:
    """End every session of a member, except perhaps the one in use."""
    db.execute(
        "UPDATE session SET ended_at = ? WHERE member_id = ? AND ended_at IS NULL AND id IS NOT ?",
        (at, member_id, but),
    )


def tries(db: sqlite3.Connection, name_key: str, address: str) -> tuple[int, float]:
    """How often signing in was tried in vain for that name from that address, and when last (seconds since 1970)."""
    row = db.execute(
        "SELECT tries, last_s FROM sign_in_try WHERE name_key = ? AND address = ?", (name_key, address)
    ).fetchone()
    return (0, 0.0) if row is None else (row["tries"], row["last_s"])


def count_try(
    db: sqlite3.Connection, name_key: str, address: str, tries: int, now_s: float, forgotten_after_s: float
) -> None:
    """Note a try, and forget everybody's that are long ago."""
    db.execute("DELETE FROM sign_in_try WHERE last_s < ?", (now_s - forgotten_after_s,))
    db.execute(
        "INSERT OR REPLACE INTO sign_in_try (name_key, address, tries, last_s) VALUES (?, ?, ?, ?)",
        (name_key, address, tries, now_s),
    )


def forget_tries(db: sqlite3.Connection, name_key: str, address: str | None = None) -> None:
    """Forget a name's tries: from an address, or from everywhere."""
    db.execute(
        "DELETE FROM sign_in_try WHERE name_key = ? AND (? IS NULL OR address = ?)", (name_key, address, address)
    )
