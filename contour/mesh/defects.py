"""What is wrong with a mesh, each finding with its place. A check finds; it neither mends nor judges what to do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any, Literal, get_args

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.facets import Mesh, border_loops, joined_at, side_lengths
from contour.mesh.orient import one_sided_places, turned_facets
from contour.mesh.piercing import pierced_pairs
from contour.mesh.topology import component_labels, facet_geometry, usable_facets, vertex_facets

__all__ = [
    "BLOCKING",
    "KINDS",
    "Defect",
    "DefectKind",
    "Find",
    "Place",
    "bad_facets",
    "edge_groups",
    "find_defects",
    "fold_facets",
    "raw_defects",
    "split_vertices",
]

DefectKind = Literal[
    "hole",
    "non-manifold-edge",
    "non-manifold-vertex",
    "duplicate",
    "degenerate",
    "flipped",
    "island",
    "spike",
    "fold",
    "piercing",
    "sliver",
    "unit",
]
KINDS: tuple[DefectKind, ...] = get_args(DefectKind)
# What keeps a mesh from being one closed skin, or from having a side at all; the rest only looks bad.
BLOCKING: frozenset[str] = frozenset(
    {
        "hole",
        "non-manifold-edge",
        "non-manifold-vertex",
        "duplicate",
        "degenerate",
        "flipped",
        "spike",
        "fold",
        "piercing",
    }
)
FOLD_DEG = 150.0
SLIVER_ASPECT = 20.0
_PLACES_KEPT = 500
_FACETS_KEPT = 400


@dataclass(frozen=True, slots=True)
class Place:
    """Where one finding is: mm; how far it reaches; the raw numbers of a few of its facets (those that have one)."""

    point: tuple[float, float, float]
    size: float
    facets: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Defect:
    """All findings of one kind. `places` holds the largest few hundred of them."""

    kind: DefectKind
    count: int
    blocking: bool
    places: tuple[Place, ...]

    def as_json(self) -> dict[str, Any]:
        return asdict(self)


Find = Callable[[str], None]


def _extent(p: NDArray[np.float64]) -> float:
    return float(np.linalg.norm(np.ptp(p.reshape(-1, 3), axis=0)))


def _place(mesh: Mesh, facets: NDArray[np.int64], points: NDArray[np.float64] | None = None) -> Place:
    p = (mesh.vertices[mesh.facets[facets]] if points is None else points).reshape(-1, 3)
    middle = p.mean(axis=0) if points is None else (p.min(axis=0) + p.max(axis=0)) / 2
    named = mesh.source[facets[:_FACETS_KEPT]]
    x, y, z = (float(c) for c in middle)
    return Place((x, y, z), _extent(p), tuple(int(s) for s in named if s >= 0))


def _defect(kind: DefectKind, count: int, places: list[Place]) -> Defect:
    kept = sorted(places, key=lambda p: -p.size)[:_PLACES_KEPT]
    return Defect(kind, count, kind in BLOCKING, tuple(kept))


def _clustered(mesh: Mesh, kind: DefectKind, marked: NDArray[np.bool_], *, by_facet: bool) -> Defect | None:
    """Facets that touch are one finding; `by_facet` counts facets all the same."""
    ids = np.flatnonzero(marked)
    if len(ids) == 0:
        return None
    cluster = joined_at(mesh.facets, ids, len(mesh.vertices))
    order = np.argsort(cluster, kind="stable")
    groups = np.split(ids[order], np.flatnonzero(np.diff(cluster[order])) + 1)
    largest = sorted(groups, key=lambda g: -len(g))[: 4 * _PLACES_KEPT]
    return _defect(kind, len(ids) if by_facet else len(groups), [_place(mesh, g) for g in largest])


def edge_groups(mesh: Mesh) -> NDArray[np.int64]:
    """Half-edges (k, 4): smaller vertex, larger vertex, 3 * facet + side, number of uses; only of edges used more than twice."""
    f = mesh.facets
    low = np.minimum(f, np.roll(f, -1, axis=1)).ravel().astype(np.int64)
    high = np.maximum(f, np.roll(f, -1, axis=1)).ravel().astype(np.int64)
    key = low * len(mesh.vertices) + high
    order = np.argsort(key, kind="stable")
    _, index, uses = np.unique(key[order], return_inverse=True, return_counts=True)
    many = uses[index] > 2
    half = order[many]
    return np.column_stack([low[half], high[half], half, uses[index[many]]])


def _junctions(mesh: Mesh, across: NDArray[np.int32]) -> Defect | None:
    if not (across == -2).any():
        return None
    rows = edge_groups(mesh)
    edges, first = np.unique(rows[:, 0] * len(mesh.vertices) + rows[:, 1], return_index=True)
    ends = rows[first][:, :2]
    # Edges that meet are one finding.
    label = joined_at(np.column_stack([ends, ends[:, :1]]).astype(np.int32), np.arange(len(ends)), len(mesh.vertices))
    places = []
    for k in np.argsort(-np.bincount(label))[: 2 * _PLACES_KEPT]:
        members = np.flatnonzero(label == k)
        facets = rows[np.isin(rows[:, 0] * len(mesh.vertices) + rows[:, 1], edges[members[:50]]), 2] // 3
        p = mesh.vertices[ends[members]].reshape(-1, 3)
        mean = p.mean(axis=0)
        kept = _place(mesh, np.unique(facets), p)
        places.append(Place((float(mean[0]), float(mean[1]), float(mean[2])), kept.size, kept.facets))
    return _defect("non-manifold-edge", len(edges), places)


@nb.njit(cache=True, nogil=True)
def _fans(facets, across, pairs, vertex_count):  # type: ignore[no-untyped-def]
    """How many fans of facets meet at each vertex; pairs (k, 2) are half-edges over one edge of more than two facets."""
    parent = np.arange(3 * len(facets))

    def root(a: int) -> int:
        while parent[a] != a:
            parent[a] = parent[parent[a]]
            a = parent[a]
        return a

    for i in range(3 * len(facets) + len(pairs)):
        if i < 3 * len(facets):
            half, mate = i, across[i // 3, i % 3]
            if mate < half:  # open, a junction, or met from the other side
                continue
        else:
            half, mate = pairs[i - 3 * len(facets), 0], pairs[i - 3 * len(facets), 1]
        f, k, g, j = half // 3, half % 3, mate // 3, mate % 3
        for a in (k, (k + 1) % 3):
            for b in (j, (j + 1) % 3):
                if facets[f, a] == facets[g, b]:
                    x, y = root(3 * f + a), root(3 * g + b)
                    parent[max(x, y)] = min(x, y)
    out = np.zeros(vertex_count, np.int32)
    for i in range(3 * len(facets)):
        if parent[i] == i:
            out[facets[i // 3, i % 3]] += 1
    return out


def split_vertices(mesh: Mesh, across: NDArray[np.int32]) -> NDArray[np.int64]:
    """Vertices whose facets hang together only at that point (edges of more than two facets hold them together too).

    Vertex ids (k,); across (m, 3), the facet beyond each side, below 0 where there is none.
    """
    pairs = np.empty((0, 2), np.int64)
    if (across == -2).any():
        edge = edge_groups(mesh)
        same = (edge[1:, :2] == edge[:-1, :2]).all(axis=1)
        pairs = np.column_stack([edge[:-1, 2][same], edge[1:, 2][same]])
    return np.flatnonzero(_fans(mesh.facets, across, pairs, len(mesh.vertices)) > 1)


@nb.njit(cache=True, nogil=True)
def _angle_about(vertices, facets):  # type: ignore[no-untyped-def]
    """Sum of the facets' angles about every vertex, radians."""
    out = np.zeros(len(vertices))
    for f in range(len(facets)):
        for k in range(3):
            v, a, b = facets[f, k], facets[f, (k + 1) % 3], facets[f, (k + 2) % 3]
            dot, uu, ww = 0.0, 0.0, 0.0
            for d in range(3):
                u, w = vertices[a, d] - vertices[v, d], vertices[b, d] - vertices[v, d]
                dot += u * w
                uu += u * u
                ww += w * w
            size = np.sqrt(uu * ww)
            if size > 0:
                out[v] += np.arccos(min(1.0, max(-1.0, dot / size)))
    return out


