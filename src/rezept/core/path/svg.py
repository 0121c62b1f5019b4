"""The outlines of an SVG drawing, in mm: paths, basic shapes, groups, `use`, transforms, units and viewBox.

Nothing of it is run and nothing is fetched. Only outlines count: how wide a line is drawn and in which colour says
nothing, but what is not painted at all is left out.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput, quoted
from rezept.core.path.brought import CURVE_MM, MOST_BROUGHT, MOST_FAR, Brought, Path, Rule, all_left_out, understood
from rezept.core.path.curves import ellipse
from rezept.core.path.pen_ways import ways_of

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

Floats = NDArray[np.float64]
LONGEST = 4_000_000
# Elements that are drawn, each `use` of one counted again; and how deep they may lie in one another.
MOST_ELEMENTS, DEEPEST = 20_000, 60
MM_PER_INCH = 25.4
# What a length of CSS is in px of 1/96 inch.
_PX = {"": 1.0, "px": 1.0, "in": 96.0, "mm": 96 / 25.4, "cm": 960 / 25.4, "q": 24 / 25.4, "pt": 4 / 3, "pc": 16.0}
_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_LENGTH = re.compile(rf"\s*({_NUMBER})\s*([a-zA-Z%]*)\s*")
_FUNCTION = re.compile(r"\s*,?\s*([a-zA-Z]+)\s*\(([^()]*)\)\s*")
_BETWEEN = re.compile(r"[\s,]+")
_PARENTS = {"svg", "g", "a", "switch"}
_NOT_DRAWN = {
    "defs", "symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient", "filter", "metadata",
    "title", "desc", "style", "view", "namedview",
}  # fmt: skip
_WHY_NOT = {
    "text": ("lettering", "letters are no outlines; turn them into paths where it was drawn"),
    "image": ("a picture", "a picture has no outlines"),
    "script": ("a script", "scripts are never run"),
    "foreignObject": ("a foreign object", "it is no SVG"),
    "video": ("a film", "it has no outlines"),
    "audio": ("a sound", "it has no outlines"),
    "iframe": ("a page", "it is no SVG"),
}
_ANIMATED = {"animate", "animateTransform", "animateMotion", "set"}
IDENTITY: Floats = np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])


def _after(outer: Floats, inner: Floats) -> Floats:
    """Both matrices (2 x 3) in one: `inner` first."""
    turned: Floats = outer[:, :2] @ inner
    turned[:, 2] += outer[:, 2]
    return turned


def _number(text: str, what: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not abs(value) < MOST_FAR:
        raise InvalidInput(f"{what} of the drawing is no number it can be: {quoted(text)}.")
    return value


def _px(text: str | None, otherwise: float, whole: float, what: str) -> float:
    """A length in px; a share of `whole` where it is in per cent."""
    if text is None or not text.strip() or text.strip() == "auto":
        return otherwise
    found = _LENGTH.fullmatch(text)
    if found is None:
        raise InvalidInput(f"{what} of the drawing is no length: {quoted(text)}.")
    value, unit = _number(found[1], what), found[2].lower()
    if unit == "%":
        return value / 100 * whole
    if unit not in _PX:
        raise InvalidInput(f"{what} of the drawing is in {quoted(unit)}, which says no length in mm.")
    return value * _PX[unit]


def _numbers(text: str, what: str) -> list[float]:
    return [_number(word, what) for word in re.findall(_NUMBER, text)]


def _transform(text: str | None) -> Floats:
    """What a list of transform functions does, 2 x 3."""
    matrix, at = IDENTITY, 0
    text = (text or "").strip()
    while at < len(text):
        found = _FUNCTION.match(text, at)
        if found is None:
            raise InvalidInput(f"A transform of the drawing cannot be read: {quoted(text)}.")
        name = found[1]
        values = [_number(word, "A transform") for word in _BETWEEN.split(found[2].strip()) if word]
        matrix, at = _after(matrix, _one_transform(name, values, text)), found.end()
    return matrix


def _one_transform(name: str, values: list[float], text: str) -> Floats:
    count = len(values)
    if name == "matrix" and count == 6:
        a, b, c, d, e, f = values
        return np.array([[a, c, e], [b, d, f]])
    if name == "translate" and count in (1, 2):
        return np.array([[1.0, 0.0, values[0]], [0.0, 1.0, values[1] if count == 2 else 0.0]])
    if name == "scale" and count in (1, 2):
        return np.array([[values[0], 0.0, 0.0], [0.0, values[-1], 0.0]])
    if name == "rotate" and count in (1, 3):
        angle = math.radians(values[0])
        turn = np.array([[math.cos(angle), -math.sin(angle), 0.0], [math.sin(angle), math.cos(angle), 0.0]])
        if count == 3:
            there = np.array([[1.0, 0.0, values[1]], [0.0, 1.0, values[2]]])
            back = np.array([[1.0, 0.0, -values[1]], [0.0, 1.0, -values[2]]])
            turn = _after(there, _after(turn, back))
        return turn
    if name in ("skewX", "skewY") and count == 1:
        lean = math.tan(math.radians(values[0]))
        return np.array([[1.0, lean, 0.0], [0.0, 1.0, 0.0]] if name == "skewX" else [[1.0, 0.0, 0.0], [lean, 1.0, 0.0]])
    raise InvalidInput(f"A transform of the drawing cannot be read: {quoted(text)}.")


@dataclass(frozen=True)
class _State:
    """What an element takes over from those it lies in; the matrix leads to mm, y up."""

    matrix: Floats
    size: tuple[float, float]
    style: Mapping[str, str] = field(default_factory=dict)
    deep: int = 0


_INHERITED = ("fill", "stroke", "fill-rule", "visibility")


def _name(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _own_style(element: Element) -> dict[str, str]:
    style = {key: value.strip() for key, value in element.attrib.items() if key in (*_INHERITED, "display")}
    for part in element.get("style", "").split(";"):
        key, colon, value = part.partition(":")
        if colon:
            style[key.strip()] = value.replace("!important", "").strip()
    return style


class _Reader:
    def __init__(self, root: Element) -> None:
        self.root = root
        self.by_id = {one.get("id", ""): one for one in root.iter()}
        self.styled = any(_name(one) == "style" for one in root.iter())
        self.paths: list[Path] = []
        self.missed: Counter[tuple[str, str]] = Counter()
        self.elements = self.points = 0

    def miss(self, what: str, why: str) -> None:
        self.missed[what, why] += 1

    def read(self) -> None:
        if self.styled:
            self.miss("a style sheet", "it is not read; what it hides is drawn")
        scale = MM_PER_INCH / 96
        width, height = self.root.get("width"), self.root.get("height")
        box = self.box(self.root)
        sized = [text is not None and not text.strip().endswith("%") for text in (width, height)]
        if not any(sized):
            self.miss(
                "the size of the drawing", "it says none; a unit of it is taken for 1/96 inch, which is 0.2646 mm"
            )
        elif any(re.fullmatch(rf"\s*{_NUMBER}\s*", text or "") for text in (width, height)):
            self.miss("the unit of the drawing", "it says none; it is taken for 1/96 inch, which is 0.2646 mm")
        across, up = (box[2], box[3]) if box else (0.0, 0.0)
        wide = _px(width, across, across, "The width") if sized[0] else across
        high = _px(height, up, up, "The height") if sized[1] else up
        if box and sized[0] != sized[1]:
            # One side follows the other.
            wide, high = (wide, wide * up / across) if sized[0] else (high * across / up, high)
        upright = np.array([[scale, 0.0, 0.0], [0.0, -scale, 0.0]])
        state = self.inner(_State(upright, (wide, high)), self.root)
        self.children(self.root, self.viewed(state, self.root, (wide, high)))

    def box(self, element: Element) -> list[float] | None:
        text = element.get("viewBox")
        if text is None:
            return None
        box = _numbers(text, "The viewBox")
        if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
            raise InvalidInput(f"The viewBox of the drawing is none: {quoted(text)}.")
        return box

    def viewed(self, state: _State, element: Element, size: tuple[float, float]) -> _State:
        """Inside an `svg` or `symbol` of a size in px: its viewBox fitted into it."""
        box = self.box(element)
        if box is None:
            return replace(state, size=size)
        if min(size) <= 0:
            raise InvalidInput("The drawing has no width or no height.")
        x, y, across, up = box
        fit = element.get("preserveAspectRatio", "xMidYMid").split()
        scales = [size[0] / across, size[1] / up]
        if "none" not in fit:
            scales = [max(scales) if "slice" in fit else min(scales)] * 2
        shares = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
        align = fit[0] if re.fullmatch(r"x(Min|Mid|Max)Y(Min|Mid|Max)", fit[0]) else "xMidYMid"
        shift = [
            share * (whole - side * scale)
            for share, whole, side, scale in zip(
                (shares[align[1:4]], shares[align[5:]]), size, (across, up), scales, strict=True
            )
        ]
        fitted = np.array([[scales[0], 0.0, shift[0] - x * scales[0]], [0.0, scales[1], shift[1] - y * scales[1]]])
        return replace(state, matrix=_after(state.matrix, fitted), size=(across, up))

    def inner(self, state: _State, element: Element) -> _State:
        own = _own_style(element)
        style = {
            **state.style,
            **{key: value for key, value in own.items() if key in _INHERITED and value != "inherit"},
        }
        return replace(state, matrix=_after(state.matrix, _transform(element.get("transform"))), style=style)

    def children(self, element: Element, state: _State) -> None:
        if state.deep > DEEPEST:
            raise InvalidInput("The drawing's groups lie too deep in one another, or a part of it is made of itself.")
        for child in element:
            self.element(child, replace(state, deep=state.deep + 1))

    def element(self, element: Element, state: _State) -> None:
        name = _name(element)
        if not name or name in _NOT_DRAWN or name in _ANIMATED:
            if name in _ANIMATED:
                self.miss("a movement", "it is drawn as it stands still")
            return
        self.elements += 1
        if self.elements > MOST_ELEMENTS:
            raise InvalidInput(f"The drawing has more than {MOST_ELEMENTS} elements; bring a part of it.")
        if _own_style(element).get("display") == "none":
            self.miss("what is hidden", "it is not shown where it was drawn")
            return
        if name in _WHY_NOT:
            self.miss(*_WHY_NOT[name])
            return
        if element.get("clip-path") or element.get("mask"):
            self.miss("a clipping", "what it hides is drawn all the same")
        if "transform" in _own_style(element):
            self.miss("a transform of a style", "it is not read")
        inner = self.inner(state, element)
        if name == "svg":
            self.placed(element, inner, element)
        elif name in _PARENTS:
            self.children(element, inner)
        elif name == "use":
            self.use(element, inner)
        else:
            self.shape(name, element, inner)

    def placed(self, element: Element, state: _State, sized: Element) -> None:
        """An `svg` within another, or a symbol as `sized` (a `use`) has it."""
        x, y = (_px(sized.get(key), 0.0, state.size[i], f"A place ({key})") for i, key in enumerate("xy"))
        asked = [
            _px(sized.get(key, element.get(key)), state.size[i], state.size[i], f"A size ({key})")
            for i, key in enumerate(("width", "height"))
        ]
        moved = _after(state.matrix, np.array([[1.0, 0.0, x], [0.0, 1.0, y]]))
        self.children(element, self.viewed(replace(state, matrix=moved), element, (asked[0], asked[1])))

    def use(self, element: Element, state: _State) -> None:
        link = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
        if not link.startswith("#"):
            self.miss("a part of another file", "nothing is fetched")
            return
        of = self.by_id.get(link[1:])
        if of is None:
            self.miss("a part that is not there", f"the drawing has nothing called {quoted(link[1:])}")
            return
        if state.deep > DEEPEST:
            raise InvalidInput("A part of the drawing is made of itself.")
        if _name(of) in ("symbol", "svg"):
            self.placed(of, self.inner(state, of), element)
            return
        x, y = (_px(element.get(key), 0.0, state.size[i], f"A place ({key})") for i, key in enumerate("xy"))
        moved = _after(state.matrix, np.array([[1.0, 0.0, x], [0.0, 1.0, y]]))
        self.element(of, replace(state, matrix=moved, deep=state.deep + 1))

    def shape(self, name: str, element: Element, state: _State) -> None:
        draw = getattr(self, f"draw_{name.lower()}", None)
        if draw is None:
            self.miss(f"<{name[:40]}>", "no outline that is known here")
            return
        style = state.style
        unseen = style.get("visibility") in ("hidden", "collapse")
        unpainted = style.get("fill") == "none" and style.get("stroke", "none") == "none"
        if unseen or (unpainted and not (self.styled and element.get("class"))):
            self.miss("what is hidden" if unseen else "what is not painted", "it is not shown where it was drawn")
            return
        fills = style.get("fill") != "none"
        rule: Rule = "nonzero" if fills and style.get("fill-rule", "nonzero") != "evenodd" else "even_odd"
        ways = tuple(way for way in draw(element, state) if len(way))
        self.points += sum(map(len, ways))
        if self.points > MOST_BROUGHT:
            raise InvalidInput(f"The drawing has more than {MOST_BROUGHT} points. Simplify it first.")
        if ways:
            self.paths.append(Path(ways, rule))

    def lengths(self, element: Element, state: _State, *keys: str) -> list[float]:
        wide, high = state.size
        whole = {
            "x": wide,
            "width": wide,
            "cx": wide,
            "rx": wide,
            "x1": wide,
            "x2": wide,
            "r": math.hypot(wide, high) / 2**0.5,
        }
        return [_px(element.get(key), 0.0, whole.get(key, high), f"A length ({key})") for key in keys]

    def draw_path(self, element: Element, state: _State) -> Iterator[Floats]:
        yield from _path_ways(element.get("d", ""), state.matrix)

    def draw_rect(self, element: Element, state: _State) -> Iterator[Floats]:
        x, y, w, h = self.lengths(element, state, "x", "y", "width", "height")
        if w <= 0 or h <= 0:
            return
        rx, ry = (
            None if element.get(key) in (None, "auto") else self.lengths(element, state, key)[0] for key in ("rx", "ry")
        )
        across = min(rx if rx is not None else ry or 0.0, w / 2)
        up = min(ry if ry is not None else rx or 0.0, h / 2)
        if across <= 0 or up <= 0:
            d = f"M{x!r} {y!r}h{w!r}v{h!r}h{-w!r}z"
        else:
            a = f"a{across!r} {up!r} 0 0 1"
            d = (
                f"M{x + across!r} {y!r}h{w - 2 * across!r}{a} {across!r} {up!r}v{h - 2 * up!r}{a} {-across!r} {up!r}"
                f"h{2 * across - w!r}{a} {-across!r} {-up!r}v{2 * up - h!r}{a} {across!r} {-up!r}z"
            )
        yield from _path_ways(d, state.matrix)

    def draw_circle(self, element: Element, state: _State) -> Iterator[Floats]:
        x, y, r = self.lengths(element, state, "cx", "cy", "r")
        if r > 0:
            yield ellipse((x, y), (r, r), state.matrix, CURVE_MM)

    def draw_ellipse(self, element: Element, state: _State) -> Iterator[Floats]:
        x, y, rx, ry = self.lengths(element, state, "cx", "cy", "rx", "ry")
        if rx > 0 and ry > 0:
            yield ellipse((x, y), (rx, ry), state.matrix, CURVE_MM)

    def draw_line(self, element: Element, state: _State) -> Iterator[Floats]:
        x1, y1, x2, y2 = self.lengths(element, state, "x1", "y1", "x2", "y2")
        yield np.array([(x1, y1), (x2, y2)]) @ state.matrix[:, :2].T + state.matrix[:, 2]

    def draw_polyline(self, element: Element, state: _State, closed: bool = False) -> Iterator[Floats]:
        values = _numbers(element.get("points", ""), "A point")
        points = (
            np.array(values[: len(values) // 2 * 2], float).reshape(-1, 2) @ state.matrix[:, :2].T + state.matrix[:, 2]
        )
        if len(points) > 1:
            yield np.concatenate([points, points[:1]]) if closed else points

    def draw_polygon(self, element: Element, state: _State) -> Iterator[Floats]:
        yield from self.draw_polyline(element, state, closed=True)


def _path_ways(d: str, matrix: Floats) -> Iterator[Floats]:
    """The ways of SVG path data, moved by `matrix`, curves as edges."""
    # What reads path data takes longer to import than a plan takes.
    from fontTools.pens.recordingPen import RecordingPen
    from fontTools.svgLib.path import parse_path

    from rezept.core.path.svg_arc import FineArc

    pen = RecordingPen()
    try:
        parse_path(d, pen, arc_class=FineArc)
    except (ValueError, IndexError, OverflowError, ZeroDivisionError) as error:
        raise InvalidInput(f"A path of the drawing cannot be read: {quoted(d)}.") from error

    def moved(*points: tuple[float, float]) -> Floats:
        if not all(abs(x) < MOST_FAR and abs(y) < MOST_FAR for x, y in points):
            raise InvalidInput(f"A path of the drawing leads out of this world: {quoted(d)}.")
        there: Floats = np.array(points, float) @ matrix[:, :2].T + matrix[:, 2]
        return there

    yield from ways_of(pen.value, moved, CURVE_MM)


@lru_cache(maxsize=16)
def read_svg(text: str, close_gaps_mm: float = 0.0) -> Brought:
    """The figure of an SVG drawing, and what of it was left out.

    Raises
    ------
    InvalidInput : it is none, says what it must not, or has no outline
    """
    # What reads XML takes longer to import than a plan takes.
    from xml.etree.ElementTree import ParseError

    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    if len(text) > LONGEST:
        raise InvalidInput(f"The drawing is larger than {LONGEST // 1_000_000} MB; bring a part of it.")
    try:
        root = fromstring(text)
    except DefusedXmlException as error:
        raise InvalidInput("The drawing declares entities of its own or another file; save it as plain SVG.") from error
    except (ParseError, ValueError) as error:
        raise InvalidInput(f"This is no SVG that can be read: {error}.") from error
    if _name(root) != "svg":
        raise InvalidInput(f"This is no SVG: it begins with {quoted(_name(root))}.")
    reader = _Reader(root)
    try:
        reader.read()
    except RecursionError as error:
        raise InvalidInput("The drawing's groups lie too deep in one another.") from error
    return understood(reader.paths, all_left_out(reader.missed), close_gaps_mm)
