"""Imported by the fork server alone: runs the numeric kernels once on a small scan, so that every child begins with them
compiled. The arrays are mapped as a child's are: other array types would be compiled for separately."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from contour.exchange.raw import RawScan
from contour.fit.region import grow_region
from contour.mesh.prepare import PreparedScan, load_prepared, prepare_scan, save_prepared
from contour.outline.section import section_loops
from contour.recipe.problem import ContourError

__all__ = ["warm"]


def _bar() -> np.ndarray:
    """Corners of the facets of a round bar, (n, 3, 3)."""
    around, along = 48, 12
    u, v = np.meshgrid(np.arange(around + 1) / around * 2 * np.pi, np.arange(along + 1) / along * 12.0, indexing="ij")
    grid = np.stack([5 * np.cos(u), 5 * np.sin(u), v], axis=-1)
    a, b, c, d = grid[:-1, :-1], grid[1:, :-1], grid[1:, 1:], grid[:-1, 1:]
    side = np.concatenate([np.stack([a, b, c], axis=2), np.stack([a, c, d], axis=2)]).reshape(-1, 3, 3)
    ends = []
    for z, flip in ((0.0, True), (12.0, False)):
        ring = grid[:, 0].copy()
        ring[:, 2] = z
        fan = np.stack([np.broadcast_to([0.0, 0.0, z], (around, 3)), ring[:-1], ring[1:]], axis=1)
        ends.append(fan[:, ::-1] if flip else fan)
    return np.concatenate([side, *ends])


def warm(folder: Path) -> PreparedScan:
    """Run the kernels on a bar prepared in `folder`; gives the scan, for whoever wants to look at it."""
    corners = _bar() + np.random.default_rng(1).normal(0, 0.004, (1, 1, 3))
    save_prepared(prepare_scan(RawScan(corners, np.arange(len(corners)), len(corners), "stl"), 1.0), folder)
    scan = load_prepared(folder)
    for kind in ("plane", "cylinder"):
        try:
            grow_region(scan, np.array([0]), kind=kind)  # type: ignore[arg-type]
        except ContourError:
            continue  # compiled all the same
    section_loops(scan, np.array([0.0, 0.0, 6.0]), np.array([0.0, 0.0, 1.0]))
    return scan


with tempfile.TemporaryDirectory(prefix="contour-") as _folder:
    warm(Path(_folder))
