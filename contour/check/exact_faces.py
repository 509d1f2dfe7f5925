"""The foot of a point on one face of an exact solid, and how far its triangles stray from it."""

from __future__ import annotations

import numba as nb
import numpy as np

from contour.check.exact_solid import FREE, SPLINE, ExactSolid
from contour.geometry.bspline_rows import evaluate
from contour.geometry.bspline_rows import foot as spline_foot
from contour.geometry.surface_rows import CONE, PLANE, TORUS, gap
from contour.mesh.nearest import triangle_foot

__all__ = ["chord_of", "face_foot", "spline_face_foot", "uv_at"]

_jit = nb.njit(cache=True, nogil=True, error_model="numpy")


@_jit
def face_foot(kind, data, x, out):  # type: ignore[no-untyped-def]
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


@_jit
def uv_at(px, py, pz, t, uv, out):  # type: ignore[no-untyped-def]
    """Parameters (2,) at the place of a triangle (nine numbers) nearest to a point; its corners have the parameters uv (6,)."""
    x, y, z = triangle_foot(px, py, pz, t)
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
def spline_face_foot(head, data, side, x, uv, out):  # type: ignore[no-untyped-def]
    """Foot of x (3,) on a B-spline face in out[0:3], outward normal in out[3:6], begun from parameters uv (2,), which it betters; whether
    it has a normal there."""
    got = np.empty((6, 3))
    spline_foot(head, data, x[0], x[1], x[2], uv, got)
    n = np.cross(got[1], got[2])
    size = np.sqrt(np.dot(n, n))
    for d in range(3):
        out[d] = got[0, d]
        out[3 + d] = side * n[d] / (size + 1e-300)
    return size > 0.0


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
                # The face comes at least as near as where it is begun: most places are settled by that alone.
                evaluate(spline_head[spline[f]], spline_data, begun[0], begun[1], got)
                if ((got[0] - place) ** 2).sum() <= worst:
                    continue
                off = spline_foot(spline_head[spline[f]], spline_data, place[0], place[1], place[2], begun, got)
                worst = max(worst, off)
            elif face_foot(face_kind[f], face_data[f], place, foot):
                worst = max(worst, ((foot[:3] - place) ** 2).sum())
    return np.sqrt(worst)
