"""Signed distance from points to a solid given as plain arrays, exact on every face with a formula inside its trimming.

The triangles only say which faces and edges are near; the distance itself comes from the formulas of planes, cylinders, cones,
spheres, tori and B-spline surfaces and from the exact border edges, so the chord error never reaches the result. This module
knows no kernel: :mod:`contour.check.exact_arrays` fills the arrays.
"""

from __future__ import annotations

from typing import NamedTuple

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.check.exact_faces import face_foot, spline_face_foot, uv_at
from contour.check.exact_solid import FREE, SPLINE, ExactSolid
from contour.geometry.curve_rows import edge_foot
from contour.geometry.surface_rows import CONE, PLANE, TORUS
from contour.mesh.nearest import near_slots, triangle_foot

__all__ = ["signed_distances"]

Array = NDArray[np.float64]
Ints = NDArray[np.int32]

_STARTS = 48  # places of freeform faces kept to begin from, the nearest ones
_MOST = 48  # faces, and borders, that may come near one place
_SLOTS = 512  # triangles that may
_NONE = np.int64(0)  # a variable: what is called with a plain 0 is compiled for that too

_jit = nb.njit(cache=True, nogil=True, error_model="numpy")
_inline = nb.njit(nogil=True, inline="always")


class _Solid(NamedTuple):
    """An exact solid's arrays, those of triangles in the order of its tree."""

    corners: Array
    face: Ints
    side_edge: Ints
    side_sense: NDArray[np.int8]
    uv: Array
    normals: Array
    corner_normals: Array
    side_normals: Array
    face_kind: Ints
    face_data: Array
    spline: Ints
    spline_head: NDArray[np.int64]
    spline_data: Array
    edge_kind: Ints
    edge_data: Array
    polyline: Array
    polyline_span: NDArray[np.int64]
    chord: float


class _Near(NamedTuple):
    """What is near one place: slots of triangles and how far they are, faces, borders (face, edge, sense), and places of freeform faces
    to begin from (face, squared distance; parameters)."""

    slots: NDArray[np.int64]
    far: Array
    faces: Ints
    faces_far: Array
    borders: Ints
    starts: Array
    starts_uv: Array


@_inline
def _segment_gap(px, py, pz, t, i, j):  # type: ignore[no-untyped-def]
    dx, dy, dz = t[3 * j] - t[3 * i], t[3 * j + 1] - t[3 * i + 1], t[3 * j + 2] - t[3 * i + 2]
    wx, wy, wz = px - t[3 * i], py - t[3 * i + 1], pz - t[3 * i + 2]
    s = (wx * dx + wy * dy + wz * dz) / (dx * dx + dy * dy + dz * dz + 1e-300)
    s = min(max(s, 0.0), 1.0)
    return (wx - s * dx) ** 2 + (wy - s * dy) ** 2 + (wz - s * dz) ** 2


@_inline
def _gather(solid, near, count, reach, x, y, z):  # type: ignore[no-untyped-def]
    """From the near triangles (squared distance up to `reach`) to near faces and borders: how many of each, and of places to begin from."""
    faces, borders, starts = _NONE, _NONE, _NONE
    for i in range(count):
        if near.far[i] > reach:
            continue
        k = near.slots[i]
        f = solid.face[k]
        known = 0
        while known < faces and near.faces[known] != f:
            known += 1
        if known < faces:
            near.faces_far[known] = min(near.faces_far[known], near.far[i])
        elif faces < _MOST:
            near.faces[faces], near.faces_far[faces] = f, near.far[i]
            faces += 1
        if solid.face_kind[f] == SPLINE:
            starts = _begin_from(solid, near, starts, k, f, near.far[i], x, y, z)
        for s in range(3):
            e = solid.side_edge[k, s]
            if e < 0 or borders >= _MOST:
                continue
            known = 0
            while known < borders and not (near.borders[known, 0] == f and near.borders[known, 1] == e):
                known += 1
            if known == borders and _segment_gap(x, y, z, solid.corners[k], s, (s + 1) % 3) <= reach:
                near.borders[borders, 0], near.borders[borders, 1] = f, e
                near.borders[borders, 2] = solid.side_sense[k, s]
                borders += 1
    return faces, borders, starts


