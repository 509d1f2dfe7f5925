"""Signed distance from points to a solid given as plain arrays, exact on analytic faces inside their trimming.

The triangles only say which faces and edges are near; the distance itself comes from the formulas of planes,
cylinders, cones, spheres and tori and from the exact border edges, so the chord error never reaches the result.
This module knows no kernel: ``contour.solid.exact_arrays`` fills the arrays.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from pathlib import Path

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.mesh.nearest import TriangleTree, box_gap, build_tree, nearest_slot, triangle_foot

__all__ = [
    "CIRCLE",
    "CONE",
    "CYLINDER",
    "EXACT_VERSION",
    "FREE",
    "LINE",
    "PLANE",
    "POLYLINE",
    "SPHERE",
    "TORUS",
    "ExactSolid",
    "chord_of",
    "load_exact",
    "save_exact",
    "signed_distances",
]

FREE, PLANE, CYLINDER, CONE, SPHERE, TORUS = 0, 1, 2, 3, 4, 5
LINE, CIRCLE, POLYLINE = 1, 2, 3

EXACT_VERSION = 2  # of the arrays kept beside a body, and of what is measured by them

_jit = nb.njit(cache=True, nogil=True)
_inline = nb.njit(nogil=True, inline="always")


@dataclass(frozen=True, slots=True)
class ExactSolid:
    """A solid in mm.

    vertices (n, 3) · triangles (m, 3) i32, outward · face (m,) i32 · side_edge (m, 3) i32 · side_sense (m, 3) i8 (see
    :class:`contour.solid.tessellate.Tessellation`) · face_kind (f,) i32 · face_data (f, 14): point, axis, radius,
    second radius or half angle, +1/-1 for outward along the formula's normal, +1/-1 for a torus's outer or inner sheet, the heights
    along the axis of up to two tips that belong to the face (NaN where there is none), start and span of a torus's tube angle ·
    edge_kind (e,) i32 ·
    edge_data (e, 14) · polyline (p, 3) and polyline_span (e, 2) for edges without a formula · chord_mm.
    """

    vertices: NDArray[np.float64]
    triangles: NDArray[np.int32]
    face: NDArray[np.int32]
    side_edge: NDArray[np.int32]
    side_sense: NDArray[np.int8]
    face_kind: NDArray[np.int32]
    face_data: NDArray[np.float64]
    edge_kind: NDArray[np.int32]
    edge_data: NDArray[np.float64]
    polyline: NDArray[np.float64]
    polyline_span: NDArray[np.int64]
    chord_mm: float

    def tree(self) -> TriangleTree:
        return build_tree(self.vertices, self.triangles)


def save_exact(solid: ExactSolid, path: Path) -> None:
    """Keep a solid's faces as arrays in one file; mm."""
    np.savez(path, **{f.name: getattr(solid, f.name) for f in fields(solid)})


def load_exact(path: Path) -> ExactSolid:
    """The solid that :func:`save_exact` kept; mm."""
    with np.load(path) as data:
        values = {f.name: data[f.name] for f in fields(ExactSolid)}
    values["chord_mm"] = float(values["chord_mm"])
    return ExactSolid(**values)


