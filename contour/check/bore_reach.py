"""Where a hole that a scan shows runs through a solid: the face that it begins at, and how far it reaches."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.check.exact_solid import ExactSolid

__all__ = ["BoreReach", "bore_reach", "crossings"]

_SHORT = 0.25  # of the material's thickness, that a through hole may lack at its far side: a scanner sees the depth of a bore badly


@dataclass(frozen=True, slots=True)
class BoreReach:
    """face: the one it is drilled from · depth: from there, mm; none where it reaches the other side · until: the face it leaves by, where more
    of the solid lies behind that; none: nothing does."""

    face: int
    depth: float | None
    until: int | None


def crossings(
    solid: ExactSolid, at: NDArray[np.float64], along: NDArray[np.float64]
) -> list[tuple[float, int, float, int]]:
    """(enters, face, leaves, face) of every piece of a straight line that lies in the solid, mm along it, in their order.

    at (3,), along (3,) of length one. Möller and Trumbore's test of every triangle (1997). A line that runs along an edge between two triangles
    meets both or none: it is moved aside by a nanometre until what it enters it leaves as well.
    """
    corners = solid.vertices[solid.triangles]
    first, second = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    across = np.cross(along, second)
    facing = np.einsum("ij,ij->i", first, across)
    aside = np.cross(along, np.eye(3)[int(np.argmin(np.abs(along)))])
    scale = np.where(np.abs(facing) > 1e-12, facing, np.inf)
    for nudge in range(6):
        to = at + 1e-6 * nudge * aside - corners[:, 0]
        u = np.einsum("ij,ij->i", to, across) / scale
        turned = np.cross(to, first)
        v = turned @ along / scale
        hit = np.flatnonzero((u >= 0) & (v >= 0) & (u + v <= 1) & np.isfinite(scale))
        t = np.einsum("ij,ij->i", second[hit], turned[hit]) / scale[hit]
        order = np.argsort(t)
        hit, t = hit[order], t[order]
        # A triangle that the line enters by faces it: outward triangles have `facing` above nothing there.
        enters = facing[hit] > 0
        if len(hit) % 2 == 0 and enters[::2].all() and not enters[1::2].any():
            faces = solid.face[hit]
            return [(float(t[k]), int(faces[k]), float(t[k + 1]), int(faces[k + 1])) for k in range(0, len(hit), 2)]
    return []


def bore_reach(
    solid: ExactSolid, at: NDArray[np.float64], along: NDArray[np.float64], span: tuple[float, float]
) -> BoreReach | None:
    """Of a hole about the axis through `at` that a scan shows from span[0] to span[1] along it, mm; none where the solid has no material there.

    It begins at that side of the material that the scan comes nearer to.
    """
    low, high = span
    pieces = crossings(solid, at, along)
    shared = [min(high, leaves) - max(low, enters) for enters, _, leaves, _ in pieces]
    if not shared or max(shared) <= 0:
        return None
    k = int(np.argmax(shared))
    enters, entry, leaves, exit_ = pieces[k]
    ahead = low - enters <= leaves - high  # drilled the way the axis points
    face, behind = (entry, pieces[k + 1 :]) if ahead else (exit_, pieces[:k])
    lacks = leaves - high if ahead else low - enters
    if lacks > _SHORT * (leaves - enters):
        return BoreReach(face, high - enters if ahead else leaves - low, None)
    return BoreReach(face, None, (exit_ if ahead else entry) if behind else None)
