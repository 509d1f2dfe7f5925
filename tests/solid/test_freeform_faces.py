"""Freeform faces of modelled meshes as one face each, held against the blends that they were exported from."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from benchmarks.random_parts import random_part
from contour.fit.modelled import exact_regions
from contour.solid.face_geometry import face_kinds
from contour.solid.mass import volume
from contour.solid.of_regions import Sheet, covers_of, sheet_of
from contour.solid.shape import edges, faces, free_edges, read_shape, write_shape
from contour.solid.solidify import solidify
from contour.solid.tessellate import tessellate
from tests.fit.test_modelled import exported


@cache
def leaning_boss():
    """A boss that leans on a plate, with a fillet about its foot: round, but no torus."""
    plate = BRepPrimAPI_MakeBox(gp_Pnt(-30, -25, 0), 60.0, 50.0, 12.0).Shape()
    boss = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, 5), gp_Dir(0.35, 0.1, 1)), 8.0, 35.0).Shape()
    both = BRepAlgoAPI_Fuse(plate, boss).Shape()
    make = BRepFilletAPI_MakeFillet(both)
    for edge in edges(both):
        if BRepAdaptor_Curve(edge).GetType() == GeomAbs_CurveType.GeomAbs_Ellipse:
            make.Add(3.0, edge)
    return make.Shape()


def off_from(shape, places):
    return np.array(
        [
            BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, p))).Vertex(), shape).Value()
            for p in places
        ]
    )


def some(places, most=100):
    """Not more than so many of them."""
    return places[:: 1 + len(places) // most]


def widest_edge(shape):
    return max(BRep_Tool.Tolerance_s(e) for e in edges(shape))


def over_freeform(shape, chord_mm=0.02):
    """Places on the freeform faces of a solid, between its edges too, as near as the chord."""
    fine = tessellate(shape, chord_mm=chord_mm, angle_rad=0.2)
    kinds = np.array(face_kinds(shape))
    middles = fine.vertices[fine.triangles[kinds[fine.face] == "freeform"]].mean(axis=1)
    return middles[:: 1 + len(middles) // 120]


def test_the_fillet_about_a_leaning_boss_is_one_face_nearer_to_the_true_one_than_its_facets():
    true = leaning_boss()
    scan, _ = exported(true, 0.1)
    made = solidify(scan)
    assert made.kinds == {"cylinder": 1, "freeform": 1, "plane": 7} and made.flat == 0
    assert made.closed and made.valid and not free_edges(read_shape(write_shape(made.body.shape)))
    assert made.volume == pytest.approx(volume(true), rel=2e-5)
    facets = scan.centroids[scan.centroids[:, 2] > 12.001]
    blend = facets[np.linalg.norm(facets[:, :2], axis=1) < 16]
    assert (
        off_from(true, some(over_freeform(made.body.shape), 400)).max() < 0.5 * off_from(true, some(blend, 400)).max()
    )


def test_a_fine_mesh_of_the_same_fillet_is_covered_in_parts_that_meet():
    true = leaning_boss()
    scan, _ = exported(true, 0.02)  # one patch comes not near enough to the tight side of the foot
    made = solidify(scan)
    assert made.flat == 0 and made.closed and made.valid
    assert made.kinds["plane"] == 7 and 2 <= made.kinds["freeform"] <= 8
    assert made.volume == pytest.approx(volume(true), rel=2e-6)
    assert (
        off_from(true, some(over_freeform(made.body.shape, 0.002), 400)).max() < 0.004
    )  # the facets' own chords are 0.004 deep
    assert not free_edges(read_shape(write_shape(made.body.shape)))
    assert widest_edge(made.body.shape) < 0.004


def test_patches_of_a_coarse_mesh_are_taken_only_where_their_edges_lie_within_its_chords():
    scan, _ = exported(leaning_boss(), 0.5)
    made = solidify(scan)
    assert made.closed and made.valid and made.kinds["freeform"] >= 1
    assert widest_edge(made.body.shape) < 0.1  # a fillet of 3 mm in such facets is off by that


def test_a_blend_that_bends_around_itself_is_covered_in_parts():
    part = random_part(76)
    scan, owner = exported(part, 0.1)
    blend = scan.facets[owner == face_kinds(part).index("freeform")]
    assert sheet_of(scan.vertices, blend, 0) is None  # a ring that does not spread out flat
    made = solidify(scan)
    assert made.closed and made.valid and made.flat == 0 and made.kinds["freeform"] <= 4
    assert made.volume == pytest.approx(volume(part), rel=2e-5)
    assert np.sqrt((off_from(part, some(over_freeform(made.body.shape))) ** 2).mean()) < 0.01


def test_pieces_of_a_blend_that_lie_on_some_torus_are_not_told_as_one():
    scan, owner = exported(leaning_boss(), 0.1)
    found = exact_regions(scan)
    blend = face_kinds(leaning_boss()).index("freeform")
    regions = {found.regions[r].kind for r in np.unique(found.labels[owner == blend])}
    assert regions == {"freeform"} and len(np.unique(found.labels[owner == blend])) == 1
    assert sheet_of(scan.vertices, scan.facets[owner == blend], 0) is not None


def test_a_torus_of_hundreds_of_facets_among_blends_is_no_part_of_them():
    """It runs raggedly into freeform blends all around, and was made one face with them, which nothing covers: hundreds of flat facets."""
    part = random_part(1)
    scan, owner = exported(part, 0.1)
    largest = max((k for k, kind in enumerate(face_kinds(part)) if kind == "torus"), key=lambda k: (owner == k).sum())
    found = exact_regions(scan)
    (region,) = np.unique(found.labels[owner == largest])
    assert found.regions[region].kind == "torus"
    made = solidify(scan)
    assert made.closed and made.valid and made.flat == 0
    assert made.volume == pytest.approx(volume(part), rel=2e-5)


def test_a_blend_that_a_torus_comes_as_near_to_as_modellers_do_is_one_torus():
    """The kernel's own face is freeform there, a fifth of a micrometre off a torus."""
    part = random_part(7)
    scan, _ = exported(part, 0.1)
    made = solidify(scan)
    assert made.closed and made.valid and made.flat == 0 and len(faces(made.body.shape)) == len(faces(part))
    assert "freeform" not in made.kinds and made.kinds["torus"] >= 1
    assert made.volume == pytest.approx(volume(part), rel=2e-5)


