import numpy as np
import pytest

from contour.mesh.health import guess_unit, inspect_scan
from contour.mesh.prepare import load_prepared, prepare_scan, save_prepared
from contour.mesh.topology import neighbours, weld
from tests.conftest import cube, raw_scan


def test_a_box_in_inches_is_measured_in_mm():
    facts = inspect_scan(raw_scan(cube((2, 1, 0.5))), 25.4)
    assert facts.size == pytest.approx((50.8, 25.4, 12.7))
    assert facts.volume == pytest.approx(2 * 1 * 0.5 * 25.4**3)
    assert facts.area == pytest.approx(2 * (2 + 1 + 0.5) * 25.4**2)
    assert facts.unit_guess == "inch"
    assert facts.components == 1


def test_a_hole_is_counted_and_leaves_no_volume():
    facts = inspect_scan(raw_scan(cube()[:-2]), 1.0)
    assert (facts.open_edges, facts.closed, facts.volume) == (4, False, None)


def test_repeats_and_collapsed_facets_are_told_apart_from_junctions():
    corners = np.vstack([cube(), cube()[:1], cube()[1:2][:, ::-1], cube()[:1][:, [0, 0, 1]]])
    facts = inspect_scan(raw_scan(corners), 1.0)
    assert facts.facets == 15
    assert (facts.duplicate_facets, facts.degenerate_facets) == (2, 1)
    assert (facts.open_edges, facts.nonmanifold_edges, facts.closed) == (0, 0, True)


def test_two_cubes_on_one_edge_are_a_junction_but_closed():
    facts = inspect_scan(raw_scan(np.vstack([cube(), cube() + [1, 1, 0]])), 1.0)
    assert facts.nonmanifold_edges == 1
    assert facts.volume == pytest.approx(2.0)
    assert inspect_scan(raw_scan(np.vstack([cube(), cube() + 5])), 1.0).components == 2


def test_a_fin_of_three_facets_on_an_edge_is_not_closed():
    fin = np.array([[[0, 0, 0], [1, 0, 0], [0.5, -1, 0]]], dtype=float)
    facts = inspect_scan(raw_scan(np.vstack([cube(), fin])), 1.0)
    assert (facts.nonmanifold_edges, facts.open_edges, facts.closed) == (1, 2, False)


def test_facets_turned_round_are_said():
    inside_out = inspect_scan(raw_scan(cube()[:, ::-1]), 1.0)
    assert inside_out.volume == pytest.approx(1.0)
    assert any("inwards" in w for w in inside_out.warnings)
    one = cube()
    one[0] = one[0, ::-1]
    mixed = inspect_scan(raw_scan(one), 1.0)
    assert mixed.volume is None
    assert any("opposite" in w for w in mixed.warnings)


@pytest.mark.parametrize(("largest", "unit"), [(0.12, "m"), (4.7, "inch"), (120, "mm"), (9, "mm")])
def test_the_unit_is_proposed_by_size(largest, unit):
    assert guess_unit(largest) == unit


@pytest.mark.parametrize("sigma", [0.01, 0.05])
def test_noise_of_a_flat_noisy_grid_is_found(sigma):
    rng = np.random.default_rng(1)
    n = 90
    x, y = np.meshgrid(np.arange(n) * 0.5, np.arange(n) * 0.5, indexing="ij")
    points = np.column_stack([x.ravel(), y.ravel(), rng.normal(0, sigma, n * n)])
    i = np.arange(n * n).reshape(n, n)
    a, b, c, d = i[:-1, :-1].ravel(), i[1:, :-1].ravel(), i[1:, 1:].ravel(), i[:-1, 1:].ravel()
    facets = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    assert inspect_scan(raw_scan(points[facets]), 1.0).noise == pytest.approx(sigma, rel=0.15)


def test_welding_joins_equal_corners_and_minus_zero():
    corners = np.array([[[0.0, 0, 0], [1, 0, 0], [0, 1, 0]], [[-0.0, 0, 0], [0, 1, 0], [-1, 0, 0]]])
    vertices, facets = weld(corners)
    assert len(vertices) == 4
    across, counts = neighbours(facets, len(vertices))
    assert counts[0] == 4  # open edges
    assert across[0, 2] // 3 == 1
    assert across[1, 0] // 3 == 0


def test_a_prepared_scan_leads_back_to_the_file_and_survives_the_disk(tmp_path, block_scan):
    scan = prepare_scan(raw_scan(cube()), 10.0)
    assert sorted(scan.source_facet) == list(range(12))
    back = scan.facets_of_source(np.array([5]))
    assert np.allclose(np.sort(scan.vertices[scan.facets[back[0]]], axis=0), np.sort(10 * cube()[5], axis=0))
    assert len(scan.facets_of_source(np.array([99]))) == 0
    save_prepared(block_scan, tmp_path)
    again = load_prepared(tmp_path)
    assert np.array_equal(again.facets, block_scan.facets)
    assert again.noise_mm == block_scan.noise_mm
    # Kernels are compiled once for both: a scan from the disk has the array types of one just made, and writing to it stays here.
    assert again.vertices.flags.writeable
    again.vertices[0] += 1.0
    assert np.array_equal(load_prepared(tmp_path).vertices, block_scan.vertices)
