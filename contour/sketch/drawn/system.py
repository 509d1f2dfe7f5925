"""A drawing as equations: constraints first, then driving dimensions, and how it is brought to hold."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from contour.recipe.formula import Lookup
from contour.sketch.drawn import forms
from contour.sketch.drawn.constraints import constraint_equations
from contour.sketch.drawn.dimensions import dimension_equations, dimension_values
from contour.sketch.drawn.orientation import Orientation
from contour.sketch.drawn.text import Dimension, Drawing
from contour.sketch.drawn.unknowns import Unknowns
from contour.solve.conflicts import Demands
from contour.solve.settle import Settled, settle
from contour.solve.system import Equation, System

__all__ = ["DrawnSystem"]

Array = NDArray[np.float64]
_UNWILLING = 1e3  # how much less than the others the side of a size moves that is to stay
_STEPS = (1, 6, 30)  # from what is drawn to what is asked, if fewer turn something over


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
        for k, value in enumerate(self.values):
            if value is not None:
                self._add(f"d:{k}", dimension_equations(u, drawing.dimensions[k], f"d:{k}", value))
        self.x = np.array(u.start)
        # What is drawn in one place may be asked to be large.
        lengths = [
            v for v, d in zip(self.values, drawing.dimensions, strict=True) if v is not None and d.kind != "angle"
        ]
        self.size = max(u.extent(), *lengths) if lengths else u.extent()
        self.orientation = Orientation(u)
        self._weights = self._unwilling()

    def _unwilling(self) -> Array | None:
        """(count,) how unwilling each unknown is to move; none where all are alike."""
        stay = [
            s
            for d, v in zip(self.drawing.dimensions, self.values, strict=True)
            if v is not None
            for s in self._staying(d)
        ]
        if not stay:
            return None
        weights = np.ones(len(self.x))
        weights[stay] = _UNWILLING
        return weights

    def _staying(self, d: Dimension) -> list[int]:
        """Slots of the side of a size that stays."""
        sides = d.of if len(d.of) == 2 else tuple(self.unknowns.ends(d.of[0]))
        if d.moves == "both" or len(sides) != 2:
            return []
        return self.unknowns.of(sides[1] if d.moves == "first" else sides[0])

    def _add(self, name: str, equations: list[Equation]) -> None:
        self.names.append(name)
        self._equations.append(equations)

    def demands(self, without: Sequence[int] = ()) -> Demands:
        """All demands but some."""
        rows, owner = list(self.unknowns.always), [-1] * len(self.unknowns.always)
        for number, equations in enumerate(self._equations):
            if number not in without:
                rows += equations
                owner += [number] * len(equations)
        return Demands(System(len(self.unknowns.start), rows), np.array(owner, np.int64), self.size)

    def settle(self, without: Sequence[int] = ()) -> Settled:
        """The straight way first; where that fails or turns something over, the errors are taken away step by step."""
        system = self.demands(without).system
        drawn = system.residuals(self.x)
        best: Settled | None = None
        for count in _STEPS:
            x = self.x
            for step in range(1, count):
                left = (1 - step / count) * drawn
                on_the_way = settle(system, x, size=self.size, left=left, most=20, weights=self._weights)
                if not on_the_way.solved:
                    break
                x = on_the_way.x
            else:
                found = settle(system, x, size=self.size, weights=self._weights)
                if not self.orientation.real(found.x):
                    found = replace(found, solved=False)
                if found.solved and self.orientation.kept(found.x):
                    return found
                if found.solved and (upright := self._with_lengths(system, found)) is not None:
                    return upright
                if best is None or (found.solved and not best.solved):
                    best = found
            if best is not None and not best.solved and count == _STEPS[1]:
                break  # what fails in a few steps fails in many
        assert best is not None
        return best

    def _with_lengths(self, system: System, found: Settled) -> Settled | None:
        """A solution in which lines that came to nothing have the length they were drawn with: the nearest is not always meant."""
        gone = self.orientation.collapsed(found.x)
        if not gone:
            return None
        lengths = [Equation(forms.apart, (*slots, slots[0]), (0.0, length)) for slots, length in gone]
        held = settle(
            System(system.count, [*system.equations, *lengths]), self.x, size=self.size, weights=self._weights
        )
        if not held.solved or not self.orientation.kept(held.x):
            return None
        return settle(system, held.x, size=self.size, weights=self._weights)
