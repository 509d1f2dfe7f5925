"""Splines of a drawing: control points as fixed combinations of drawn points, so that all they say is linear in these.

Cubic where there are enough points. Reference: de Boor 2001, A Practical Guide to Splines, ch. 13 (interpolation).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline, make_interp_spline

from contour.sketch.drawn.text import Drawing, Spline

__all__ = ["Curve", "curve_of"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class Curve:
    """points: ids (n,) · basis: vector-valued spline (n components), so that C(t) is the sum of basis(t) times the points · at: the
    parameters of the points it goes through, none for control points."""

    points: tuple[str, ...]
    basis: BSpline
    at: tuple[float, ...]

    @property
    def span(self) -> tuple[float, float]:
        return float(self.basis.t[self.basis.k]), float(self.basis.t[-self.basis.k - 1])

    def weights(self, t: float, order: int = 0) -> Array:
        """(n,) what each point adds to the place (or its derivative) at t."""
        return np.asarray(self.basis(t, nu=order))

    def nearest(self, points: Array, to: Array) -> float:
        """The parameter nearest to a place (2,), points (n, 2)."""
        ts = np.linspace(*self.span, 400)
        return float(ts[np.linalg.norm(self.basis(ts) @ points - to, axis=1).argmin()])

    def form(self, order: int) -> Callable[[Sequence[Any], Sequence[Any]], Any]:
        """v: t, x, and the points' coordinate (n): x is the place (or its derivative) at t, along one coordinate."""
        return _form(self, order)


@cache
def _form(curve: Curve, order: int) -> Callable[[Sequence[Any], Sequence[Any]], Any]:
    def place(v: Sequence[Any], c: Sequence[Any]) -> Any:
        # Splines of real parameters only: an infinitesimal step beside it goes along the slope.
        t = np.clip(v[0].real, *curve.span)
        w = curve.basis(t, nu=order) + curve.basis(t, nu=order + 1) * (v[0] - t)[..., None]
        return v[1] - sum(w[..., k] * x for k, x in enumerate(v[2:]))

    return place


def curve_of(drawing: Drawing, spline: Spline) -> Curve:
    """The curve of a spline as drawn; parameters by chords where none were kept."""
    if spline.control:
        n = len(spline.control)
        degree = min(3, n - 1)
        knots = np.concatenate([np.zeros(degree), np.linspace(0, 1, n - degree + 1), np.ones(degree)])
        return Curve(spline.control, BSpline(knots, np.eye(n), degree), ())
    at = spline.at or _by_chords(np.array([drawing.point(p) for p in spline.through]))
    return _through(spline.through, spline.start, spline.end, tuple(at))


def _by_chords(points: Array) -> tuple[float, ...]:
    chords = np.linalg.norm(np.diff(points, axis=0), axis=1)
    chords = np.maximum(chords, max(chords.mean() * 1e-3, 1e-9))
    return (0.0, *np.cumsum(chords / chords.sum()).tolist())


@cache
def _through(through: tuple[str, ...], start: str | None, end: str | None, at: tuple[float, ...]) -> Curve:
    """Natural at its ends, or leaving towards a drawn point with three times the speed that leads there in one span."""
    points = (*through, *(p for p in (start, end) if p is not None))
    n, t = len(points), np.array(at)
    values = np.eye(len(through), n)
    ends = []
    for handle, tip, step in ((start, 0, t[1] - t[0]), (end, len(through) - 1, t[-2] - t[-1])):
        slope = np.zeros(n)
        if handle is not None:
            slope[points.index(handle, len(through))] = 3 / step
            slope[tip] -= 3 / step
        ends.append([(1 if handle is not None else 2, slope)])
    if len(through) == 2 and start is None and end is None:
        return Curve(points, make_interp_spline(t, values, k=1), at)
    return Curve(points, make_interp_spline(t, values, k=3, bc_type=(ends[0], ends[1])), at)
