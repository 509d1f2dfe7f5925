"""A huge mesh reduced for the eye keeps an exact relation to what it is computed with."""

import numpy as np
import pytest

from contour.mesh.coarse import coarse_mesh
from contour.mesh.prepare import prepare_mesh
from contour.products.buffers import read_view, scan_view
from tests.shapes import sphere


@pytest.mark.parametrize("aim", [2_000, 8_000])
def test_every_facet_is_shown_where_it_lies(aim):
    mesh = sphere(160, 20.0)  # 51,000 facets
    coarse = coarse_mesh(mesh.vertices, mesh.facets, aim=aim)
    assert 0.4 * aim < len(coarse.facets) < 2 * aim
    shown = mesh.vertices[coarse.vertex_of]
    assert np.allclose(np.linalg.norm(shown, axis=1), 20.0)  # vertices of the mesh, none between
    middle = mesh.vertices[mesh.facets].mean(axis=1)
    gap = np.linalg.norm(middle - shown[coarse.facets].mean(axis=1)[coarse.shown_by], axis=1)
    cell = np.sqrt(4 * np.pi * 20.0**2 / len(coarse.facets))
    assert gap.max() < 3.5 * cell
    assert np.percentile(gap, 50) < 1.5 * cell
    # There and back is the same facet, for every facet that is shown.
    assert (coarse.shown_by[coarse.facet_of] == np.arange(len(coarse.facets))).all()


def test_a_cloud_of_loose_facets_is_reduced_too():
    rng = np.random.default_rng(2)
    corners = rng.uniform(0, 100, (30_000, 1, 3)) + rng.normal(0, 0.05, (30_000, 3, 3))
    facets = np.arange(90_000, dtype=np.int32).reshape(-1, 3)
    coarse = coarse_mesh(corners.reshape(-1, 3), facets, aim=500)
    assert coarse.shown_by.shape == (30_000,)
    # Crumbs within one cell are shown by none, and so are picked with none.
    none = coarse.shown_by == len(coarse.facets)
    assert none.any()
    assert coarse.shown_by.max() == len(coarse.facets)
    assert (coarse.shown_by[coarse.facet_of] == np.arange(len(coarse.facets))).all()


def test_the_view_buffer_of_a_huge_scan_carries_the_relation(tmp_path, monkeypatch):
    monkeypatch.setattr("contour.products.buffers.MOST_SHOWN", 20_000)
    scan = prepare_mesh(sphere(160, 20.0), pose=np.eye(4), raw_facets=51_000)
    scan_view(tmp_path / "view.bin", scan)
    arrays, origin = read_view(tmp_path / "view.bin")
    assert len(arrays["shown_by"]) == len(scan.facets)
    assert 3 * len(arrays["vertex_of"]) == len(arrays["positions"])
    assert np.allclose(
        arrays["positions"].reshape(-1, 3) + origin, scan.vertices[arrays["vertex_of"].astype(int)], atol=1e-5
    )
    small = sphere(40, 20.0)
    scan_view(tmp_path / "small.bin", prepare_mesh(small, pose=np.eye(4), raw_facets=6_000))
    assert "shown_by" not in read_view(tmp_path / "small.bin")[0]
