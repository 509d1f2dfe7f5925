"""Making one skin of loose parts: borders welded and zipped, junctions of more than two facets taken apart."""

from __future__ import annotations

import itertools

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from contour.mesh.defects import edge_groups
from contour.mesh.facets import Mesh, compacted, pieces_of
from contour.mesh.nearest import build_tree
from contour.mesh.topology import facet_geometry

__all__ = ["drop_fins", "dropped_repeats", "part_edges", "split_junctions", "weld_borders", "welded", "zip_borders"]

Array = NDArray[np.float64]


def welded(mesh: Mesh, reach_mm: float, only: NDArray[np.int64] | None = None) -> tuple[Mesh, int, float]:
    """Vertices closer than `reach_mm` merged into their middle (only those listed, when given); facets that collapse go.

    Returns the mesh, how many vertices went, and the largest movement. only: vertex ids (k,).
    """
    ids = np.unique(mesh.facets) if only is None else only
    if len(ids) < 2:
        return mesh, 0, 0.0
    pairs = cKDTree(mesh.vertices[ids]).query_pairs(reach_mm, output_type="ndarray")
    if len(pairs) == 0:
        return mesh, 0, 0.0
    links = coo_matrix((np.ones(len(pairs), np.int8), (pairs[:, 0], pairs[:, 1])), shape=(len(ids),) * 2)
    count, group = connected_components(links, directed=False)
    size = np.bincount(group, minlength=count)
    middle = np.column_stack([np.bincount(group, mesh.vertices[ids, d], count) / size for d in range(3)])
    # A chain of near pairs can be long: what lies further than the reach from its middle stays by itself.
    away = np.linalg.norm(mesh.vertices[ids] - middle[group], axis=1)
    apart = np.isin(group, np.unique(group[away > reach_mm]))
    merged = (size[group] > 1) & ~apart
    first = np.full(count, -1, np.int64)
    where = np.flatnonzero(merged)[::-1]
    first[group[where]] = ids[where]
    rank = np.arange(len(mesh.vertices))
    rank[ids[merged]] = first[group[merged]]
    vertices = mesh.vertices.copy()
    vertices[ids[merged]] = middle[group[merged]]
    facets = rank[mesh.facets].astype(np.int32)
    whole = (facets[:, 0] != facets[:, 1]) & (facets[:, 1] != facets[:, 2]) & (facets[:, 2] != facets[:, 0])
    gone = int(merged.sum() - len(np.unique(group[merged])))
    moved = float(away[merged].max(initial=0.0))
    return compacted(Mesh(vertices, facets[whole], mesh.source[whole])), gone, moved


def _rim(mesh: Mesh, across: NDArray[np.int32]) -> NDArray[np.int64]:
    """Vertices on open sides."""
    f, k = np.nonzero(across == -1)
    on = np.zeros(len(mesh.vertices), np.bool_)
    on[mesh.facets[f, k]] = True
    on[mesh.facets[f, (k + 1) % 3]] = True
    return np.flatnonzero(on)


def weld_borders(mesh: Mesh, most_mm: float, *, torn_mm: float = 0.0) -> tuple[Mesh, int, float]:
    """Vertices on borders welded with the least reach that closes as much as the greatest would.

    Reaches grow tenfold up to `most_mm`; one that closes no more than a tenth more than the last is not used. A mesh that
    is torn all over (a fifth of its sides still open) is tried on up to `torn_mm`, twice as far each time.
    """
    best, gone, moved = mesh, 0, 0.0
    across = mesh.across()
    rim = _rim(mesh, across)
    left = int((across == -1).sum())
    reach = most_mm * 1e-4
    while left and (reach <= most_mm * 1.001 or (left > 0.2 * across.size and reach <= torn_mm)):
        made, count, largest = welded(mesh, reach, rim)
        now = int((made.across() == -1).sum())
        if count and now < 0.95 * left:
            best, gone, moved, left = made, count, largest, now
        reach *= 10 if reach < 0.99 * most_mm else 2
    return best, gone, moved


