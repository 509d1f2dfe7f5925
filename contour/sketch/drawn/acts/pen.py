"""A drawing under the pen: entities are added and taken away, and nothing ever gets an id that another had."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.recipe.formula import Mark
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.linked import Link
from contour.sketch.drawn.text import (
    MOST_ENTITIES,
    Arc,
    Circle,
    Constraint,
    ConstraintKind,
    Dimension,
    DimensionKind,
    Drawing,
    Ellipse,
    Entity,
    Finite,
    Line,
    Point,
    Spline,
    ends_of,
    points_of,
)
from contour.sketch.drawn.under import UnderSheet
from contour.sketch.taken import TakenLoop

__all__ = ["Act", "Paper", "Pen", "Spot", "Text"]

Array = NDArray[np.float64]
Text = str | None
Number = Callable[[str, str], float]  # a formula and its dimension -> mm or degrees
_PREFIX = {Point: "p", Line: "l", Circle: "c", Arc: "a", Ellipse: "o", Spline: "s"}


class Act(BaseModel):
    """One thing that is done. Places are mm in the sketch plane."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class Spot(Act):
    """A place that was pointed at. point: the point of the drawing that is there, and is used again · on: curves it lies on, and stays on ·
    middle: the line or arc whose middle it is."""

    at: tuple[Finite, Finite]
    point: str | None = None
    on: tuple[str, ...] = Field(default=(), max_length=4)
    middle: str | None = None


class Paper:
    """What is drawn, and what is asked of it."""

    def __init__(self, drawing: Drawing) -> None:
        self.entities: dict[str, Entity] = dict(drawing.entities)
        self.constraints: list[Constraint] = list(drawing.constraints)
        self.dimensions: list[Dimension] = list(drawing.dimensions)

    def drawing(self) -> Drawing:
        # Everything in it was checked when it came.
        return Drawing.model_construct(
            entities=self.entities, constraints=tuple(self.constraints), dimensions=tuple(self.dimensions)
        )

    def at(self, point: str) -> Array:
        e = self.entities[point]
        assert isinstance(e, Point)
        return np.array(e.at)

    def entity(self, name: str, *kinds: type[Any]) -> Any:
        """Raises ContourError (ref-lost, wrong-kind)."""
        e = self.entities.get(name)
        if e is None:
            raise ContourError(
                "ref-lost",
                f"{name} is not drawn any more",
                where=Where(entity=name),
                got="nothing of that name",
                need="an entity of the drawing",
                remedy="choose another one",
            )
        if kinds and not isinstance(e, kinds):
            need = " or ".join(k.__name__.lower() for k in kinds)
            raise ContourError(
                "wrong-kind",
                f"{name} is no {need}",
                where=Where(entity=name),
                got=e.kind,
                need=f"a {need}",
                remedy="choose another one",
            )
        return e

    def ends(self, name: str) -> list[str]:
        return ends_of(self.drawing(), name)

    def points_of(self, name: str) -> list[str]:
        """Points that an entity is drawn by."""
        self.entity(name)
        return points_of(self.entities, name)

    def users(self, point: str) -> list[str]:
        """Entities that are drawn by a point, itself left out."""
        return [n for n in self.entities if n != point and point in self.points_of(n)]

    def where(self, spot: Spot) -> Array:
        """(2,), mm: the place of the point that is there, else where it was pointed at."""
        return self.at(spot.point) if spot.point is not None and self.entity(spot.point, Point) else np.array(spot.at)


