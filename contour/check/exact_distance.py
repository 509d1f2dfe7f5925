"""Signed distance from points to a solid given as plain arrays, exact on every face with a formula inside its trimming.

The triangles only say which faces and edges are near; the distance itself comes from the formulas of planes, cylinders, cones,
spheres, tori and B-spline surfaces and from the exact border edges, so the chord error never reaches the result. This module
knows no kernel: :mod:`contour.check.exact_arrays` fills the arrays.
"""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.check.exact_solid import FREE, SPLINE, ExactSolid
from contour.geometry.bspline_rows import foot as spline_foot
from contour.geometry.curve_rows import edge_foot
from contour.geometry.surface_rows import CONE, PLANE, TORUS, gap
from contour.mesh.nearest import box_gap, nearest_slot, triangle_foot

__all__ = ["chord_of", "signed_distances"]

_STARTS = 24  # places of freeform faces kept to begin from, the nearest ones

_jit = nb.njit(cache=True, nogil=True)
_inline = nb.njit(nogil=True, inline="always")


@_jit
def _face_foot(kind, data, x, out):  # type: ignore[no-untyped-def]
    """Foot of x (3,) on the surface in out[0:3], outward normal in out[3:6]; whether the surface goes on there: a cone and a torus
    that cuts itself end where they meet their axis, and what lies past that point is no part of the face."""
    g = out[3:6]
    far = gap(kind, data, x, g)
    side = data[8]
    for d in range(3):
        out[d] = x[d] - far * g[d]
    goes_on = True
    if kind == CONE or kind == TORUS:
        wx, wy, wz = x[0] - data[0], x[1] - data[1], x[2] - data[2]
        h = wx * data[3] + wy * data[4] + wz * data[5]
        rho = np.sqrt(max(wx * wx + wy * wy + wz * wz - h * h, 0.0))
        if kind == CONE:
            goes_on = rho - far * np.cos(data[7]) >= 0.0
        else:
            goes_on = _on_sheet(data, rho, h)
    for d in range(3):
        g[d] *= side
    return goes_on


@_jit
def _on_sheet(data, rho, h):  # type: ignore[no-untyped-def]
    """Where the tube is larger than the ring, it cuts itself on the axis into an outer and an inner sheet, and a face lies on one of
    them: the inner one's tube has its centre across the axis (a ring radius below nothing)."""
    r, s = data[6], data[7]
    q = np.sqrt((rho - r) ** 2 + h * h) + 1e-300
    c, t = (rho - r) / q, h / q
    if r + s * c < 0.0:
        return False
    if abs(r) > s * (1 + 1e-6):
        return True
    v = np.arctan2(t, c if r >= 0 else -c)  # a face that ends on the axis has no border there, and the sheet goes on
    return (v - data[11]) % (2 * np.pi) <= data[12] or (data[11] - v) % (2 * np.pi) < 1e-9


@_inline
def _segment_gap(px, py, pz, t, i, j):  # type: ignore[no-untyped-def]
    dx, dy, dz = t[3 * j] - t[3 * i], t[3 * j + 1] - t[3 * i + 1], t[3 * j + 2] - t[3 * i + 2]
    wx, wy, wz = px - t[3 * i], py - t[3 * i + 1], pz - t[3 * i + 2]
    s = (wx * dx + wy * dy + wz * dz) / (dx * dx + dy * dy + dz * dz + 1e-300)
    s = min(max(s, 0.0), 1.0)
    return (wx - s * dx) ** 2 + (wy - s * dy) ** 2 + (wz - s * dz) ** 2


@_jit
def _uv_at(t, uv, x, y, z, out):  # type: ignore[no-untyped-def]
    """Parameters at a place of a triangle (nine numbers) whose corners have the parameters uv (6,)."""
    ax, ay, az = t[3] - t[0], t[4] - t[1], t[5] - t[2]
    bx, by, bz = t[6] - t[0], t[7] - t[1], t[8] - t[2]
    wx, wy, wz = x - t[0], y - t[1], z - t[2]
    aa, ab, bb = ax * ax + ay * ay + az * az, ax * bx + ay * by + az * bz, bx * bx + by * by + bz * bz
    wa, wb = wx * ax + wy * ay + wz * az, wx * bx + wy * by + wz * bz
    whole = aa * bb - ab * ab + 1e-300
    v, w = (bb * wa - ab * wb) / whole, (aa * wb - ab * wa) / whole
    for d in range(2):
        out[d] = uv[d] + v * (uv[2 + d] - uv[d]) + w * (uv[4 + d] - uv[d])


