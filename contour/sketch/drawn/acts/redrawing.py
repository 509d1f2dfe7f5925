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
from contour.sketch.drawn.text import Entity, Point
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Redraw", "redraw", "stated"]

_HOLDS_MM = 1e-4  # a solid's own curves are exact: what is off by more was not meant
_EXACT_MM = 2e-6
_INCH = (1 / 16, 0.05, 1 / 64, 0.005)  # steps that inches are stated in


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
    values = [measured(unknowns, d, "a size", unknowns.start) for d in (*sizes, *also)]
    system = rounding_of([(v, 1e-3) for v, d in zip(values, (*sizes, *also), strict=True) if d.kind != "angle"]).system
    taken = {d.name for d in pen.dimensions}
    for d, value in zip((*sizes, *also), values, strict=True):
        name = next(n for k in range(1, 10_000) if (n := f"d{k}") not in taken)
        taken.add(name)
        text = f"{round(value, 7):.10g} deg" if d.kind == "angle" else stated(value, system)
        pen.dimensions.append(d.model_copy(update={"value": text, "name": name}))
        pen.marks[name] = "solid"
    pen.chosen = made


def stated(mm: float, system: str = "mm") -> str:
    """A length as it was likely stated: in round millimetres, in inches where only these are round, or where the whole part is.

    >>> stated(12.0), stated(9.525), stated(12.7, "inch"), stated(3.1234567)
    ('12 mm', '0.375 inch', '0.5 inch', '3.123457 mm')
    """
    inch = _round(mm / 25.4, _INCH, _EXACT_MM / 25.4)
    metric = _round(mm, (0.05,), _EXACT_MM)
    if inch is not None and (metric is None or system == "inch"):
        return f"{inch:.10g} inch"
    return f"{metric:.10g} mm" if metric is not None else f"{mm:.7g} mm"


def _round(value: float, steps: tuple[float, ...], within: float) -> float | None:
    near = (round(value / step) * step for step in steps)
    return next((float(round(n, 10)) for n in near if n > 0 and abs(n - value) <= within), None)
