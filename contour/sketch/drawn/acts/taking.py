"""Pieces of a section that are taken over: entities that share their corners, with the relations that nearly hold among them."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import combinations, pairwise
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.outline.arcs import circle_through
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.linking import let_go
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Arc, Circle, Constraint, Ellipse, Entity, Line, Spline
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns
from contour.sketch.taken import TakenLoop, TakenPiece

__all__ = ["Taking", "take"]

Point2 = tuple[float, float]
Array = NDArray[np.float64]
_NEAR_DEG = 3.0  # no relation of directions is looked for beyond, however short the pieces
_SPLINE_POINTS = 40
_MOST_RELATED = 60  # pieces: relations of pairs are looked for among no more


class TakeOver(Act):
    """loops: as a section has them, those pieces that are meant marked as taken · within: mm that relations may be off by · relate: whether any are
    looked for."""

    act: Literal["take"]
    loops: tuple[TakenLoop, ...] = Field(min_length=1, max_length=500)
    within: float = Field(gt=0, le=100)
    relate: bool = True


class Detach(Act):
    """Pieces that follow the scan, a body or another sketch no longer."""

    act: Literal["detach"]
    of: tuple[str, ...] = Field(min_length=1, max_length=5000)


Taking = Annotated[TakeOver | Detach, Field(discriminator="act")]


def take(pen: Pen, taking: Taking) -> None:
    """Raises ContourError (no-profile) where no piece is meant."""
    if isinstance(taking, Detach):
        gone = set(taking.of)
        let_go(pen, taking.of)
        pen.taken = [
            loop.model_copy(
                update={"pieces": [p.model_copy(update={"taken": p.taken and p.id not in gone}) for p in loop.pieces]}
            )
            for loop in pen.taken
        ]
        pen.chosen = list(taking.of)
        return
    new: list[str] = []
    for loop in taking.loops:
        if any(p.taken for p in loop.pieces):
            own, names = _taken(pen, loop)
            pen.taken.append(own)
            new += names
    if not new:
        raise ContourError(
            "no-profile",
            "none of the pieces is to be taken",
            got="0 pieces",
            need="at least one piece of the section",
            remedy="point to a piece of the section",
        )
    if taking.relate:
        _relate(pen, new, taking.within)
    pen.chosen = new


def _taken(pen: Pen, loop: TakenLoop) -> tuple[TakenLoop, list[str]]:
    """The loop under the ids that its pieces have in the drawing, and those of the taken ones."""
    pieces, names = [], []
    corners: dict[tuple[float, float], str] = {}

    def corner(p: tuple[float, float]) -> str:
        near = next((name for q, name in corners.items() if math.dist(p, q) < 1e-6), None)
        if near is None:
            near = corners[p] = pen.point(p)
        return near

    for piece in loop.pieces:
        pen.made += 1
        name = f"e{pen.made}"
        pieces.append(piece.model_copy(update={"id": name}))
        if piece.taken:
            entity = _entity(pen, piece, corner, full=loop.full)
            pen.entities[name] = entity
            names.append(name)
    renamed = {old.id: new.id for old, new in zip(loop.pieces, pieces, strict=True)}
    relations = [
        r.model_copy(update={"first": renamed.get(r.first, r.first), "second": renamed.get(r.second, r.second)})
        for r in loop.relations
    ]
    return loop.model_copy(update={"pieces": pieces, "relations": relations, "name": ""}), names


def _entity(pen: Pen, piece: TakenPiece, corner: Callable[[Point2], str], *, full: bool) -> Entity:
    """full: a part of a circle or ellipse of which all is meant."""
    whole = math.dist(piece.start, piece.end) < 1e-9
    if piece.kind == "line":
        return Line(start=corner(piece.start), end=corner(piece.end))
    if piece.kind == "free" or (piece.kind == "ellipse" and piece.ellipse is None):
        path = np.array(piece.points or [piece.start, piece.end])
        inner = path[np.unique(np.linspace(0, len(path) - 1, min(len(path), _SPLINE_POINTS)).astype(int))][1:-1]
        start = corner(piece.start)
        return Spline(through=(start, *(pen.point(p) for p in inner), start if whole else corner(piece.end)))
    if piece.ellipse is not None:
        x, y, major, minor, turn = piece.ellipse
        tip = pen.point((x + major * math.cos(turn), y + major * math.sin(turn)))
        shape = Ellipse(centre=pen.point((x, y)), major=tip, minor=minor)
        if whole or full:
            return shape
        first, last = _counter_clockwise(piece, np.array([x, y]))
        return shape.model_copy(update={"start": corner(first), "end": corner(last)})
    assert piece.mid is not None
    if whole:
        across = np.array([piece.start, piece.mid])
        return Circle(centre=pen.point(across.mean(axis=0)), radius=float(math.dist(piece.start, piece.mid)) / 2)
    m, radius = circle_through(piece.start, piece.mid, piece.end)
    if full:
        return Circle(centre=pen.point(m), radius=float(radius))
    first, last = _counter_clockwise(piece, np.asarray(m))
    return Arc(centre=pen.point(m), start=corner(first), end=corner(last))


def _counter_clockwise(piece: TakenPiece, centre: Array) -> tuple[tuple[float, float], tuple[float, float]]:
    """The ends of a round piece, in the order in which it runs counter-clockwise about its centre."""
    assert piece.mid is not None
    a, m, b = (float(np.arctan2(*(np.array(p) - centre)[::-1])) for p in (piece.start, piece.mid, piece.end))
    ahead = (m - a) % (2 * np.pi) < (b - a) % (2 * np.pi)
    return (piece.start, piece.end) if ahead else (piece.end, piece.start)


def _relate(pen: Pen, names: list[str], within: float) -> None:
    """Adds what nearly holds, the surest first, as long as nothing is said twice and nothing moves further than that."""
    found = sorted(_nearly(pen, names, within), key=lambda row: row[0])
    wanted = [c for _, c in found]
    drawing = pen.drawing().model_copy(update={"constraints": (*pen.constraints, *wanted)})
    first = len(pen.constraints)
    solution = solved(drawing)
    while not solution.solved and solution.conflicts:
        out = {int(c[2:]) for conflict in solution.conflicts for c in conflict[-1:] if c.startswith("c:")}
        kept = [c for k, c in enumerate(wanted, first) if k not in out]
        if len(kept) == len(wanted):
            return
        wanted = kept
        drawing = drawing.model_copy(update={"constraints": (*pen.constraints, *wanted)})
        solution = solved(drawing)
    if not solution.solved:
        return
    twice = {int(c[2:]) for c in solution.redundant if c.startswith("c:")}
    moved = [math.dist(pen.at(p), solution.drawing.point(p)) for n in names for p in pen.ends(n)]
    if max(moved, default=0.0) > 4 * within:
        return
    pen.constraints += [c for k, c in enumerate(wanted, first) if k not in twice]


def _nearly(pen: Pen, names: list[str], within: float) -> list[tuple[float, Constraint]]:
    """Relations that are off by no more than `within` mm over the pieces' length, and by how much."""
    out: list[tuple[float, Constraint]] = []
    lines = {n: _line(pen, n) for n in names if isinstance(pen.entities[n], Line)}

    def direction(
        off_rad: float, length: float, kind: Literal["horizontal", "vertical", "parallel", "perpendicular"], *of: str
    ) -> None:
        if abs(off_rad) * length / 2 <= within and abs(off_rad) < math.radians(_NEAR_DEG):
            out.append(
                (abs(off_rad) * length / 2 + (0.1 * within if len(of) == 2 else 0.0), Constraint(kind=kind, of=of))
            )

    level: set[str] = set()
    for n, (length, angle) in lines.items():
        before = len(out)
        direction(_from(angle, 0.0), length, "horizontal", n)
        direction(_from(angle, math.pi / 2), length, "vertical", n)
        if len(out) > before:
            level.add(n)
    askew = [n for n in lines if n not in level][:_MOST_RELATED]
    for a, b in combinations(askew, 2):
        shorter = min(lines[a][0], lines[b][0])
        direction(_from(lines[b][1] - lines[a][1], 0.0), shorter, "parallel", a, b)
        direction(_from(lines[b][1] - lines[a][1], math.pi / 2), shorter, "perpendicular", a, b)
    out += _tangents(pen, names, within)
    rings = [n for n in names if isinstance(pen.entities[n], Circle | Arc)][:_MOST_RELATED]
    sizes = {n: _ring(pen, n) for n in rings}
    for a, b in combinations(rings, 2):
        (m, r), (n2, r2) = sizes[a], sizes[b]
        if abs(r - r2) <= within:
            out.append((abs(r - r2), Constraint(kind="equal", of=(a, b))))
        if math.dist(m, n2) <= within:
            out.append((math.dist(m, n2), Constraint(kind="concentric", of=(a, b))))
    return out