@_jit
def _spline_face_foot(head, data, side, x, face, chord, starts, starts_uv, out):  # type: ignore[no-untyped-def]
    """Foot of x (3,) on a B-spline face in out[0:3], outward normal in out[3:6]; whether it has a normal there. Begun from the places
    of its triangles that are near enough to hide the true foot, since it may lie on another slope than the nearest triangle.
    chord: how far a triangle can be from it; starts (k, 2): faces and squared distances of places, nearest first or not."""
    best, most = 1e300, 1e300
    got, uv = np.empty((6, 3)), np.empty(2)
    for i in np.argsort(starts[:, 1]):
        if starts[i, 0] != face:
            continue
        if starts[i, 1] > most:
            break
        uv[0], uv[1] = starts_uv[i, 0], starts_uv[i, 1]
        d2 = spline_foot(head, data, x[0], x[1], x[2], uv, got)
        if d2 < best:
            best = d2
            most = (np.sqrt(d2) + chord) ** 2
            n = np.cross(got[1], got[2])
            size = np.sqrt(np.dot(n, n)) + 1e-300
            for d in range(3):
                out[d] = got[0, d]
                out[3 + d] = side * n[d] / size
    return out[3] * out[3] + out[4] * out[4] + out[5] * out[5] > 0.5


@_jit
def _measure(  # type: ignore[no-untyped-def]
    boxes,
    left,
    spans,
    order,
    corners,
    face,
    side_edge,
    side_sense,
    normals,
    corner_normals,
    side_normals,
    face_kind,
    face_data,
    spline,
    spline_head,
    spline_data,
    slot_uv,
    edge_kind,
    edge_data,
    polyline,
    polyline_span,
    chord,
    points,
):
    n = len(points)
    signed = np.empty(n)
    owner = np.empty(n, np.int32)
    feet = np.empty((n, 3))
    stack = np.empty(128, np.int32)
    most = 48
    near_faces = np.empty(most, np.int32)
    near_free = np.empty(most)
    borders = np.empty((most, 3), np.int32)  # face, edge, sense
    starts, starts_uv = np.empty((_STARTS, 2)), np.empty((_STARTS, 2))  # face and squared distance; parameters
    tmp, edge_tmp, best_foot, spot = np.empty(6), np.empty(6), np.empty(3), np.empty(3)
    slot = 0
    for i in range(n):
        px, py, pz = points[i, 0], points[i, 1], points[i, 2]
        spot[0], spot[1], spot[2] = px, py, pz
        starts_found = 0
        slot, tx, ty, tz, best2 = nearest_slot(boxes, left, spans, corners, px, py, pz, slot, stack)
        d_mesh = np.sqrt(best2)
        reach = (d_mesh + 4 * chord) ** 2
        faces_found, borders_found = 0, 0
        top = 1
        stack[0] = 0
        while top > 0:
            top -= 1
            q = stack[top]
            if box_gap(boxes, q, px, py, pz) > reach:
                continue
            child = left[q]
            if child >= 0:
                stack[top] = child
                stack[top + 1] = child + 1
                top += 2
                continue
            for k in range(spans[q, 0], spans[q, 1]):
                t = corners[k]
                x, y, z = triangle_foot(px, py, pz, t)
                d2 = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
                if d2 > reach:
                    continue
                f = face[order[k]]
                known = -1
                for j in range(faces_found):
                    if near_faces[j] == f:
                        known = j
                        break
                if known < 0 and faces_found < most:
                    near_faces[faces_found] = f
                    near_free[faces_found] = d2
                    faces_found += 1
                elif known >= 0 and d2 < near_free[known]:
                    near_free[known] = d2
                if face_kind[f] == SPLINE:
                    at = starts_found
                    if at == _STARTS:
                        at = np.argmax(starts[:, 1])
                        if starts[at, 1] <= d2:
                            continue
                    else:
                        starts_found += 1
                    starts[at, 0], starts[at, 1] = f, d2
                    _uv_at(t, slot_uv[k], x, y, z, starts_uv[at])
                for s in range(3):
                    e = side_edge[order[k], s]
                    if e < 0 or borders_found >= most:
                        continue
                    seen = False
                    for j in range(borders_found):
                        if borders[j, 0] == f and borders[j, 1] == e:
                            seen = True
                            break
                    if not seen and _segment_gap(px, py, pz, t, s, (s + 1) % 3) <= reach:
                        borders[borders_found, 0] = f
                        borders[borders_found, 1] = e
                        borders[borders_found, 2] = side_sense[order[k], s]
                        borders_found += 1
        best = 1e300
        sign = 1.0
        best_face = face[order[slot]]
        for j in range(faces_found):
            f = near_faces[j]
            kind = face_kind[f]
            if kind == FREE:
                # no formula: the (finely meshed) triangles speak for it
                if near_free[j] < best and f == face[order[slot]]:
                    best = near_free[j]
                    best_face = f
                    sign = 0.0
                    best_foot[0], best_foot[1], best_foot[2] = tx, ty, tz
                continue
            if kind == SPLINE:
                goes_on = _spline_face_foot(
                    spline_head[spline[f]],
                    spline_data,
                    face_data[f, 8],
                    spot,
                    f,
                    chord,
                    starts[:starts_found],
                    starts_uv,
                    tmp,
                )
            else:
                goes_on = _face_foot(kind, face_data[f], spot, tmp)
            fx, fy, fz, nx, ny, nz = tmp[0], tmp[1], tmp[2], tmp[3], tmp[4], tmp[5]
            d2 = (fx - px) ** 2 + (fy - py) ** 2 + (fz - pz) ** 2
            # Closer than the triangles allow: a foot on the part that is trimmed away, such as the top of a groove's torus.
            if not goes_on or d2 >= best or np.sqrt(d2) < d_mesh - 4 * chord:
                continue
            # Inside its trimming? The border edge nearest to the foot decides; none near means well inside.
            inside = True
            nearest, lean = 1e300, 0.0
            for b in range(borders_found):
                if borders[b, 0] != f:
                    continue
                e = borders[b, 1]
                g = edge_foot(
                    edge_kind[e], edge_data[e], polyline, polyline_span[e, 0], polyline_span[e, 1], fx, fy, fz, edge_tmp
                )
                ux, uy, uz = edge_tmp[3], edge_tmp[4], edge_tmp[5]
                # into the face: outward normal x side direction
                vx, vy, vz = ny * uz - nz * uy, nz * ux - nx * uz, nx * uy - ny * ux
                side = borders[b, 2] * ((fx - edge_tmp[0]) * vx + (fy - edge_tmp[1]) * vy + (fz - edge_tmp[2]) * vz)
                if g < nearest * (1 - 1e-9) - 1e-18:
                    nearest, lean = g, side
                elif g <= nearest * (1 + 1e-9) + 1e-18 and abs(side) > abs(lean):
                    nearest, lean = min(g, nearest), side  # at a corner the edge seen more squarely decides
            if nearest < 1e299:
                inside = lean >= 0.0
            if inside:
                best = d2
                best_face = f
                out = nx * (px - fx) + ny * (py - fy) + nz * (pz - fz)
                sign = 1.0 if out >= 0 else -1.0
                best_foot[0], best_foot[1], best_foot[2] = fx, fy, fz
        for j in range(faces_found):
            f = near_faces[j]
            if face_kind[f] != CONE and face_kind[f] != TORUS:
                continue
            for k in (9, 10):
                h = face_data[f, k]
                if np.isnan(h):
                    continue
                x, y, z = (
                    face_data[f, 0] + h * face_data[f, 3],
                    face_data[f, 1] + h * face_data[f, 4],
                    face_data[f, 2] + h * face_data[f, 5],
                )
                g = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
                if g < best * (1 - 1e-12):
                    best, best_face, sign = g, f, 0.0
                    best_foot[0], best_foot[1], best_foot[2] = x, y, z
        for b in range(borders_found):
            e = borders[b, 1]
            g = edge_foot(
                edge_kind[e], edge_data[e], polyline, polyline_span[e, 0], polyline_span[e, 1], px, py, pz, edge_tmp
            )
            if g < best * (1 - 1e-12):
                best = g
                best_face = borders[b, 0]
                sign = 0.0
                best_foot[0], best_foot[1], best_foot[2] = edge_tmp[0], edge_tmp[1], edge_tmp[2]
        if best > 1e299:
            best = best2
            sign = 0.0
            best_foot[0], best_foot[1], best_foot[2] = tx, ty, tz
        if sign == 0.0:
            # On an edge or corner: the angle-weighted normal of the nearest triangle feature (Baerentzen & Aanaes 2005)
            t = corners[slot]
            tri = order[slot]
            nx, ny, nz = normals[tri, 0], normals[tri, 1], normals[tri, 2]
            tiny = 1e-18 + 1e-14 * (abs(px) + abs(py) + abs(pz))
            placed = False
            for k in range(3):
                if (tx - t[3 * k]) ** 2 + (ty - t[3 * k + 1]) ** 2 + (tz - t[3 * k + 2]) ** 2 <= tiny:
                    nx, ny, nz = corner_normals[tri, k, 0], corner_normals[tri, k, 1], corner_normals[tri, k, 2]
                    placed = True
            if not placed:
                for k in range(3):
                    if _segment_gap(tx, ty, tz, t, k, (k + 1) % 3) <= tiny:
                        nx, ny, nz = side_normals[tri, k, 0], side_normals[tri, k, 1], side_normals[tri, k, 2]
            sign = 1.0 if nx * (px - tx) + ny * (py - ty) + nz * (pz - tz) >= 0 else -1.0
        signed[i] = sign * np.sqrt(best)
        owner[i] = best_face
        feet[i] = best_foot
    return signed, owner, feet


