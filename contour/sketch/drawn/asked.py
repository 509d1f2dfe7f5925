"""A constraint that is asked of a drawing, and what its kinds share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.headings import Heading, drawn_turn, turned
from contour.sketch.drawn.text import Arc, Circle, Constraint, Ellipse, Line, Point, Spline
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.system import Equation

__all__ = ["ROUND", "Asked", "nearest", "turned_as_drawn", "wrong_kinds"]

ROUND = (Circle, Arc)
_NAMES = {Point: "point", Line: "line", Circle: "circle", Arc: "arc", Ellipse: "ellipse", Spline: "spline"}


@dataclass(frozen=True, slots=True)
class Asked:
    """A constraint, where it is said ("c:0"), and the unknowns it speaks of."""

    unknowns: Unknowns
    constraint: Constraint
    where: str

    def kinds(self) -> list[type]:
        return [type(self.unknowns.drawing.entities[n]) for n in self.constraint.of]

    def wrong(self, need: str) -> ContourError:
        return wrong_kinds(self.unknowns, self.where, self.constraint.kind, self.constraint.of, need)


def wrong_kinds(unknowns: Unknowns, where: str, kind: str, of: Sequence[str], need: str) -> ContourError:
    """The refusal of a constraint or dimension on entities it is not for."""
    got = ", ".join(f"{n} ({_NAMES[type(unknowns.drawing.entities[n])]})" for n in of)
    return ContourError(
        "wrong-kind",
        f"{where}: {kind} needs {need}",
        where=Where(entity=where),
        got=got,
        need=need,
        remedy="choose other entities",
    )


def nearest(angle: float, *choices: float) -> float:
    """That of some directions in degrees which is nearest to an angle, round the circle."""
    return min(choices, key=lambda c: abs((angle - c + 180) % 360 - 180))


def turned_as_drawn(q: Asked, a: Heading, b: Heading, *choices: float) -> Equation:
    """Heading b is a turned by that of some angles in degrees which is nearest to what is drawn."""
    return turned(q.unknowns, a, b, nearest(drawn_turn(q.unknowns, a, b), *choices))
