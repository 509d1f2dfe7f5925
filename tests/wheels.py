"""Parts that repeat around an axis, and scans of them in any place."""

from __future__ import annotations

import numpy as np

from contour.check.exact_arrays import exact_arrays
from contour.geometry.rigid import moved
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.sketch.entities import Entity
from contour.solid.boolean import combine
from contour.solid.shape import NamedShape
from tests.conftest import circle, prism, raw_scan

__all__ = ["holed_disc", "scan_without", "wheel"]


def wheel(teeth: int, *, root: float = 20.0, tip: float = 24.0, high: float = 10.0, bore: float = 6.0) -> NamedShape:
    """Teeth with straight flanks about z; the first one's middle lies at x. bore: none where it is 0."""
    spots = []
    for k in range(teeth):
        for share, r in ((-0.25, root), (-0.15, tip), (0.15, tip), (0.25, root)):
            a = 2 * np.pi * (k + share) / teeth
            spots.append((r * np.cos(a), r * np.sin(a)))
    lines = [Entity(f"e{k}", "line", spots[k], spots[(k + 1) % len(spots)]) for k in range(len(spots))]
    return prism([*lines, circle(0, 0, bore)] if bore else lines, high)


def holed_disc(holes: int, *, radius: float = 24.0, at: float = 15.0, hole: float = 3.0) -> NamedShape:
    """A disc with round holes on a circle; the first at x."""
    body = prism([circle(0, 0, radius)], 8)
    for k in range(holes):
        a = 2 * np.pi * k / holes
        body = combine(
            body, prism([circle(at * np.cos(a), at * np.sin(a), hole)], 30, z=-10, prefix=f"h{k}"), "subtract"
        )
    return body


def scan_without(
    body: NamedShape,
    gone: tuple[tuple[tuple[float, float, float], float], ...] = (),
    *,
    pose: np.ndarray | None = None,
    spacing: float = 0.8,
    noise: float = 0.02,
) -> PreparedScan:
    """Its scan without what lies in some balls (middle, radius), laid elsewhere by a rigid motion (4, 4)."""
    made = virtual_scan(
        exact_arrays(body.shape), ScanSettings(spacing_mm=spacing, noise_mm=noise, seed=4, soften=0, dropouts=gone)
    )
    vertices = made.vertices if pose is None else moved(pose, made.vertices)
    return prepare_scan(raw_scan(vertices[made.facets]), 1.0)
