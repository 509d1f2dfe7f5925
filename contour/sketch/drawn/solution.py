"""Where a drawing settles: solved near what is drawn, what is still free, what contradicts itself and what is said twice."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.recipe.formula import Lookup
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.system import DrawnSystem
from contour.sketch.drawn.text import Drawing, Ellipse, Entity, Point, Spline, points_of
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.conflicts import Demands, minimal_conflict
from contour.solve.freedom import Freedom, freedom
from contour.solve.settle import Settled, settle

__all__ = ["Drag", "Solution", "moved_since", "moved_to", "solved"]

Array = NDArray[np.float64]
_MOST_CONFLICTS = 40
_UNWILLING = 1e4  # how much less a dragged point likes to move than the others
_STILL_MM = 1e-4  # less than anybody sees
_SHAKEN = (0.005, 0.01, 0.02, 0.02, 0.03, 0.03)  # of the size


@dataclass(frozen=True, slots=True)
class Solution:
    """solved: everything holds at once; else `drawing` is as it was given · dof: motions left, rigid ones included; where there are
    conflicts, with the last of each left out · residual: the largest error, mm · conflicts: minimal sets of names such as "d:0" ·
    redundant: what others already say · free: motions of each entity that are left · sizes: what each dimension reads."""

    drawing: Drawing
    solved: bool
    dof: int
    residual: float
    conflicts: tuple[tuple[str, ...], ...]
    redundant: tuple[str, ...]
    free: dict[str, int]
    sizes: tuple[float, ...]


def solved(drawing: Drawing, lookup: Lookup | None = None) -> Solution:
    """The drawing where everything holds, as near to what is drawn as can be.

    lookup: quantities that formulas may name. Raises ContourError at the entity, constraint or dimension that cannot be understood.
    """
    problem, found = _settled(drawing, lookup)
    out: list[int] = []
    conflicts: list[tuple[str, ...]] = []
    first = found
    while not found.solved and len(conflicts) < _MOST_CONFLICTS:
        demands = problem.demands(out)
        conflict = minimal_conflict(demands, problem.x, found)
        if not conflict:
            break
        conflicts.append(tuple(problem.names[n] for n in conflict))
        out.append(max(conflict))
        found = problem.settle(out)
    demands = problem.demands(out)
    left = freedom(demands.system.jacobian(found.x))
    return Solution(
        drawing=moved_to(problem.unknowns, first.x) if first.solved else drawing,
        solved=first.solved,
        dof=left.dof,
        residual=first.residual,
        conflicts=tuple(conflicts),
        redundant=_repeated(problem, demands, left),
        free=dict(
            zip(drawing.entities, left.of([problem.unknowns.of(name) for name in drawing.entities]), strict=True)
        ),
        sizes=tuple(
            measured(problem.unknowns, d, f"d:{k}", first.x if first.solved else problem.x)
            for k, d in enumerate(drawing.dimensions)
        ),
    )


def _settled(drawing: Drawing, lookup: Lookup | None) -> tuple[DrawnSystem, Settled]:
    """From what is drawn, or from drawings beside it: where something is roughly drawn, the side it is drawn on says little."""
    problem = DrawnSystem(drawing, lookup)
    found = problem.settle()
    rng = np.random.default_rng(1)
    may_move = np.ones(len(problem.x))
    for c in drawing.constraints:
        if c.kind == "fixed":  # where it is drawn is where it stays
            may_move[[s for name in c.of for s in problem.unknowns.of(name)]] = 0.0
    for name, e in drawing.entities.items():
        if e.linked:
            may_move[problem.unknowns.given(name)] = 0.0
    turned_over = found.solved and not problem.orientation.kept(found.x)
    for share in _SHAKEN if not found.solved or turned_over else ():
        shake = may_move * rng.uniform(-share, share, len(problem.x)) * problem.size
        beside = DrawnSystem(moved_to(problem.unknowns, problem.x + shake), lookup)
        tried = beside.settle()
        if tried.solved and (not turned_over or beside.orientation.kept(tried.x)):
            return beside, tried
    return problem, found


def _repeated(problem: DrawnSystem, demands: Demands, left: Freedom) -> tuple[str, ...]:
    """Demands all of whose equations say nothing new."""
    new = np.ones(len(demands.system), np.bool_)
    new[list(left.redundant)] = False
    says = np.unique(demands.owner[new])
    return tuple(problem.names[n] for n in np.unique(demands.owner) if n >= 0 and n not in says)


class Drag:
    """A point of a drawing under the hand: what does not change from one step to the next is worked out once. drawing: where it begins."""

    def __init__(self, drawing: Drawing, point: str, lookup: Lookup | None = None) -> None:
        """Raises ContourError as `solved` does, and ref-lost where the point is not drawn."""
        if not isinstance(drawing.entities.get(point), Point):
            raise ContourError(
                "ref-lost",
                f"there is no point called {point} to drag",
                where=Where(entity=point),
                got=point,
                need="a point of the drawing",
                remedy="take hold of a point",
            )
        self.drawing = drawing
        self._drawn = DrawnSystem(drawing, lookup)
        self._all = self._drawn.demands().system
        self._slots = list(self._drawn.unknowns.points[point])
        self._weights = np.ones(len(self._drawn.x))
        self._weights[self._slots] = _UNWILLING

    def to(self, place: tuple[float, float]) -> Drawing | None:
        """The drawing with the point as near to a place (mm) as what is asked allows; none where nothing near holds.

        The point starts there and is unwilling to leave it; everything else follows by the least motion.
        """
        x = self._drawn.x.copy()
        x[self._slots] = place
        size = max(self._drawn.size, float(np.abs(x - self._drawn.x).max()))
        found = settle(self._all, x, size=size, weights=self._weights, most=40)
        if not found.solved or not self._drawn.orientation.kept(found.x):
            return None
        return moved_to(self._drawn.unknowns, found.x)


def moved_since(before: Drawing, after: Drawing) -> list[str]:
    """Entities that lie elsewhere than they did, by more than can be seen: themselves, or a point that they are drawn by."""

    def same(name: str) -> bool:
        a, b = before.entities[name], after.entities[name]
        if isinstance(a, Point) and isinstance(b, Point):
            return max(abs(a.at[0] - b.at[0]), abs(a.at[1] - b.at[1])) < _STILL_MM
        return (
            abs(getattr(a, "radius", getattr(a, "minor", 0.0)) - getattr(b, "radius", getattr(b, "minor", 0.0)))
            < _STILL_MM
        )

    changed = {name for name in after.entities if not same(name)}
    return [n for n in after.entities if n in changed or changed.intersection(points_of(after.entities, n))]


def moved_to(u: Unknowns, x: Array) -> Drawing:
    """The drawing with its unknowns at x (n,)."""
    entities: dict[str, Entity] = {}
    for name, e in u.drawing.entities.items():
        if isinstance(e, Point):
            px, py = u.points[name]
            entities[name] = (
                e if e.linked else Point.model_construct(construction=e.construction, at=(float(x[px]), float(x[py])))
            )
        elif name in u.sizes and not e.linked:
            field = "minor" if isinstance(e, Ellipse) else "radius"
            size = max(float(x[u.sizes[name]]), 1e-9)
            entities[name] = e.model_copy(update={field: size}) if hasattr(e, field) else e
        elif isinstance(e, Spline):
            entities[name] = e.model_copy(update={"at": u.curves[name].at})
        else:
            entities[name] = e
    return u.drawing.model_copy(update={"entities": entities})
