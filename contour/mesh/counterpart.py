"""What a scan has not seen, taken over from where the part is alike: its mirror image, or itself turned about an axis.

A copy of the scan is laid over it. Parts of the copy that lie beyond the scan's open borders, and end at them, show what was not seen; parts that
end in the middle of what was seen are features that the part has on one side only, and stay out. What is taken is made one mesh with the scan
(:func:`contour.mesh.merge.merged`), and has no number in the file: it is no evidence.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.geometry.rigid import moved
from contour.mesh.facets import Mesh, compacted, near_facets, pieces_of
from contour.mesh.merge import merged
from contour.mesh.nearest import build_tree, nearest_on_triangles
from contour.mesh.topology import facet_geometry

__all__ = ["Borrowed", "borrowed"]

Array = NDArray[np.float64]
_BESIDE = 2.5  # sides of a facet: a copy so far off the scan is something else, and what ends so near to its border ends at it
_ENDS = 0.7  # of what a piece ends at, that has to be the scan's border
_FEWEST = 6  # facets: less is what two meshes of one surface differ by
_LAP = 3  # rings of facets that pieces and scan have in common, to be averaged


@dataclass(frozen=True, slots=True)
class Borrowed:
    """mesh: the scan with what was taken · pieces, area: of that, mm² · refused: places of pieces that are on one side only · moved: how far the scan's own
    vertices lie from it at the most, mm."""

    mesh: Mesh
    pieces: int
    area: float
    refused: tuple[tuple[float, float, float], ...]
    moved: float = 0.0


def borrowed(mesh: Mesh, laid: Iterable[Array], *, side_mm: float, step_mm: float) -> Borrowed:
    """The scan, filled from copies of itself: each laid by a rigid motion or a reflection (4, 4), one after the other.

    side_mm: mean side of its facets · step_mm: of the new mesh's.
    """
    whole, taken, refused, pieces, area = mesh, [], [], 0, 0.0
    for motion in laid:
        if not (whole.across() < 0).any():
            break
        found = _beyond(whole, _laid(mesh, motion), side_mm)
        refused += found.refused
        if found.own.any():
            taken.append(_with_lap(found.copy, found.own))
            pieces += found.pieces
            area += float(facet_geometry(found.copy.vertices, found.copy.facets)[2][found.own].sum())
            fresh = found.copy.without(~found.own)
            whole = _beside(whole, fresh)
    if not taken:
        return Borrowed(mesh, 0, 0.0, tuple(refused))
    made = merged([mesh, *taken], step_mm=step_mm)
    feet, _ = nearest_on_triangles(build_tree(made.vertices, made.facets), mesh.vertices)
    off = float(np.linalg.norm(feet - mesh.vertices, axis=1).max())
    return Borrowed(made, pieces, area, tuple(refused), off)


def _laid(mesh: Mesh, motion: Array) -> Mesh:
    facets = mesh.facets if np.linalg.det(motion[:3, :3]) > 0 else mesh.facets[:, ::-1]
    return Mesh(moved(motion, mesh.vertices), np.ascontiguousarray(facets), np.full(len(facets), -1, np.int64))


def _beside(one: Mesh, other: Mesh) -> Mesh:
    facets = np.vstack([one.facets, other.facets + len(one.vertices)]).astype(np.int32)
    return Mesh(np.vstack([one.vertices, other.vertices]), facets, np.concatenate([one.source, other.source]))


def _with_lap(copy: Mesh, own: NDArray[np.bool_]) -> Mesh:
    return compacted(copy.without(~near_facets(copy.facets, own, _LAP, len(copy.vertices))))


@dataclass(frozen=True, slots=True)
class _Beyond:
    """own (n,): facets of the copy that are taken."""

    copy: Mesh
    own: NDArray[np.bool_]
    pieces: int
    refused: list[tuple[float, float, float]]


def _beyond(whole: Mesh, copy: Mesh, side_mm: float) -> _Beyond:
    """What of a copy lies beyond the borders of what there is."""
    f, k = np.nonzero(whole.across() < 0)
    on_rim = np.zeros(len(whole.vertices), np.bool_)
    on_rim[whole.facets[f, k]] = on_rim[whole.facets[f, (k + 1) % 3]] = True
    rim = cKDTree(whole.vertices[on_rim])
    middle, normals, _ = facet_geometry(copy.vertices, copy.facets)
    feet, owner = nearest_on_triangles(build_tree(whole.vertices, whole.facets), middle)
    away = middle - feet
    gap = np.linalg.norm(away, axis=1)
    # A foot on the border with the place abreast of it: the scan ends before.
    ends_before = (on_rim[whole.facets[owner]].sum(axis=1) >= 2) & (
        np.abs(np.einsum("ij,ij->i", away, normals)) < 0.7 * gap
    )
    beyond = (ends_before & (gap > 0.5 * side_mm)) | (gap > _BESIDE * side_mm)
    across = copy.across()
    ids = np.flatnonzero(beyond)
    inner = _within(across, ids, len(beyond))
    count, piece = pieces_of(copy.facets[ids], inner)
    # Sides at which a piece runs on into what was seen: of each, whether that is at the scan's border.
    at, side = np.nonzero((across[ids] >= 0) & (inner < 0))
    corners = copy.facets[ids[at]]
    ends = [copy.vertices[corners[np.arange(len(at)), (side + j) % 3]] for j in (0, 1)]
    length = np.linalg.norm(ends[1] - ends[0], axis=1)
    near = rim.query(0.5 * (ends[0] + ends[1]))[0] < _BESIDE * side_mm if len(at) else np.zeros(0, np.bool_)
    total = np.bincount(piece[at], length, count)
    held = np.bincount(piece[at], length * near, count)
    size = np.bincount(piece, minlength=count)
    fits = (total > 0) & (held >= _ENDS * total) & (size >= _FEWEST)
    own = np.zeros(len(beyond), np.bool_)
    own[ids[fits[piece]]] = True
    amiss = np.flatnonzero((total > 0) & ~fits & (size >= 5 * _FEWEST))
    places = [tuple(float(c) for c in middle[ids[piece == p]].mean(axis=0)) for p in amiss]
    return _Beyond(copy, own, int(fits.sum()), places)  # type: ignore[arg-type]


def _within(across: NDArray[np.int32], ids: NDArray[np.int64], count: int) -> NDArray[np.int32]:
    """Neighbours among some facets only, numbered as these are: (k, 3), -1 where the neighbour is none of them."""
    rank = np.full(count + 1, -1, np.int64)
    rank[ids] = np.arange(len(ids))
    there = across[ids]
    facet = rank[np.where(there >= 0, there // 3, count)]
    return np.where(facet >= 0, 3 * facet + there % 3, -1).astype(np.int32)
