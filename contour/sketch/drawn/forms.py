"""What constraints and dimensions say, as expressions that vanish: lengths in mm, so that one tolerance serves all.

Analytic throughout (see `contour.solve.system`): unknowns v and constants c are lists of arrays.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

__all__ = [
    "apart",
    "arc_span",
    "axis_square",
    "bend_of_ring",
    "bend_of_spline",
    "combination",
    "curved_alike",
    "difference",
    "equal_lengths",
    "from_line",
    "inside",
    "middle_from_line",
    "middle_on_line",
    "normal_of_ellipse",
    "on_ellipse",
    "outside",
    "sum_of_two",
    "turn",
    "value",
]

V = Sequence[Any]
_TINY = 1e-24  # mm²: keeps lengths of nothing differentiable


def _length(x: Any, y: Any) -> Any:
    return np.sqrt(x * x + y * y + _TINY)


def value(v: V, c: V) -> Any:
    """x is c0."""
    return v[0] - c[0]


def difference(v: V, c: V) -> Any:
    """x - y is c0."""
    return v[0] - v[1] - c[0]


def sum_of_two(v: V, c: V) -> Any:
    """x + y is 2 z."""
    return 0.5 * (v[0] + v[1]) - v[2]


def combination(v: V, c: V) -> Any:
    """x is the sum of c times the rest."""
    out = v[0]
    for weight, x in zip(c, v[1:], strict=True):
        out = out - weight * x
    return out


def apart(v: V, c: V) -> Any:
    """Points a, b are as far apart as c0 r + c1, r the fifth unknown."""
    return _length(v[2] - v[0], v[3] - v[1]) - c[0] * v[4] - c[1]


def from_line(v: V, c: V) -> Any:
    """Point p lies c0 r + c1 to the left of the line a → b. v: ax ay bx by px py r."""
    dx, dy = v[2] - v[0], v[3] - v[1]
    return (dx * (v[5] - v[1]) - dy * (v[4] - v[0])) / _length(dx, dy) - c[0] * v[6] - c[1]


def middle_on_line(v: V, c: V) -> Any:
    """The middle of p and q lies on the line a → b. v: ax ay bx by px py qx qy."""
    dx, dy = v[2] - v[0], v[3] - v[1]
    px, py = 0.5 * (v[4] + v[6]), 0.5 * (v[5] + v[7])
    return (dx * (py - v[1]) - dy * (px - v[0])) / _length(dx, dy)


def axis_square(v: V, c: V) -> Any:
    """p and q face each other squarely over the line a → b. v: ax ay bx by px py qx qy."""
    dx, dy = v[2] - v[0], v[3] - v[1]
    return (dx * (v[6] - v[4]) + dy * (v[7] - v[5])) / _length(dx, dy)


def turn(v: V, c: V) -> Any:
    """From a → b to c → d is a turn by the angle whose cosine and sine are c0, c1; the error is told at c2 mm from the corner.

    Twice the tangent of half the angle that is missing: it grows all the way to a half turn, so the opposite direction is no
    solution. v: ax ay bx by cx cy dx dy.
    """
    dx, dy = v[2] - v[0], v[3] - v[1]
    tx, ty = c[0] * dx - c[1] * dy, c[1] * dx + c[0] * dy
    ex, ey = v[6] - v[4], v[7] - v[5]
    both = _length(tx, ty) * _length(ex, ey)
    return 2 * c[2] * (tx * ey - ty * ex) / (both * (1 + 1e-9) + tx * ex + ty * ey)


def arc_span(v: V, c: V) -> Any:
    """An arc c0 mm long. v: mx my ax ay bx by r, counter-clockwise from a to b about m."""
    angle = c[0] / v[6]
    return turn(
        [v[0], v[1], v[2], v[3], v[0], v[1], v[4], v[5]], [np.cos(angle), np.sin(angle), np.ones_like(c[0]) * v[6]]
    )


def equal_lengths(v: V, c: V) -> Any:
    """a → b is as long as c → d. v: ax ay bx by cx cy dx dy."""
    return _length(v[2] - v[0], v[3] - v[1]) - _length(v[6] - v[4], v[7] - v[5])


def on_ellipse(v: V, c: V) -> Any:
    """p lies on the ellipse. v: mx my ax ay minor px py; (ax, ay) is the end of the major half axis."""
    ax, ay = v[2] - v[0], v[3] - v[1]
    major = _length(ax, ay)
    px, py = v[5] - v[0], v[6] - v[1]
    along, across = (px * ax + py * ay) / major, (py * ax - px * ay) / major
    return (np.sqrt((along / major) ** 2 + (across / v[4]) ** 2 + 1e-24) - 1) * v[4]


def curved_alike(v: V, c: V) -> Any:
    """Two curves bend alike: c0 κ is c1 λ, times c2 squared mm. v: κ λ."""
    return (c[0] * v[0] - c[1] * v[1]) * c[2]


def outside(v: V, c: V) -> Any:
    """Points a, b are as far apart as r and s together. v: ax ay bx by r s."""
    return _length(v[2] - v[0], v[3] - v[1]) - v[4] - v[5]


def inside(v: V, c: V) -> Any:
    """Points a, b are as far apart as r is more than s; c0 is -1 where s is the larger. v: ax ay bx by r s."""
    return _length(v[2] - v[0], v[3] - v[1]) - c[0] * (v[4] - v[5])


def middle_from_line(v: V, c: V) -> Any:
    """The middle of p and q lies c0 mm to the left of the line a → b. v: ax ay bx by px py qx qy."""
    return middle_on_line(v, c) - c[0]


def bend_of_ring(v: V, c: V) -> Any:
    """κ r is 1: counter-clockwise, as arcs go."""
    return v[0] * v[1] - 1


def bend_of_spline(v: V, c: V) -> Any:
    """κ is C' x C'' / |C'|³. v: κ x' y' x'' y''."""
    return v[0] - (v[1] * v[4] - v[2] * v[3]) / (v[1] * v[1] + v[2] * v[2] + _TINY) ** 1.5


def normal_of_ellipse(v: V, c: V) -> Any:
    """n is the ellipse's normal at p, as long as the minor half axis at that axis' end: c picks its component, (1, 0) or (0, 1).

    v: n mx my ax ay minor px py.
    """
    n, mx, my, ax, ay, minor, px, py = v
    ux, uy = ax - mx, ay - my
    major = _length(ux, uy)
    ux, uy = ux / major, uy / major
    qx, qy = px - mx, py - my
    along, across = (qx * ux + qy * uy) * (minor / major) ** 2, qy * ux - qx * uy
    return n - c[0] * (along * ux - across * uy) - c[1] * (along * uy + across * ux)
