"""Finding recipes by their words, while one is still typing and in spite of slips."""

from __future__ import annotations

import sqlite3

from rezept.core.slips import LONGEST, SHORTEST, distance, shortened, slips_of, words_of
from rezept.store.rows import as_json

MOST_GUESSES = 12

_TEXTS = """
    SELECT recipe.id, material.name || ' ' || coalesce(material.thickness_mm || ' mm', '') || ' ' || material.family
           || ' ' || coalesce((SELECT group_concat(value, ' ') FROM json_each(material.facts)), '')
           || ' ' || material.supplier_code || ' ' || machine.name || ' ' || head.name || ' ' || recipe.process
           || ' ' || recipe.purpose || ' ' || recipe.note || ' ' || recipe.conditions || ' ' || recipe.supplier_code
           || ' ' || recipe.pinned || ' ' || recipe.good_enough || ' ' || recipe.standing || ' ' || author.name AS text
    FROM recipe
    JOIN material ON material.id = recipe.material_id
    JOIN head ON head.id = recipe.head_id
    JOIN machine ON machine.id = head.machine_id
    JOIN member AS author ON author.id = recipe.by_member
"""
_OF = {
    "recipe": " WHERE recipe.id = ?",
    "material": " WHERE recipe.material_id = ?",
    "head": " WHERE recipe.head_id = ?",
    "machine": " WHERE head.machine_id = ?",
    "member": " WHERE recipe.by_member = ?",
}


def index(db: sqlite3.Connection, kind: str, row_id: int) -> None:
    """Bring the words of every recipe up to date that says something of this row."""
    if kind not in _OF:
        return
    fresh: set[str] = set()
    for row in db.execute(_TEXTS + _OF[kind], (row_id,)).fetchall():
        words = words_of(row["text"])
        fresh.update(words)
        db.execute("DELETE FROM recipe_text WHERE rowid = ?", (row["id"],))
        db.execute("INSERT INTO recipe_text (rowid, words) VALUES (?, ?)", (row["id"], " ".join(words)))
    learn(db, fresh)


def forget_words(db: sqlite3.Connection, text: str) -> None:
    """Forget the words of a text that stand in no recipe any more."""
    for word in words_of(text):
        if db.execute("SELECT 1 FROM recipe_text WHERE recipe_text MATCH ? LIMIT 1", (f'"{word}"',)).fetchone() is None:
            db.execute("DELETE FROM word_slip WHERE word = ?", (word,))
            db.execute("DELETE FROM search_word WHERE word = ?", (word,))


def without_words(db: sqlite3.Connection) -> list[int]:
    """Recipes an earlier version of Rezept has kept without their words; they want to be indexed."""
    rows = db.execute("SELECT id FROM recipe WHERE id NOT IN (SELECT rowid FROM recipe_text)")
    return [row["id"] for row in rows]


def learn(db: sqlite3.Connection, words: set[str]) -> None:
    """Words the search has not met yet, with their slips."""
    known = db.execute(
        "SELECT word FROM search_word WHERE word IN (SELECT value FROM json_each(?))", (as_json(sorted(words)),)
    )
    for word in sorted(words - {row["word"] for row in known}):
        db.execute("INSERT INTO search_word (word) VALUES (?)", (word,))
        db.executemany(
            "INSERT INTO word_slip (slip, word) VALUES (?, ?)", [(slip, word) for slip in sorted(slips_of(word))]
        )


def begins_a_word(db: sqlite3.Connection, word: str) -> bool:
    row = db.execute("SELECT 1 FROM search_word WHERE word >= ? AND word < ? LIMIT 1", (word, word + "\U0010ffff"))
    return row.fetchone() is not None


def _guesses(db: sqlite3.Connection, word: str) -> list[str]:
    """The words nearest to one that does not stand in the book."""
    rows = db.execute(
        "SELECT DISTINCT word FROM word_slip WHERE slip IN (SELECT value FROM json_each(?))",
        (as_json(sorted(shortened(word[:LONGEST]))),),
    )
    ranked = sorted((distance(word, row["word"]), row["word"]) for row in rows)
    return [found for slips, found in ranked if slips == ranked[0][0]][:MOST_GUESSES]


def matching(db: sqlite3.Connection, text: str) -> str | None:
    """What to MATCH for a typed text, or None where no recipe can have all its words.

    A number has to be the number; a word is found by its beginning, or by the words one slip away where none begins
    so.
    """
    parts = []
    for word in words_of(text):
        if not word.isalpha():
            parts.append(f'"{word}"')
        elif begins_a_word(db, word):
            parts.append(f'"{word}"*')
        else:
            guesses = _guesses(db, word) if len(word) >= SHORTEST else []
            if not guesses:
                return None
            parts.append("(" + " OR ".join(f'"{guess}"' for guess in guesses) + ")")
    return " AND ".join(parts)
