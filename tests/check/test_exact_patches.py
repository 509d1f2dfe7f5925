"""Distances to random trimmed patches of every analytic surface against the kernel's own projection (./run bench patches has
10,000 points of each), and to domed heads against closed forms."""

from __future__ import annotations

import math
from functools import partial

import numpy as np
import pytest
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.Geom import Geom_CylindricalSurface, Geom_SphericalSurface, Geom_ToroidalSurface
from OCP.gp import gp_Ax3, gp_Circ, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.geometry.surface_rows import TORUS
from contour.mesh.prepare import prepare_scan
from contour.products import Extras
from contour.products.body import KIND as BODY
from contour.products.body import BodyProduct
from contour.register.best_fit import best_fit
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.solid.shape import is_valid, write_shape
from tests.conftest import raw_scan
from tests.patches import PATCHES, disagreement, points_about, random_patch


@pytest.mark.parametrize("kind", PATCHES)
def test_distances_agree_with_the_kernels_projection(kind: str) -> None:
    for k in range(14):
        rng = np.random.default_rng([k, 29])
        patch = random_patch(kind, rng)
        off = disagreement(patch, points_about(patch, 20, rng))
        assert np.abs(off).max() < 1e-3, k  # one micrometre


def domed_head(middle: float, crown: float = 12.0, rim: float = 6.0):
    """A turned head: a flat disk of radius `rim` under an arc of radius `crown` whose middle lies `middle` beside the axis.
    On the far side of it (negative) the dome lies on the inner sheet of its torus. Made as files bring it: of single faces."""
    ring, frame = abs(middle), gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    low = math.sqrt(crown**2 - (rim - middle) ** 2)
    tip, edge = math.acos(-ring / crown), math.acos((rim - middle) / crown)
    v = (edge, tip) if middle > 0 else (tip, math.pi - edge)
    dome = BRepBuilderAPI_MakeFace(Geom_ToroidalSurface(frame, ring, crown), 0, 2 * math.pi, *v, 1e-7).Face()
    foot = gp_Ax3(gp_Pnt(0, 0, low - 3), gp_Dir(0, 0, 1))
    side = BRepBuilderAPI_MakeFace(Geom_CylindricalSurface(foot, rim), 0, 2 * math.pi, 0, 3, 1e-7).Face()
    disk = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(foot.Ax2(), rim)).Edge()).Wire()
    sewing = BRepBuilderAPI_Sewing(1e-6)
    for face in (dome, side, BRepBuilderAPI_MakeFace(disk).Face()):
        sewing.Add(face)
    sewing.Perform()
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(sewing.SewedShape())).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


@pytest.mark.parametrize("middle", [-2.0, -0.3, 1.5, 3.0])
def test_on_a_domed_head_the_distance_along_the_normal_comes_back(middle: float) -> None:
    shape = domed_head(middle)
    assert is_valid(shape)
    solid = exact_arrays(shape)
    assert (solid.face_kind == TORUS).sum() == 1
    rng = np.random.default_rng(4)
    rho, around = rng.uniform(0.3, 5.5, 500), rng.uniform(0, 2 * np.pi, 500)
    out = np.column_stack([(rho - middle) / 12.0, np.sqrt(1 - ((rho - middle) / 12.0) ** 2)])
    for away in (-0.2, 0.0, 0.03, 1.0):
        across, height = (np.column_stack([rho, 12.0 * out[:, 1]]) + away * out).T
        keeps = across > 0.05  # past the axis another place is nearest
        points = np.column_stack([across * np.cos(around), across * np.sin(around), height])[keeps]
        assert signed_distances(solid, points)[0] == pytest.approx(np.full(keeps.sum(), away), abs=1e-9)


def test_a_scan_of_a_domed_head_lies_on_it_and_is_laid_on_it() -> None:
    solid = exact_arrays(domed_head(-2.0))
    made = virtual_scan(solid, ScanSettings(spacing_mm=0.5, noise_mm=0.01, soften=0, seed=2))
    scan = prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)
    assert np.abs(signed_distances(solid, np.asarray(scan.vertices))[0]).max() < 0.2
    assert np.percentile(np.abs(signed_distances(solid, np.asarray(scan.vertices))[0]), 95) < 0.03
    placed = best_fit(
        np.asarray(scan.vertices), np.asarray(scan.facets), solid, partial(signed_distances, solid), noise_mm=0.01
    )
    assert placed.rms < 0.03


@pytest.mark.parametrize(
    "make", [lambda: BRepPrimAPI_MakeSphere(9).Shape(), lambda: BRepPrimAPI_MakeTorus(9, 3).Shape()]
)
def test_a_body_without_any_border_has_a_view(make, tmp_path) -> None:
    assert BODY.beside is not None
    BODY.beside(BodyProduct(write_shape(make()), ("a.sphere",)), tmp_path, Extras())
    assert (tmp_path / "view.bin").stat().st_size > 1000
    assert (tmp_path / "exact.npz").exists()


def test_about_the_centre_of_a_sphere_the_foot_stays_on_the_patch() -> None:
    """All of the sphere is about as far from there; of a patch only what is left of it counts."""
    face = BRepBuilderAPI_MakeFace(Geom_SphericalSurface(gp_Ax3(), 10.0), 0.0, 1.0, -0.5, 0.5, 1e-7).Face()
    solid = exact_arrays(face)
    points = np.random.default_rng(8).normal(0, 0.02, (300, 3))
    signed, _, feet = signed_distances(solid, points)
    around, up = np.arctan2(feet[:, 1], feet[:, 0]), np.arcsin(feet[:, 2] / 10)
    assert np.all((around > -1e-9) & (around < 1 + 1e-9) & (np.abs(up) < 0.5 + 1e-9))
    # Against every place of the patch: a grid of places 0.1 mm apart is at most 0.01 micrometres farther, this far away.
    u, v = np.meshgrid(np.linspace(0, 1, 101), np.linspace(-0.5, 0.5, 101))
    grid = 10 * np.column_stack([(np.cos(v) * np.cos(u)).ravel(), (np.cos(v) * np.sin(u)).ravel(), np.sin(v).ravel()])
    best = np.linalg.norm(points[:, None] - grid[None], axis=2).min(axis=1)
    assert np.abs(signed) == pytest.approx(best, abs=1e-4)
    assert np.all(np.abs(signed) <= best + 1e-9)
