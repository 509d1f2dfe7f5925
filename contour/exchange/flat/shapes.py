"""What a flat drawing is made of, whatever file it came from: shapes on layers, what lies under them, and what was left out."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "Arc",
    "Ellipse",
    "FlatDrawing",
    "Layer",
    "LeftOut",
    "Line",
    "Path",
    "Piece",
    "Place",
    "Shape",
    "Spline",
    "Spot",
    "Stroke",
    "Text",
    "layers_of",
    "rough",
    "scaled",
]

Array = NDArray[np.float64]
Place = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Spot:
    """A point."""

    at: Place


@dataclass(frozen=True, slots=True)
class Line:
    start: Place
    end: Place


@dataclass(frozen=True, slots=True)
class Arc:
    """Counter-clockwise from one angle to the other, radians; a whole turn is a circle."""

    centre: Place
    radius: float
    first: float = 0.0
    last: float = math.tau

    @property
    def whole(self) -> bool:
        return self.last - self.first >= math.tau - 1e-12


@dataclass(frozen=True, slots=True)
class Ellipse:
    """major: its longer half axis · ratio: of the other to it · counter-clockwise from one eccentric angle to the other, radians."""

    centre: Place
    major: Place
    ratio: float
    first: float = 0.0
    last: float = math.tau

    @property
    def whole(self) -> bool:
        return self.last - self.first >= math.tau - 1e-12

    def at(self, angle: float) -> Place:
        c, s = math.cos(angle), math.sin(angle) * self.ratio
        (x, y), (a, b) = self.centre, self.major
        return x + c * a - s * b, y + c * b + s * a


@dataclass(frozen=True, slots=True, eq=False)
class Spline:
    """A B-spline. knots: (n + degree + 1,) · control: (n, 2) · weights: (n,), none where all are one."""

    degree: int
    knots: Array
    control: Array
    weights: Array | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Path:
    """Straight from place to place, (n, 2): what was measured, or what has no exact form here. It is only ever written."""

    points: Array
    closed: bool = False


Shape = Spot | Line | Arc | Ellipse | Spline | Path


@dataclass(frozen=True, slots=True)
class Piece:
    """A shape on its layer. aside: drawn as a chain line: a centre line or the like, which bounds nothing (ISO 128)."""

    shape: Shape
    layer: str
    aside: bool = False


@dataclass(frozen=True, slots=True)
class Text:
    """Words at a place: at their lower left, so high, turned by degrees."""

    at: Place
    text: str
    height: float
    turn: float
    layer: str


@dataclass(frozen=True, slots=True, eq=False)
class Stroke:
    """A path (n, 2) that is looked at and not taken: of a block, or of a size that a print states."""

    points: Array
    layer: str


@dataclass(frozen=True, slots=True)
class LeftOut:
    """What did not come along: its kind in the file, its layer, why, where (none where it has no place), and how many of them."""

    kind: str
    layer: str
    why: str
    at: Place | None = None
    count: int = 1


@dataclass(frozen=True, slots=True)
class Layer:
    """hidden: switched off or frozen in the file."""

    name: str
    pieces: int
    hidden: bool = False


@dataclass(frozen=True, slots=True)
class FlatDrawing:
    """Everything in one unit. aside: what lies under the drawing, as it stands in the file: words, blocks, stated sizes · unit_mm: of one unit, mm, as the
    file says; none where it says nothing · hidden: layers that are switched off."""

    pieces: tuple[Piece, ...]
    texts: tuple[Text, ...] = ()
    strokes: tuple[Stroke, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    aside: tuple[LeftOut, ...] = ()
    unit_mm: float | None = None
    hidden: frozenset[str] = field(default_factory=frozenset)

    def layers(self) -> list[Layer]:
        """In the order in which they are met; those without a piece last."""
        count = Counter(p.layer for p in self.pieces)
        others = dict.fromkeys([t.layer for t in self.texts] + [s.layer for s in self.strokes])
        names = dict.fromkeys([*count, *others])
        return [Layer(n, count.get(n, 0), n in self.hidden) for n in names]

    def only(self, keep: Callable[[str], bool]) -> FlatDrawing:
        """The layers of which that is true."""
        return replace(
            self,
            pieces=tuple(p for p in self.pieces if keep(p.layer)),
            texts=tuple(t for t in self.texts if keep(t.layer)),
            strokes=tuple(s for s in self.strokes if keep(s.layer)),
            aside=tuple(a for a in self.aside if keep(a.layer)),
        )

    def bounds(self) -> tuple[Place, Place] | None:
        """Lowest and highest corner of its pieces, or of what lies under them where there are none."""
        rows = [rough(p.shape) for p in self.pieces] or [s.points for s in self.strokes]
        rows = [r for r in rows if len(r)]
        if not rows:
            return None
        points = np.vstack(rows)
        (a, b), (c, d) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
        return (a, b), (c, d)


def rough(shape: Shape) -> Array:
    """Places (n, 2) that tell how far a shape reaches; a spline's control points."""
    match shape:
        case Spot():
            return np.array([shape.at])
        case Line():
            return np.array([shape.start, shape.end])
        case Arc():
            t = np.linspace(shape.first, shape.last, 33)
            return np.array(shape.centre) + shape.radius * np.column_stack([np.cos(t), np.sin(t)])
        case Ellipse():
            return np.array([shape.at(t) for t in np.linspace(shape.first, shape.last, 33)])
        case Spline():
            return shape.control
        case Path():
            return shape.points


def _shape(shape: Shape, k: float, by: Array) -> Shape:
    def to(p: Place) -> Place:
        return p[0] * k + float(by[0]), p[1] * k + float(by[1])

    match shape:
        case Spot():
            return Spot(to(shape.at))
        case Line():
            return Line(to(shape.start), to(shape.end))
        case Arc():
            return replace(shape, centre=to(shape.centre), radius=shape.radius * k)
        case Ellipse():
            return replace(shape, centre=to(shape.centre), major=(shape.major[0] * k, shape.major[1] * k))
        case Spline():
            return Spline(shape.degree, shape.knots, shape.control * k + by, shape.weights)
        case Path():
            return Path(shape.points * k + by, shape.closed)


def scaled(drawing: FlatDrawing, factor: float, by: Sequence[float] = (0.0, 0.0)) -> FlatDrawing:
    """The drawing `factor` times as large, then moved; places of what was left out, too."""
    k, move = factor, np.array(by, float)

    def to(p: Place) -> Place:
        return p[0] * k + float(move[0]), p[1] * k + float(move[1])

    return replace(
        drawing,
        pieces=tuple(Piece(_shape(p.shape, k, move), p.layer, p.aside) for p in drawing.pieces),
        texts=tuple(replace(t, at=to(t.at), height=t.height * k) for t in drawing.texts),
        strokes=tuple(Stroke(s.points * k + move, s.layer) for s in drawing.strokes),
        left_out=tuple(replace(o, at=to(o.at) if o.at else None) for o in drawing.left_out),
        aside=tuple(replace(o, at=to(o.at) if o.at else None) for o in drawing.aside),
        unit_mm=1.0,
    )


def layers_of(pieces: Sequence[Piece], texts: Sequence[Text]) -> list[str]:
    """Names of layers in the order in which they are met."""
    return list(dict.fromkeys([*(p.layer for p in pieces), *(t.layer for t in texts)]))
