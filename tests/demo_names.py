"""What the demo shop holds, asked for by what it is called: numbers of rows change when the demo does."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

Ask = Callable[[str], dict[str, Any]]
_NAMED = re.compile(r"\{(last )?(trial|recipe|material|head|machine): ([^}]*)\}")


def _titled(ask: Ask, kind: str) -> dict[int, str]:
    if kind == "trial":
        rows = ask("/api/trials?most=60")["trials"]
        return {row["id"]: f"{row['material']} {row['head']} {row['process']}" for row in rows}
    if kind == "recipe":
        rows = ask("/api/recipes?most=60")["recipes"]
        return {row["id"]: f"{row['material']} {row['head']} {row['process']} {row['purpose']}" for row in rows}
    return {row["id"]: row["title"] for row in ask("/api/shop")[f"{kind}s"]}


def id_of(ask: Ask, kind: str, words: str, last: bool = False) -> int:
    """The row whose title has all of these, parted by commas; of several the one that was made first, or last."""
    parts = words.split(", ")
    found = [key for key, title in _titled(ask, kind).items() if all(part in title for part in parts)]
    assert found, f"no {kind} of the demo is called {words}"
    return max(found) if last else min(found)


def with_ids(ask: Ask, path: str) -> str:
    """A path such as ``/trials/{trial: Wool felt, cut}/read`` with the numbers in their places."""
    return _NAMED.sub(lambda match: str(id_of(ask, match[2], match[3], last=match[1] is not None)), path)