@_jit
def _face_foot(kind, data, px, py, pz, out):  # type: ignore[no-untyped-def]
    """Foot on the surface in out[0:3], outward normal in out[3:6]; whether the surface goes on there: a cone and a torus that cuts
    itself end where they meet their axis, and what lies past that point is no part of the face."""
    ox, oy, oz, ax, ay, az, r, s, side = data[0], data[1], data[2], data[3], data[4], data[5], data[6], data[7], data[8]
    wx, wy, wz = px - ox, py - oy, pz - oz
    h = wx * ax + wy * ay + wz * az
    if kind == PLANE:
        out[0], out[1], out[2] = px - h * ax, py - h * ay, pz - h * az
        out[3], out[4], out[5] = side * ax, side * ay, side * az
        return True
    if kind == SPHERE:
        q = np.sqrt(wx * wx + wy * wy + wz * wz)
        nx, ny, nz = (wx / q, wy / q, wz / q) if q > 1e-12 else (ax, ay, az)
        out[0], out[1], out[2] = ox + r * nx, oy + r * ny, oz + r * nz
        out[3], out[4], out[5] = side * nx, side * ny, side * nz
        return True
    rx, ry, rz = wx - h * ax, wy - h * ay, wz - h * az
    rho = np.sqrt(rx * rx + ry * ry + rz * rz)
    if rho > 1e-12:
        ux, uy, uz = rx / rho, ry / rho, rz / rho
    else:  # on the axis every direction is nearest: take any that is square to it
        ux, uy, uz = ay, -ax, 0.0
        if abs(az) > 0.9:
            ux, uy, uz = 0.0, az, -ay
        length = np.sqrt(ux * ux + uy * uy + uz * uz)
        ux, uy, uz = ux / length, uy / length, uz / length
    if kind == CYLINDER:
        out[0], out[1], out[2] = ox + h * ax + r * ux, oy + h * ay + r * uy, oz + h * az + r * uz
        out[3], out[4], out[5] = side * ux, side * uy, side * uz
        return True
    if kind == CONE:  # radius r at the point, growing by tan(s) along the axis, on the nappe where it is positive
        c, t = np.cos(s), np.sin(s)
        along = (rho - r) * t + h * c
        fh, fr = along * c, r + along * t
        out[0], out[1], out[2] = ox + fh * ax + fr * ux, oy + fh * ay + fr * uy, oz + fh * az + fr * uz
        out[3], out[4], out[5] = side * (c * ux - t * ax), side * (c * uy - t * ay), side * (c * uz - t * az)
        return fr >= 0.0
    # Torus: ring radius r, tube radius s. Where the tube is larger than the ring, it cuts itself on the axis into an outer
    # and an inner sheet, and a face lies on one of them: the inner one's tube has its centre across the axis.
    r = r * data[9]
    q = np.sqrt((rho - r) ** 2 + h * h) + 1e-300
    c, t = (rho - r) / q, h / q
    nx, ny, nz = c * ux + t * ax, c * uy + t * ay, c * uz + t * az
    out[0], out[1], out[2] = ox + r * ux + s * nx, oy + r * uy + s * ny, oz + r * uz + s * nz
    out[3], out[4], out[5] = side * nx, side * ny, side * nz
    if r + s * c < 0.0:
        return False
    if data[6] > s * (1 + 1e-6):
        return True
    v = np.arctan2(t, c * data[9])  # a face that ends on the axis has no border there, and the sheet goes on
    return (v - data[12]) % (2 * np.pi) <= data[13] or (data[12] - v) % (2 * np.pi) < 1e-9


