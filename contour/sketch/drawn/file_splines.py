"""B-splines of any file as splines of a drawing, exactly where a drawing can: between breaks of its curvature a cubic is the one through
its own break points with its own end slopes (de Boor 2001, A Practical Guide to Splines, ch. 4)."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicHermiteSpline

from contour.exchange.flat.shapes import Arc, Line, Place, Spline
from contour.exchange.flat.splines import beziers, sampled
from contour.outline.arcs import circle_through

__all__ = ["Drawable", "SplinePoints", "drawable"]

Array = NDArray[np.float64]
_SMOOTH = 1e-7  # of the curve's own size: two curvatures that differ less are one
_ROUND = 1e-9  # of a radius: a rational curve that strays less from it is its circle
_CLOSE_MM = 1e-6
_MOST = 600  # points of what is followed only closely


@dataclass(frozen=True, slots=True, eq=False)
class SplinePoints:
    """Either through (n, 2) at rising parameters, with the places it leaves towards and arrives from (none: without curvature there), or
    control (n, 2). off: mm by which it strays from the file's curve, none where it is that curve."""

    through: Array | None = None
    at: tuple[float, ...] = ()
    start: Array | None = None
    end: Array | None = None
    control: Array | None = None
    off: float = 0.0

    @property
    def ends(self) -> tuple[Array, Array]:
        over = self.through if self.through is not None else self.control
        assert over is not None
        return over[0], over[-1]


Drawable = SplinePoints | Arc | Line


def drawable(spline: Spline) -> list[Drawable]:
    """The same curve as pieces that follow one another. Raises ValueError where its knots make no curve."""
    k, knots = spline.degree, spline.knots
    if k < 1 or len(knots) != len(spline.control) + k + 1 or (np.diff(knots) < 0).any() or not np.isfinite(knots).all():
        raise ValueError("its knots do not fit its control points")
    begin, end = knots[k], knots[-k - 1]
    if end <= begin:
        raise ValueError("its knots span nothing")
    if spline.weights is not None:
        return _rational(spline)
    if k > 3:
        return [_followed(spline)]
    if _own_control(spline):
        return [SplinePoints(control=spline.control)]
    x, spans = beziers(spline)
    size = float(np.ptp(spline.control, axis=0).max())
    breaks = [0, *(i for i in range(1, len(spans)) if not _smooth(x, spans, i, size)), len(spans)]
    return [_one_span(k, spans[a]) if b == a + 1 else _many(x[a : b + 1], spans[a:b]) for a, b in pairwise(breaks)]


def _own_control(spline: Spline) -> bool:
    """Its knots are those that a drawing gives to control points."""
    n = len(spline.control)
    k = min(3, n - 1)
    if spline.degree != k:
        return False
    own = np.concatenate([np.zeros(k), np.linspace(0, 1, n - k + 1), np.ones(k)])
    t = (spline.knots - spline.knots[0]) / (spline.knots[-1] - spline.knots[0])
    return bool(np.abs(t - own).max() < 1e-9)


def _derivatives(span: Array, h: float) -> list[tuple[Array, Array]]:
    """Place, slope and curvature at both ends of a Bézier span that is h of the parameter long."""
    a, b, c, d = span
    return [(a, d), (3 * (b - a) / h, 3 * (d - c) / h), (6 * (a - 2 * b + c) / h**2, 6 * (b - 2 * c + d) / h**2)]


def _smooth(x: Array, spans: Array, i: int, size: float) -> bool:
    """Slope and curvature go on across a break. Judged in parameters of one span's length, so that the scale of the knots is none of it."""
    before, after = x[i] - x[i - 1], x[i + 1] - x[i]
    h = min(before, after)
    ends = zip(_derivatives(spans[i - 1], before), _derivatives(spans[i], after), strict=True)
    return all(
        float(np.abs(a[1] - b[0]).max()) * h**order < _SMOOTH * max(size, 1e-9) for order, (a, b) in enumerate(ends)
    )


def _one_span(degree: int, span: Array) -> Drawable:
    """A Bézier curve's own control points; a straight one is a line."""
    a, b, _, d = span
    if degree == 1:
        return Line(_pair(a), _pair(d))
    return SplinePoints(control=np.array([a, (3 * b - a) / 2, d]) if degree == 2 else span)


def _many(x: Array, spans: Array) -> SplinePoints:
    """Through its own break points, which a spline of the same breaks with the same end slopes cannot leave."""
    through = np.vstack([spans[:, 0], spans[-1:, 3]])
    size = float(np.ptp(through, axis=0).max())
    bent = (spans[0, 0] - 2 * spans[0, 1] + spans[0, 2], spans[-1, 1] - 2 * spans[-1, 2] + spans[-1, 3])
    free = [float(np.abs(c).max()) < _SMOOTH * size for c in bent]
    return SplinePoints(
        through=through,
        at=tuple(((x - x[0]) / (x[-1] - x[0])).tolist()),
        start=None if free[0] else spans[0, 1],
        end=None if free[1] else spans[-1, 2],
    )


def _rational(spline: Spline) -> list[Drawable]:
    places = sampled(spline, 64)[0]
    try:
        centre, radius = circle_through(_pair(places[0]), _pair(places[21]), _pair(places[43]))
    except (ValueError, ZeroDivisionError, np.linalg.LinAlgError):
        return [_followed(spline)]
    off = np.abs(np.linalg.norm(places - centre, axis=1) - radius)
    if not np.isfinite(radius) or off.max() > _ROUND * radius or radius > 1e4 * np.ptp(places, axis=0).max():
        return [_followed(spline)]
    d = places - centre
    angles = np.unwrap(np.arctan2(d[:, 1], d[:, 0]))
    first, last = sorted((float(angles[0]), float(angles[-1])))
    turn = last - first
    if turn > 2 * np.pi - 1e-9:
        return [Arc(_pair(np.asarray(centre)), float(radius))]
    return [Arc(_pair(np.asarray(centre)), float(radius), first, last)]


def _followed(spline: Spline) -> SplinePoints:
    """A cubic through more and more of its places, until it strays by less than a nanometre's thousandfold, or has points enough."""
    size = float(np.ptp(spline.control, axis=0).max())
    count = max(8, 2 * len(spline.control))
    while True:
        fine, slopes, step = sampled(spline, 4 * count)
        t = np.linspace(0.0, 1.0, 4 * count + 1)
        near = CubicHermiteSpline(t[::4], fine[::4], slopes[::4] * step * 4 * count)
        off = float(np.linalg.norm(near(t) - fine, axis=1).max())
        if off < max(_CLOSE_MM, 1e-9 * size) or 2 * count > _MOST:
            break
        count *= 2
    h = 4 * step
    return SplinePoints(
        through=fine[::4],
        at=tuple(t[::4].tolist()),
        start=fine[0] + slopes[0] * h / 3,
        end=fine[-1] - slopes[-1] * h / 3,
        off=off,
    )


def _pair(p: Array) -> Place:
    return float(p[0]), float(p[1])
