"""One sector of what repeats around an axis: all of them laid on one another, made one mesh and cut out."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.geometry.rigid import moved, rotation
from contour.geometry.vectors import square_to
from contour.mesh.facets import Mesh, border_loops, compacted, side_lengths
from contour.mesh.fill import fill_loops
from contour.mesh.merge import merged
from contour.mesh.reshape import split_by_plane
from contour.mesh.topology import facet_geometry

__all__ = ["between_two", "one_sector"]

Array = NDArray[np.float64]
_BINS = 72
_FLAT = 0.15  # of the way from the least to what is usual
_NEAR = 0.3  # of a side
_LAP = 4.0  # sides of a facet that are laid on one beyond a sector's ends, so that these are no borders yet


def _angles(points: Array, at: Array, along: Array) -> Array:
    u, v = square_to(along)
    return np.arctan2((points - at) @ v, (points - at) @ u)


def between_two(mesh: Mesh, at: Array, along: Array, count: int) -> float:
    """Angle, radians from the axis's first direction across, at which the least of the skin is cut that is not round about the axis: where one sector ends.

    In a wheel that is the middle between two teeth, in a ring of holes between two holes.
    """
    middle, normals, areas = facet_geometry(mesh.vertices, mesh.facets)
    arm = middle - at - ((middle - at) @ along)[:, None] * along
    out = arm / np.maximum(np.linalg.norm(arm, axis=1), 1e-12)[:, None]
    # What faces along the axis or out of it: a wheel's tips and roots face so too, but lie at radii of their own, which cost by their size.
    side = np.abs(np.einsum("ij,ij->i", normals, np.cross(along, out)))
    share = np.mod(_angles(middle, at, along), 2 * np.pi / count) / (2 * np.pi / count)
    bins = np.minimum((share * _BINS).astype(np.int64), _BINS - 1)
    flat = areas * (0.2 * np.abs(normals @ along) + 0.02)
    # The walls of a hole face out of its middle and into it: it is not between two there, for there are walls a little way to either side.
    level, walls = (np.bincount(bins, w, _BINS).astype(np.float64) for w in (flat, areas * side))
    cost = _smoothed(level, 2.5) + _smoothed(walls, 0.1 * _BINS)
    return float((_middle_of_valley(cost) + 0.5) / _BINS * 2 * np.pi / count)


def _smoothed(around: Array, bins: float) -> Array:
    """A circle of values, each the sum of those around it by a bell so many bins wide."""
    reach = int(3 * bins)
    ring = np.exp(-0.5 * (np.arange(-reach, reach + 1) / bins) ** 2)
    whole = np.concatenate([around[-reach:], around, around[:reach]])
    return np.asarray(np.convolve(whole, ring / ring.sum(), "valid"), np.float64)


def _middle_of_valley(cost: Array) -> float:
    """Of places around a circle, the middle of the run with the least of them that costs little more: the floor between two teeth is flat, and the middle of it
    is farthest from both."""
    least = int(np.argmin(cost))
    low = cost <= cost[least] + _FLAT * (np.median(cost) - cost[least])
    ahead, back = (
        int(np.argmin(np.append(np.roll(way, -at), False)))
        for way, at in ((low, least), (low[::-1], len(low) - 1 - least))
    )
    return least + (ahead - back) / 2


def one_sector(
    mesh: Mesh, at: Array, along: Array, count: int, *, first: float, averaged: bool, step_mm: float
) -> Mesh:
    """The sector from `first`, radians, on: as it was scanned, or the mean of all that are alike, flat where it was cut out.

    at, along (3,): the axis · step_mm: of the mean's facets.
    """
    pitch = 2 * np.pi / count
    u, v = square_to(along)
    sides = [way * (np.cos(end) * v - np.sin(end) * u) for end, way in ((first, 1.0), (first + pitch, -1.0))]
    if averaged:
        lap = _LAP * max(step_mm, float(side_lengths(mesh).mean()))
        layers = []
        for k in range(count):
            turned = moved(rotation(at, along, -k * pitch), mesh.vertices)
            off = turned[mesh.facets].mean(axis=1) - at
            near = (off @ sides[0] > -lap) & (off @ sides[1] > -lap)
            if near.any():
                layers.append(compacted(Mesh(turned, mesh.facets, mesh.source).without(~near)))
        mesh = merged(layers, step_mm=step_mm)
    for normal, cut in zip(sides, (None, sides[0]), strict=True):
        mesh, front = split_by_plane(_snapped(mesh, at, along, normal, cut), at, normal)
        mesh = _closed_along(compacted(mesh.without(~front)), at, normal)
    return _closed_over_axis(mesh, at, sides)


def _snapped(mesh: Mesh, at: Array, along: Array, normal: Array, cut: Array | None) -> Mesh:
    """Vertices near a plane put on it, so that the cut leaves no slivers: what repeats around an axis runs square through such a plane. What lies in a
    plane that was `cut` before stays in that: it goes onto the axis."""
    off = (mesh.vertices - at) @ normal
    near = np.abs(off) < _NEAR * float(np.median(side_lengths(mesh)))
    moved_to = mesh.vertices - (off * near)[:, None] * normal
    if cut is not None and abs(cut @ normal) < 1 - 1e-6:  # of two halves both ends lie in one plane
        size = float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
        both = near & (np.abs((mesh.vertices - at) @ cut) < 1e-9 * size)
        moved_to[both] = at + ((mesh.vertices[both] - at) @ along)[:, None] * along
    return Mesh(moved_to, mesh.facets, mesh.source)


def _closed_over_axis(mesh: Mesh, at: Array, sides: list[Array]) -> Mesh:
    """Without a bore one rim runs along both ends of a sector, over the axis: a narrow facet along that makes it two, and each is filled in the plane of
    its end."""
    size = float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
    on = np.abs((mesh.vertices - at) @ np.array(sides).T) < 1e-6 * size
    side = float(np.median(side_lengths(mesh)))
    for loop in border_loops(mesh.facets, mesh.across()):
        rim = mesh.facets[loop // 3, loop % 3]
        tips = np.flatnonzero(on[rim].all(axis=1))
        if len(tips) != 2 or not on[rim].any(axis=1).all() or not 1 < tips[1] - tips[0] < len(rim) - 1:
            continue
        p, q = tips
        own = 3 * len(mesh.facets)
        facets = np.vstack([mesh.facets, rim[[p + 1, p, q]].astype(mesh.facets.dtype)])
        parted = Mesh(mesh.vertices, facets, np.append(mesh.source, mesh.source.dtype.type(-1)))
        ends = [np.append(loop[p + 1 : q], own + 2), np.concatenate([loop[q:], loop[:p], [own + 1]])]
        return fill_loops(parted, ends, shape="flat", side_mm=side).mesh
    return mesh


def _closed_along(mesh: Mesh, at: Array, normal: Array) -> Mesh:
    """Rims that lie in the plane it was cut by filled flat."""
    loops = border_loops(mesh.facets, mesh.across())
    size = float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
    flat = [
        h
        for h in loops
        if len(h) > 2 and np.abs((mesh.vertices[mesh.facets[h // 3, h % 3]] - at) @ normal).max() < 1e-6 * size
    ]
    side = float(np.median(side_lengths(mesh)))
    return fill_loops(mesh, flat, shape="flat", side_mm=side).mesh if flat else mesh
