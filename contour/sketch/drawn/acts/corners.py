"""Corners that are rounded or cut off."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.text import Arc, Line
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Corner", "break_corner"]

Array = NDArray[np.float64]


class Round(Act):
    """A tangent arc in the place of a corner."""

    act: Literal["round"]
    corner: str
    radius: str = Field(max_length=400)


class CutOff(Act):
    """A line in the place of a corner, as far from it on either side."""

    act: Literal["cut-off"]
    corner: str
    length: str = Field(max_length=400)


Corner = Annotated[Round | CutOff, Field(discriminator="act")]


def break_corner(pen: Pen, c: Corner) -> None:
    """The corner itself stays as a point where both sides meet, if a size or a relation speaks of it.

    Raises ContourError (wrong-kind, bad-params) where no two lines or arcs meet, or they are too short.
    """
    sides = [n for n in pen.users(c.corner) if c.corner in pen.ends(n)]
    if len(sides) != 2 or any(not isinstance(pen.entities[n], Line | Arc) for n in sides):
        raise ContourError(
            "wrong-kind",
            "this is no corner of two lines or arcs",
            where=Where(entity=c.corner),
            got=f"{len(sides)} pieces that end here",
            need="two lines or arcs that end in one point",
            remedy="choose a corner, or join the ends first",
        )
    ways = [_way(pen, n, c.corner) for n in sides]
    sine = ways[0][0] * ways[1][1] - ways[0][1] * ways[1][0]
    if abs(sine) < 1e-6:
        raise _too_small(c.corner, "sides that go on straight", "sides that meet at an angle")
    amount = pen.number(c.radius if isinstance(c, Round) else c.length, "length")
    half = np.arctan2(abs(sine), float(ways[0] @ ways[1])) / 2
    back = amount / np.tan(half) if isinstance(c, Round) else amount
    for n in sides:
        if not 0 < back < _length(pen, n):
            raise _too_small(
                c.corner, f"{back:.3g} mm of {n}, which has {_length(pen, n):.3g} mm", "room on both sides"
            )
    at = pen.at(c.corner)
    new = [pen.point(at + back * w) for w in ways]
    for name, point in zip(sides, new, strict=True):
        _shorten(pen, name, c.corner, point)
    if isinstance(c, Round):
        middle = ways[0] + ways[1]
        centre = pen.point(at + middle / np.linalg.norm(middle) * amount / np.sin(half))
        ahead = sine < 0  # from the first side to the second counter-clockwise about the centre
        arc = pen.add(Arc(centre=centre, start=new[0 if ahead else 1], end=new[1 if ahead else 0]))
        for name in sides:
            pen.ask("tangent", name, arc)
        pen.size("radius", arc, value=c.radius)
        pen.chosen = [arc]
    else:
        line = pen.line(*new)
        pen.chosen = [line]
    said = [k.of for k in pen.constraints] + [d.of for d in pen.dimensions]
    asked = any(c.corner in of for of in said)
    if isinstance(c, CutOff) or asked:
        for name in sides:
            pen.ask("on-curve", c.corner, name)
    if isinstance(c, CutOff):
        for point in new:
            pen.size("distance", c.corner, point, value=c.length)
    elif not asked:
        pen.drop_unused([c.corner])


def _too_small(corner: str, got: str, need: str) -> ContourError:
    return ContourError(
        "bad-params",
        "this corner cannot be broken so",
        where=Where(entity=corner),
        got=got,
        need=need,
        remedy="type a smaller value, or choose another corner",
    )


def _way(pen: Pen, name: str, corner: str) -> Array:
    """The way a side leaves a corner."""
    trace = trace_of(Unknowns(pen.drawing()), name)
    if trace is None:
        raise _too_small(corner, f"{name} without length", "sides of some length")
    first = pen.ends(name)[0] == corner
    d = trace.slope(np.array([0.0 if first else 1.0]))[0] * (1 if first else -1)
    return np.asarray(d / np.linalg.norm(d))


def _length(pen: Pen, name: str) -> float:
    trace = trace_of(Unknowns(pen.drawing()), name)
    assert trace is not None
    p = trace.place(np.linspace(0, 1, 33))
    return float(np.linalg.norm(np.diff(p, axis=0), axis=1).sum())


def _shorten(pen: Pen, name: str, corner: str, point: str) -> None:
    """What was said of its length is said of the way to the corner from now on."""
    e = pen.entity(name, Line, Arc)
    other = e.end if e.start == corner else e.start
    pen.put(name, e.model_copy(update={"start" if e.start == corner else "end": point}))
    pen.dimensions = [
        d.model_copy(update={"kind": "distance", "of": (other, corner)})
        if d.kind == "length" and d.of == (name,)
        else d
        for d in pen.dimensions
    ]
    pen.forget(["equal", "midpoint"], name)
