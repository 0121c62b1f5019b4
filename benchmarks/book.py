"""Search and map over 20 000 recipes, as functions of the store and the actions."""

from __future__ import annotations

import json
import random
import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from tests.demo_copy import copy_demo

from benchmarks.timing import Figure
from rezept.actions.open_shop import Shop, open_shop
from rezept.actions.queries import asking
from rezept.core.slips import words_of
from rezept.store import book as book_table
from rezept.store import search

RECIPES = 20_000
MOST_MATCHES = 1000
ROUNDS = 7
# Made-up words that a note could hold; each recipe gets a few, so that queries match some hundreds.
SYLLABLES = [
    "ba",
    "be",
    "bi",
    "bo",
    "bu",
    "da",
    "de",
    "di",
    "do",
    "du",
    "ka",
    "ke",
    "ki",
    "ko",
    "ku",
    "la",
    "le",
    "li",
    "lo",
    "lu",
    "ma",
    "me",
    "mi",
    "mo",
    "mu",
    "na",
    "ne",
    "ni",
    "no",
    "nu",
]


def _vocabulary(chance: random.Random, size: int) -> list[str]:
    words: set[str] = set()
    while len(words) < size:
        words.add("".join(chance.choice(SYLLABLES) for _ in range(chance.randint(2, 4))))
    return sorted(words)


def full_shop(folder: Path) -> tuple[Shop, list[str]]:
    """The demo shop with 20 000 recipes more on 60 materials, written as the store would, and the words in them."""
    copy_demo(folder)
    shop = open_shop(folder)
    chance = random.Random(3)
    vocabulary = _vocabulary(chance, 400)
    at = shop.now()
    settings = json.dumps({"speed_mm_s": 20.0, "power_pct": 60.0, "passes": 1.0})
    with shop.database.writing() as db:
        for i in range(60):
            db.execute(
                """INSERT INTO material (name, family, thickness_mm, mark, hazards, processes, by_member, at)
                   VALUES (?, 'wood', ?, 'darker', '[]', '["cut", "line", "area"]', 1, ?)""",
                (f"Made-up board {i}", 3.0 + i % 7, at),
            )
        materials = [row["id"] for row in db.execute("SELECT id FROM material WHERE name LIKE 'Made-up%'")]
        texts = []
        for _ in range(RECIPES):
            standing = chance.choice(("proven", "tried", "tried", "heard", "doubtful", "retired"))
            words = " ".join(chance.choice(vocabulary) for _ in range(8))
            place = (chance.choice((1, 2, 3, 4)), chance.choice(materials), chance.choice(("cut", "line", "area")))
            cursor = db.execute(
                """INSERT INTO recipe (head_id, material_id, process, purpose, standing, note, by_member, at,
                                       changed_by, changed_at) VALUES (?, ?, ?, '', ?, ?, 1, ?, 1, ?)""",
                (*place, standing, words, at, at),
            )
            db.execute("INSERT INTO recipe_step VALUES (?, 1, '', ?, ?)", (cursor.lastrowid, place[2], settings))
            texts.append((cursor.lastrowid, " ".join(words_of(f"board wood {place[2]} {words} {standing}"))))
        db.executemany("INSERT INTO recipe_text (rowid, words) VALUES (?, ?)", texts)
        search.learn(db, {word for _, text in texts for word in text.split()})
    return shop, vocabulary


def _queries(db: sqlite3.Connection, vocabulary: list[str]) -> list[str]:
    """Whole words, beginnings, two words, and slips, that match up to 1000 recipes."""
    chance = random.Random(5)
    queries = []
    while len(queries) < 120:
        word, other = chance.choice(vocabulary), chance.choice(vocabulary)
        kind = len(queries) % 4
        text = (word, word[:5], f"{word} {other[:4]}", word[:-1] + "x")[kind]
        if 0 < book_table.search_recipes(db, text)[0] <= MOST_MATCHES:
            queries.append(text)
    return queries


def _best(act: Callable[[], object]) -> float:
    times = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        act()
        times.append(time.perf_counter() - began)
    return min(times)


def search_figures(shop: Shop, vocabulary: list[str]) -> list[Figure]:
    with shop.database.reading() as db:
        ratios, ours, matches = [], [], []
        for text in _queries(db, vocabulary):
            match = search.matching(db, text)
            values = {"match": match, "head": None, "material": None, "process": None, "standing": None}

            def bare(db: sqlite3.Connection = db, values: dict[str, object] = values) -> list[int]:
                """The same two questions, asked of SQLite without anything around them."""
                ids = [row[0] for row in db.execute(book_table._FOUND_BY_WORDS, values).fetchall()]
                page = json.dumps(ids[:60])
                db.execute(
                    book_table._RECIPES + " WHERE recipe.id IN (SELECT value FROM json_each(?))", (page,)
                ).fetchall()
                return ids

            mine = _best(lambda db=db, text=text: book_table.search_recipes(db, text))
            ratios.append(mine / _best(bare))
            ours.append(mine * 1000)
            matches.append(len(bare()))
    ours.sort()
    return [
        Figure(
            "search over 20 000 recipes against the bare query",
            statistics.median(ratios),
            "x",
            3,
            f"worst of {len(ratios)} queries {max(ratios):.2f} x; {min(matches)} to {max(matches)} matches",
        ),
        Figure(
            "search over 20 000 recipes, p95",
            ours[len(ours) * 95 // 100],
            "ms",
            20,
            f"median {ours[len(ours) // 2]:.1f} ms",
        ),
    ]


def map_figure(shop: Shop) -> Figure:
    times = []
    for i in range(12):
        began = time.perf_counter()
        answer = asking.book_map(shop, ("cut", "line", "area")[i % 3])
        times.append((time.perf_counter() - began) * 1000)
    squares = sum(len(row["cells"]) for row in answer["rows"])
    return Figure("map of 20 000 recipes, median", statistics.median(times), "ms", 100, f"{squares} squares")


def figures() -> list[Figure]:
    with tempfile.TemporaryDirectory() as folder:
        shop, vocabulary = full_shop(Path(folder) / "shop")
        try:
            return [*search_figures(shop, vocabulary), map_figure(shop)]
        finally:
            shop.close()
