"""One piece of an outline while it is being fitted: a line, an arc, an ellipse or a free run, where it lies and where it meets the next."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.outline.ellipses import Ellipse, ellipse_gap, fit_ellipse, nearest_on_ellipse
from contour.outline.split import ARC, ELLIPSE, FREE, LINE, fit_circle

__all__ = ["PieceFit", "corner_of", "direction_at", "fit_piece", "joint", "on_piece", "piece_gap", "turn_of"]

Array = NDArray[np.float64]


@dataclass(slots=True)
class PieceFit:
    """One piece while it is being fitted: `p` is (angle of the normal, offset) of a line, (cx, cy, r) of an arc;
    points (n, 2) are the data it has to explain, in order. An ellipse stands for itself: nothing is fitted together with it."""

    kind: int
    p: Array
    points: Array
    ellipse: Ellipse | None = None

    @property
    def rms(self) -> float:
        return float(np.sqrt(np.mean(piece_gap(self, self.points) ** 2))) if len(self.points) else 0.0


def fit_piece(kind: int, points: Array) -> PieceFit:
    """Fit one piece on its own; an arc that turns out straight becomes a line, an ellipse that turns out round an arc.

    points (n, 2), mm.
    """
    if kind == ELLIPSE:
        found = fit_ellipse(points)
        if found is not None:
            return PieceFit(ELLIPSE, np.empty(0), points, found[0])
        kind = ARC
    if kind == ARC:
        circle = fit_circle(points)
        if circle is not None and circle[1] < 1e5:
            return PieceFit(ARC, np.array([*circle[0], circle[1]]), points)
        kind = LINE
    if kind == FREE:
        return PieceFit(FREE, np.empty(0), points)
    mean = points.mean(axis=0)
    d = points - mean
    _, axes = np.linalg.eigh(d.T @ d)
    normal = axes[:, 0]
    angle = float(np.arctan2(normal[1], normal[0]))
    return PieceFit(LINE, np.array([angle, mean @ normal]), points)


def piece_gap(piece: PieceFit, points: Array) -> Array:
    """Signed distances of points (n, 2) to a line, circle or ellipse; zero for free pieces."""
    if piece.ellipse is not None:
        return ellipse_gap(piece.ellipse, points)
    if piece.kind == LINE:
        n = np.array([np.cos(piece.p[0]), np.sin(piece.p[0])])
        return points @ n - piece.p[1]
    if piece.kind == ARC:
        return np.hypot(points[:, 0] - piece.p[0], points[:, 1] - piece.p[1]) - piece.p[2]
    return np.zeros(len(points))


def turn_of(points: Array, centre: Array) -> float:
    """1 where points (n, 2) run counter-clockwise around a centre (2,), -1 otherwise."""
    d = points - centre
    return 1.0 if (d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]).sum() >= 0 else -1.0


def direction_at(piece: PieceFit, at: Array) -> Array | None:
    """Unit tangent at a place, in the sense the data runs. (2,), mm."""
    chord = piece.points[-1] - piece.points[0]
    if piece.kind == LINE:
        t = np.array([-np.sin(piece.p[0]), np.cos(piece.p[0])])
        return t if t @ chord >= 0 else -t
    if piece.kind == ARC:
        d = at - piece.p[:2]
        t = np.array([-d[1], d[0]]) / (np.linalg.norm(d) + 1e-300)
        return turn_of(piece.points, piece.p[:2]) * t
    return None


def corner_of(a: PieceFit, b: PieceFit, near: Array) -> Array | None:
    """Where two lines or circles meet, nearest to `near`; None when they do not. (2,), mm."""
    if a.kind not in (LINE, ARC) or b.kind not in (LINE, ARC):
        return None
    if a.kind == LINE and b.kind == LINE:
        rows = np.array([[np.cos(a.p[0]), np.sin(a.p[0])], [np.cos(b.p[0]), np.sin(b.p[0])]])
        if abs(np.linalg.det(rows)) < 1e-4:
            return None
        return np.linalg.solve(rows, np.array([a.p[1], b.p[1]]))
    if a.kind == ARC and b.kind == LINE:
        a, b = b, a
    if a.kind == LINE:
        n = np.array([np.cos(a.p[0]), np.sin(a.p[0])])
        h = a.p[1] - n @ b.p[:2]
        foot, reach, radius = b.p[:2] + h * n, b.p[2] ** 2 - h * h, b.p[2]
        side = np.array([-n[1], n[0]])
    else:
        gap = b.p[:2] - a.p[:2]
        d = float(np.linalg.norm(gap))
        if d < 1e-9:
            return None
        x = (d * d + a.p[2] ** 2 - b.p[2] ** 2) / (2 * d)
        n = gap / d
        foot, reach, radius = a.p[:2] + x * n, a.p[2] ** 2 - x * x, min(a.p[2], b.p[2])
        side = np.array([-n[1], n[0]])
    if reach < 1e-9 * radius * radius:
        # Missing each other by a hair is tangency, and so is crossing by one; the foot is the touching point.
        return foot if reach > -2e-3 * radius * radius else None
    k = np.sqrt(reach)
    options = [foot + k * side, foot - k * side]
    return min(options, key=lambda q: float(np.linalg.norm(q - near)))


def on_piece(piece: PieceFit, at: Array) -> Array:
    """The nearest point of a piece; of a free piece the place itself. (2,), mm."""
    if piece.kind == FREE:
        return at
    if piece.ellipse is not None:
        return np.asarray(nearest_on_ellipse(piece.ellipse, at[None])[0][0])
    n = np.array([np.cos(piece.p[0]), np.sin(piece.p[0])]) if piece.kind == LINE else at - piece.p[:2]
    return np.asarray(at - piece_gap(piece, at[None])[0] * n / (np.linalg.norm(n) + 1e-300))


def joint(a: PieceFit, b: PieceFit, near: Array, reach_mm: float) -> Array:
    """The point two neighbours share: their meeting point when it is at hand, else the data's own point between, on the rounder of the two: an arc
    that ends beside its circle would be another arc, and the more so the farther it goes round.

    (2,), mm.
    """
    corner = corner_of(a, b, near)
    if corner is not None and np.linalg.norm(corner - near) <= reach_mm:
        return corner
    pulls = [piece_gap(p, near[None])[0] for p in (a, b) if p.kind != FREE]
    if not pulls:
        return near
    straighter, rounder = sorted((a, b), key=_round)
    out = near.copy()
    if max(abs(g) for g in pulls) <= reach_mm:
        for _ in range(60 if ELLIPSE in (a.kind, b.kind) else 20):  # alternate projections settle where both are close
            out = on_piece(rounder, on_piece(straighter, out))
        if np.linalg.norm(out - near) <= reach_mm:
            return out
    return on_piece(rounder, near) if _round(rounder) > 1.0 else near


def _round(piece: PieceFit) -> float:
    """How far an arc goes round, radians, by its points; 0 of a line and of a free piece. An ellipse, which is moved to where it has to meet its
    neighbours, is between both."""
    if piece.kind != ARC:
        return float(piece.kind == ELLIPSE)
    length = float(np.linalg.norm(np.diff(piece.points, axis=0), axis=1).sum())
    return length / float(max(piece.p[2], 1e-12))
