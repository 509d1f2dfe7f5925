"""The triangles of a solid: every face has some, they close, and they enclose what the solid does."""

from __future__ import annotations

import math

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.collections import Array1_gp_Pnt
from OCP.GeomAPI import GeomAPI_PointsToBSpline
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS_Shape

from contour.solid.mass import volume
from contour.solid.shape import faces
from contour.solid.tessellate import Tessellation, tessellate
from demo.truth_parts import TRUTH_PARTS


def wavy_prism() -> TopoDS_Shape:
    """Two straight sides and a free curve, drawn out: a face that the faster way of meshing gives nothing for."""
    spots = Array1_gp_Pnt(1, 5)
    for k, (x, y) in enumerate([(0, 0), (3, 2), (6, -1), (9, 3), (12, 0)]):
        spots.SetValue(k + 1, gp_Pnt(x, y, 0))
    wave = BRepBuilderAPI_MakeEdge(GeomAPI_PointsToBSpline(spots).Curve()).Edge()
    sides = [(gp_Pnt(12, 0, 0), gp_Pnt(6, -10, 0)), (gp_Pnt(6, -10, 0), gp_Pnt(0, 0, 0))]
    wire = BRepBuilderAPI_MakeWire(wave, *(BRepBuilderAPI_MakeEdge(*ends).Edge() for ends in sides)).Wire()
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire).Face(), gp_Vec(0, 0, 5)).Shape()


SHAPES = {"wavy prism": wavy_prism, **TRUTH_PARTS}


def enclosed(mesh: Tessellation) -> float:
    a, b, c = (mesh.vertices[mesh.triangles[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def unpaired_sides(mesh: Tessellation) -> int:
    """Sides that no other triangle runs along the other way, by where their ends lie."""
    _, place = np.unique(np.round(mesh.vertices, 6), axis=0, return_inverse=True)
    at = place.reshape(-1)[mesh.triangles]
    sides = [(int(t[k]), int(t[(k + 1) % 3])) for t in at for k in range(3)]
    there = set(sides)
    return sum((b, a) not in there for a, b in sides if a != b)


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("chord", [0.1, 0.02])
def test_every_face_has_triangles_that_close_and_fill(name: str, chord: float) -> None:
    shape = SHAPES[name]()
    mesh = tessellate(shape, chord_mm=chord)
    assert set(mesh.face.tolist()) == set(range(len(faces(shape))))
    assert unpaired_sides(mesh) == 0
    corners = mesh.vertices[mesh.triangles]
    area = float(
        np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    )
    assert enclosed(mesh) == pytest.approx(volume(shape), abs=1.5 * chord * area)


@pytest.mark.parametrize("name", SHAPES)
def test_sides_on_edges_say_which_and_which_way(name: str) -> None:
    mesh = tessellate(SHAPES[name](), chord_mm=0.05)
    corners = mesh.vertices[mesh.triangles]
    checked = 0
    for k in range(3):
        on = np.flatnonzero(mesh.side_edge[:, k] >= 0)
        assert set(mesh.side_sense[on, k].tolist()) <= {-1, 1}
        for t in on[::17]:
            line = mesh.edge_polylines[mesh.side_edge[t, k]]
            a, b = corners[t, k], corners[t, (k + 1) % 3]
            i, j = (int(np.argmin(np.linalg.norm(line - p, axis=1))) for p in (a, b))
            assert np.linalg.norm(line[i] - a) < 1e-6
            assert np.linalg.norm(line[j] - b) < 1e-6
            if abs(i - j) == 1 and len(line) > 3:
                assert j - i == mesh.side_sense[t, k]
                checked += 1
    assert checked > 0


def test_parameters_of_vertices_are_those_of_their_face() -> None:
    """The drawn-out face has the height as one of them."""
    shape = wavy_prism()
    mesh = tessellate(shape, chord_mm=0.05)
    assert mesh.uv.shape == (len(mesh.vertices), 2)
    on = np.unique(mesh.triangles[mesh.face == 0])
    heights = mesh.vertices[on, 2]
    spread = [np.ptp(heights + sign * mesh.uv[on, 1]) for sign in (-1, 1)]
    assert min(spread) == pytest.approx(0.0, abs=1e-9)
    assert math.isclose(np.ptp(heights), 5.0, abs_tol=1e-9)