def zip_borders(mesh: Mesh, reach_mm: float) -> tuple[Mesh, int]:
    """Open sides split where border vertices of other facets lie on them, so that both sides share their vertices.

    Faces meshed one by one do not agree on the points along their common edge. Returns the mesh and the splits made.
    """
    splits = 0
    across = mesh.across()
    f, k = np.nonzero(across == -1)
    if len(f) == 0:
        return mesh, 0
    rim = _rim(mesh, across)
    tree = build_tree(mesh.vertices, np.repeat(rim[:, None], 3, axis=1).astype(np.int32))
    for _ in range(8):
        ends = np.column_stack([mesh.facets[f, k], mesh.facets[f, (k + 1) % 3]])
        best = _on_sides(tree.boxes, tree.left, tree.spans, rim[tree.order], mesh.vertices, ends, reach_mm)
        rows = np.flatnonzero(best >= 0)
        if len(rows) == 0:
            break
        # One split a facet and round: the first of its sides that has one.
        _, first = np.unique(f[rows], return_index=True)
        rows = rows[first]
        facets, source = mesh.facets.copy(), mesh.source
        t, side, v = f[rows], k[rows], best[rows]
        third = facets[t, (side + 2) % 3]
        fresh = np.column_stack([v, facets[t, (side + 1) % 3], third]).astype(np.int32)
        facets[t, (side + 1) % 3] = v
        # No vertex comes new, so a side without one on it stays so: only the split facets are asked again.
        changed = np.zeros(len(facets) + len(fresh), np.bool_)
        changed[t] = True
        changed[len(facets) :] = True
        mesh = Mesh(mesh.vertices, np.vstack([facets, fresh]), np.concatenate([source, source[t]]))
        splits += len(rows)
        f, k = np.nonzero((mesh.across() == -1) & changed[:, None])
    return mesh, splits


@nb.njit(cache=True, nogil=True)
def _on_sides(boxes, left, spans, rim, vertices, ends, reach):  # type: ignore[no-untyped-def]
    """For each side (a, b) the vertex of `rim` nearest to its middle that lies on it, -1 for none.

    boxes, left, spans: tree over the rim's vertices; only boxes that the side passes within reach are looked into.
    """
    best = np.full(len(ends), -1, np.int64)
    stack = np.empty(256, np.int32)
    for i in range(len(ends)):
        a, b = ends[i]
        p, d = vertices[a], vertices[b] - vertices[a]
        length = np.sqrt((d * d).sum())
        if length <= 2 * reach:
            continue
        least = length
        stack[0] = 0
        top = 1
        while top > 0:
            top -= 1
            q = stack[top]
            t0, t1 = 0.0, 1.0
            for c in range(3):
                low, high = boxes[q, c] - reach - p[c], boxes[q, 3 + c] + reach - p[c]
                if abs(d[c]) < 1e-300:
                    if low > 0 or high < 0:
                        t1 = -1.0
                else:
                    u, w = low / d[c], high / d[c]
                    t0, t1 = max(t0, min(u, w)), min(t1, max(u, w))
            if t0 > t1:
                continue
            if left[q] >= 0:
                stack[top], stack[top + 1] = left[q], left[q] + 1
                top += 2
                continue
            for j in range(spans[q, 0], spans[q, 1]):
                v = rim[j]
                if v == a or v == b:
                    continue
                along = 0.0
                for c in range(3):
                    along += (vertices[v, c] - p[c]) * d[c]
                along /= length
                if along <= reach or along >= length - reach or abs(along - length / 2) >= least:
                    continue
                off = 0.0
                for c in range(3):
                    off += (vertices[v, c] - p[c] - along / length * d[c]) ** 2
                if off <= reach * reach:
                    least = abs(along - length / 2)
                    best[i] = v
    return best


def dropped_repeats(mesh: Mesh) -> tuple[Mesh, int]:
    """Facets with a corner twice dropped, and those with the same three corners as another: one of them stays.

    Two that face each other stand between two bodies that touch; both go where that leaves no side open.
    """
    f = mesh.facets
    collapsed = (f[:, 0] == f[:, 1]) | (f[:, 1] == f[:, 2]) | (f[:, 2] == f[:, 0])
    mesh = mesh.without(collapsed)
    f = mesh.facets.astype(np.int64)
    count = len(mesh.vertices)
    corners = np.sort(f, axis=1)
    _, group = np.unique(corners, axis=0, return_inverse=True)
    group = group.ravel()
    size = np.bincount(group)
    if size.max(initial=0) < 2:
        return mesh, int(collapsed.sum())
    # +1 for an even, -1 for an odd order of the corners: the two ways a facet can face.
    way = np.where(((f == corners).sum(axis=1) == 3) | ((f == corners).sum(axis=1) == 0), 1, -1)
    balance = np.bincount(group, way, len(size))
    between = (size > 1) & (np.abs(balance) < size)
    low, high = np.minimum(f, np.roll(f, -1, axis=1)), np.maximum(f, np.roll(f, -1, axis=1))
    _, edge = np.unique(low.ravel() * count + high.ravel(), return_inverse=True)
    edge = edge.reshape(-1, 3)
    first = np.zeros(len(f), np.bool_)
    first[np.unique(group, return_index=True)[1]] = True
    for _ in range(50):
        kept = first & ~between[group]
        uses = np.bincount(edge[kept].ravel(), minlength=int(edge.max()) + 1)
        odd = (uses[edge] % 2 == 1).any(axis=1) & between[group] & first
        if not odd.any():
            break
        between[group[odd]] = False
    kept = first & ~between[group]
    return mesh.without(~kept), int(collapsed.sum() + (~kept).sum())