def _spiky(mesh: Mesh, across: NDArray[np.int32]) -> NDArray[np.bool_]:
    """Facets about a vertex that sticks out like a needle: little angle about it, and sides longer than around it.

    The tip of a true cone has as little angle, but sides like its neighbours'.
    """
    count = len(mesh.vertices)
    angle = _angle_about(mesh.vertices, mesh.facets)
    border = np.zeros(count, np.bool_)
    f, k = np.nonzero(across < 0)
    border[mesh.facets[f, k]] = True
    border[mesh.facets[f, (k + 1) % 3]] = True
    thin = np.flatnonzero((angle < np.pi) & (angle > 0) & ~border)
    marked = np.zeros(len(mesh.facets), np.bool_)
    if len(thin) == 0:
        return marked
    sides = side_lengths(mesh)
    offsets, around = vertex_facets(mesh.facets, count)
    for v in thin:
        fan = around[offsets[v] : offsets[v + 1]]
        corners = mesh.facets[fan]
        own = (corners == v) | (np.roll(corners, -1, axis=1) == v)
        ring = np.unique(corners[corners != v])
        second = np.unique(np.concatenate([around[offsets[w] : offsets[w + 1]] for w in ring]))
        beyond = second[~np.isin(second, fan)]
        if len(beyond) and sides[fan][own].mean() > 1.6 * np.median(sides[beyond]):
            marked[fan] = True
    return marked


