"""A scan made ready to work on: welded, sorted for memory locality, with neighbours, normals and noise.

Facet order is Morton order (growth and slicing walk neighbours; a scanner's order costs 2.5 to 5 times more), and
``source_facet`` leads back to the raw file. Everything is plain arrays that a process maps into memory.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.exchange.raw import RawScan
from contour.mesh.facets import Mesh, compacted
from contour.mesh.noise import estimate_noise
from contour.mesh.topology import facet_geometry, neighbours, usable_facets, vertex_facets, weld
from contour.recipe.problem import ContourError

__all__ = [
    "PREPARE_VERSION",
    "PreparedScan",
    "load_prepared",
    "mesh_of",
    "placed",
    "prepare_mesh",
    "prepare_scan",
    "save_prepared",
]

PREPARE_VERSION = 3

_jit = nb.njit(cache=True, nogil=True)


@dataclass(frozen=True, slots=True)
class PreparedScan:
    """A scan in mm, as a job has it at some step.

    vertices (m, 3) f64 · facets (n, 3) i32 · source_facet (n,) i64 (number in the file, -1 for what a mend made) · across (n, 3) i32 (see
    :func:`contour.mesh.topology.neighbours`) · centroids (n, 3) f64 · normals (n, 3) f64 · smooth_normals (n, 3) f64
    (bilaterally filtered) · areas (n,) f64 · vertex_areas (m,) f64 · pose (4, 4) T_here_raw: where the raw scan has been put ·
    noise_mm · edge_mm (mean side length) · raw_facets (how many numbers the raw facets have).
    """

    vertices: NDArray[np.float64]
    facets: NDArray[np.int32]
    source_facet: NDArray[np.int64]
    across: NDArray[np.int32]
    centroids: NDArray[np.float64]
    normals: NDArray[np.float64]
    smooth_normals: NDArray[np.float64]
    areas: NDArray[np.float64]
    vertex_areas: NDArray[np.float64]
    pose: NDArray[np.float64]
    noise_mm: float
    edge_mm: float
    raw_facets: int

    def facets_of_source(self, source: NDArray[np.int64]) -> NDArray[np.int64]:
        """Facet ids of raw facet numbers, in the order of the numbers; those that were dropped on the way are left out.

        A number that a mend has split into several facets gives all of them.
        """
        source = np.asarray(source, dtype=np.int64)
        top = int(self.source_facet.max(initial=-1)) + 1
        source = source[(source >= 0) & (source < top)]
        known = np.full(top, -1, np.int64)
        own = self.source_facet >= 0
        known[self.source_facet[own]] = np.flatnonzero(own)
        found = known[source]
        if int(own.sum()) == int((known >= 0).sum()):
            return found[found >= 0]
        wanted = np.zeros(top, np.bool_)
        wanted[source] = True
        ids = np.flatnonzero(own)
        several = ids[wanted[self.source_facet[ids]]]
        first = found[found >= 0]
        return np.concatenate([first, np.setdiff1d(several, first)])

    def seen(self) -> NDArray[np.bool_]:
        """(n,): facets that were scanned, and not made by a mend; all of them where nothing else is left."""
        own: NDArray[np.bool_] = self.source_facet >= 0
        return own if own.any() else np.ones(len(self.facets), np.bool_)


@_jit
def _morton(points, low, scale):  # type: ignore[no-untyped-def]
    out = np.empty(len(points), np.int64)
    for i in range(len(points)):
        code = 0
        for d in range(3):
            x: Any = np.int64((points[i, d] - low[d]) * scale)
            x = min(max(x, 0), 1023)
            x = (x | (x << 16)) & 0x30000FF
            x = (x | (x << 8)) & 0x300F00F
            x = (x | (x << 4)) & 0x30C30C3
            x = (x | (x << 2)) & 0x9249249
            code |= x << d
        out[i] = code
    return out


@_jit
def _bilateral(
    normals: NDArray[np.float64],
    centroids: NDArray[np.float64],
    areas: NDArray[np.float64],
    facets: NDArray[np.int32],
    offsets: NDArray[np.int64],
    around: NDArray[np.int32],
    sigma_mm: float,
    sigma_normal: float,
) -> NDArray[np.float64]:
    out = np.empty_like(normals)
    for f in range(len(normals)):
        x = y = z = 0.0
        for k in range(3):
            v = facets[f, k]
            for q in range(offsets[v], offsets[v + 1]):
                g = around[q]
                turn = 0.0
                gap = 0.0
                for d in range(3):
                    turn += (normals[f, d] - normals[g, d]) ** 2
                    gap += (centroids[f, d] - centroids[g, d]) ** 2
                w = areas[g] * np.exp(-turn / (2 * sigma_normal**2) - gap / (2 * sigma_mm**2))
                x += w * normals[g, 0]
                y += w * normals[g, 1]
                z += w * normals[g, 2]
        length = np.sqrt(x * x + y * y + z * z)
        if length > 0:
            out[f, 0], out[f, 1], out[f, 2] = x / length, y / length, z / length
        else:
            out[f] = normals[f]
    return out


def prepare_scan(raw: RawScan, factor: float) -> PreparedScan:
    """Weld, drop collapsed and repeated facets, sort, and measure; `factor` turns file units into mm."""
    vertices, facets = weld(raw.corners * factor)
    keep, _, _ = usable_facets(facets)
    mesh = Mesh(vertices, facets[keep], raw.facet_ids[keep])
    return prepare_mesh(mesh, pose=np.eye(4), raw_facets=raw.facets_read)


def prepare_mesh(mesh: Mesh, *, pose: NDArray[np.float64], raw_facets: int) -> PreparedScan:
    """Sort a mesh for memory locality and measure it. Raises ContourError (no-facets) when nothing is left of it.

    pose (4, 4), T_scan_file, mm.
    """
    if len(mesh.facets) == 0:
        raise ContourError(
            "no-facets",
            "nothing of the scan is left",
            got="0 facets",
            need="at least one facet",
            remedy="take less away",
        )
    vertices, facets = mesh.vertices, mesh.facets
    centres = vertices[facets].mean(axis=1)
    low = centres.min(axis=0)
    extent = float((centres.max(axis=0) - low).max()) or 1.0
    order = np.argsort(_morton(centres, low, 1023.0 / extent), kind="stable")
    facets = facets[order]
    # Vertices by first use, so that they follow the facets in memory.
    used, first = np.unique(facets.ravel(), return_index=True)
    by_use = used[np.argsort(first, kind="stable")]
    rank = np.full(len(vertices), -1, np.int32)
    rank[by_use] = np.arange(len(by_use), dtype=np.int32)
    vertices, facets = np.ascontiguousarray(vertices[by_use]), rank[facets]
    across, _ = neighbours(facets, len(vertices))
    offsets, around = vertex_facets(facets, len(vertices))
    centroids, normals, areas = facet_geometry(vertices, facets)
    sides = vertices[facets] - vertices[np.roll(facets, -1, axis=1)]
    own = mesh.source[order] >= 0
    edge = float(np.linalg.norm(sides[own] if own.any() else sides, axis=2).mean())
    smooth = normals
    for _ in range(8):
        smooth = _bilateral(smooth, centroids, areas, facets, offsets, around, 1.5 * edge, 0.35)
    vertex_areas = np.bincount(facets.ravel(), np.repeat(areas / 3, 3), len(vertices)).astype(np.float64)
    return PreparedScan(
        vertices,
        facets,
        mesh.source[order],
        across,
        centroids,
        normals,
        smooth,
        areas,
        vertex_areas,
        pose,
        _noise_of(Mesh(vertices, facets, mesh.source[order]), offsets, around),
        edge,
        raw_facets,
    )


def _noise_of(mesh: Mesh, offsets: NDArray[np.int64], around: NDArray[np.int32]) -> float:
    """That of what was scanned: what a mend fills flat or fair has none. mm."""
    own = mesh.source >= 0
    if own.all() or not own.any():
        return estimate_noise(mesh.vertices, mesh.facets, offsets, around)
    scanned = compacted(mesh.without(~own))
    offsets, around = vertex_facets(scanned.facets, len(scanned.vertices))
    return estimate_noise(scanned.vertices, scanned.facets, offsets, around)


def mesh_of(scan: PreparedScan) -> Mesh:
    """The scan as a mesh to work on."""
    return Mesh(np.array(scan.vertices), np.array(scan.facets), np.array(scan.source_facet))


def placed(scan: PreparedScan, matrix: NDArray[np.float64]) -> PreparedScan:
    """The scan moved by a rigid T_new_here; facets, their order and the noise stay as they are. matrix (4, 4), mm."""
    r = matrix[:3, :3].T
    return replace(
        scan,
        vertices=scan.vertices @ r + matrix[:3, 3],
        centroids=scan.centroids @ r + matrix[:3, 3],
        normals=scan.normals @ r,
        smooth_normals=scan.smooth_normals @ r,
        pose=matrix @ scan.pose,
    )


def save_prepared(scan: PreparedScan, folder: Path) -> None:
    """One ``.npy`` per array and a small JSON for the numbers."""
    numbers = {}
    for f in fields(scan):
        value = getattr(scan, f.name)
        if isinstance(value, np.ndarray):
            np.save(folder / f"{f.name}.npy", value)
        else:
            numbers[f.name] = value
    (folder / "numbers.json").write_text(json.dumps(numbers, sort_keys=True))


def load_prepared(folder: Path) -> PreparedScan:
    """Maps the arrays: opening a scan of a million facets costs nothing until it is touched. Copy on write, not read-only: the compiled
    kernels take arrays that may be written to for another type, and would be compiled for both."""
    numbers = json.loads((folder / "numbers.json").read_text())
    arrays = {
        f.name: np.load(folder / f"{f.name}.npy", mmap_mode="c").view(np.ndarray)
        for f in fields(PreparedScan)
        if f.name not in numbers
    }
    return PreparedScan(**arrays, **numbers)


def load_pose(folder: Path) -> NDArray[np.float64]:
    """T_here_file (4, 4) of a kept scan, mm, without the rest of it."""
    return np.load(folder / "pose.npy").astype(np.float64)
