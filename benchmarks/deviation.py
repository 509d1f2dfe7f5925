"""Signed deviation of half a million points: against general libraries in time, against the kernel's own projection in truth."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_ShapeEnum

from benchmarks.parts import plate
from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.check.exact_solid import ExactSolid
from contour.solid.shape import faces, shape_map

__all__ = ["run"]


def scan_points(solid: ExactSolid, count: int) -> np.ndarray:
    """Points near the surface, evenly by area, in an order that runs along the surface as a scan's does."""
    rng = np.random.default_rng(1)
    corners = solid.vertices[solid.triangles]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    pick = np.sort(rng.choice(len(areas), count, p=areas / areas.sum()))
    points = np.einsum("nk,nkd->nd", rng.dirichlet([1, 1, 1], count), corners[pick])
    return points + rng.normal(0, 0.05, points.shape)


def _against_embree(solid: ExactSolid, points: np.ndarray, mine: float) -> tuple[str, str]:
    """Open3D measures to the triangles only, in single precision, with vector instructions. It is not installed with the rest."""
    label = "time against Open3D, one thread, index included (wanted: 1.2x)"
    try:
        from open3d import core
        from open3d.t.geometry import RaycastingScene
    except ImportError as error:
        return label, f"not installed here ({error})"

    def theirs() -> float:
        begun = time.perf_counter()
        scene = RaycastingScene(nthreads=1)
        scene.add_triangles(
            core.Tensor(solid.vertices.astype(np.float32)), core.Tensor(solid.triangles.astype(np.uint32))
        )
        scene.compute_signed_distance(core.Tensor(points.astype(np.float32)), nthreads=1)
        return time.perf_counter() - begun

    best = min(theirs() for _ in range(3))
    return label, f"{mine / best:.2f}x  ({best:.2f} s)"


def run() -> Iterator[tuple[str, str]]:
    import trimesh

    shape = plate(14, 10).shape
    solid = exact_arrays(shape)
    points = scan_points(solid, 500_000)
    signed_distances(solid, points[:1000])
    mine = np.inf
    for _ in range(3):
        begun = time.perf_counter()
        signed_distances(solid, points)
        mine = min(mine, time.perf_counter() - begun)
    mesh = trimesh.Trimesh(solid.vertices, solid.triangles, process=True)
    sample = points[:: len(points) // 20_000][:20_000]
    trimesh.proximity.closest_point(mesh, sample[:200])
    begun = time.perf_counter()
    trimesh.proximity.closest_point(mesh, sample)
    theirs = (time.perf_counter() - begun) * len(points) / len(sample)
    label = f"500 k points to {len(faces(shape))} faces ({len(solid.triangles):,} triangles), index building included"
    yield label, f"{mine:.2f} s"
    yield (
        "against trimesh's closest point, extrapolated from 20 k (wanted: 25x)",
        f"{theirs / mine:.0f}x  ({theirs:.0f} s)",
    )
    yield _against_embree(solid, points, mine)
    rng = np.random.default_rng(9)
    # half of the points beside trimmed edges, where triangles and trimming disagree most
    w = np.vstack([rng.dirichlet([0.15] * 3, 1000), rng.dirichlet([1, 1, 1], 1000)])
    pick = rng.integers(0, len(solid.triangles), 2000)
    near = np.einsum("nk,nkd->nd", w, solid.vertices[solid.triangles[pick]])
    near += rng.normal(0, 1, near.shape) * rng.choice([0.005, 0.05, 0.3], len(near))[:, None]
    signed, owner, _ = signed_distances(solid, near)
    shells = shape_map(shape, TopAbs_ShapeEnum.TopAbs_SHELL)
    errors = []
    for p, d, f in zip(near, signed, owner, strict=True):
        if solid.face_kind[f] > 0:
            vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, p))).Vertex()
            errors.append(abs(abs(d) - BRepExtrema_DistShapeShape(vertex, shells.FindKey(1)).Value()))
    yield (
        f"error against exact projection, {len(errors):,} points (wanted: at most 1 µm)",
        f"{max(errors) * 1e3:.2g} µm",
    )