class Pen(Paper):
    """drawing: where it begins · made: how many ids it has ever given · number: what a typed formula comes to · taken: loops of sections that pieces were taken from ·
    links: what was brought in · under: sheets that lie under it. marks: where values of sizes come from, by
    name, where they are not just typed · renamed: names of sizes that had another when the pen was taken up, with that one · chosen: what was made last."""

    def __init__(
        self,
        drawing: Drawing,
        made: int,
        number: Number,
        taken: Sequence[TakenLoop] = (),
        links: Sequence[Link] = (),
        under: Sequence[UnderSheet] = (),
    ) -> None:
        super().__init__(drawing)
        self.made = made
        self.number = number
        self.taken = list(taken)
        self.links = list(links)
        self.under = list(under)
        self.marks: dict[str, Mark] = {}
        self.renamed: dict[str, str] = {}
        self.chosen: list[str] = []

    # -- what is added

    def add(self, entity: Entity) -> str:
        """The new entity's id. Raises ContourError (bad-params) where there would be too many: copies of copies grow fast."""
        if len(self.entities) >= MOST_ENTITIES:
            raise ContourError(
                "bad-params",
                "a drawing cannot have that many entities",
                got=f"more than {MOST_ENTITIES:,}",
                need=f"{MOST_ENTITIES:,} at most, points counted",
                remedy="repeat fewer of them, or make several sketches",
            )
        self.made += 1
        name = f"{_PREFIX[type(entity)]}{self.made}"
        self.entities[name] = entity
        return name

    def point(self, at: Array | tuple[float, float], *, construction: bool = False) -> str:
        return self.add(Point(at=(float(at[0]), float(at[1])), construction=construction))

    def spot(self, spot: Spot) -> str:
        """The point at a spot: the one that is there, or a new one that stays where it was put."""
        if spot.point is not None:
            self.entity(spot.point, Point)
            return spot.point
        name = self.point(spot.at)
        for curve in spot.on:
            self.entity(curve)
            self.ask("on-curve", name, curve)
        if spot.middle is not None:
            self.entity(spot.middle, Line, Arc)
            self.ask("midpoint", name, spot.middle)
        return name

    def line(self, start: str, end: str, *, construction: bool = False) -> str:
        return self.add(Line(start=start, end=end, construction=construction))

    def ask(self, kind: ConstraintKind, *of: str) -> None:
        self.constraints.append(Constraint(kind=kind, of=of))

    def size(self, kind: DimensionKind, *of: str, value: Text) -> None:
        """A driving size, where one was typed."""
        if value is not None and value.strip():
            self.dimensions.append(Dimension(kind=kind, of=of, value=value.strip()))

    def length(self, text: Text, drawn: float) -> float:
        """mm of what was typed, or as it is drawn."""
        return self.number(text, "length") if text and text.strip() else drawn

    # -- what is changed and taken away

    def put(self, name: str, entity: Entity) -> None:
        """Raises ContourError (not-allowed) where it is linked, and more than what it bounds would change."""
        was = self.entities[name]
        if was.linked and was != entity.model_copy(update={"construction": was.construction}):
            raise _follows(name)
        self.entities[name] = entity

    def move(self, point: str, to: Array) -> None:
        """Raises ContourError (not-allowed) where it is linked."""
        e = self.entity(point, Point)
        if e.linked:
            raise _follows(point)
        self.entities[point] = Point(at=(float(to[0]), float(to[1])), construction=e.construction)

    def forget(self, kinds: Iterable[str], of: str) -> None:
        """Demands of some kinds on an entity are dropped."""
        gone = set(kinds)
        self.constraints = [c for c in self.constraints if not (c.kind in gone and of in c.of)]
        self.dimensions = [d for d in self.dimensions if not (d.kind in gone and of in d.of)]

    def remove(self, names: Iterable[str]) -> None:
        """Entities, what is drawn by them, points that are then used by nothing, and what was asked of all of these."""
        gone = {n for n in names if n in self.entities}
        gone |= {n for n in self.entities if gone & set(self.points_of(n))}
        loose = {p for n in gone for p in self.points_of(n)} - gone
        self.entities = {n: e for n, e in self.entities.items() if n not in gone}
        gone |= {p for p in loose if not self.users(p)}
        self.entities = {n: e for n, e in self.entities.items() if n not in gone}
        self.constraints = [c for c in self.constraints if not gone & set(c.of)]
        self.dimensions = [d for d in self.dimensions if not gone & set(d.of)]

    def drop_unused(self, points: Iterable[str]) -> None:
        """Points that nothing is drawn by any more."""
        self.remove([p for p in points if p in self.entities and not self.users(p)])


def _follows(name: str) -> ContourError:
    return ContourError(
        "not-allowed",
        f"{name} was brought in and follows what it came from",
        where=Where(entity=name),
        got="a linked piece",
        need="a piece of this drawing",
        remedy="detach it first, or copy it",
    )
