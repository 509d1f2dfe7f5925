"""Bodies come out as closed meshes, also where the kernel's triangles are not."""

from __future__ import annotations

import math

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Pnt

from benchmarks.random_parts import random_part
from contour.solid import closed_mesh as module
from contour.solid.closed_mesh import closed_mesh
from contour.solid.mass import volume


def trimesh_volume(vertices, facets):
    a, b, c = (vertices[facets[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def sides_of(facets):
    """How often each side is run, forwards less backwards."""
    ways = np.concatenate([facets[:, [0, 1]], facets[:, [1, 2]], facets[:, [2, 0]]])
    turned = np.where(ways[:, 0] < ways[:, 1], 1, -1)
    _, side = np.unique(np.sort(ways, axis=1), axis=0, return_inverse=True)
    return np.bincount(side.ravel(), turned)


def test_a_cylinder_is_meshed_as_asked_at_the_first_attempt():
    said = []
    shape = BRepPrimAPI_MakeCylinder(5, 10).Shape()
    vertices, facets = closed_mesh(shape, chord_mm=0.05, angle_rad=0.3, report=said.append)
    assert said == [] and not sides_of(facets).any()
    radii = np.linalg.norm(vertices[:, :2], axis=1)
    assert radii[radii > 1].max() == pytest.approx(5) and radii[radii > 1].min() > 4.95
    assert trimesh_volume(vertices, facets) == pytest.approx(math.pi * 250, rel=0.02)


@pytest.mark.parametrize(("seed", "again"), [(61, False), (85, True), (108, False)])
def test_faces_that_the_kernel_meshes_wrongly_come_out_whole(seed, again):
    """Flat ones at once; others a little finer."""
    said = []
    shape = random_part(seed)
    vertices, facets = closed_mesh(shape, chord_mm=0.1, angle_rad=0.5, report=said.append)
    assert bool(said) == again and not sides_of(facets).any()
    assert trimesh_volume(vertices, facets) == pytest.approx(volume(shape), rel=5e-3)


def test_bodies_that_touch_along_an_edge_are_closed(monkeypatch):
    monkeypatch.setattr(module, "_TRIES", 1)
    said = []
    two = BRepAlgoAPI_Fuse(
        BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 5, 5, 5).Shape(), BRepPrimAPI_MakeBox(gp_Pnt(5, 5, 0), 5, 5, 5).Shape()
    ).Shape()
    vertices, facets = closed_mesh(two, chord_mm=0.1, angle_rad=0.5, report=said.append)
    assert said == [] and len(facets) == 24 and trimesh_volume(vertices, facets) == pytest.approx(250)


def test_where_no_attempt_closes_the_first_is_given_for_who_reads_it_back(monkeypatch):
    lid = BRepPrimAPI_MakeBox(4, 4, 4).Shell()
    monkeypatch.setattr(module, "neighbours", lambda *_: (None, np.array([1, 0, 0, 0])))
    said = []
    vertices, facets = closed_mesh(lid, chord_mm=0.1, angle_rad=0.5, report=said.append)
    assert len(said) == 2 * module._TRIES - 1 and len(facets) == 12 and np.ptp(vertices, axis=0) == pytest.approx(4)
