"""One sector of what repeats around an axis: all of them laid on one another, made one mesh and cut out."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from contour.geometry.rigid import moved, rotation
from contour.geometry.vectors import square_to
from contour.mesh.facets import Mesh, compacted
from contour.mesh.merge import merged
from contour.mesh.reshape import split_by_plane
from contour.mesh.topology import facet_geometry

__all__ = ["between_two", "one_sector"]

Array = NDArray[np.float64]
_BINS = 72
_LAP = 0.1  # of a sector, that its neighbours are laid on it beside its ends, so that these are no borders yet


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
    weight = areas * (side + 0.2 * np.abs(normals @ along) + 0.02)
    share = np.mod(_angles(middle, at, along), 2 * np.pi / count) / (2 * np.pi / count)
    cost = np.bincount(np.minimum((share * _BINS).astype(np.int64), _BINS - 1), weight, _BINS)
    ring = np.exp(-0.5 * (np.arange(-6, 7) / 2.5) ** 2)
    smooth = np.convolve(np.concatenate([cost[-6:], cost, cost[:6]]), ring, "valid")
    return float((np.argmin(smooth) + 0.5) / _BINS * 2 * np.pi / count)


def one_sector(
    mesh: Mesh,
    at: Array,
    along: Array,
    count: int,
    *,
    first: float,
    averaged: bool,
    step_mm: float,
    progress: Callable[[float], None] | None = None,
) -> Mesh:
    """The sector from `first`, radians, on: as it was scanned, or the mean of all that are alike. at, along (3,): the axis; step_mm: of the new mesh's facets."""
    pitch = 2 * np.pi / count
    if averaged:
        layers = []
        for k in range(count):
            if progress is not None:
                progress(0.5 * k / count)
            turned = moved(rotation(at, along, -k * pitch), mesh.vertices)
            angle = np.mod(
                _angles(turned[mesh.facets].mean(axis=1), at, along) - first + 0.5 * (2 * np.pi - pitch), 2 * np.pi
            )
            near = np.abs(angle - np.pi) < (0.5 + _LAP) * pitch
            if near.any():
                layers.append(compacted(Mesh(turned, mesh.facets, mesh.source).without(~near)))
        mesh = merged(layers, step_mm=step_mm)
    u, v = square_to(along)
    for end, way in ((first, 1.0), (first + pitch, -1.0)):
        mesh, front = split_by_plane(mesh, at, way * (np.cos(end) * v - np.sin(end) * u))
        mesh = compacted(mesh.without(~front))
    return mesh
