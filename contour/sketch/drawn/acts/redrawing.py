"""What was brought in from a body, redrawn: pieces of the drawing's own on it, with the relations that hold and the sizes that say all of it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from contour.intent.rounding import rounding_of
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.copies import Paste, paste
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.acts.relating import relate
from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.settling import settling
from contour.sketch.drawn.stated import is_round, stated
from contour.sketch.drawn.text import Entity, Point
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Redraw", "redraw"]

_HOLDS_MM = 1e-4  # a solid's own curves are exact: what is off by more was not meant
_ALSO = 12  # sizes that only read


class Redraw(Act):
    """of: what was brought in, or any entities; they stay as they are. Its sizes are taken from the solid."""

    act: Literal["redraw"]
    of: tuple[str, ...] = Field(min_length=1, max_length=1000)


def redraw(pen: Pen, act: Redraw) -> None:
    """Raises ContourError (ref-lost, bad-params)."""
    curves = [n for n in dict.fromkeys(act.of) if not isinstance(pen.entity(n), Point)]
    if not curves:
        raise ContourError(
            "bad-params",
            "there is nothing to redraw",
            got="points alone",
            need="lines and curves",
            remedy="choose what was brought in",
        )
    source: dict[str, Entity] = {}
    for n in curves:
        for name in (*pen.points_of(n), n):
            source[name] = pen.entities[name].model_copy(update={"linked": False, "construction": False})
    paste(pen, Paste(act="paste", entities=source))
    made = pen.chosen
    relate(pen, made, _HOLDS_MM)
    constraints, sizes, also = settling(pen.drawing(), made)
    pen.constraints += constraints
    unknowns = Unknowns(pen.drawing())
    driving = [(d, measured(unknowns, d, "a size", unknowns.start)) for d in sizes]
    reading = [(d, measured(unknowns, d, "a size", unknowns.start)) for d in also]
    # Of what follows from the others that is told which somebody may have stated.
    reading = [(d, v) for d, v in reading if is_round(v, angle=d.kind == "angle")][:_ALSO]
    system = rounding_of([(v, 1e-3) for d, v in driving if d.kind != "angle"]).system
    taken = {d.name for d in pen.dimensions}
    for d, value in (*driving, *reading):
        name = next(n for k in range(1, 10_000) if (n := f"d{k}") not in taken)
        taken.add(name)
        text = f"{round(value, 7):.10g} deg" if d.kind == "angle" else stated(value, system)
        pen.dimensions.append(d.model_copy(update={"value": text, "name": name}))
        pen.marks[name] = "solid"
    pen.chosen = made
