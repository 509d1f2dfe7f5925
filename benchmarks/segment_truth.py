"""A segmentation held against the faces of the solid that was scanned: facets right, faces found, what was fitted."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from contour.check.exact_solid import ExactSolid
from contour.exchange.raw import RawScan
from contour.fit.segment.labels import depth_of
from contour.fit.segment.whole import Segmentation
from contour.geometry.surface_rows import CONE, CYLINDER, PLANE, SPHERE, TORUS
from contour.geometry.surfaces import Surface
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.mesh.topology import vertex_normals
from contour.simulate.scanner import ScanSettings, virtual_scan

__all__ = ["Score", "holed_scan", "score", "uneven_scan"]

_KIND = {PLANE: "plane", CYLINDER: "cylinder", CONE: "cone", SPHERE: "sphere", TORUS: "torus"}
_FOUND = 0.5  # share of a face and its region that must agree for the face to count as found


@dataclass
class Score:
    """right, right_inside: share of facets in the region that stands for their true face, of all and of those 3 rings from a
    border · faces, found: of more than 8 mm² · spurious: regions of more than 8 mm² that stand for no face · angles in degrees,
    diameters: (difference, standard uncertainty) mm · kinds: faces found with the right kind · missed, extra: faces not found, regions that stand for none."""

    right: float
    right_inside: float
    faces: int
    found: int
    spurious: int
    kinds: int
    plane_angles: list[float] = field(default_factory=list)
    axis_angles: list[float] = field(default_factory=list)
    diameters: list[tuple[float, float]] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)
    extra: list[int] = field(default_factory=list)


def holed_scan(
    solid: ExactSolid, *, spacing: float, noise: float, missing: float, seed: int
) -> tuple[PreparedScan, NDArray[np.int64]]:
    """(prepared scan, true face of every facet); `missing` of the surface taken out in round patches."""
    rng = np.random.default_rng(seed)
    whole = virtual_scan(solid, ScanSettings(spacing_mm=spacing, noise_mm=noise, seed=seed))
    middle = whole.vertices[whole.facets].mean(axis=1)
    keep = np.ones(len(middle), np.bool_)
    while 1 - keep.mean() < missing:
        at = middle[rng.integers(len(middle))]
        keep &= np.linalg.norm(middle - at, axis=1) > rng.uniform(2.0, 6.0)
    facets, true = whole.facets[keep], whole.true_face[keep]
    raw = RawScan(whole.vertices[facets], np.arange(len(facets)), len(facets), "stl")
    scan = prepare_scan(raw, 1.0)
    return scan, _one_face(solid, scan, true[scan.source_facet].astype(np.int64))


def uneven_scan(
    solid: ExactSolid, *, spacing: float, noises: tuple[float, float], seed: int
) -> tuple[PreparedScan, NDArray[np.int64], NDArray[np.bool_]]:
    """(prepared scan, true face of every facet, facets of the half that was scanned with the second noise): as two scans that were merged are."""
    rng = np.random.default_rng(seed)
    whole = virtual_scan(solid, ScanSettings(spacing_mm=spacing, noise_mm=0.0, seed=seed))
    x = whole.vertices[:, 0]
    middle = float(np.median(x))
    off = rng.normal(size=len(x)) * np.where(x < middle, *noises)
    vertices = whole.vertices + off[:, None] * vertex_normals(whole.vertices, whole.facets)
    scan = prepare_scan(RawScan(vertices[whole.facets], np.arange(len(whole.facets)), len(whole.facets), "stl"), 1.0)
    true = _one_face(solid, scan, whole.true_face[scan.source_facet].astype(np.int64))
    return scan, true, scan.centroids[:, 0] > middle


def _one_face(solid: ExactSolid, scan: PreparedScan, true: NDArray[np.int64]) -> NDArray[np.int64]:
    """Faces that touch and lie on one surface, as a kernel leaves them along a seam, are one face to whoever looks at the part."""
    a, side = np.nonzero(scan.across >= 0)
    b = scan.across[a, side] // 3
    out = np.arange(len(solid.face_kind))
    for f, g in np.unique(np.sort(np.column_stack([true[a], true[b]]), axis=1), axis=0):
        same = solid.face_kind[f] == solid.face_kind[g] and np.allclose(
            solid.face_data[f], solid.face_data[g], atol=1e-6
        )
        if f != g and same:
            out[out == out[g]] = out[f]
    return out[true]


def _angle(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    return float(np.degrees(np.arcsin(min(1.0, float(np.linalg.norm(np.cross(a, b)))))))


def _compare(out: Score, surface: Surface, kind: int, row: NDArray[np.float64], u_radius: float | None) -> None:
    if surface.kind != _KIND.get(kind):
        return
    out.kinds += 1
    axis = np.array(surface.axis)
    if kind == PLANE:
        out.plane_angles.append(_angle(axis, row[3:6]))
    if kind == CYLINDER:
        out.axis_angles.append(_angle(axis, row[3:6]))
        out.diameters.append((2 * (surface.radius - row[6]), 2 * (u_radius or 0.0)))


def score(scan: PreparedScan, true: NDArray[np.int64], found: Segmentation, solid: ExactSolid) -> Score:
    labels = found.labels.astype(np.int64)
    n, m = int(true.max()) + 1, len(found.regions)
    shared = np.zeros((n, m))
    seen = labels >= 0
    np.add.at(shared, (true[seen], labels[seen]), scan.areas[seen])
    of_face = np.bincount(true, scan.areas, n)
    of_region = np.bincount(labels[seen], scan.areas[seen], m)
    union = of_face[:, None] + of_region[None, :] - shared
    iou = shared / np.maximum(union, 1e-12)
    rows, columns = linear_sum_assignment(-iou)
    stands = np.full(n, -2, np.int64)
    stands[rows] = columns
    right = stands[true] == labels
    depth = depth_of(true, scan.across, 4)
    big = of_face > 8.0
    got = {int(r): int(c) for r, c in zip(rows, columns, strict=True) if iou[r, c] > _FOUND}
    extra = [k for k in range(m) if of_region[k] > 8.0 and k not in got.values()]
    out = Score(
        float(right.mean()),
        float(right[depth >= 3].mean()),
        int(big.sum()),
        sum(big[r] for r in got),
        len(extra),
        0,
        extra=extra,
    )
    for face in np.flatnonzero(big):
        if int(face) not in got:
            kind = _KIND.get(int(solid.face_kind[face]), "freeform")
            out.missed.append(
                f"{kind} {of_face[face]:.0f} mm² r {solid.face_data[face][6]:.1f}/{solid.face_data[face][7]:.1f}"
            )
    for face, k in got.items():
        region = found.regions[k]
        if big[face] and region.surface is not None:
            u = region.uncertainty.radius if region.uncertainty else None
            _compare(out, region.surface, int(solid.face_kind[face]), solid.face_data[face], u)
    return out
