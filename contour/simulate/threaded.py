"""Scans of threaded holes and studs with every figure known: what a scanner delivers of a tapped block or a bolt's shank.

The thread has the basic profile that metric and unified threads share (ISO 68-1): flanks of 60 degrees, flat for an eighth of the
pitch at the major diameter and for a quarter at the minor one. Plain and worn walls of the same size are made the same way.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.mesh.topology import vertex_normals
from contour.simulate.net import averaging, split_quads, surface_net

__all__ = ["THREAD_DEPTH", "ThreadedPart", "basic_profile", "threaded_scan"]

Array = NDArray[np.float64]
THREAD_DEPTH = 5 / 8 * np.sqrt(3) / 2  # of the basic profile, in pitches


@dataclass(frozen=True, slots=True)
class ThreadedPart:
    """major, pitch, length mm (of the wall, along the axis) · inside: a hole through a block, or else a stud on a head · hand 1
    right, -1 left, 0: a plain wall of the minor (inside) or major diameter · worn_mm: how deep one side of the wall is worn away."""

    major: float
    pitch: float
    length: float
    inside: bool = True
    hand: Literal[1, 0, -1] = 1
    worn_mm: float = 0.0

    @property
    def minor(self) -> float:
        return self.major - 2 * THREAD_DEPTH * self.pitch


def basic_profile(phase: Array) -> Array:
    """Radius above the minor one, in pitches, over the phase in turns (any shape; the major diameter lies at whole turns)."""
    away = np.abs((phase + 0.5) % 1.0 - 0.5)
    return np.asarray(np.clip((3 / 8 - away) * np.sqrt(3), 0, THREAD_DEPTH))


def _radius(part: ThreadedPart, x: Array, y: Array, z: Array) -> Array:
    turn = np.arctan2(y, x)
    if part.hand:
        phase = z / part.pitch - part.hand * turn / (2 * np.pi)
        wall = part.minor / 2 + part.pitch * basic_profile(phase)
    else:
        wall = np.full(len(x), (part.minor if part.inside else part.major) / 2)
    gone = part.worn_mm * np.clip(np.cos(turn), 0, 1) ** 2 * np.clip(1 - (2 * z / part.length - 1) ** 2, 0, 1)
    wall += gone if part.inside else -gone
    lead = 0.5 * part.pitch
    if part.inside:  # countersunk at both ends
        flare = part.major / 2 + lead - np.minimum(z, part.length - z)
        return np.maximum(wall, flare)
    return np.minimum(wall, part.minor / 2 - lead + np.maximum(part.length - z, 0.0))


def _signed(part: ThreadedPart, points: Array) -> Array:
    """Below 0 in the material; near the surface a length within a factor of two."""
    x, y, z = points.T
    r = np.hypot(x, y)
    if part.inside:
        half = part.major / 2 + 4.0
        block = np.max([np.abs(x) - half, np.abs(y) - half, -z, z - part.length], axis=0)
        return np.asarray(np.maximum(block, _radius(part, x, y, z) - r))
    height = part.major * 0.6
    head = np.max([r - 0.9 * part.major, -z - height, z], axis=0)
    stem = np.max([r - _radius(part, x, y, z), -z - 0.5 * height, z - part.length], axis=0)
    return np.asarray(np.minimum(head, stem))


def _onto(part: ThreadedPart, points: Array, step: float) -> Array:
    for _ in range(6):
        d = _signed(part, points)
        reach = 1e-3 * step
        slope = np.column_stack(
            [(_signed(part, points + reach * e) - _signed(part, points - reach * e)) / (2 * reach) for e in np.eye(3)]
        )
        steep = np.maximum((slope**2).sum(axis=1), 0.25)
        points = points - np.clip(d / steep, -0.5 * step, 0.5 * step)[:, None] * slope
    return points


def threaded_scan(
    part: ThreadedPart, *, spacing_mm: float, noise_mm: float, seed: int, soften: int = 1
) -> tuple[Array, NDArray[np.int32], Array, Array]:
    """vertices (n, 3) mm, facets (m, 3), a point of the axis (3,) and its direction (3,), the part turned anyhow."""
    rng = np.random.default_rng(seed)
    reach = part.major / 2 + 4.0 if part.inside else 0.9 * part.major
    low = np.array([-reach, -reach, 0.0 if part.inside else -0.6 * part.major]) - 2.5 * spacing_mm
    low -= rng.uniform(0, 0.5 * spacing_mm, 3)
    high = np.array([reach, reach, part.length])
    shape = np.ceil((high - low) / spacing_mm).astype(int) + 4
    nodes = low + spacing_mm * np.stack(np.meshgrid(*map(np.arange, shape), indexing="ij"), -1).reshape(-1, 3)
    net, quads = surface_net((_signed(part, nodes) < 0).reshape(shape))
    points = _onto(part, low + spacing_mm * net, spacing_mm)
    mean = averaging(np.vstack([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).astype(np.int32), len(points))
    for _ in range(3):
        points = _onto(part, points + 0.5 * (mean @ points - points), spacing_mm)
    facets = split_quads(points, quads)
    mean = averaging(facets, len(points))
    for _ in range(soften):
        points = points + 0.5 * (mean @ points - points)
    points = points + vertex_normals(points, facets) * rng.normal(0, noise_mm, (len(points), 1))
    turn = Rotation.random(random_state=int(rng.integers(1 << 30))).as_matrix()
    shift = rng.uniform(-40, 40, 3)
    return points @ turn.T + shift, facets[rng.permutation(len(facets))], shift, turn[:, 2]