@nb.njit(cache=True, nogil=True)
def _folds(facets, across, normals, cosine):  # type: ignore[no-untyped-def]
    marked = np.zeros(len(facets), np.bool_)
    for f in range(len(facets)):
        for k in range(3):
            h = across[f, k]
            if h < 0:
                continue
            g = h // 3
            turn = normals[f, 0] * normals[g, 0] + normals[f, 1] * normals[g, 1] + normals[f, 2] * normals[g, 2]
            # Only where both run the same way round: a flipped neighbour is another matter.
            if turn < cosine and facets[f, k] == facets[g, (h % 3 + 1) % 3]:
                marked[f] = True
    return marked


def fold_facets(mesh: Mesh, across: NDArray[np.int32], normals: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Facets at sides across which the surface turns back on itself by more than 150 degrees.

    (m,); across (m, 3), facet beyond each side; normals (m, 3), unit.
    """
    return _folds(mesh.facets, across, normals, np.cos(np.radians(FOLD_DEG)))


def _flat(mesh: Mesh, areas: NDArray[np.float64]) -> NDArray[np.bool_]:
    """A facet thinner than a millionth of its longest side has no usable normal."""
    longest = side_lengths(mesh).max(axis=1, initial=0)
    return areas <= 0.5e-6 * longest**2


def bad_facets(
    mesh: Mesh, across: NDArray[np.int32], pairs: NDArray[np.int64] | None = None
) -> dict[str, NDArray[np.bool_]]:
    """Facets of spikes, folds and piercings: what a cut and a refill mend. `pairs` are piercings when they are known.

    Marks (m,) by kind; across (m, 3), facet beyond each side; pairs (k, 2) facets.
    """
    _, normals, areas = facet_geometry(mesh.vertices, mesh.facets)
    flat = _flat(mesh, areas)
    if pairs is None:
        pairs = pierced_pairs(mesh.vertices, mesh.facets)
    pierced = np.zeros(len(mesh.facets), np.bool_)
    pierced[pairs.ravel()] = True
    return {
        "spike": _spiky(mesh, across),
        "fold": fold_facets(mesh, across, normals) & ~flat,
        "piercing": pierced,
        "degenerate": flat,
    }


def _islands(mesh: Mesh, areas: NDArray[np.float64]) -> Defect | None:
    count, piece = component_labels(mesh.facets, len(mesh.vertices))
    if count < 2:
        return None
    size = np.bincount(piece, areas, count)
    small = np.flatnonzero(size < 0.01 * size.max())
    order = np.argsort(piece, kind="stable")
    starts = np.searchsorted(piece[order], np.arange(count + 1))
    groups = [order[starts[k] : starts[k + 1]] for k in small[np.argsort(-size[small])][: 2 * _PLACES_KEPT]]
    return _defect("island", len(small), [_place(mesh, g) for g in groups]) if len(small) else None


def _holes(mesh: Mesh, across: NDArray[np.int32]) -> Defect | None:
    loops = border_loops(mesh.facets, across)
    if not loops:
        return None
    places = []
    for loop in sorted(loops, key=lambda h: -len(h))[: 2 * _PLACES_KEPT]:
        rim = mesh.vertices[mesh.facets[loop // 3, loop % 3]]
        places.append(_place(mesh, np.unique(loop // 3), rim))
    return _defect("hole", len(loops), places)


def find_defects(
    mesh: Mesh,
    repeats: NDArray[np.int64] | None = None,
    collapsed: NDArray[np.int64] | None = None,
    raw: Mesh | None = None,
    pairs: NDArray[np.int64] | None = None,
) -> tuple[Defect, ...]:
    """Everything but the unit, in the order of :data:`KINDS`.

    mesh: without repeated and collapsed facets; those are given by their place in `raw`, the mesh as it was read.
    repeats, collapsed: ids (k,); pairs (k, 2) facets.
    """
    across = mesh.across()
    _, _, areas = facet_geometry(mesh.vertices, mesh.facets)
    found: list[Defect | None] = [_holes(mesh, across), _junctions(mesh, across)]
    at = split_vertices(mesh, across)
    if len(at):
        offsets, around = vertex_facets(mesh.facets, len(mesh.vertices))
        places = [
            _place(mesh, around[offsets[v] : offsets[v + 1]].astype(np.int64), mesh.vertices[v])
            for v in at[: 2 * _PLACES_KEPT]
        ]
        found.append(_defect("non-manifold-vertex", len(at), places))
    if raw is not None and repeats is not None and len(repeats):
        places = [_place(raw, repeats[k : k + 1]) for k in range(min(len(repeats), 2 * _PLACES_KEPT))]
        found.append(_defect("duplicate", len(repeats), places))
    bad = bad_facets(mesh, across, pairs)
    flat = np.flatnonzero(bad["degenerate"])
    nothing = np.array([], np.int64)
    lost = nothing if collapsed is None or raw is None else collapsed
    if len(flat) + len(lost):
        places = [_place(mesh, flat[k : k + 1]) for k in range(min(len(flat), _PLACES_KEPT))]
        if raw is not None:
            places += [_place(raw, lost[k : k + 1]) for k in range(min(len(lost), _PLACES_KEPT))]
        found.append(_defect("degenerate", len(flat) + len(lost), places))
    turned = turned_facets(mesh, across)
    turned[one_sided_places(mesh, across)] = True
    found.append(_clustered(mesh, "flipped", turned, by_facet=True))
    found.append(_islands(mesh, areas))
    for kind in ("spike", "fold", "piercing"):
        found.append(_clustered(mesh, kind, bad[kind], by_facet=False))  # type: ignore[arg-type]
    longest = side_lengths(mesh).max(axis=1, initial=0)
    thin = (longest**2 > SLIVER_ASPECT * 2 * areas) & ~bad["degenerate"]
    found.append(_clustered(mesh, "sliver", thin, by_facet=True))
    return tuple(d for d in found if d is not None)


def _repeated(raw: Mesh) -> tuple[Mesh, NDArray[np.int64], NDArray[np.int64]]:
    keep, _, _ = usable_facets(raw.facets)
    f = raw.facets
    collapsed = (f[:, 0] == f[:, 1]) | (f[:, 1] == f[:, 2]) | (f[:, 2] == f[:, 0])
    return raw.without(~keep), np.flatnonzero(~keep & ~collapsed), np.flatnonzero(collapsed)


def raw_defects(raw: Mesh) -> tuple[Defect, ...]:
    """Defects of a mesh as it was read: what stands twice and what has collapsed are listed, not counted as junctions."""
    mesh, repeats, collapsed = _repeated(raw)
    return find_defects(mesh, repeats, collapsed, raw)