@_inline
def _begin_from(solid, near, starts, k, f, far, x, y, z):  # type: ignore[no-untyped-def]
    """Keep the place of a triangle of a freeform face to begin from, in stead of the farthest where there is no room; how many there are."""
    at = starts
    if at == _STARTS:
        at = np.argmax(near.starts[:, 1])
        if near.starts[at, 1] <= far:
            return starts
    near.starts[at, 0], near.starts[at, 1] = f, far
    uv_at(x, y, z, solid.corners[k], solid.uv[k], near.starts_uv[at])
    return min(starts + 1, _STARTS)


@_inline
def _edge_gap(solid, e, x, y, z, out):  # type: ignore[no-untyped-def]
    a, b = solid.polyline_span[e, 0], solid.polyline_span[e, 1]
    return edge_foot(solid.edge_kind[e], solid.edge_data[e], solid.polyline, a, b, x, y, z, out)


@_inline
def _trimmed_away(solid, near, borders, f, foot, edge):  # type: ignore[no-untyped-def]
    """Whether a foot with its normal (6,) lies outside its face: the border edge nearest to it decides; none near means well inside."""
    fx, fy, fz, nx, ny, nz = foot[0], foot[1], foot[2], foot[3], foot[4], foot[5]
    nearest, lean = 1e300, 0.0
    for b in range(borders):
        if near.borders[b, 0] != f:
            continue
        g = _edge_gap(solid, near.borders[b, 1], fx, fy, fz, edge)
        ux, uy, uz = edge[3], edge[4], edge[5]
        # into the face: outward normal x side direction
        vx, vy, vz = ny * uz - nz * uy, nz * ux - nx * uz, nx * uy - ny * ux
        side = near.borders[b, 2] * ((fx - edge[0]) * vx + (fy - edge[1]) * vy + (fz - edge[2]) * vz)
        if g < nearest * (1 - 1e-9) - 1e-18:
            nearest, lean = g, side
        elif g <= nearest * (1 + 1e-9) + 1e-18 and abs(side) > abs(lean):
            nearest, lean = min(g, nearest), side  # at a corner the edge seen more squarely decides
    return lean < 0.0


@_jit
def _beside(slots, count, face, corners, f, foot, most):  # type: ignore[no-untyped-def]
    """Whether a foot lies as near (squared) to near triangles of its face as `most`."""
    for i in range(count):
        k = slots[i]
        if face[k] != f:
            continue
        tx, ty, tz = triangle_foot(foot[0], foot[1], foot[2], corners[k])
        if (tx - foot[0]) ** 2 + (ty - foot[1]) ** 2 + (tz - foot[2]) ** 2 <= most:
            return True
    return False


@_inline
def _better(solid, near, count, borders, f, foot, edge, x, tx, ty, tz, least, best):  # type: ignore[no-untyped-def]
    """Whether a foot is nearer than the best (squared) so far and lies on its face. What is nearer than the triangles allow does not; nor
    what lies off them, for a bent surface goes on elsewhere, where no border near here tells. t: the nearest place of the triangles."""
    d2 = (foot[0] - x[0]) ** 2 + (foot[1] - x[1]) ** 2 + (foot[2] - x[2]) ** 2
    if d2 < least or d2 >= best or _trimmed_away(solid, near, borders, f, foot, edge):
        return False
    most = (2 * solid.chord) ** 2
    off = (foot[0] - tx) ** 2 + (foot[1] - ty) ** 2 + (foot[2] - tz) ** 2
    if off <= most or solid.face_kind[f] == PLANE:
        return True
    return _beside(near.slots, count, solid.face, solid.corners, f, foot, most)


@_inline
def _taken(foot, x, best_foot):  # type: ignore[no-untyped-def]
    """Squared distance to a foot, and the side of it (by its normal); kept in best_foot (3,)."""
    wx, wy, wz = x[0] - foot[0], x[1] - foot[1], x[2] - foot[2]
    best_foot[:] = foot[:3]
    return wx * wx + wy * wy + wz * wz, 1.0 if foot[3] * wx + foot[4] * wy + foot[5] * wz >= 0 else -1.0


