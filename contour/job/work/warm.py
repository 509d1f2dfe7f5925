"""Imported by the fork server alone: runs the numeric kernels once on a small scan, and a small job once, so that every child begins with
them compiled and with all that a first call loads. The arrays are mapped as a child's are: other array types would be compiled for separately."""

from __future__ import annotations

import logging
import tempfile
from pathlib import Path

import numpy as np

from contour.exchange.raw import RawScan
from contour.fit.region import grow_region
from contour.job.build.store import Store
from contour.job.questions.preview import preview
from contour.mesh.prepare import PreparedScan, load_prepared, prepare_scan, save_prepared
from contour.outline.section import section_loops
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, Step

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


def _square(side: float, at: float) -> list[list[float]]:
    return [[at, at], [at + side, at], [at + side, at + side], [at, at + side]]


def small_job() -> Recipe:
    """A block with a pocket."""
    block, pocket = {"text": "10 mm"}, {"text": "-4 mm"}
    cut = {"operation": "subtract", "bodies": [{"id": "warm-block"}]}
    steps = (
        Step(id="warm-outline", kind="traced", name="Outline", params={"points": _square(40.0, 0.0)}),
        Step(
            id="warm-block", kind="extrude", name="Block", params={"sketch": {"id": "warm-outline"}, "distance": block}
        ),
        Step(id="warm-second", kind="traced", name="Second outline", params={"points": _square(10.0, 5.0)}),
        Step(
            id="warm-pocket",
            kind="extrude",
            name="Pocket",
            params={"sketch": {"id": "warm-second"}, "distance": pocket, "back": block, **cut},
        ),
    )
    return Recipe(name="Warm", steps=steps)


try:
    with (
        tempfile.TemporaryDirectory(prefix="contour-") as _scan,
        tempfile.TemporaryDirectory(prefix="contour-") as _job,
    ):
        warm(Path(_scan))
        preview(small_job(), Store(Path(_job)))
except Exception:  # a fork server that is not warm is slow; one that does not start is none
    logging.getLogger(__name__).exception("the fork server could not be warmed")
