"""Where the seam of a round face may lie so that it leaves the face whole.

A seam runs across its face from one border to the next. Between two different loops it only joins them; between two places of one loop, or of
loops that are joined already, it cuts the face in two. So every direction that offers itself is tried on the loops, and the one that cuts least
is taken; of equals the one that meets the fewest borders, and then one that begins at a corner, where no
edge need be parted; after one that did not do, rather one between corners.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.geometry.surfaces import Surface
from contour.geometry.vectors import square_to

__all__ = ["seam_of", "turns_about"]

Array = NDArray[np.float64]

_MOST = 48  # directions that are tried, of corners and of gaps each
_ASIDE = 1e-5  # radians beside a direction at which it is tried: a seam through a corner touches there
_NEAR_POLE = 1e-3  # of the radius: a border so near to a pole has no direction there


def _around(surface: Surface, axis: Array, points: Array) -> tuple[Array, Array, Array]:
    """(Angle about the axis, height on the seam, distance from the axis) of places (n, 3): along the axis, by latitude or by tube angle."""
    u, v = square_to(axis)
    w = points - surface.at
    h = w @ axis
    rho = np.hypot(w @ u, w @ v)
    if surface.kind == "sphere":
        height = np.arctan2(h, rho)
    else:
        height = np.arctan2(h, rho - surface.radius) if surface.kind == "torus" else h
    return np.arctan2(w @ v, w @ u), height, rho


def turns_about(surface: Surface, loop: Array) -> int:
    """How many times a loop (k, 3) mm, its first place again at its end, goes around the axis of a round face."""
    angle = np.unwrap(_around(surface, surface.along, loop)[0])
    return round(float(angle[-1] - angle[0]) / (2 * np.pi))


def _cuts(angles: list[Array], heights: list[Array], at: float, outward: int, closed: bool) -> tuple[int, int]:
    """(Pieces that a seam at an angle cuts off, borders that it meets). angles, heights: of each loop, its first place again at its end."""
    met: list[tuple[float, int, bool]] = []
    for k, (angle, height) in enumerate(zip(angles, heights, strict=True)):
        off = (angle - at + np.pi) % (2 * np.pi) - np.pi
        after = off >= 0
        for i in np.flatnonzero((after[1:] != after[:-1]) & (np.abs(off[1:] - off[:-1]) < np.pi)):
            share = off[i] / (off[i] - off[i + 1])
            rise = float(after[i + 1]) * 2 - 1
            met.append((float(height[i] + share * (height[i + 1] - height[i])), k, rise * outward > 0))
    met.sort()
    joined = list(range(len(angles)))

    def root(k: int) -> int:
        while joined[k] != k:
            k = joined[k]
        return k

    pieces = 0
    following = met[1:] + (met[:1] if closed else [])
    for (_, one, inside), (_, next_one, _) in zip(met, following, strict=False):
        if inside:
            a, b = root(one), root(next_one)
            pieces += a == b
            joined[a] = b
    return pieces, len(met)


def _directions(angles: list[Array], corners: Array) -> list[tuple[float, bool]]:
    """Angles worth trying, and whether each is a corner's: corners, save those of edges along the seam, and the middles of the widest gaps."""
    every = np.unique(np.concatenate(angles) % (2 * np.pi))
    places = np.sort(np.concatenate([a[:-1] for a in angles]) % (2 * np.pi))
    near = np.searchsorted(places, corners % (2 * np.pi) + _ASIDE) - np.searchsorted(
        places, corners % (2 * np.pi) - _ASIDE
    )
    corners = corners[near <= 1]
    gaps = np.diff(np.append(every, every[0] + 2 * np.pi))
    widest = np.argsort(-gaps, kind="stable")[:_MOST]
    some = corners[:: 1 + len(corners) // _MOST]
    return [(float(a), True) for a in some] + [(float(every[i] + gaps[i] / 2), False) for i in widest]


def _axes(surface: Surface, loops: list[Array]) -> list[Array]:
    """Axes that a face's frame may have: its own; a sphere has any, so those of its loops and some square to them."""
    if surface.kind != "sphere":
        return [surface.along]
    out = [np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])]
    for loop in sorted(loops, key=len, reverse=True)[:4]:
        w = loop - loop.mean(axis=0)
        across = np.cross(w[:-1], w[1:]).sum(axis=0)
        size = float(np.linalg.norm(across))
        if size > 1e-12:
            out += [across / size, *square_to(across / size)]
    return out


def seam_of(surface: Surface, loops: list[Array], corners: Array, tried: list[Array]) -> tuple[Array, Array]:
    """(Axis, direction of u = 0) of the frame in which a round face has its best seam, unit vectors (3,).

    loops: around the face, each (k, 3) mm with its first place again at its end, material to the left seen from outside · corners (c, 3): places
    on them where edges end · tried: directions (3,) that have not done, to be kept away from. The axis of all but a sphere is its own.
    """
    best: tuple[tuple[int, int, int, bool], Array, Array] | None = None
    for axis in _axes(surface, loops):
        measured = [_around(surface, axis, loop) for loop in loops]
        angles, heights = [m[0] for m in measured], [m[1] for m in measured]
        poles = surface.kind == "sphere" and min(float(m[2].min()) for m in measured) < _NEAR_POLE * surface.radius
        own = _around(surface, axis, corners)[0] if len(corners) else np.empty(0)
        u, v = square_to(axis)
        for at, corner in _directions(angles, own):
            across = np.cos(at) * u + np.sin(at) * v
            again = max((round(2 * float(across @ t)) for t in tried), default=0)
            sides = (at - _ASIDE, at + _ASIDE) if corner else (at,)
            cuts = [_cuts(angles, heights, a, surface.outward, surface.kind == "torus") for a in sides]
            cost = (again, max(c[0] for c in cuts) + 10 * poles, max(c[1] for c in cuts), corner == bool(tried))
            if best is None or cost < best[0]:
                best = (cost, axis, across)
        if not tried and best is not None and best[0][:3] == (0, 0, 0):
            break
    assert best is not None
    return best[1], best[2]