def _from(angle: float, wanted: float) -> float:
    """Radians by which lines at an angle miss a wanted one, either way round."""
    return (angle - wanted + math.pi / 2) % math.pi - math.pi / 2


def _line(pen: Pen, name: str) -> tuple[float, float]:
    a, b = (pen.at(p) for p in pen.ends(name))
    return float(np.linalg.norm(b - a)), float(np.arctan2(*(b - a)[::-1]))


def _ring(pen: Pen, name: str) -> tuple[tuple[float, float], float]:
    e = pen.entity(name, Circle, Arc)
    m = pen.at(e.centre)
    r = e.radius if isinstance(e, Circle) else float(np.linalg.norm(pen.at(e.start) - m))
    return (float(m[0]), float(m[1])), r


def _tangents(pen: Pen, names: list[str], within: float) -> list[tuple[float, Constraint]]:
    """Pieces that meet at a corner and go on there nearly straight, at least one of them round."""
    u = Unknowns(pen.drawing())
    at: dict[str, list[str]] = {}
    for n in names:
        for p in pen.ends(n):
            at.setdefault(p, []).append(n)
    out = []
    for point, meeting in at.items():
        for a, b in pairwise(meeting):
            if a == b or all(isinstance(pen.entities[n], Line) for n in (a, b)):
                continue
            traces = [trace_of(u, n) for n in (a, b)]
            if traces[0] is None or traces[1] is None:
                continue
            ways, lengths = [], []
            for n, t in zip((a, b), traces, strict=True):
                assert t is not None
                d = t.slope(np.array([0.0 if pen.ends(n)[0] == point else 1.0]))[0]
                ways.append(float(np.arctan2(d[1], d[0])))
                path = t.place(np.linspace(0, 1, 17))
                lengths.append(float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum()))
            off = abs(_from(ways[1] - ways[0], 0.0))
            # What the corner is off by where the shorter of them is half over.
            if off * min(lengths) / 4 <= within and off < math.radians(4 * _NEAR_DEG):
                out.append((off * min(lengths) / 4, Constraint(kind="tangent", of=(a, b))))
    return out
