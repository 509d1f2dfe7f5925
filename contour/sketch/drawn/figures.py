"""Figures that stand in a picture under a drawing, put beside the sizes of the drawing that they state."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.text import Dimension, Drawing, Point
from contour.sketch.drawn.traces import trace_of
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["BesideSize", "Figure", "beside_sizes"]

Array = NDArray[np.float64]
_NEAR, _NEAR_DEG = 0.06, 3.0  # of its value, degrees: what is further off is another size
_LIKE, _WITHIN = 0.015, 0.3  # of its value; of the drawing's size: one step of doubt each
_NOT = 1e6


@dataclass(frozen=True, slots=True)
class Figure:
    """A reading by name: mm or degrees, tolerance (plus or minus) as a drawing states it, standard uncertainty, and where it stands in the plane, mm."""

    name: str
    value: float
    angle: bool
    at: tuple[float, float]
    tolerance: float | None = None
    u: float | None = None


@dataclass(frozen=True, slots=True)
class BesideSize:
    """size, figure: their places · text: the formula that makes the size what the figure states · value: the figure in the size's own terms (of a radius
    half a diameter) · off: what the size reads, less that · allowed: whether the drawing would pass it; none where it states no tolerance."""

    size: int
    figure: int
    text: str
    value: float
    off: float
    allowed: bool | None


def beside_sizes(drawing: Drawing, figures: Sequence[Figure]) -> tuple[BesideSize, ...]:
    """For each size at most one figure, and the other way round: near in value, and of several near to what the size is of.

    Pairs are chosen together, by least doubt (linear assignment).
    """
    if not figures or not drawing.dimensions:
        return ()
    u = Unknowns(drawing)
    x, extent = np.array(u.start), max(u.extent(), 1e-9)
    rows: list[list[BesideSize | None]] = []
    doubt = np.full((len(drawing.dimensions), len(figures)), _NOT)
    for k, d in enumerate(drawing.dimensions):
        reads = measured(u, d, f"d:{k}", x)
        places = _places(u, d)
        row = [_beside(k, d, reads, n, f) for n, f in enumerate(figures)]
        rows.append(row)
        for n, (made, f) in enumerate(zip(row, figures, strict=True)):
            if made is not None:
                away = float(np.linalg.norm(places - f.at, axis=1).min()) / extent
                off = made.off / (1.0 if f.angle else max(_LIKE * abs(made.value), f.tolerance or 0.0, 1e-9))
                doubt[k, n] = off**2 + (away / _WITHIN) ** 2
    chosen = zip(*linear_sum_assignment(doubt), strict=True)
    return tuple(made for k, n in chosen if doubt[k, n] < _NOT and (made := rows[k][n]) is not None)


def _beside(k: int, d: Dimension, reads: float, n: int, figure: Figure) -> BesideSize | None:
    if figure.angle != (d.kind == "angle"):
        return None
    ways = [(figure.name, 1.0)]
    if d.kind == "radius":
        ways.append((f"{figure.name} / 2", 0.5))
    elif d.kind == "diameter":
        ways.append((f"2 * {figure.name}", 2.0))
    text, factor = min(ways, key=lambda way: abs(reads - way[1] * figure.value))
    value = factor * figure.value
    near = _NEAR_DEG if figure.angle else _NEAR * abs(value) + factor * (figure.tolerance or 0.0)
    off = reads - value
    if abs(off) > near:
        return None
    tolerance = figure.tolerance
    allowed = None if tolerance is None or figure.angle else abs(off) <= factor * tolerance + 1e-9
    return BesideSize(k, n, text, value, off, allowed)


def _places(u: Unknowns, d: Dimension) -> Array:
    """Places (n, 2) of what a size is of, and between."""
    found = []
    for name in d.of:
        trace = None if isinstance(u.drawing.entities[name], Point) else trace_of(u, name)
        found.append(u.at(name)[None] if trace is None else trace.place(np.linspace(0, 1, 9)))
    if len(found) == 2:
        found.append((found[0].mean(axis=0) + found[1].mean(axis=0))[None] / 2)
    return np.vstack(found)