@pytest.mark.parametrize("seed", [39, 42])
def test_blends_of_random_parts_are_covered_and_lie_near_their_true_faces(seed):
    part = random_part(seed)
    scan, _ = exported(part, 0.1)
    made = solidify(scan)
    assert made.closed and made.valid and made.kinds["freeform"] >= 1 and made.flat <= 0.02 * len(scan.facets)
    assert made.volume == pytest.approx(volume(part), rel=2e-5)
    assert np.sqrt((off_from(part, some(over_freeform(made.body.shape))) ** 2).mean()) < 0.02


@pytest.mark.parametrize(
    ("seed", "most"),
    [
        (19, 13),  # the border of a blend has a kink: one curve through it swung across the torus beside
        (46, 30),  # two parts of a blend were a tenth of a millimetre apart between the vertices of their border
        (75, 33),  # one facet at a corner that the patch turns away from
    ],
)
def test_blends_that_were_hundreds_of_flat_facets_are_a_few_faces(seed, most):
    part = random_part(seed)
    scan, _ = exported(part, 0.1)
    made = solidify(scan)
    assert made.closed and made.valid and made.flat <= 2
    assert len(face_kinds(part)) - 3 <= len(faces(made.body.shape)) <= most
    # Its freeform faces lie about as near to the true ones as the facets did.
    chord = off_from(part, some(scan.centroids)).max()
    off = off_from(part, some(over_freeform(made.body.shape)))
    assert off.max() < max(3 * chord, 0.02) and np.sqrt((off**2).mean()) < max(0.6 * chord, 0.01)
    assert made.volume == pytest.approx(volume(part), rel=1e-4)


def test_what_cannot_be_cut_is_allowed_to_come_no_nearer_than_its_facets_and_then_rather_than_many_of_them():
    scan, _ = exported(leaning_boss(), 0.1)
    covers = covers_of(scan, exact_regions(scan))
    blend = next(k for k, over in enumerate(covers.over) if isinstance(over, Sheet))
    strict = covers.over[blend].most_off(1e-3)
    assert covers.allow(blend) and covers.over[blend].last == 1
    no_nearer = covers.over[blend].most_off(1e-3), covers.over[blend].most_gap()
    assert covers.allow(blend) and covers.over[blend].last == 2 and not covers.allow(blend)
    sheet = covers.over[blend]
    assert strict <= no_nearer[0] < sheet.most_off(1e-3) and no_nearer[1] < sheet.most_gap() <= 0.02
    few = replace(sheet, facets=sheet.facets[:10])
    assert few.most_off(1e-3) == no_nearer[0]  # ten flat facets are no trouble
    assert not covers.allow(next(k for k, over in enumerate(covers.over) if not isinstance(over, Sheet)))


def test_a_few_facets_of_a_blend_that_lie_on_a_cone_or_a_torus_are_part_of_it():
    part = random_part(43)
    scan, owner = exported(part, 0.1)
    found = exact_regions(scan)
    blends = [k for k, kind in enumerate(face_kinds(part)) if kind == "freeform" and (owner == k).sum() > 20]
    told = {found.regions[r].kind for k in blends for r in np.unique(found.labels[owner == k])}
    assert told == {"freeform"}


def test_fillets_of_a_few_facets_among_planes_stay_cylinders():
    """What is as small, and runs softly into its neighbours, but is no part of a freeform face."""
    block = BRepPrimAPI_MakeBox(20.0, 14.0, 0.8).Shape()
    make = BRepFilletAPI_MakeFillet(block)
    for edge in edges(block):
        line = BRepAdaptor_Curve(edge)
        if abs(line.Line().Direction().Z()) > 0.9:
            make.Add(2.0, edge)
    found = exact_regions(exported(make.Shape(), 0.1)[0])
    assert sorted(r.kind for r in found.regions) == ["cylinder"] * 4 + ["plane"] * 6
    assert max(r.facets for r in found.regions if r.kind == "cylinder") <= 16


def test_a_ball_that_would_close_on_the_wrong_side_of_its_border_is_told():
    """Valid and closed, and yet a quarter of the volume was missing."""
    part = random_part(43)
    made = solidify(exported(part, 0.1)[0])
    assert made.closed and made.valid
    assert made.volume == pytest.approx(volume(part), rel=1e-4)
    assert len(faces(made.body.shape)) < 60
