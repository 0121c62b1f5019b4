"""Members, their sessions, and sign-ins that failed."""

from __future__ import annotations

import sqlite3

from rezept.store.rows import Row, changed_once, found

_MEMBERS = """
    SELECT id, name, role, edit, secret IS NOT NULL AS can_sign_in, retired_at IS NOT NULL AS retired FROM member
"""


def _member(row: sqlite3.Row) -> Row:
    return {**dict(row), "can_sign_in": bool(row["can_sign_in"]), "retired": bool(row["retired"])}


def add_member(db: sqlite3.Connection, name: str, role: str, secret: str | None, at: str) -> int:
    cursor = db.execute("INSERT INTO member (name, role, secret, at) VALUES (?, ?, ?, ?)", (name, role, secret, at))
    return int(cursor.lastrowid or 0)


def members(db: sqlite3.Connection) -> list[Row]:
    return [_member(row) for row in db.execute(_MEMBERS + " ORDER BY id")]


def member(db: sqlite3.Connection, member_id: int) -> Row:
    return _member(found(db.execute(_MEMBERS + " WHERE id = ?", (member_id,)).fetchone(), f"member {member_id}"))


def secret_of(db: sqlite3.Connection, name: str) -> tuple[int, str] | None:
    """Id and hashed secret of the member who signs in by that name; None where nobody can."""
    row = db.execute(
        "SELECT id, secret FROM member WHERE name = ? AND secret IS NOT NULL AND retired_at IS NULL", (name,)
    ).fetchone()
    return None if row is None else (row["id"], row["secret"])


def change_member(db: sqlite3.Connection, member_id: int, edit: int, name: str, role: str, retired: str | None) -> Row:
    """Change what a member is called and may do; `retired` is since when they are gone.

    Raises
    ------
    Stale : the member was changed since `edit`
    """
    before = member(db, member_id)
    cursor = db.execute(
        "UPDATE member SET name = ?, role = ?, retired_at = ?, edit = edit + 1 WHERE id = ? AND edit = ?",
        (name, role, retired, member_id, edit),
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


def add_failure(db: sqlite3.Connection, name: str, address: str, at: str) -> None:
    db.execute("INSERT INTO sign_in_failure (name, address, at) VALUES (?, ?, ?)", (name, address, at))


def failures(db: sqlite3.Connection, name: str, address: str, after: str) -> tuple[list[str], list[str]]:
    """When sign-ins failed since `after`: for that name, and from that address; oldest first."""
    of_name = db.execute("SELECT at FROM sign_in_failure WHERE name = ? AND at > ? ORDER BY at", (name, after))
    of_address = db.execute("SELECT at FROM sign_in_failure WHERE address = ? AND at > ? ORDER BY at", (address, after))
    return [row["at"] for row in of_name.fetchall()], [row["at"] for row in of_address.fetchall()]


def forget_failures(db: sqlite3.Connection, name: str, before: str) -> None:
    """After a good sign-in: that name's failures, and everybody's older than `before`."""
    db.execute("DELETE FROM sign_in_failure WHERE name = ? OR at < ?", (name, before))
