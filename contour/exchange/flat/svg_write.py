"""SVG out, one unit a millimetre: a path for each piece, layers as groups; lines, arcs and ellipses exact, splines as Bézier curves, which they are."""

from __future__ import annotations

import math
from collections.abc import Sequence
from xml.etree import ElementTree as Xml

import numpy as np
from numpy.typing import NDArray

from contour.exchange.flat.shapes import (
    Arc,
    Ellipse,
    Line,
    Path,
    Piece,
    Place,
    Shape,
    Spline,
    Spot,
    Text,
    layers_of,
    rough,
)
from contour.exchange.flat.splines import beziers, sampled

__all__ = ["svg_text"]

Array = NDArray[np.float64]
_MARGIN = 0.05  # of the larger side, around everything
_LOOKS = {"construction": ("#808080", "2 1"), "brought in": ("#2f7d5b", "4 1 1 1"), "scan": ("#b0b0b0", "")}


def svg_text(pieces: Sequence[Piece], texts: Sequence[Text] = ()) -> str:
    """The file's text. SVG counts downwards: places are turned over."""
    low, high = _reach(pieces, texts)
    margin = max(_MARGIN * float((high - low).max()), 1.0)
    low, size = low - margin, high - low + 2 * margin
    top = low[1] + size[1]
    root = Xml.Element(
        "svg",
        xmlns="http://www.w3.org/2000/svg",
        width=f"{float(size[0])!r}mm",
        height=f"{float(size[1])!r}mm",
        viewBox=" ".join(repr(float(n)) for n in (low[0], -top, *size)),
    )
    for layer in layers_of(pieces, texts):
        colour, dashes = _LOOKS.get(layer, ("#000000", ""))
        look = {"fill": "none", "stroke": colour, "stroke-width": repr(round(float(size.max()) / 500, 3))}
        group = Xml.SubElement(root, "g", {"id": layer or "drawing", **look})
        if dashes:
            group.set("stroke-dasharray", dashes)
        for piece in pieces:
            if piece.layer == layer:
                Xml.SubElement(group, "path", d=_path(piece.shape))
        for text in texts:
            if text.layer == layer:
                _words(group, text, colour)
    Xml.indent(root)
    return Xml.tostring(root, encoding="unicode", xml_declaration=True) + "\n"


def _reach(pieces: Sequence[Piece], texts: Sequence[Text]) -> tuple[Array, Array]:
    rows = [rough(p.shape) for p in pieces] + [np.array([t.at]) for t in texts]
    points = np.vstack(rows) if rows else np.zeros((1, 2))
    return points.min(axis=0), points.max(axis=0)


def _words(group: Xml.Element, text: Text, colour: str) -> None:
    (x, y) = text.at
    words = Xml.SubElement(group, "text", x=repr(x), y=repr(-y), fill=colour, stroke="none")
    words.set("font-size", repr(text.height))
    if text.turn:
        words.set("transform", f"rotate({-text.turn!r} {x!r} {-y!r})")
    words.text = text.text


def _said(*p: Place) -> str:
    return " ".join(f"{float(x)!r} {-float(y)!r}" for x, y in p)


def _path(shape: Shape) -> str:
    match shape:
        case Spot(at=(x, y)):
            return f"M {_said((x, y))} L {_said((x, y))}"
        case Line():
            return f"M {_said(shape.start)} L {_said(shape.end)}"
        case Arc(centre=(x, y), radius=r):
            whole = Ellipse((x, y), (r, 0.0), 1.0, shape.first, shape.last)
            return _round(whole, r, r, 0.0)
        case Ellipse():
            half = math.hypot(*shape.major)
            return _round(shape, half, half * shape.ratio, -math.degrees(math.atan2(shape.major[1], shape.major[0])))
        case Spline():
            return _curve(shape)
        case Path():
            steps = [f"L {_said((x, y))}" for x, y in shape.points[1:].tolist()]
            return " ".join([f"M {_said(tuple(shape.points[0]))}", *steps, *(["Z"] if shape.closed else [])])


def _round(e: Ellipse, rx: float, ry: float, turn: float) -> str:
    """In quarters where it goes far round: an arc of half a turn has two ways."""
    count = max(1, math.ceil((e.last - e.first) / (math.pi / 2) - 1e-9))
    angles = np.linspace(e.first, e.last, count + 1).tolist()
    steps = [f"A {rx!r} {ry!r} {turn!r} 0 0 {_said(e.at(t))}" for t in angles[1:]]
    if e.whole:
        steps[-1] = f"A {rx!r} {ry!r} {turn!r} 0 0 {_said(e.at(angles[0]))} Z"
    return " ".join([f"M {_said(e.at(angles[0]))}", *steps])


def _curve(s: Spline) -> str:
    """Bézier curves of a B-spline, span by span; one of a higher degree, or a rational one, by short cubics that touch it."""
    if s.degree > 3 or s.weights is not None:
        places, slopes, h = sampled(s, 16 * len(s.control))
        rows = np.stack(
            [places[:-1], places[:-1] + slopes[:-1] * h / 3, places[1:] - slopes[1:] * h / 3, places[1:]], axis=1
        )
    else:
        _, rows = beziers(s)
    return " ".join([f"M {_said(*_pairs(rows[0, :1]))}", *(f"C {_said(*_pairs(row[1:]))}" for row in rows)])


def _pairs(rows: Array) -> list[Place]:
    return [(float(x), float(y)) for x, y in rows]
