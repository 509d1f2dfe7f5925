"""Distances against the kernel's own projection and against closed forms."""

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_ShapeEnum, TopAbs_State

from contour.check.deviation import deviations, sample_order, summarise, unseen_share
from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.check.exact_solid import load_exact, save_exact
from contour.solid.shape import edges, shape_map
from tests.conftest import circle, cube, prism, rectangle


def fillet(body):
    maker = BRepFilletAPI_MakeFillet(body.shape)
    for edge in edges(body.shape)[:3]:
        maker.Add(1.5, edge)
    return maker.Shape()


SHAPES = {
    "drilled": lambda: prism([*rectangle(40, 30), circle(15, 15, 6)], 10).shape,
    "reflex": lambda: prism([*rectangle(12, 12), circle(6, 6, 5.8)], 4).shape,
    "cone": lambda: BRepPrimAPI_MakeCone(10, 4, 15).Shape(),
    "sphere": lambda: BRepPrimAPI_MakeSphere(9).Shape(),
    "torus": lambda: BRepPrimAPI_MakeTorus(12, 4).Shape(),
    "filleted": lambda: fillet(prism(rectangle(20, 15), 10)),
}


@pytest.mark.parametrize("make", SHAPES.values(), ids=SHAPES.keys())
def test_distance_and_side_agree_with_exact_projection(make):
    shape = make()
    solid = exact_arrays(shape)
    rng = np.random.default_rng(8)
    # near the surface and near its edges: corners of triangles are where trimming ends
    pick = rng.integers(0, len(solid.triangles), 120)
    w = rng.dirichlet([0.35] * 3, 120)
    points = np.einsum("nk,nkd->nd", w, solid.vertices[solid.triangles[pick]])
    points += rng.normal(0, 1, (120, 3)) * rng.choice([0.004, 0.05, 0.6], 120)[:, None]
    signed, _, feet = signed_distances(solid, points)
    shells = shape_map(shape, TopAbs_ShapeEnum.TopAbs_SHELL)
    skin = shells.FindKey(1)
    side = BRepClass3d_SolidClassifier(shape)
    for p, d, foot in zip(points, signed, feet, strict=True):
        at = gp_Pnt(*map(float, p))
        truth = BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(at).Vertex(), skin).Value()
        assert abs(d) == pytest.approx(truth, abs=1e-3)  # one micrometre
        assert np.linalg.norm(foot - p) == pytest.approx(abs(d), abs=1e-9)
        side.Perform(at, 1e-9)
        if truth > 1e-6:
            assert (d < 0) == (side.State() == TopAbs_State.TopAbs_IN)


def test_arrays_survive_the_disk(tmp_path, drilled_block):
    solid = exact_arrays(drilled_block.shape)
    save_exact(solid, tmp_path / "x.npz")
    point = np.array([[3.0, 4.0, 10.5], [15.0, 15.0, 5.0]])
    assert signed_distances(load_exact(tmp_path / "x.npz"), point)[0] == pytest.approx([0.5, 6.0])


def test_the_figures_of_a_raised_square():
    x, y = np.meshgrid(np.arange(10.0), np.arange(10.0))
    points = np.column_stack([x.ravel(), y.ravel(), np.zeros(100)])
    d = np.where(x.ravel() < 2, 0.3, 0.02)
    weights = np.where(x.ravel() < 2, 3.0, 1.0)  # the raised fifth stands for 60 of 140 mm²
    fit = summarise(points, weights, d, acceptance_mm=0.1, unseen=None, sampled=False)
    assert fit.inside_share == pytest.approx(80 / 140)
    assert fit.mean == pytest.approx((60 * 0.3 + 80 * 0.02) / 140)
    assert fit.max == 0.3
    assert fit.p95 == 0.3
    assert sum(fit.histogram) == pytest.approx(1)
    assert fit.histogram[-1] == pytest.approx(60 / 140)
    assert all(w.deviation == 0.3 for w in fit.worst)
    gaps = [np.linalg.norm(np.subtract(a.point, b.point)) for a in fit.worst for b in fit.worst if a is not b]
    assert min(gaps) > 1.0  # worst places are places, not neighbours of one place


def test_a_scan_of_the_part_fits_it_and_a_shifted_one_does_not(block_scan, drilled_block):
    solid = exact_arrays(drilled_block.shape)
    d = deviations([solid], block_scan.vertices)
    inner = np.abs(d) < 0.06
    assert inner.mean() > 0.85  # the rest are softened edges
    up = deviations([solid], block_scan.vertices + [0, 0, 0.5])
    flat = (block_scan.vertices[:, 2] > 9.9) & (block_scan.vertices[:, 0] > 24) & (block_scan.vertices[:, 0] < 38)
    assert np.median(up[flat]) == pytest.approx(0.5, abs=0.01)


def test_two_bodies_count_as_one_skin():
    left = exact_arrays(prism(rectangle(10, 10), 10).shape)
    right = exact_arrays(prism(rectangle(10, 10, at=(20, 0)), 10).shape)
    d = deviations([left, right], np.array([[5.0, 5, 5], [25.0, 5, 5], [12.0, 5, 5], [19.0, 5, 5]]))
    assert d == pytest.approx([-5, -5, 2, 1])


def test_what_the_scan_never_saw_is_a_share_of_the_surface(drilled_block):
    solid = exact_arrays(prism(rectangle(10, 10), 10).shape)
    rng = np.random.default_rng(0)
    five = [np.insert(rng.uniform(0, 10, (4000, 2)), axis, value, axis=1) for axis in range(3) for value in (0, 10)][1:]
    none = np.zeros((0, 3), np.int32)
    assert unseen_share([solid], np.vstack(five), none, 0.5) == pytest.approx(
        81 / 600, abs=0.02
    )  # but half a millimetre round the rim


def test_a_large_facet_is_seen_all_over():
    """A modelled box has vertices at its corners alone; without one side of it that side is unseen, and no more."""
    solid = exact_arrays(prism(rectangle(10, 10), 10).shape)
    corners = cube((10, 10, 10))
    vertices, facets = corners.reshape(-1, 3), np.arange(36, dtype=np.int32).reshape(-1, 3)
    assert unseen_share([solid], vertices, facets, 0.5) == 0
    top = (corners[:, :, 2] > 9).all(axis=1)
    assert unseen_share([solid], vertices, facets[~top], 0.5) == pytest.approx(81 / 600, abs=0.02)


def test_the_sample_is_always_the_same():
    assert np.array_equal(sample_order(90_000), sample_order(90_000))
    assert len(sample_order(90_000)) == 20_000
    assert len(sample_order(50)) == 50
