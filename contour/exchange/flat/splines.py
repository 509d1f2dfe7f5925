"""B-splines span by span."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline

from contour.exchange.flat.shapes import Spline

__all__ = ["beziers", "sampled"]

Array = NDArray[np.float64]
_INNER = np.array([1, 3, 5, 7]) / 8
# Bernstein polynomials at places within a span: what a curve is there tells its control points.
_BERNSTEIN = np.column_stack(
    [(1 - _INNER) ** 3, 3 * _INNER * (1 - _INNER) ** 2, 3 * _INNER**2 * (1 - _INNER), _INNER**3]
)


def beziers(spline: Spline) -> tuple[Array, Array]:
    """Breaks (m + 1,) and the cubic Bézier control points (m, 4, 2) between them, of a spline of degree three at most without weights."""
    k, knots = spline.degree, spline.knots
    curve = BSpline(knots, spline.control, k)
    breaks = np.unique(knots[k : len(knots) - k])
    at = breaks[:-1, None] + np.diff(breaks)[:, None] * _INNER
    places = curve(at.ravel()).reshape(-1, 4, 2)
    return breaks, np.linalg.solve(_BERNSTEIN, places)


def sampled(spline: Spline, count: int) -> tuple[Array, Array, float]:
    """Places and slopes (count + 1, 2) at evenly spread parameters, and the step between these; rational ones, too (Piegl and Tiller 1997,
    The NURBS Book, 4.3)."""
    w = np.ones(len(spline.control)) if spline.weights is None else spline.weights
    top = BSpline(spline.knots, spline.control * w[:, None], spline.degree)
    under = BSpline(spline.knots, w, spline.degree)
    t = np.linspace(spline.knots[spline.degree], spline.knots[-spline.degree - 1], count + 1)
    d = under(t)[:, None]
    places = top(t) / d
    return places, (top(t, 1) - places * under(t, 1)[:, None]) / d, float(t[1] - t[0])
