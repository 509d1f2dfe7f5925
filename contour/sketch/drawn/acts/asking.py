"""Relations and sizes that are asked of what is drawn, or taken back; what is taken away; what only helps to construct."""

from __future__ import annotations

import re
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.acts.pen import Act, Pen, Text
from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.text import (
    Arc,
    Circle,
    Constraint,
    ConstraintKind,
    Dimension,
    DimensionKind,
    Ellipse,
    Finite,
    Point,
    Side,
)
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["Asking", "ask"]


class Relate(Act):
    """of: in the order that docs/formats.md gives."""

    act: Literal["relate"]
    kind: ConstraintKind
    of: tuple[str, ...] = Field(min_length=1, max_length=200)
    value: Text = None


class AskSize(Act):
    """A size; without a value it only reads."""

    act: Literal["size"]
    kind: DimensionKind
    of: tuple[str, ...] = Field(min_length=1, max_length=2)
    value: Text = None
    supplement: bool = False


class ChangeSize(Act):
    """demand: "d:0" · value: typed anew · reference: whether it only reads · name: what formulas call it · moves: which side gives
    way."""

    act: Literal["change-size"]
    demand: str = Field(pattern=r"^d:\d+$")
    value: Text = None
    reference: bool | None = None
    name: str | None = Field(default=None, pattern=r"^[a-z][a-z0-9_]{0,39}$")
    moves: Side | None = None


class Release(Act):
    """Constraints "c:2" and sizes "d:0" are taken away."""

    act: Literal["release"]
    demands: tuple[str, ...] = Field(min_length=1, max_length=500)


class Remove(Act):
    act: Literal["remove"]
    of: tuple[str, ...] = Field(min_length=1, max_length=5000)


class Construction(Act):
    """Lines and curves that only help: they bound nothing."""

    act: Literal["construction"]
    of: tuple[str, ...] = Field(min_length=1, max_length=5000)
    on: bool


class Complete(Act):
    """Arcs and parts of ellipses become whole."""

    act: Literal["complete"]
    of: tuple[str, ...] = Field(min_length=1, max_length=500)


class Pull(Act):
    """A point is put elsewhere; what hangs on it follows as it can."""

    act: Literal["pull"]
    point: str
    to: tuple[Finite, Finite]


Asking = Annotated[
    Relate | AskSize | ChangeSize | Release | Remove | Construction | Complete | Pull, Field(discriminator="act")
]


def ask(pen: Pen, asking: Asking) -> None:
    """Raises ContourError (ref-lost) where what it speaks of is not drawn."""
    match asking:
        case Relate():
            for name in asking.of:
                pen.entity(name)
            pen.constraints.append(Constraint(kind=asking.kind, of=asking.of, value=asking.value))
        case AskSize():
            for name in asking.of:
                pen.entity(name)
            value = asking.value.strip() if asking.value else None
            pen.dimensions.append(
                Dimension(
                    kind=asking.kind, of=asking.of, value=value, reference=value is None, supplement=asking.supplement
                )
            )
        case ChangeSize():
            _change(pen, asking)
        case Release():
            _release(pen, asking.demands)
        case Remove():
            pen.remove(asking.of)
        case Construction():
            for name in asking.of:
                e = pen.entity(name)
                if not isinstance(e, Point):
                    pen.put(name, e.model_copy(update={"construction": asking.on}))
        case Complete():
            for name in asking.of:
                _complete(pen, name)
        case Pull():
            pen.move(asking.point, np.array(asking.to))


def _complete(pen: Pen, name: str) -> None:
    """Ends that nothing else is drawn by go; what was said of its ends or its length goes with them."""
    e = pen.entity(name, Arc, Ellipse)
    ends = pen.ends(name)
    if isinstance(e, Arc):
        radius = float(np.linalg.norm(pen.at(e.start) - pen.at(e.centre)))
        pen.put(name, Circle(centre=e.centre, radius=radius, construction=e.construction))
    else:
        pen.put(name, e.model_copy(update={"start": None, "end": None}))
    pen.forget(["arc-length", "midpoint"], name)
    pen.drop_unused(ends)


def _release(pen: Pen, demands: tuple[str, ...]) -> None:
    gone = {_place(pen, d) for d in demands}
    pen.constraints = [c for k, c in enumerate(pen.constraints) if ("c", k) not in gone]
    pen.dimensions = [d for k, d in enumerate(pen.dimensions) if ("d", k) not in gone]


def _place(pen: Pen, demand: str) -> tuple[str, int]:
    found = re.fullmatch(r"([cd]):(\d+)", demand)
    of = {"c": len(pen.constraints), "d": len(pen.dimensions)}
    if not found or int(found[2]) >= of[found[1]]:
        raise ContourError(
            "ref-lost",
            f"{demand} is not asked of the drawing",
            where=Where(entity=demand),
            got=demand,
            need=f"c:0 to c:{of['c'] - 1}, or d:0 to d:{of['d'] - 1}",
            remedy="look at the drawing again: it has changed",
        )
    return found[1], int(found[2])


def _reading(pen: Pen, demand: str, size: Dimension) -> str:
    u = Unknowns(pen.drawing())
    return f"{measured(u, size, demand, u.start):.6g} {'deg' if size.kind == 'angle' else 'mm'}"


def _change(pen: Pen, c: ChangeSize) -> None:
    _, k = _place(pen, c.demand)
    was = pen.dimensions[k]
    changes: dict[str, object] = {}
    if c.value is not None and c.value.strip():
        changes |= {"value": c.value.strip(), "reference": False}
    if c.reference is not None:
        changes["reference"] = c.reference
        if not c.reference and was.value is None and "value" not in changes:
            changes["value"] = _reading(pen, c.demand, was)  # it holds what it reads
    if c.moves is not None:
        changes["moves"] = c.moves
    if c.name is not None and c.name != was.name:
        changes["name"] = c.name
        if was.name:
            pen.renamed[c.name] = pen.renamed.pop(was.name, was.name)
            word = re.compile(rf"\b{re.escape(was.name)}\b")
            pen.dimensions = [
                d.model_copy(update={"value": word.sub(c.name, d.value)}) if isinstance(d.value, str) else d
                for d in pen.dimensions
            ]
            was = pen.dimensions[k]
    pen.dimensions[k] = was.model_copy(update=changes)
