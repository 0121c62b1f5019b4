"""What can be read of an element: one table.

Reading, storage, the wire, the keys on the screen and what photographs say all go by it; a new scale is a new row here.
A value is a number on its scale; what has only to be said or not is 1 where it is said.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import finite_number, plain
from rezept.core.process import PROCESSES, Process, ProcessKey

# degrees: whole numbers with words; yes: said or not; length: mm; position: mm on the element, x and y as two scales;
# colour: one channel of CIELAB; share: 0 to 1; count: how many.
Kind = Literal["degrees", "yes", "length", "position", "colour", "share", "count"]
# How a person enters it: a digit, shift and a digit, a letter pressed again and again, or typed.
Entry = Literal["digit", "shift_digit", "letter", "typed"]
Speaker = Literal["person", "photo"]


@dataclass(frozen=True)
class Scale:
    """One thing that can be read.

    Parameters
    ----------
    low, high : the least and the greatest value; a length is more than `low`
    words : of degrees, from `low` on; lighter_words, coloured_words : the same where the mark is lighter than its
        ground, or of another colour
    question : how a person is asked for it; lighter_question, coloured_question : likewise
    processes : whose elements show it
    said_by : who may say it; people need to be members
    works_from, works_to : of what decides whether an element came out: the least value one can work by, and the
        greatest where more is too much
    wanted_from : of degrees that follow the dose step by step: the least that is as wanted; none where no degree is
    more_is_better : whoever bounds it wants no less of it
    shapes : of which patch shapes it is read; of all where there are none
    """

    key: str
    name: str
    kind: Kind
    entry: Entry
    low: float
    high: float
    processes: tuple[ProcessKey, ...]
    unit: str = ""
    letter: str = ""
    words: tuple[str, ...] = ()
    lighter_words: tuple[str, ...] = ()
    coloured_words: tuple[str, ...] = ()
    question: str = ""
    lighter_question: str = ""
    coloured_question: str = ""
    said_by: tuple[Speaker, ...] = ("person",)
    works_from: float = 0.0
    works_to: float | None = None
    wanted_from: int | None = None
    more_is_better: bool = False
    shapes: tuple[str, ...] = ()

    @property
    def most_to_work_by(self) -> float:
        """The greatest value one can work by."""
        return self.high if self.works_to is None else self.works_to

    def failed(self, value: float) -> bool:
        """Whether an element that came out so is nothing to work by."""
        return value < self.works_from or self.is_too_much(value)

    def is_too_much(self, value: float) -> bool:
        """Whether it is past what one can work by."""
        return self.works_to is not None and value > self.works_to

    def word(self, value: float, mark: str) -> str:
        """A degree in words; `mark` is what this one does to its ground, of `MARKS`."""
        words = {"lighter": self.lighter_words, "coloured": self.coloured_words}.get(mark) or self.words
        return words[int(value - self.low)]

    def checked(self, value: object, path: str) -> float:
        """`value` as a number on this scale, or the sentence why not."""
        number = finite_number(value, path, self.name)
        if self.kind == "length" and number <= self.low:
            raise InvalidInput(f"{self.name} must be more than {plain(self.low)} {self.unit}.", path, number, self.low)
        if not self.low <= number <= self.high:
            raise InvalidInput(
                f"{self.name} goes from {plain(self.low)} to {plain(self.high)}, but is {plain(number)}.",
                path,
                number,
                self.high if number > self.high else self.low,
            )
        if self.kind in ("degrees", "yes", "count") and number != int(number):
            raise InvalidInput(f"{self.name} must be a whole number, but is {plain(number)}.", path, number)
        return number


# What a mark does to its ground, as the scale `turned` counts; nothing said: what marks on the material usually do.
MARKS = ("darker", "lighter", "coloured")


def mark_of(turned: float | None, usual: str) -> str:
    """What a mark does to its ground; `usual` is what marks on the material do, ``darker`` or ``lighter``."""
    return usual if not turned or math.isnan(turned) else MARKS[int(turned) - 1]


_EVERY = tuple(process.key for process in PROCESSES.values())
_THROUGH = tuple(process.key for process in PROCESSES.values() if process.passes_through)
_MARKS = tuple(process.key for process in PROCESSES.values() if not process.passes_through)
_SHADED = tuple(process.key for process in PROCESSES.values() if process.outcome == "darkness")
_LAYERS = tuple(process.key for process in PROCESSES.values() if process.outcome == "layer")
_SURFACES = tuple(process.key for process in PROCESSES.values() if not process.draws_lines)
# Shapes that are intricate work.
_REAL = ("proof", "figure")
_BOTH: tuple[Speaker, ...] = ("person", "photo")
_HOW_MUCH = ("none", "a little", "clearly", "badly")


def _degrees(key: str, name: str, processes: tuple[ProcessKey, ...], letter: str) -> Scale:
    return Scale(key, name, "degrees", "letter", 0, 3, processes, letter=letter, words=_HOW_MUCH, said_by=_BOTH)


def _felt(key: str, name: str, letter: str, *words: str) -> Scale:
    """What fingers say of a part that was cut out."""
    return Scale(key, name, "degrees", "letter", 0, 3, _THROUGH, letter=letter, words=words)


def _tag(key: str, name: str, processes: tuple[ProcessKey, ...], letter: str) -> Scale:
    return Scale(key, name, "yes", "letter", 0, 1, processes, letter=letter)


SCALES: dict[str, Scale] = {
    scale.key: scale
    for scale in (
        Scale(
            "through",
            "through",
            "degrees",
            "digit",
            0,
            3,
            _THROUGH,
            words=("not", "partly", "with a push", "drops out"),
            question="Did it go through?",
            said_by=_BOTH,
            works_from=2,
            wanted_from=3,
        ),
        Scale(
            "layer",
            "layer",
            "degrees",
            "digit",
            0,
            3,
            _LAYERS,
            words=("still on", "partly off", "off", "hurt below"),
            question="Is the layer off?",
            said_by=_BOTH,
            works_from=2,
            works_to=2,
            wanted_from=2,
        ),
        Scale(
            "darkness",
            "darkness",
            "degrees",
            "digit",
            0,
            5,
            _SHADED,
            words=("bare", "faint", "light", "medium", "dark", "black"),
            lighter_words=("bare", "faint", "dull", "medium", "bright", "white"),
            coloured_words=("bare", "faint", "pale", "medium", "strong", "deep"),
            question="How dark is it?",
            lighter_question="How bright is it?",
            coloured_question="How strong is its colour?",
            said_by=_BOTH,
            works_from=1,
        ),
        Scale(
            "evenness",
            "evenness",
            "degrees",
            "shift_digit",
            0,
            3,
            _MARKS,
            words=("blotchy", "uneven", "fair", "even"),
            question="How even?",
            said_by=_BOTH,
            more_is_better=True,
        ),
        Scale(
            "turned",
            "turned",
            "degrees",
            "letter",
            0,
            3,
            _SHADED,
            letter="i",
            words=("as usual", *MARKS),
            question="What did it turn?",
            said_by=_BOTH,
        ),
        _degrees("char", "char", _THROUGH, "c"),
        _degrees("soot", "soot", _EVERY, "s"),
        _tag("back_burn", "back burn", _THROUGH, "b"),
        _tag("flame", "flame", _EVERY, "f"),
        _tag("melted", "melted", _EVERY, "m"),
        _tag("blurred", "blurred", _MARKS, "r"),
        # What a finger says.
        _tag("rough", "rough", _SURFACES, "g"),
        _tag("raised", "raised", _MARKS, "h"),
        _tag("warped", "warped", _EVERY, "w"),
        # What held it from below is to be seen on the back; colour that ran or smeared along the edge.
        _tag("support_mark", "support mark", _THROUGH, "p"),
        _tag("smeared", "smeared colour", _THROUGH, "e"),
        # The part in the hand: how hard it was to push out, and its edge; how it fits the hole it came from.
        _felt("push", "push", "l", "falls by itself", "light", "hard", "will not"),
        _felt("ragged", "ragged edge", "a", *_HOW_MUCH),
        _tag("stepped", "stepped edge", _THROUGH, "d"),
        _felt("fit", "fit", "j", "not tried", "loose", "fits", "tight"),
        Scale("kerf_mm", "kerf", "length", "typed", 0, 20, _THROUGH, unit="mm", question="Kerf by callipers"),
        # How much wider the cut is at the front than at the back.
        Scale("taper_mm", "taper", "length", "typed", 0, 20, _THROUGH, unit="mm", question="Taper of the edge"),
        # Of a real shape: what of it gave way first, the finest that held, and how many parts had to be picked out.
        Scale(
            "gave_way",
            "gave way first",
            "degrees",
            "letter",
            0,
            5,
            _EVERY,
            letter="v",
            words=("nothing", "a rib", "a bridge between holes", "a letter", "beside a gap", "the edge"),
            shapes=_REAL,
        ),
        Scale(
            "finest_mm",
            "finest that held",
            "length",
            "typed",
            0,
            100,
            _EVERY,
            unit="mm",
            question="Finest that held",
            shapes=_REAL,
        ),
        Scale(
            "picked_out",
            "parts picked out",
            "count",
            "typed",
            0,
            10_000,
            _THROUGH,
            question="Parts picked out",
            shapes=_REAL,
        ),
        # Of slots and a tab: which of them fit, counted from the corner that is cut off. The kerf follows from it.
        Scale(
            "fit_slot",
            "slot that fits",
            "count",
            "typed",
            1,
            20,
            _THROUGH,
            question="Which slot the tab fits",
            shapes=("slots",),
        ),
        Scale("depth_mm", "depth", "length", "typed", 0, 200, _MARKS, unit="mm", question="Depth by callipers"),
    )
}
# L* of the blackest mark there is, and of the whitest frost.
BLACKEST, WHITEST = 12.0, 93.0
# So far a score by eye is off, as a share of a step: rounding alone is 0.29 (a step over the root of twelve).
_EYE_STEPS = 0.35
SAID_BY_PHOTOS = tuple(key for key, scale in SCALES.items() if "photo" in scale.said_by)


def darkness_to_lightness(darkness: float, ground: float, mark: str) -> float:
    """L* of a mark that was scored by eye: even steps from the ground to as dark (as white) as marks get; NaN of one
    that took on a colour, whose strength says nothing of how light it is."""
    if mark == "coloured":
        return math.nan
    end = WHITEST if mark == "lighter" else BLACKEST
    return ground + darkness / SCALES["darkness"].high * (end - ground)


def lightness_unsure_by_eye(ground: float, mark: str) -> float:
    """Standard deviation of such an L* about what is there: half a step either way evenly, and an eye's own."""
    end = WHITEST if mark == "lighter" else BLACKEST
    return _EYE_STEPS * abs(end - ground) / SCALES["darkness"].high


def came_out_by_push(push: float) -> int:
    """How a part came out by how it had to be pushed: what fell by itself dropped out, what will not come did not."""
    return (3, 2, 2, 1)[int(push)]


def scale_of(key: object, process: Process, path: str) -> Scale:
    """
    Raises
    ------
    InvalidInput : there is no such scale, or it means nothing for the process
    """
    scale = SCALES.get(key) if isinstance(key, str) else None
    if scale is None:
        raise InvalidInput(f"{quoted(key)} is nothing that is read. What is: {', '.join(SCALES)}.", path, key)
    if process.key not in scale.processes:
        doing = process.name.lower()
        raise InvalidInput(f"{scale.name.capitalize()} is not read of this process: {doing}.", path, key)
    return scale
