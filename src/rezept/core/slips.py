"""Words as a search compares them: folded, parted, and found in spite of a slip of the finger.

A slip is one letter too many, too few, wrong, or two swapped. Two words are one slip apart just when leaving one
letter out of either (or of both) makes them the same, give or take a second slip; so a table of each word with one
letter left out finds all candidates by equality (Garbe's symmetric delete), and `distance` ranks them.
"""

from __future__ import annotations

import re
import unicodedata

# Shorter words are not guessed at; of longer ones only the beginning is compared.
SHORTEST, LONGEST = 4, 10
_WORD = re.compile(r"\d+(?:\.\d+)?|[^\W\d_]+")


def words_of(text: str) -> list[str]:
    """The words and numbers of a text: lower case, no accents, figures parted from letters, 4.0 as 4."""
    folded = unicodedata.normalize("NFKD", text.casefold())
    bare = "".join(letter for letter in folded if not unicodedata.combining(letter))
    found = _WORD.findall(re.sub(r"(?<=\d),(?=\d)", ".", bare))
    # Some signs that count as letters are none (U+0F2A is half a digit): only a decimal begins a number.
    return [f"{float(word):.6g}" if word[0].isdecimal() else word for word in found]


def shortened(word: str) -> set[str]:
    """The word, and the word with each one of its letters left out."""
    return {word, *(word[:i] + word[i + 1 :] for i in range(len(word)))}


def slips_of(word: str) -> set[str]:
    """All under which a word is to be found while it is being typed: its beginnings, shortened."""
    if len(word) < SHORTEST or not word.isalpha():
        return set()
    return set().union(*(shortened(word[:length]) for length in range(SHORTEST, min(len(word), LONGEST) + 1)))


def distance(typed: str, word: str) -> int:
    """Slips between what was typed and the nearest beginning of a word (optimal string alignment)."""
    typed, word = typed[:LONGEST], word[: LONGEST + 1]
    before: list[int] = []
    row = list(range(len(word) + 1))
    for i, letter in enumerate(typed, start=1):
        before, above, row = row, before, [i]
        for j, other in enumerate(word, start=1):
            cost = min(before[j] + 1, row[j - 1] + 1, before[j - 1] + (letter != other))
            if i > 1 and j > 1 and letter == word[j - 2] and typed[i - 2] == other:
                cost = min(cost, above[j - 2] + 1)
            row.append(cost)
    return min(row)
