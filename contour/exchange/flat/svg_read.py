"""SVG in: paths and shapes with their transforms become lines, arcs and curves; words lie under them. Up is up again: SVG counts downwards.

The reading is the package svgelements'. Coordinates are in the file's unit: that of its width, where it states one, else its pixels.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from pathlib import Path as FilePath
from typing import Any
from xml.etree.ElementTree import ParseError, iterparse

import numpy as np

from contour.exchange.flat.shapes import Arc, Ellipse, FlatDrawing, LeftOut, Line, Piece, Place, Shape, Spline, Text
from contour.recipe.problem import ContourError

__all__ = ["read_svg"]

_STATED = re.compile(r"^\s*([\d.]+(?:[eE][+-]?\d+)?)\s*(mm|cm|in|pt|pc)\s*$")
_LENGTH = re.compile(r"^\s*([\d.]+(?:[eE][+-]?\d+)?)\s*(mm|cm|in|pt|pc|px)?\s*$")
_UNITS_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}
_MOST_SHAPES = 200_000
_STRAIGHT_ON = 1e-6  # between two directions, radians


def read_svg(path: FilePath) -> FlatDrawing:
    """Raises ContourError (file-not-understood)."""
    from svgelements import SVG, Matrix

    try:
        head = _head(path)
        document = SVG.parse(str(path), reify=True, ppi=96, height=_height(head), parse_display_none=True)
    except ParseError as error:
        line, column = error.position
        raise _damaged(f"line {line}, column {column + 1}: {error.msg}") from None
    except Exception as error:
        # Whatever a damaged file makes of its reader is the file's fault.
        raise _damaged(f"{type(error).__name__}: {error}"[:160]) from None
    if not isinstance(document, SVG):
        raise _damaged("no svg element around it")
    stated = _STATED.match(head.get("width", ""))
    factor = 1.0
    if stated and float(document.width) > 0:
        # By what it is wide in all: the package's own millimetre is rounded.
        factor = float(stated.group(1)) * _UNITS_MM[stated.group(2)] / float(document.width)
    # Its zero is that of its coordinates, wherever the sheet's corner lies.
    zero = Matrix(document.viewbox_transform or "").point_in_matrix_space((0, 0))
    reading = _Reading(factor, (float(zero.x), float(zero.y)))
    reading.walk(document, "")
    return FlatDrawing(
        tuple(reading.pieces),
        tuple(reading.texts),
        left_out=tuple(reading.left_out),
        aside=tuple(LeftOut("text", t.layer, "words: they lie under the drawing", t.at) for t in reading.texts),
        unit_mm=1.0 if stated else None,
    )


def _head(path: FilePath) -> dict[str, str]:
    """Attributes of the outermost element."""
    with path.open("rb") as data:
        for _, element in iterparse(data, events=("start",)):
            return dict(element.attrib)
    return {}


def _height(head: dict[str, str]) -> str | None:
    """A height that is not stated follows from the width and the view box."""
    box = [float(n) for n in head.get("viewBox", "").replace(",", " ").split()]
    width = _LENGTH.match(head.get("width", ""))
    if "height" in head or width is None or len(box) != 4 or box[2] <= 0:
        return None
    return f"{float(width.group(1)) * box[3] / box[2]!r}{width.group(2) or ''}"


def _damaged(got: str) -> ContourError:
    return ContourError(
        "file-not-understood",
        "this SVG cannot be read",
        got=got,
        need="an SVG file",
        remedy="check the file at that place, or save it again",
    )


class _Reading:
    """factor: of pixels to the file's unit · zero: where the drawing's own is, pixels."""

    def __init__(self, factor: float, zero: Place) -> None:
        self.k = factor
        self.zero = zero
        self.pieces: list[Piece] = []
        self.texts: list[Text] = []
        self.left_out: list[LeftOut] = []

    def walk(self, group: Any, layer: str) -> None:
        from svgelements import Group

        for element in group:
            if isinstance(element, Group):
                self.walk(element, _layer(element) or layer)
            else:
                self.take(element, layer)

    def take(self, element: Any, layer: str) -> None:
        from svgelements import Image, Path, Shape
        from svgelements import Text as Words

        if isinstance(element, Words):
            self._words(element, layer)
        elif isinstance(element, Image):
            self.left_out.append(LeftOut("image", layer, "a picture: bring it in as a photo"))
        elif isinstance(element, Shape):
            if str(element.values.get("display", "")) == "none" or element.values.get("visibility") == "hidden":
                self.left_out.append(LeftOut(_kind(element), layer, "switched off in the file"))
                return
            try:
                shapes = [s for segment in Path(element).segments(True) for s in self._shapes(segment)]
            except (ValueError, TypeError, ZeroDivisionError) as error:
                self.left_out.append(LeftOut(_kind(element), layer, f"cannot be understood: {error}"[:160]))
                return
            if not shapes:
                self.left_out.append(LeftOut(_kind(element), layer, "without length"))
            self.pieces += [Piece(s, layer) for s in _joined(shapes)]
            if len(self.pieces) > _MOST_SHAPES:
                raise _damaged(f"more than {_MOST_SHAPES:,} pieces")

    def _at(self, p: Any) -> Place:
        x, y = (float(p.x) - self.zero[0]) * self.k, (self.zero[1] - float(p.y)) * self.k
        if not (math.isfinite(x) and math.isfinite(y)):
            raise ValueError("a coordinate that is no number")
        return x, y

    def _words(self, element: Any, layer: str) -> None:
        words = " ".join(str(element.text or "").split())
        place = element.transform.point_in_matrix_space((element.x, element.y))
        if words:
            high = float(element.values.get("font_size", element.font_size) or 12.0) * abs(element.transform.a or 1.0)
            turn = -math.degrees(math.atan2(element.transform.b, element.transform.a))
            self.texts.append(Text(self._at(place), words[:400], high * self.k, turn, layer))

    def _shapes(self, segment: Any) -> Iterator[Shape]:
        from svgelements import Arc as SvgArc
        from svgelements import Close, CubicBezier, QuadraticBezier
        from svgelements import Line as SvgLine

        if isinstance(segment, SvgLine | Close):
            if segment.start is not None and segment.end is not None:
                a, b = self._at(segment.start), self._at(segment.end)
                if math.dist(a, b) > 1e-9:
                    yield Line(a, b)
        elif isinstance(segment, CubicBezier):
            yield from _bezier([self._at(p) for p in (segment.start, segment.control1, segment.control2, segment.end)])
        elif isinstance(segment, QuadraticBezier):
            yield from _bezier([self._at(p) for p in (segment.start, segment.control, segment.end)])
        elif isinstance(segment, SvgArc):
            yield from self._round(segment)

    def _round(self, arc: Any) -> Iterator[Shape]:
        centre = np.array(self._at(arc.center))
        a, b = (np.array(self._at(p)) - centre for p in (arc.prx, arc.pry))
        start, end = (np.array(self._at(p)) - centre for p in (arc.start, arc.end))
        half, other = float(np.linalg.norm(a)), float(np.linalg.norm(b))
        if half <= 0 or other <= 0:
            return
        if half < other:
            a, b, half, other = b, a, other, half
        ratio = other / half
        axis = a / half
        # Seen with the axis turned over, a clockwise sweep runs counter-clockwise.
        ahead = arc.sweep < 0
        first, last = (self._angle(p, axis, ratio) for p in ((start, end) if ahead else (end, start)))
        turn = abs(arc.sweep)
        last = first + (math.tau if turn >= math.tau - 1e-9 else (last - first) % math.tau)
        at = (float(centre[0]), float(centre[1]))
        if abs(ratio - 1) < 1e-9:
            if last - first < math.tau:
                base = math.atan2(axis[1], axis[0])
                first, last = first + base, last + base
            yield Arc(at, half, first, last)
        else:
            yield Ellipse(at, (float(a[0]), float(a[1])), ratio, first, last)

    @staticmethod
    def _angle(p: Any, axis: Any, ratio: float) -> float:
        x, y = float(p @ axis), float(p @ np.array([-axis[1], axis[0]]))
        return math.atan2(y / ratio, x)


def _bezier(points: list[Place]) -> Iterator[Shape]:
    """A straight one is a line."""
    control = np.array(points)
    chord = control[-1] - control[0]
    length = float(np.linalg.norm(chord))
    if np.ptp(control, axis=0).max() < 1e-9:
        return
    if length > 1e-9:
        way = chord / length
        off = np.abs((control - control[0]) @ np.array([-way[1], way[0]])).max()
        along = (control - control[0]) @ way
        if off < 1e-9 * length and (np.diff(along) >= -1e-12 * length).all():
            yield Line(points[0], points[-1])
            return
    n = len(points)
    yield Spline(n - 1, np.array([0.0] * n + [1.0] * n), control)


def _joined(shapes: list[Shape]) -> list[Shape]:
    """Arcs of one circle or ellipse that follow one another are one, and so are curves that go on smoothly: a path says them in parts."""
    out: list[Shape] = []
    for shape in shapes:
        last = out[-1] if out else None
        one: Shape | None = None
        if isinstance(shape, Arc | Ellipse) and type(last) is type(shape):
            one = _one(last, shape)
        elif isinstance(shape, Spline) and isinstance(last, Spline):
            one = _gone_on(last, shape)
        if one is None:
            out.append(shape)
        else:
            out[-1] = one
    return out


def _gone_on(a: Spline, b: Spline) -> Spline | None:
    """One curve with a threefold knot where they meet, if the second goes on as the first arrives: their speeds there say how long its
    parameter is."""
    if a.degree != b.degree or math.dist(a.control[-1], b.control[0]) > 1e-12 * float(np.abs(a.control).max()):
        return None
    arrives, leaves = a.control[-1] - a.control[-2], b.control[1] - b.control[0]
    before, after = float(np.linalg.norm(arrives)), float(np.linalg.norm(leaves))
    if min(before, after) <= 0 or float(np.linalg.norm(arrives / before - leaves / after)) > _STRAIGHT_ON:
        return None
    k = a.degree
    span = (a.knots[-1] - a.knots[-k - 2]) * after / before
    knots = np.concatenate([a.knots[:-1], np.full(k + 1, a.knots[-1] + span)])
    return Spline(k, knots, np.vstack([a.control, b.control[1:]]))


def _one(a: Any, b: Any) -> Any:
    size = a.radius if isinstance(a, Arc) else math.hypot(*a.major)
    tight = 1e-9 * max(size, 1.0)
    if a.whole or b.whole or math.dist(a.centre, b.centre) > tight:
        return None
    if isinstance(a, Arc):
        if abs(a.radius - b.radius) > tight:
            return None
    elif math.dist(a.major, b.major) > tight or abs(a.ratio - b.ratio) > 1e-9:
        return None
    for one, two in ((a, b), (b, a)):
        if abs(math.remainder(one.last - two.first, math.tau)) < 1e-7:
            turn = (one.last - one.first) + (two.last - two.first)
            if turn > math.tau + 1e-7:
                return None
            last = one.first + (math.tau if turn > math.tau - 1e-7 else turn)
            if isinstance(one, Arc):
                return Arc(one.centre, one.radius, one.first, last)
            return Ellipse(one.centre, one.major, one.ratio, one.first, last)
    return None


def _layer(group: Any) -> str:
    """What a group is called: by its label, as programs write it, else by its id."""
    label = next((v for k, v in group.values.items() if str(k).endswith("}label")), None)
    return str(label or group.values.get("id") or "")[:60]


def _kind(element: Any) -> str:
    return type(element).__name__.lower()
