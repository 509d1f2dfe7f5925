"""A drawing as equations: constraints first, then driving dimensions, and how it is brought to hold."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.recipe.formula import Lookup
from contour.sketch.drawn.constraints import constraint_equations
from contour.sketch.drawn.dimensions import dimension_equations, dimension_values, measured
from contour.sketch.drawn.orientation import Orientation
from contour.sketch.drawn.text import Drawing
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.conflicts import Demands
from contour.solve.settle import Settled, settle
from contour.solve.system import Equation, System

__all__ = ["DrawnSystem"]

Array = NDArray[np.float64]
_STEPS = (1, 6, 30)  # values go from what is drawn to what is asked in so many steps, if fewer turn something over


class DrawnSystem:
    """The equations of a drawing: demands are constraints first, then driving dimensions."""

    def __init__(self, drawing: Drawing, lookup: Lookup | None) -> None:
        self.drawing = drawing
        self.unknowns = u = Unknowns(drawing)
        self.values = dimension_values(drawing, lookup)
        self.names: list[str] = []
        self._equations: list[list[Equation]] = []
        for k, c in enumerate(drawing.constraints):
            self._add(f"c:{k}", constraint_equations(u, c, f"c:{k}"))
        self.reads = [measured(u, d, f"d:{k}", u.start) for k, d in enumerate(drawing.dimensions)]
        self.driving = [k for k, v in enumerate(self.values) if v is not None]
        for k in self.driving:
            self._add(f"d:{k}", self._dimension(k, self.values[k]))
        self.x = np.array(u.start)
        self.size = u.extent()
        self.orientation = Orientation(u)

    def _add(self, name: str, equations: list[Equation]) -> None:
        self.names.append(name)
        self._equations.append(equations)

    def _dimension(self, k: int, value: float | None) -> list[Equation]:
        assert value is not None
        return dimension_equations(self.unknowns, self.drawing.dimensions[k], f"d:{k}", value)

    def demands(self, without: Sequence[int] = (), share: float = 1.0) -> Demands:
        """All demands but some. share: how far dimensions have gone from what is drawn to what is asked."""
        always = self.unknowns.always
        rows, owner = list(always), [-1] * len(always)
        first = len(self.drawing.constraints)
        for number, equations in enumerate(self._equations):
            if number in without:
                continue
            if share < 1 and number >= first:
                k = self.driving[number - first]
                drawn, asked = self.reads[k], self.values[k]
                assert asked is not None
                if self.drawing.dimensions[k].kind != "angle" or 0 <= asked <= 180:
                    equations = self._dimension(k, drawn + share * (asked - drawn))
            rows += equations
            owner += [number] * len(equations)
        return Demands(System(len(self.unknowns.start), rows), np.array(owner, np.int64), self.size)

    def settle(self, without: Sequence[int] = (), weights: Array | None = None) -> Settled:
        """The straight way first; in steps where that fails or turns a loop or an arc over."""
        all_of_it = self.demands(without)
        best: Settled | None = None
        for count in _STEPS if self.driving else _STEPS[:1]:
            x = self.x
            for step in range(1, count):
                on_the_way = settle(
                    self.demands(without, step / count).system, x, size=self.size, weights=weights, most=20
                )
                if not on_the_way.solved:
                    break
                x = on_the_way.x
            else:
                found = settle(all_of_it.system, x, size=self.size, weights=weights)
                if found.solved and self.orientation.kept(found.x):
                    return found
                if best is None or (found.solved and not best.solved):
                    best = found
            if best is not None and not best.solved and count == _STEPS[1]:
                break  # what fails in a few steps fails in many
        assert best is not None
        return best