def drop_fins(mesh: Mesh) -> tuple[Mesh, int]:
    """Small open sheets that hang on a skin by edges of more than two facets, dropped.

    A sheet is what hangs together over two-facet edges. Going by rising area, one goes when it is open, hangs on a
    junction, and is small beside the largest.
    """
    dropped = 0
    for _ in range(4):
        across = mesh.across()
        if not (across == -2).any():
            break
        count, sheet = pieces_of(mesh.facets, across)
        _, _, areas = facet_geometry(mesh.vertices, mesh.facets)
        size = np.bincount(sheet, areas, count)
        touching = np.bincount(sheet, (across == -2).any(axis=1), count) > 0
        open_sides = np.bincount(sheet, (across == -1).sum(axis=1), count)
        fin = touching & (open_sides > 0) & (size < 0.01 * size.max())
        if not fin.any():
            break
        gone = fin[sheet]
        dropped += int(gone.sum())
        mesh = mesh.without(gone)
    return mesh, dropped


def _union(count: int, pairs: NDArray[np.int64]) -> NDArray[np.int64]:
    """The first member of each one's group, where pairs belong together."""
    links = coo_matrix((np.ones(len(pairs), np.int8), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    _, label = connected_components(links, directed=False)
    first: NDArray[np.int64] = np.unique(label, return_index=True)[1][label]
    return first


def _paired(mesh: Mesh, rows: NDArray[np.int64]) -> NDArray[np.int64]:
    """Half-edges over each junction paired so that neighbours about the edge bound one body: (k, 2).

    Facets are ordered by their angle about the edge. A facet that runs along the edge and the next one against it
    (looking along the edge) have the body between them.
    """
    key = rows[:, 0] * len(mesh.vertices) + rows[:, 1]
    order = np.argsort(key, kind="stable")
    rows, key = rows[order], key[order]
    out = []
    starts = np.append(np.flatnonzero(np.diff(key, prepend=-1)), len(key))
    for s, e in itertools.pairwise(starts):
        group = rows[s:e]
        a, b = mesh.vertices[group[0, 0]], mesh.vertices[group[0, 1]]
        axis = (b - a) / (np.linalg.norm(b - a) + 1e-300)
        half = group[:, 2]
        tip = mesh.vertices[mesh.facets[half // 3, (half % 3 + 2) % 3]] - a
        tip = tip - (tip @ axis)[:, None] * axis
        u = tip[0] / (np.linalg.norm(tip[0]) + 1e-300)
        w = np.cross(axis, u)
        angle = np.arctan2(tip @ w, tip @ u) % (2 * np.pi)
        forward = mesh.facets[half // 3, half % 3] == group[0, 0]
        turn = np.lexsort((~forward, angle))
        # A facet running along the edge has its outside at the greater angle: its partner is the nearest one at a lesser
        # angle that runs against it.
        free = list(turn)
        changed = True
        while len(free) > 1 and changed:
            changed = False
            for i in range(len(free)):
                one, two = free[i - 1], free[i]
                if forward[two] and not forward[one]:
                    out.append((half[one], half[two]))
                    free = [x for x in free if x not in (one, two)]
                    changed = True
                    break
    return np.array(out, dtype=np.int64).reshape(-1, 2)


def split_junctions(mesh: Mesh, *, pull: float = 0.02) -> tuple[Mesh, int, float]:
    """Edges of more than two facets and vertices of several fans taken apart into separate vertices.

    The new vertices are pulled a little (`pull` of the mean side about them) into their own fans: at one place they
    would be one vertex again in the next file. Returns the mesh, how many vertices came new, and the largest movement.
    Reference: Guéziec et al. 2001 (cutting and stitching); pairs about an edge by angle, so that bodies stay closed.
    pull: a share of the mean side; the movement in mm.
    """
    across = mesh.across()
    f, k = np.nonzero(across >= 0)
    mate = across[f, k].astype(np.int64)
    halves = np.column_stack([3 * f + k, mate])
    halves = halves[halves[:, 0] < halves[:, 1]]
    if (across == -2).any():
        halves = np.vstack([halves, _paired(mesh, edge_groups(mesh))])
    pairs = []
    for a in (0, 1):
        one = 3 * (halves[:, 0] // 3) + (halves[:, 0] % 3 + a) % 3
        for b in (0, 1):
            two = 3 * (halves[:, 1] // 3) + (halves[:, 1] % 3 + b) % 3
            same = mesh.facets[one // 3, one % 3] == mesh.facets[two // 3, two % 3]
            pairs.append(np.column_stack([one[same], two[same]]))
    fan = _union(3 * len(mesh.facets), np.vstack(pairs).astype(np.int64))
    roots = np.flatnonzero(fan == np.arange(len(fan)))
    owner = mesh.facets.ravel()
    vertex_of_root = owner[roots]
    several = np.bincount(vertex_of_root, minlength=len(mesh.vertices)) > 1
    if not several.any():
        return mesh, 0, 0.0
    order = np.argsort(vertex_of_root, kind="stable")
    again = np.zeros(len(roots), np.bool_)
    again[order] = np.concatenate([[False], vertex_of_root[order][1:] == vertex_of_root[order][:-1]])
    name = np.empty(3 * len(mesh.facets), np.int64)
    name[roots] = np.where(again, len(mesh.vertices) + np.cumsum(again) - 1, vertex_of_root)
    facets = name[fan].reshape(-1, 3)
    vertices = np.vstack([mesh.vertices, mesh.vertices[vertex_of_root[again]]])
    # Into the middle of the fan: half the way to the mean of its far corners would be one; `pull` of a side is enough.
    split = np.zeros(len(vertices), np.bool_)
    split[name[roots[several[vertex_of_root]]]] = True
    target = np.zeros((len(vertices), 3))
    weight = np.zeros(len(vertices))
    for c in range(3):
        v = facets[:, c]
        own = split[v]
        middle = vertices[facets[own]].mean(axis=1)
        for d in range(3):
            target[:, d] += np.bincount(v[own], middle[:, d], len(vertices))
        weight += np.bincount(v[own], minlength=len(vertices))
    at = np.flatnonzero(split & (weight > 0))
    step = pull * (target[at] / weight[at, None] - vertices[at])
    vertices[at] += step
    made = Mesh(vertices, facets.astype(np.int32), mesh.source)
    return made, int(again.sum()), float(np.linalg.norm(step, axis=1).max(initial=0.0))


def part_edges(mesh: Mesh, *, pull: float = 0.02) -> tuple[Mesh, int]:
    """Edges of more than two facets that no splitting of vertices can part (the bodies along them meet again elsewhere):
    each pair of facets gets a vertex of its own in the middle of the edge. Returns the mesh and the edges parted.

    pull: a share of the mean side.
    """
    parted = 0
    for _ in range(12):
        across = mesh.across()
        if not (across == -2).any():
            break
        pairs = _paired(mesh, edge_groups(mesh))
        busy = np.zeros(len(mesh.facets), np.bool_)
        chosen = []
        for one, two in pairs:
            if not busy[one // 3] and not busy[two // 3]:
                busy[[one // 3, two // 3]] = True
                chosen.append((one, two))
        if not chosen:
            break
        facets, source = mesh.facets.copy(), mesh.source
        fresh, owners = [], []
        middles: list[Array] = []
        for one, two in chosen:
            at = len(mesh.vertices) + len(middles)
            a, b = facets[one // 3, one % 3], facets[one // 3, (one % 3 + 1) % 3]
            tips = []
            for half in (one, two):
                t, k = half // 3, half % 3
                tips.append(facets[t, (k + 2) % 3])
                fresh.append((at, facets[t, (k + 1) % 3], facets[t, (k + 2) % 3]))
                facets[t, (k + 1) % 3] = at
                owners.append(t)
            middle = (mesh.vertices[a] + mesh.vertices[b]) / 2
            middles.append(middle + pull * (mesh.vertices[tips].mean(axis=0) - middle))
        parted += len(chosen)
        mesh = Mesh(
            np.vstack([mesh.vertices, middles]),
            np.vstack([facets, np.array(fresh, dtype=np.int32)]),
            np.concatenate([source, source[np.array(owners)]]),
        )
    return mesh, parted
