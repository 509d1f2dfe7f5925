"""Pieces of one face that holes in the scan have parted altogether: one region again, but not where something was seen between them."""

from __future__ import annotations

import numpy as np
import pytest

from contour.fit.segment.whole import segment
from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, prepare_mesh
from tests.fit.test_wear_form import tube

_STEP = 0.5


def plate(groove: float = 0.0) -> PreparedScan:
    """40 x 24 mm, seen from above; a groove of 6 mm across its middle, so deep."""
    x, y = np.meshgrid(np.arange(-20, 20.01, _STEP), np.arange(-12, 12.01, _STEP), indexing="ij")
    z = -groove * np.clip(3.5 - np.abs(x), 0, 1)
    rng = np.random.default_rng(4)
    vertices = np.column_stack([x.ravel(), y.ravel(), z.ravel() + rng.normal(0, 0.02, x.size)])
    n = np.arange(x.size).reshape(x.shape)
    a, b, c, d = n[:-1, :-1], n[1:, :-1], n[1:, 1:], n[:-1, 1:]
    corners = np.concatenate([np.stack(t, -1).reshape(-1, 3) for t in ((a, b, c), (a, c, d))])
    facets = np.asarray(corners, np.int32)
    mesh = Mesh(vertices, facets, np.arange(len(facets), dtype=np.int64))
    return prepare_mesh(mesh, pose=np.eye(4), raw_facets=len(facets))


def without(scan: PreparedScan, gone: np.ndarray) -> PreparedScan:
    facets = scan.facets[~gone]
    mesh = Mesh(scan.vertices, facets, np.arange(len(facets), dtype=np.int64))
    return prepare_mesh(mesh, pose=np.eye(4), raw_facets=len(facets))


def areas_of(scan: PreparedScan, kind: str) -> list[float]:
    return sorted((r.area for r in segment(scan).regions if r.kind == kind), reverse=True)


def test_two_halves_of_a_plate_that_nothing_joins_are_one_plane() -> None:
    whole = plate()
    halves = without(whole, np.abs(whole.centroids[:, 0]) < 2.5)
    assert len(areas_of(halves, "plane")) == 1


def test_stripes_of_a_line_scanner_are_one_plane() -> None:
    whole = plate()
    stripes = without(whole, (whole.centroids[:, 1] + 20) % 4.0 < 1.6)
    planes = areas_of(stripes, "plane")
    assert planes[0] > 0.95 * stripes.areas.sum()


def test_a_bore_seen_in_three_stretches_is_one_cylinder() -> None:
    whole = tube(0.0, noise=0.02)
    z = whole.centroids[:, 2]
    low, high = z.min(), z.max()
    third = (high - low) / 3
    parted = without(whole, (np.abs(z - low - third) < 1.2) | (np.abs(z - low - 2 * third) < 1.2))
    assert len(areas_of(parted, "cylinder")) == 1


@pytest.mark.parametrize("hole", [None, (0.0, 0.0), (0.0, 4.0)])
def test_what_a_groove_parts_stays_two_faces_even_where_the_groove_was_not_seen(
    hole: tuple[float, float] | None,
) -> None:
    scan = plate(groove=1.5)
    if hole is not None:
        scan = without(scan, np.linalg.norm(scan.centroids[:, :2] - hole, axis=1) < 4.0)
    assert sum(a > 200 for a in areas_of(scan, "plane")) == 2
