"""Relations that nearly hold among some entities, looked for and asked for as far as they can hold together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations, pairwise
from typing import Literal

import numpy as np

from contour.sketch.drawn.acts.pen import Pen
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Arc, Circle, Constraint, Line
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["ask_together", "nearly_related", "relate", "tangents"]

_NEAR_DEG = 3.0  # no relation of directions is looked for beyond, however short the pieces
_MOST_RELATED = 60  # pieces: relations of pairs are looked for among no more

Found = Sequence[tuple[float, Constraint]]


def relate(pen: Pen, names: Sequence[str], within: float) -> None:
    """Asks for what nearly holds among some entities, off by no more than `within` mm."""
    ask_together(pen, names, nearly_related(pen, names, within), within)


def ask_together(pen: Pen, names: Sequence[str], found: Found, within: float) -> bool:
    """Asks for relations, each found with the mm that it is off by, the surest first, as long as nothing is said twice and nothing that is named moves much
    further than that. False: they cannot hold together, and none is asked for."""
    found = sorted(found, key=lambda row: row[0])
    wanted = [c for _, c in found]
    if not wanted:
        return True
    drawing = pen.drawing().model_copy(update={"constraints": (*pen.constraints, *wanted)})
    first = len(pen.constraints)
    solution = solved(drawing)
    while not solution.solved and solution.conflicts:
        out = {int(c[2:]) for conflict in solution.conflicts for c in conflict[-1:] if c.startswith("c:")}
        kept = [c for k, c in enumerate(wanted, first) if k not in out]
        if len(kept) == len(wanted):
            return False
        wanted = kept
        drawing = drawing.model_copy(update={"constraints": (*pen.constraints, *wanted)})
        solution = solved(drawing)
    if not solution.solved:
        return False
    twice = {int(c[2:]) for c in solution.redundant if c.startswith("c:")}
    moved = [math.dist(pen.at(p), solution.drawing.point(p)) for n in names for p in pen.ends(n)]
    if max(moved, default=0.0) > 4 * within:
        return False
    pen.constraints += [c for k, c in enumerate(wanted, first) if k not in twice]
    return True


def nearly_related(pen: Pen, names: Sequence[str], within: float) -> list[tuple[float, Constraint]]:
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
    out += tangents(pen, names, within)
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


def tangents(pen: Pen, names: Sequence[str], within: float) -> list[tuple[float, Constraint]]:
    """Pieces that meet at a corner and go on there nearly straight, at least one of them round: off by no more than `within` mm."""
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
