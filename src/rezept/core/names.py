"""Names as people write them, whether two of them are read as the same, and the address a shop is reached at."""

from __future__ import annotations

import unicodedata
from urllib.parse import urlsplit

from rezept.core.errors import InvalidInput

LONGEST = 80
# Control characters, signs that are not seen (joiners, directions), halves of signs, private and unassigned ones.
_UNSEEN = ("Cc", "Cf", "Cs", "Co", "Cn")
# Scripts one writing uses together (Unicode UTS 39, highly restrictive: Latin goes with them).
_EAST_ASIAN = ("CJK", "HIRAGANA", "KATAKANA", "HANGUL", "BOPOMOFO", "KATAKANA-HIRAGANA")


def clean_name(name: str, path: str = "name") -> str:
    """A name for people to read: one line, not empty, not endless, nothing in it that is not seen."""
    cleaned = " ".join(name.split())
    if not 1 <= len(cleaned) <= LONGEST:
        raise InvalidInput(f"A name has 1 to {LONGEST} letters.", path, len(cleaned))
    if any(unicodedata.category(letter) in _UNSEEN for letter in cleaned):
        raise InvalidInput("A name holds a sign that cannot be seen, such as a control character.", path)
    return cleaned


def clean_own_name(name: str, path: str = "name") -> str:
    """A person's or a shop's name: nobody else's can be imitated with letters of another script."""
    cleaned = clean_name(name, path)
    if not _one_writing(cleaned):
        raise InvalidInput("A name is written in one script; letters of two look alike and are not.", path)
    return cleaned


def _one_writing(name: str) -> bool:
    scripts = set()
    for letter in unicodedata.normalize("NFKC", name):
        if unicodedata.category(letter).startswith("L"):
            script = unicodedata.name(letter, "UNKNOWN").split()[0]
            scripts.add("EAST ASIAN" if script in _EAST_ASIAN else script)
    # The letters with no script of their own (ª, ʼ, µ of old) count for none.
    scripts -= {"MODIFIER", "FEMININE", "MASCULINE", "MICRO"}
    return len(scripts) < 2 or scripts == {"LATIN", "EAST ASIAN"}


def name_key(name: str) -> str:
    """What two names have in common that are read as the same: NFKC, case folded, single spaces (Unicode UAX 15)."""
    folded = unicodedata.normalize("NFKC", name).casefold()
    return " ".join(unicodedata.normalize("NFKC", folded).split())


def public_address(text: str, path: str = "address") -> str:
    """Where a shop is reached from outside, as `https://shop.example`.

    Raises
    ------
    InvalidInput : no such address
    """
    parts = urlsplit(text.strip().rstrip("/"))
    try:
        good = parts.scheme in ("http", "https") and parts.hostname and (parts.port is None or parts.port > 0)
    except ValueError:
        good = False
    if not good or parts.path or parts.query or parts.fragment or parts.username is not None or len(text) > 200:
        raise InvalidInput("An address looks like https://shop.example, with no path behind it.", path, text[:80])
    return f"{parts.scheme}://{parts.netloc.lower()}"


def trial_name(number: int) -> str:
    """What a trial is called: ``T-014``."""
    return f"T-{number:03d}"


LONGEST_SLUG = 40


def slug(name: str) -> str:
    """A name as a part of a file name: ``poplar-plywood-4-mm``; letters without accents, digits and dashes."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    words = "".join(letter if letter.isalnum() else " " for letter in plain).split()
    return "-".join(words)[:LONGEST_SLUG].strip("-") or "plate"