@_jit
def _nearest_of_spline(  # type: ignore[no-untyped-def]
    solid, near, count, borders, starts, f, spot, tx, ty, tz, least, best, foot, edge, best_foot
):
    """(Squared distance, side) of the nearest foot on a B-spline face, where it is better than the best so far; else what that is. Begun
    from every place near enough to hide the true foot, since that may lie on another slope than the nearest triangle, and the foot on the
    nearest may lie where the face is trimmed away."""
    head = solid.spline_head[solid.spline[f]]
    sign = 1.0
    for i in np.argsort(near.starts[:starts, 1]):
        if near.starts[i, 0] != f:
            continue
        if near.starts[i, 1] > (np.sqrt(best) + solid.chord) ** 2:
            break
        if spline_face_foot(head, solid.spline_data, solid.face_data[f, 8], spot, near.starts_uv[i], foot) and _better(
            solid, near, count, borders, f, foot, edge, spot, tx, ty, tz, least, best
        ):
            best, sign = _taken(foot, spot, best_foot)
    return best, sign


@_jit
def _side_of_triangle(solid, slot, x, y, z, tx, ty, tz):  # type: ignore[no-untyped-def]
    """+1 or -1: on an edge or corner the angle-weighted normal of the nearest triangle feature tells (Baerentzen & Aanaes 2005)."""
    t = solid.corners[slot]
    nx, ny, nz = solid.normals[slot, 0], solid.normals[slot, 1], solid.normals[slot, 2]
    tiny = 1e-18 + 1e-14 * (abs(x) + abs(y) + abs(z))
    placed = False
    for k in range(3):
        if (tx - t[3 * k]) ** 2 + (ty - t[3 * k + 1]) ** 2 + (tz - t[3 * k + 2]) ** 2 <= tiny:
            n = solid.corner_normals[slot, k]
            nx, ny, nz = n[0], n[1], n[2]
            placed = True
    if not placed:
        for k in range(3):
            if _segment_gap(tx, ty, tz, t, k, (k + 1) % 3) <= tiny:
                n = solid.side_normals[slot, k]
                nx, ny, nz = n[0], n[1], n[2]
    return 1.0 if nx * (x - tx) + ny * (y - ty) + nz * (z - tz) >= 0 else -1.0


@_jit
def _measure(boxes, left, spans, solid, near, points):  # type: ignore[no-untyped-def]
    n = len(points)
    signed = np.empty(n)
    owner = np.empty(n, np.int32)
    feet = np.empty((n, 3))
    stack = np.empty(128, np.int32)
    foot, edge = np.empty(6), np.empty(6)
    spot, best_foot = np.empty(3), np.empty(3)
    slack = 4 * solid.chord
    slot = _NONE
    for i in range(n):
        x, y, z = points[i, 0], points[i, 1], points[i, 2]
        spot[0], spot[1], spot[2] = x, y, z
        slot, tx, ty, tz, mesh2, count = near_slots(
            boxes, left, spans, solid.corners, x, y, z, slot, slack, stack, near.slots, near.far
        )
        d_mesh = np.sqrt(mesh2)
        faces, borders, starts = _gather(solid, near, count, (d_mesh + slack) ** 2, x, y, z)
        # Closer than the triangles allow is on the part that is trimmed away, such as the top of a groove's torus.
        least = max(d_mesh - slack, 0.0) ** 2
        best, sign, best_face = 1e300, 1.0, solid.face[slot]
        for j in range(faces):
            f = near.faces[j]
            kind = solid.face_kind[f]
            if kind == FREE:
                # no formula: the (finely meshed) triangles speak for it
                if near.faces_far[j] < best and f == solid.face[slot]:
                    best, best_face, sign = near.faces_far[j], f, 0.0
                    best_foot[0], best_foot[1], best_foot[2] = tx, ty, tz
                continue
            if kind == SPLINE:
                found, side = _nearest_of_spline(
                    solid, near, count, borders, starts, f, spot, tx, ty, tz, least, best, foot, edge, best_foot
                )
                if found < best:
                    best, sign, best_face = found, side, f
            elif face_foot(kind, solid.face_data[f], spot, foot) and _better(
                solid, near, count, borders, f, foot, edge, spot, tx, ty, tz, least, best
            ):
                best, sign = _taken(foot, spot, best_foot)
                best_face = f
        for j in range(faces):
            f = near.faces[j]
            if solid.face_kind[f] != CONE and solid.face_kind[f] != TORUS:
                continue
            for k in (9, 10):
                h = solid.face_data[f, k]
                if np.isnan(h):
                    continue
                g = 0.0
                for d in range(3):
                    edge[d] = solid.face_data[f, d] + h * solid.face_data[f, 3 + d]
                    g += (edge[d] - spot[d]) ** 2
                if g < best * (1 - 1e-12):
                    best, best_face, sign = g, f, 0.0
                    best_foot[:] = edge[:3]
        for b in range(borders):
            g = _edge_gap(solid, near.borders[b, 1], x, y, z, edge)
            if g < best * (1 - 1e-12):
                best, best_face, sign = g, near.borders[b, 0], 0.0
                best_foot[:] = edge[:3]
        if best > 1e299:
            best, sign = mesh2, 0.0
            best_foot[0], best_foot[1], best_foot[2] = tx, ty, tz
        if sign == 0.0:
            sign = _side_of_triangle(solid, slot, x, y, z, tx, ty, tz)
        signed[i] = sign * np.sqrt(best)
        owner[i] = best_face
        feet[i] = best_foot
    return signed, owner, feet