def _pseudo_normals(
    vertices: NDArray[np.float64], triangles: NDArray[np.int32]
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Unit normals (m, 3), angle-weighted corner normals (m, 3, 3), summed side normals (m, 3, 3)."""
    corners = vertices[triangles]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = cross / (np.linalg.norm(cross, axis=1, keepdims=True) + 1e-300)
    # Faces repeat their shared corners: bring equal places together before summing.
    _, place = np.unique(np.round(vertices, 6), axis=0, return_inverse=True)
    ids = place.reshape(-1)[triangles]
    sides = np.roll(corners, -1, axis=1) - corners
    unit = sides / (np.linalg.norm(sides, axis=2, keepdims=True) + 1e-300)
    angles = np.arccos(np.clip(-np.einsum("tkd,tkd->tk", unit, np.roll(unit, 1, axis=1)), -1, 1))
    total = np.zeros((int(ids.max()) + 1, 3))
    for k in range(3):
        np.add.at(total, ids[:, k], normals * angles[:, k : k + 1])
    pairs = np.sort(np.stack([ids, np.roll(ids, -1, axis=1)], axis=2), axis=2).reshape(-1, 2)
    _, edge = np.unique(pairs, axis=0, return_inverse=True)
    summed = np.zeros((int(edge.max()) + 1, 3))
    np.add.at(summed, edge.reshape(-1), np.repeat(normals, 3, axis=0))
    return normals, total[ids], summed[edge.reshape(-1)].reshape(-1, 3, 3)


def chord_of(solid: ExactSolid) -> float:
    """How far the triangles of faces with a formula really stray from it, mm: the mesher's promise is not kept everywhere."""
    return float(
        _strays(
            solid.vertices,
            solid.triangles,
            solid.face,
            solid.uv,
            solid.face_kind,
            solid.face_data,
            solid.spline,
            solid.spline_head,
            solid.spline_data,
        )
    )


@_jit
def _strays(vertices, triangles, face, uv, face_kind, face_data, spline, spline_head, spline_data):  # type: ignore[no-untyped-def]
    worst = 0.0
    foot, got, begun = np.empty(6), np.empty((6, 3)), np.empty(2)
    for k in range(len(triangles)):
        f = face[k]
        if face_kind[f] == FREE or face_kind[f] == PLANE:
            continue
        i, j, m = triangles[k, 0], triangles[k, 1], triangles[k, 2]
        for a, b, c in ((1 / 3, 1 / 3, 1 / 3), (0.5, 0.5, 0.0), (0.0, 0.5, 0.5), (0.5, 0.0, 0.5)):
            place = a * vertices[i] + b * vertices[j] + c * vertices[m]
            if face_kind[f] == SPLINE:
                begun[:] = a * uv[i] + b * uv[j] + c * uv[m]
                off = spline_foot(spline_head[spline[f]], spline_data, place[0], place[1], place[2], begun, got)
                worst = max(worst, off)
            elif _face_foot(face_kind[f], face_data[f], place, foot):
                worst = max(worst, ((foot[:3] - place) ** 2).sum())
    return np.sqrt(worst)


def signed_distances(
    solid: ExactSolid, points: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.int32], NDArray[np.float64]]:
    """Distances (n,) mm, positive outside; the face each refers to (n,); nearest points (n, 3).

    Exact to rounding on analytic and B-spline faces and on line and circle edges; other faces within their mesh's chord height.
    """
    tree = solid.tree()
    normals, corner_normals, side_normals = _pseudo_normals(solid.vertices, solid.triangles)
    return _measure(
        tree.boxes,
        tree.left,
        tree.spans,
        tree.order,
        tree.corners,
        solid.face,
        solid.side_edge,
        solid.side_sense,
        normals,
        corner_normals,
        side_normals,
        solid.face_kind,
        solid.face_data,
        solid.spline,
        solid.spline_head,
        solid.spline_data,
        np.ascontiguousarray(solid.uv[solid.triangles[tree.order]].reshape(-1, 6)),
        solid.edge_kind,
        solid.edge_data,
        solid.polyline,
        solid.polyline_span,
        solid.chord_mm,
        np.ascontiguousarray(points, dtype=np.float64),
    )
