"""Pump cover: the truth model, and two virtual scans of it, from above and from below, each lying as it was put down.

A round cover of 84 with a raised seat, a stepped bore, five bolt holes on a circle and two lugs; the scan from above has been spoilt the
way a hand-held scanner spoils them: a spike, a torn fold, a fin and a few facets that stand twice.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.check.exact_arrays import exact_arrays
from contour.mesh.topology import vertex_normals
from contour.simulate.scanner import Pose, ScanSettings, VirtualScan, turntable, virtual_scan
from contour.solid.boolean import combine
from contour.solid.shape import NamedShape
from demo.bracket import prism, rounded_rectangle, whole_circle

__all__ = ["LOWER_POSE", "UPPER_POSE", "lower_scan", "pump_cover", "spoilt", "upper_scan"]

UPPER_POSE = Pose(turn_deg=(6.0, -4.0, 25.0), shift_mm=(12.0, 8.0, 3.0))
LOWER_POSE = Pose(turn_deg=(178.0, 5.0, -70.0), shift_mm=(-30.0, 55.0, 20.0))
_UP = np.array([0.0, 0.0, 1.0])


def pump_cover() -> NamedShape:
    """The whole part as it was designed; its middle is the origin, its face lies on z = 0."""
    body = prism([whole_circle(0, 0, 42, "rim")], (0, 0, 0), _UP, 9, "cover")
    lugs = prism(rounded_rectangle(-52, -9, 52, 9, 8, "l"), (0, 0, 0), _UP, 9, "lugs")
    body = combine(body, lugs, "add")
    body = combine(body, prism([whole_circle(0, 0, 22, "s")], (0, 0, 8), _UP, 7, "seat"), "add")
    body = combine(body, prism([whole_circle(0, 0, 14, "b")], (0, 0, 5), _UP, 20, "bore"), "subtract")
    body = combine(body, prism([whole_circle(0, 0, 8, "c")], (0, 0, -5), _UP, 30, "eye"), "subtract")
    for k in range(5):
        a = np.radians(18 + 72 * k)
        hole = prism(
            [whole_circle(33 * float(np.cos(a)), 33 * float(np.sin(a)), 3.2, f"h{k}")], (0, 0, -5), _UP, 30, f"bolt{k}"
        )
        body = combine(body, hole, "subtract")
    for k, x in enumerate((-46.0, 46.0)):
        body = combine(body, prism([whole_circle(x, 0, 2.6, f"p{k}")], (0, 0, -5), _UP, 30, f"pin{k}"), "subtract")
    return body


def _scan(elevations: tuple[float, ...], pose: Pose, seed: int) -> VirtualScan:
    settings = ScanSettings(
        spacing_mm=0.9, noise_mm=0.02, soften=2, views=turntable(6, elevations), pose=pose, seed=seed
    )
    return virtual_scan(exact_arrays(pump_cover().shape), settings)


def upper_scan() -> VirtualScan:
    """From above, spoilt."""
    made = _scan((65.0, 30.0, 4.0), UPPER_POSE, 31)
    vertices, facets = spoilt(made.vertices, made.facets)
    labels = np.concatenate([made.true_face, np.full(len(facets) - len(made.facets), -1, np.int32)])
    return VirtualScan(vertices, facets, labels)


def lower_scan() -> VirtualScan:
    """From below, the part turned over."""
    return _scan((-65.0, -30.0, -4.0), LOWER_POSE, 32)


def spoilt(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], seed: int = 7
) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """A spike, a fold, a fin and repeated facets, planted at seeded places far from each other and from any border."""
    rng = np.random.default_rng(seed)
    v, f = vertices.copy(), facets.copy()
    normals = vertex_normals(v, f)
    side = float(np.median(np.linalg.norm(v[f[:, 0]] - v[f[:, 1]], axis=1)))
    places: list[int] = []
    while len(places) < 4:
        k = int(rng.integers(len(v)))
        near = np.linalg.norm(v - v[k], axis=1) < 4 * side
        flat = (normals[near] @ normals[k]).min() > 0.95
        if flat and all(np.linalg.norm(v[k] - v[p]) > 15 for p in places):
            places.append(k)
    spike, fold, fin, twice = places
    v[spike] += 5 * side * normals[spike]
    away = np.linalg.norm(vertices - vertices[fold], axis=1)
    along = np.cross(normals[fold], [0.3, 0.5, 0.8])
    v += np.exp(-((away / (1.2 * side)) ** 2))[:, None] * 4 * side * along / np.linalg.norm(along)
    own = f[(f == fin).any(axis=1)][0]
    v = np.vstack([v, v[fin] + 3 * side * normals[fin]])
    again = f[(f == twice).any(axis=1)][:2]
    return v, np.vstack([f, [[own[0], own[1], len(v) - 1]], again]).astype(np.int32)
