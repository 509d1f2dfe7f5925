"""A stretch of many pieces explained by fewer: what is left of a curve that came as short strokes."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.fit.budget import Budget
from contour.outline.explain import fit_outline
from contour.outline.pieces import Outline
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.acts.outlined import entity_of
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.text import Constraint, Line, Point, ends_of
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns
from contour.sketch.taken import TakenPiece

__all__ = ["Fewer", "fewer"]

Array = NDArray[np.float64]
_BUDGET_S = 5.0


class Fewer(Act):
    """of: pieces that hang together end to end, in one chain or several · within: how far they may stray from what takes their place."""

    act: Literal["fewer"]
    of: tuple[str, ...] = Field(min_length=2, max_length=5000)
    within: str = Field(max_length=400)


def fewer(pen: Pen, act: Fewer) -> None:
    """The ends of a chain stay the points they are, so that what joins it there goes on joining it.

    Raises ContourError (ref-lost, wrong-kind, bad-params, not-allowed) and (unchanged) where no fewer pieces explain it.
    """
    within = pen.number(act.within, "length")
    if within <= 0:
        raise ContourError(
            "bad-params",
            "the pieces need some room to stray",
            got=f"{within:g} mm",
            need="more than 0",
            remedy="type a tolerance such as 0.1 mm",
        )
    drawing, budget = pen.drawing(), Budget(_BUDGET_S)
    unknowns = Unknowns(drawing)
    new: list[str] = []
    done = False
    for chain, points in _chains(pen, act.of):
        if len(chain) < 2:
            continue
        path = _path(unknowns, chain, points)
        closed = points[0] == points[-1]
        chords = np.linalg.norm(np.diff(path, axis=0), axis=1)
        outline = fit_outline(
            path[:-1] if closed else path,
            closed=closed,
            tolerance_mm=within,
            edge_mm=float(np.median(chords)),
            budget=budget,
        )
        if not outline.explained or len(outline.pieces) >= len(chain):
            continue
        new += _drawn(pen, outline, points, construction=pen.entities[chain[0]].construction)
        pen.remove(chain)
        done = True
    if not done:
        raise ContourError(
            "unchanged",
            "no fewer pieces explain what is chosen",
            got=f"{len(act.of)} pieces within {within:g} mm",
            need="a chain of pieces that lines and arcs can take the place of",
            remedy="allow more, or choose the whole stretch",
        )
    pen.chosen = new


def _chains(pen: Pen, of: tuple[str, ...]) -> list[tuple[list[str], list[str]]]:
    """Pieces end to end with the points they go through, one more than pieces; round a loop the first is the last as well."""
    ends: dict[str, tuple[str, str]] = {}
    for name in dict.fromkeys(of):
        e = pen.entity(name)
        if isinstance(e, Point):
            continue
        if e.linked:
            raise ContourError(
                "not-allowed",
                f"{name} was brought in and follows what it came from",
                where=Where(entity=name),
                got="a linked piece",
                need="pieces of this drawing",
                remedy="detach it first",
            )
        own = ends_of(pen.drawing(), name)
        if len(own) == 2 and own[0] != own[1]:
            ends[name] = (own[0], own[1])
    at: dict[str, list[str]] = {}
    for name, pair in ends.items():
        for p in pair:
            at.setdefault(p, []).append(name)
    out = []
    left = set(ends)
    # Open chains begin at an end that only one of them has, or more than two; loops anywhere.
    starts = [p for p, names in at.items() if len(names) != 2]
    for p in [*starts, *at]:
        for name in at[p]:
            if name in left:
                out.append(_walk(name, p, ends, at, left))
    return out


def _walk(
    name: str, start: str, ends: dict[str, tuple[str, str]], at: dict[str, list[str]], left: set[str]
) -> tuple[list[str], list[str]]:
    chain, points = [], [start]
    while True:
        left.discard(name)
        chain.append(name)
        a, b = ends[name]
        here = b if points[-1] == a else a
        points.append(here)
        after = [n for n in at[here] if n in left]
        if len(at[here]) != 2 or not after or here == start:
            return chain, points
        name = after[0]


def _path(u: Unknowns, chain: list[str], points: list[str]) -> Array:
    """Places (n, 2) along a chain in its order: ends of lines, more of curves."""
    rows: list[Array] = []
    for name, begin in zip(chain, points, strict=False):
        trace = trace_of(u, name)
        if trace is None:
            continue
        along = trace.place(np.linspace(0, 1, 2 if isinstance(u.drawing.entities[name], Line) else 17))
        if math.dist(along[0], u.at(begin)) > math.dist(along[-1], u.at(begin)):
            along = along[::-1]
        rows.append(along if not rows else along[1:])
    return np.vstack(rows)


def _drawn(pen: Pen, outline: Outline, points: list[str], *, construction: bool) -> list[str]:
    corners: dict[tuple[float, float], str] = {}
    pieces = outline.pieces
    if points[0] != points[-1]:
        corners = {pieces[0].start: points[0], pieces[-1].end: points[-1]}

    def corner(p: tuple[float, float]) -> str:
        near = next((name for q, name in corners.items() if math.dist(p, q) < 1e-6), None)
        if near is None:
            near = corners[p] = pen.point(p)
        return near

    names = []
    for k, p in enumerate(pieces):
        taken = TakenPiece(
            id=f"e{k}", kind=p.kind, start=p.start, end=p.end, mid=p.mid, points=list(p.points), ellipse=p.ellipse
        )
        entity = entity_of(pen, taken, corner, full=False)
        names.append(pen.add(entity.model_copy(update={"construction": construction})))
    pen.constraints += [Constraint(kind="tangent", of=(names[a], names[b])) for a, b in outline.tangent if a != b]
    return names