def _alike(rows: NDArray[np.int64]) -> tuple[NDArray[np.int64], int]:
    """Numbers (n,) of rows (n, k), equal ones alike, and how many there are; by a hash that tells a billion of them apart."""
    mixed = np.zeros(len(rows), np.uint64)
    for column in rows.T:
        mixed = (mixed ^ column.astype(np.uint64)) * np.uint64(0x9E3779B97F4A7C15)
        mixed ^= mixed >> np.uint64(29)
    found, number = np.unique(mixed, return_inverse=True)
    return number.reshape(-1), len(found)


def _pseudo_normals(vertices: Array, triangles: Ints) -> tuple[Array, Array, Array]:
    """Unit normals (m, 3), angle-weighted corner normals (m, 3, 3), summed side normals (m, 3, 3)."""
    corners = vertices[triangles]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals: Array = cross / (np.linalg.norm(cross, axis=1, keepdims=True) + 1e-300)
    # Faces repeat their shared corners: bring equal places together before summing.
    place, places = _alike(np.round(vertices * 1e6).astype(np.int64))
    ids = place[triangles]
    sides = np.roll(corners, -1, axis=1) - corners
    unit = sides / (np.linalg.norm(sides, axis=2, keepdims=True) + 1e-300)
    angles = np.arccos(np.clip(-np.einsum("tkd,tkd->tk", unit, np.roll(unit, 1, axis=1)), -1, 1))
    weighted = (normals[:, None] * angles[..., None]).reshape(-1, 3)
    total = np.stack([np.bincount(ids.reshape(-1), w, places) for w in weighted.T], axis=1)
    pairs = np.sort(np.stack([ids, np.roll(ids, -1, axis=1)], axis=2), axis=2).reshape(-1, 2)
    edge, edges = _alike(pairs)
    summed = np.stack([np.bincount(edge, w, edges) for w in np.repeat(normals, 3, axis=0).T], axis=1)
    by_corner, by_side = np.asarray(total[ids], np.float64), np.asarray(summed[edge], np.float64)
    return normals, by_corner, by_side.reshape(-1, 3, 3)


def signed_distances(solid: ExactSolid, points: Array) -> tuple[Array, Ints, Array]:
    """Distances (n,) mm, positive outside; the face each refers to (n,); nearest points (n, 3).

    Exact to rounding on analytic and B-spline faces and on line and circle edges; other faces within their mesh's chord height.
    """
    tree = solid.tree()
    by_slot = tree.order
    normals, corner_normals, side_normals = _pseudo_normals(solid.vertices, solid.triangles)
    arrays = _Solid(
        tree.corners,
        solid.face[by_slot],
        solid.side_edge[by_slot],
        solid.side_sense[by_slot],
        solid.uv[solid.triangles[by_slot]].reshape(-1, 6),
        normals[by_slot],
        corner_normals[by_slot],
        side_normals[by_slot],
        solid.face_kind,
        solid.face_data,
        solid.spline,
        solid.spline_head,
        solid.spline_data,
        solid.edge_kind,
        solid.edge_data,
        solid.polyline,
        solid.polyline_span,
        solid.chord_mm,
    )
    near = _Near(
        np.empty(_SLOTS, np.int64),
        np.empty(_SLOTS),
        np.empty(_MOST, np.int32),
        np.empty(_MOST),
        np.empty((_MOST, 3), np.int32),
        np.empty((_STARTS, 2)),
        np.empty((_STARTS, 2)),
    )
    return _measure(tree.boxes, tree.left, tree.spans, arrays, near, np.ascontiguousarray(points, dtype=np.float64))  # type: ignore[no-any-return]
