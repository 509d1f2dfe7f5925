"""Shapes that can be drawn: which places each is drawn by, and the sizes that can be typed for it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from contour.sketch.drawn.acts.pen import Act, Spot, Text
from contour.sketch.drawn.text import ConstraintKind

__all__ = [
    "DrawArc",
    "DrawCircle",
    "DrawEllipse",
    "DrawLine",
    "DrawPoint",
    "DrawPolygon",
    "DrawRectangle",
    "DrawSlot",
    "DrawSpline",
    "Shape",
]


class LineRelation(Act):
    """What the new line has to do with what is there: `to` is missing for horizontal and vertical."""

    kind: ConstraintKind
    to: str | None = None


class DrawPoint(Act):
    act: Literal["point"]
    at: Spot


class DrawLine(Act):
    """angle: from the line before it at the corner where it begins, inside; from the first axis where there is none."""

    act: Literal["line"]
    start: Spot
    end: Spot
    relations: tuple[LineRelation, ...] = Field(default=(), max_length=4)
    after: str | None = None
    length: Text = None
    angle: Text = None
    construction: bool = False


class DrawArc(Act):
    """by three: start, end, then a place it goes through · centre: centre, start, the way to the end, on the side the third lies · tangent: from the end of `after`, to the end."""

    act: Literal["arc"]
    by: Literal["three", "centre", "tangent"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=3)
    after: str | None = None
    radius: Text = None


class DrawRectangle(Act):
    """by corner: two opposite corners · centre: centre and a corner · three: a side's ends, and how far the opposite side lies."""

    act: Literal["rectangle"]
    by: Literal["corner", "centre", "three"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=3)
    width: Text = None
    height: Text = None


class DrawCircle(Act):
    """by centre: centre and a place on it · two, three: places on it · tangent: places near which it touches `touching` (two, with a third
    place for its size, or three)."""

    act: Literal["circle"]
    by: Literal["centre", "two", "three", "tangent"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=3)
    touching: tuple[str, ...] = Field(default=(), max_length=3)
    diameter: Text = None


class DrawSlot(Act):
    """by straight: the two centres, a place on its side · arc: the arc's centre, the two ends' centres, a place on its side."""

    act: Literal["slot"]
    by: Literal["straight", "arc"]
    spots: tuple[Spot, ...] = Field(min_length=3, max_length=4)
    length: Text = None
    width: Text = None


class DrawPolygon(Act):
    """Regular, by its centre and a corner. across: between opposite sides, or twice the inner radius where there are none."""

    act: Literal["polygon"]
    spots: tuple[Spot, Spot]
    sides: int = Field(ge=3, le=60)
    across: Text = None


class DrawEllipse(Act):
    """Centre, the end of its longer half axis, a place on it."""

    act: Literal["ellipse"]
    spots: tuple[Spot, Spot, Spot]


class DrawSpline(Act):
    """Through its spots, or over them as control points. closed: it ends where it begins."""

    act: Literal["spline"]
    by: Literal["through", "control"]
    spots: tuple[Spot, ...] = Field(min_length=2, max_length=200)
    closed: bool = False


Shape = Annotated[
    DrawPoint | DrawLine | DrawArc | DrawRectangle | DrawCircle | DrawSlot | DrawPolygon | DrawEllipse | DrawSpline,
    Field(discriminator="act"),
]