@_jit
def _edge_foot(kind, data, polyline, a, b, px, py, pz, out):  # type: ignore[no-untyped-def]
    """Foot on the edge in out[0:3], direction of the edge there in out[3:6]. Returns the squared distance."""
    if kind == LINE:
        dx, dy, dz = data[3] - data[0], data[4] - data[1], data[5] - data[2]
        length = dx * dx + dy * dy + dz * dz
        t = ((px - data[0]) * dx + (py - data[1]) * dy + (pz - data[2]) * dz) / (length + 1e-300)
        t = min(max(t, 0.0), 1.0)
        length = np.sqrt(length) + 1e-300
        out[0], out[1], out[2] = data[0] + t * dx, data[1] + t * dy, data[2] + t * dz
        out[3], out[4], out[5] = dx / length, dy / length, dz / length
    elif kind == CIRCLE:  # centre, x axis, y axis, radius, first and last angle
        wx, wy, wz = px - data[0], py - data[1], pz - data[2]
        x = wx * data[3] + wy * data[4] + wz * data[5]
        y = wx * data[6] + wy * data[7] + wz * data[8]
        r, first, last = data[9], data[10], data[11]
        angle = np.arctan2(y, x)
        turn = 2 * np.pi
        while angle < first - 1e-12:
            angle += turn
        while angle >= first + turn:
            angle -= turn
        if angle > last:
            # outside the arc: the nearer end
            angle = last if angle - last < first + turn - angle else first
        c, s = np.cos(angle), np.sin(angle)
        for d in range(3):
            out[d] = data[d] + r * (c * data[3 + d] + s * data[6 + d])
            out[3 + d] = -s * data[3 + d] + c * data[6 + d]
    else:
        best = 1e300
        for i in range(a, b - 1):
            dx, dy, dz = (
                polyline[i + 1, 0] - polyline[i, 0],
                polyline[i + 1, 1] - polyline[i, 1],
                polyline[i + 1, 2] - polyline[i, 2],
            )
            length = dx * dx + dy * dy + dz * dz + 1e-300
            t = ((px - polyline[i, 0]) * dx + (py - polyline[i, 1]) * dy + (pz - polyline[i, 2]) * dz) / length
            t = min(max(t, 0.0), 1.0)
            x, y, z = polyline[i, 0] + t * dx, polyline[i, 1] + t * dy, polyline[i, 2] + t * dz
            d2 = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2
            if d2 < best:
                best = d2
                length = np.sqrt(length)
                out[0], out[1], out[2] = x, y, z
                out[3], out[4], out[5] = dx / length, dy / length, dz / length
    return (out[0] - px) ** 2 + (out[1] - py) ** 2 + (out[2] - pz) ** 2


@_inline
def _segment_gap(px, py, pz, t, i, j):  # type: ignore[no-untyped-def]
    dx, dy, dz = t[3 * j] - t[3 * i], t[3 * j + 1] - t[3 * i + 1], t[3 * j + 2] - t[3 * i + 2]
    wx, wy, wz = px - t[3 * i], py - t[3 * i + 1], pz - t[3 * i + 2]
    s = (wx * dx + wy * dy + wz * dz) / (dx * dx + dy * dy + dz * dz + 1e-300)
    s = min(max(s, 0.0), 1.0)
    return (wx - s * dx) ** 2 + (wy - s * dy) ** 2 + (wz - s * dz) ** 2


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
    tmp, edge_tmp, best_foot = np.empty(6), np.empty(6), np.empty(3)
    slot = 0
    for i in range(n):
        px, py, pz = points[i, 0], points[i, 1], points[i, 2]
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
            goes_on = _face_foot(kind, face_data[f], px, py, pz, tmp)
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
                g = _edge_foot(
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
            for k in (10, 11):
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
            g = _edge_foot(
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
    return float(_strays(solid.vertices, solid.triangles, solid.face, solid.face_kind, solid.face_data))


@_jit
def _strays(vertices, triangles, face, face_kind, face_data):  # type: ignore[no-untyped-def]
    worst = 0.0
    foot = np.empty(6)
    for k in range(len(triangles)):
        f = face[k]
        if face_kind[f] == FREE or face_kind[f] == PLANE:
            continue
        a, b, c = vertices[triangles[k, 0]], vertices[triangles[k, 1]], vertices[triangles[k, 2]]
        for place in ((a + b + c) / 3, (a + b) / 2, (b + c) / 2, (c + a) / 2):
            if _face_foot(face_kind[f], face_data[f], place[0], place[1], place[2], foot):
                worst = max(worst, ((foot[:3] - place) ** 2).sum())
    return np.sqrt(worst)


def signed_distances(
    solid: ExactSolid, points: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.int32], NDArray[np.float64]]:
    """Distances (n,) mm, positive outside; the face each refers to (n,); nearest points (n, 3).

    Exact to rounding on analytic faces and line and circle edges; other faces within their mesh's chord height.
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
        solid.edge_kind,
        solid.edge_data,
        solid.polyline,
        solid.polyline_span,
        solid.chord_mm,
        np.ascontiguousarray(points, dtype=np.float64),
    )
