"""Acts done one after another on a drawing, each solved before the next, as the bench does it."""

from __future__ import annotations

import math
from typing import Any

from pydantic import TypeAdapter

from contour.sketch.drawn.acts.done import AnyAct, done
from contour.sketch.drawn.profiles import profiles_of
from contour.sketch.drawn.solution import Solution, solved
from contour.sketch.drawn.text import Drawing, read_drawing

__all__ = ["Sheet", "spot"]

_ACT: TypeAdapter[Any] = TypeAdapter(AnyAct)


def spot(x: float, y: float, **more: Any) -> dict[str, Any]:
    return {"at": [x, y], **more}


class Sheet:
    """A drawing that acts are done on. `all_hold`: every solve has to succeed."""

    def __init__(self, drawing: dict[str, Any] | None = None) -> None:
        self.drawing: Drawing = read_drawing(drawing or {"entities": {}})
        self.made = 100
        self.chosen: tuple[str, ...] = ()
        self.solution: Solution = solved(self.drawing)

    def do(self, act: str, **more: Any) -> tuple[str, ...]:
        """What the act made or changed."""
        out = done(self.drawing, [_ACT.validate_python({"act": act, **more})], made=self.made)
        self.solution = solved(out.drawing)
        self.drawing, self.made, self.chosen = self.solution.drawing, out.made, out.chosen
        return self.chosen

    def of(self, kind: str) -> list[str]:
        """Ids of one kind, in the order in which they were made."""
        return [n for n, e in self.drawing.entities.items() if e.kind == kind]

    def area(self) -> float:
        """Of the largest region, islands left out."""
        return profiles_of(self.drawing).regions[0].area

    def length(self, line: str) -> float:
        e: Any = self.drawing.entities[line]
        return math.dist(self.drawing.point(e.start), self.drawing.point(e.end))
