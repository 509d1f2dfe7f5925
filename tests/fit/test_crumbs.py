"""Leftovers between the faces of modelled meshes go where they belong, and blends that follow each other are told apart."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from benchmarks.random_parts import random_part
from contour.fit.modelled import exact_regions, precision_of
from contour.fit.modelled.crumbs import without_crumbs
from contour.fit.modelled.joints import parted_at_joints
from contour.fit.modelled.through import fit_through
from contour.geometry.surface_rows import CODES
from contour.geometry.surfaces import Surface, distances, places
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.solid.face_geometry import face_kinds, middle_of
from contour.solid.mass import volume
from contour.solid.shape import edges, faces
from contour.solid.solidify import solidify
from contour.solid.tessellate import tessellate
from tests.conftest import raw_scan

CONE = Surface("cone", (1.0, 2.0, 3.0), (0.0, 0.0, 1.0), 9.0, 1, half_angle=0.4)
BALL = Surface("sphere", (1.0, 2.0, 3.0), (0.0, 0.0, 1.0), 9.0, 1)
TUBE = Surface("cylinder", (1.0, 2.0, 3.0), (0.0, 0.0, 1.0), 9.0, 1)
TORUS = Surface("torus", (1.0, 2.0, 3.0), (0.0, 0.0, 1.0), 9.0, 1, minor=2.0)
TOLERANCE = 1e-5


def exported(shape, chord_mm: float, angle: float = 0.5) -> tuple[PreparedScan, np.ndarray]:
    made = tessellate(shape, chord_mm=chord_mm, angle_rad=angle)
    scan = prepare_scan(raw_scan(made.vertices.astype(np.float32).astype(float)[made.triangles]), 1.0)
    return scan, made.face[scan.source_facet]


def quadrangles(p: np.ndarray) -> tuple[PreparedScan, np.ndarray]:
    """Places (n, m, 3) as a mesh of quadrangles, each two facets, and the (row, column) of each facet's."""
    rows, corners = [], []
    for i in range(len(p) - 1):
        for j in range(len(p[0]) - 1):
            a, b, c, d = p[i, j], p[i + 1, j], p[i + 1, j + 1], p[i, j + 1]
            corners += [[a, b, c], [a, c, d]]
            rows += [(i, j)] * 2
    scan = prepare_scan(raw_scan(np.array(corners).astype(np.float32).astype(float)), 1.0)
    return scan, np.array(rows)[scan.source_facet]


def grid(surface: Surface, first: tuple[float, float], last: tuple[float, float], shape: tuple[int, int], off=0.0):
    """A piece of a surface as a mesh of quadrangles, facing outwards, and the (row, column) of each facet's; off mm: how far vertices wander."""
    u, v = (np.linspace(a, b, n + 1) for a, b, n in zip(first, last, shape, strict=True))
    at = places(surface, np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2))
    at = at + np.random.default_rng(5).uniform(-off, off, at.shape)
    return quadrangles(at.reshape(len(u), len(v), 3))


def faced(scan: PreparedScan, surface: Surface) -> Surface:
    made = fit_through(CODES[surface.kind], surface, scan, np.arange(len(scan.facets)))
    assert made is not None
    return made[0]


def plane() -> Surface:
    return Surface("plane", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0), 0.0, 1)


def test_facets_of_a_face_that_lay_in_one_plane_with_another_s_go_back_to_it():
    scan, at = grid(CONE, (0, 0), (2, 6), (12, 3))
    crumb = (at[:, 0] == 5) & (at[:, 1] == 1)
    own = faced(scan, CONE)
    made = without_crumbs(scan, [(own, np.flatnonzero(~crumb)), (plane(), np.flatnonzero(crumb))], TOLERANCE)
    assert [(s.kind, len(f)) for s, f in made] == [("cone", len(scan.facets))]


def test_a_flat_on_a_shaft_is_deeper_than_its_facets_and_stays():
    """All four corners of it lie on the cylinder, and it is one quadrangle, as they are."""
    angles = np.concatenate([np.linspace(0, 1, 13), np.linspace(1.6, 3, 15)])  # between 1 and 1.6 there is the flat
    low, high = (np.column_stack([9 * np.cos(angles), 9 * np.sin(angles), np.full(len(angles), z)]) for z in (0, 8))
    corners = [
        t for i in range(len(angles) - 1) for t in ([low[i], low[i + 1], high[i + 1]], [low[i], high[i + 1], high[i]])
    ]
    scan = prepare_scan(raw_scan(np.array(corners).astype(np.float32).astype(float)), 1.0)
    flat = np.isin(scan.source_facet, (24, 25))
    shaft = Surface("cylinder", (0, 0, 0), (0, 0, 1), 9.0, 1)
    faces_ = [(shaft, np.flatnonzero(~flat)), (plane(), np.flatnonzero(flat))]
    assert [(s.kind, len(f)) for s, f in without_crumbs(scan, faces_, TOLERANCE)] == [
        ("cylinder", len(scan.facets) - 2),
        ("plane", 2),
    ]


def test_pieces_that_one_surface_goes_through_are_one_face_whatever_they_were_told_as():
    scan, at = grid(CONE, (0, 0), (1, 6), (8, 2))
    pieces = [np.flatnonzero((at[:, 0] >= a) & (at[:, 0] < b)) for a, b in ((0, 4), (4, 6), (6, 8))]
    own = fit_through(CODES["cone"], CONE, scan, pieces[0])
    torus = fit_through(CODES["torus"], TORUS, scan, pieces[1])
    assert own is not None and torus is not None
    made = without_crumbs(scan, [(own[0], pieces[0]), (torus[0], pieces[1]), (None, pieces[2])], 4 * precision_of(scan))
    ((surface, facets),) = made
    assert surface.kind == "cone" and len(facets) == len(scan.facets)
    assert surface.half_angle == pytest.approx(0.4, rel=1e-4)


def test_a_blend_no_better_than_modellers_make_it_is_one_face_only_when_that_is_wanted():
    scan, at = grid(TORUS, (0, 0.2), (1, 1.4), (8, 4), off=2e-5)
    one = at[:, 0] < 5
    first, second = (fit_through(CODES["torus"], TORUS, scan, np.flatnonzero(m)) for m in (one, ~one))
    assert first is not None and second is not None
    pieces = [(first[0], np.flatnonzero(one)), (second[0], np.flatnonzero(~one))]
    assert len(without_crumbs(scan, pieces, 4e-6)) == 2
    ((surface, facets),) = without_crumbs(scan, pieces, 4e-6, loosely=True)
    assert len(facets) == len(scan.facets)
    assert surface.minor == pytest.approx(2.0, rel=1e-3) and surface.radius == pytest.approx(9.0, rel=1e-3)


def test_a_piece_that_a_band_has_parted_from_its_face_takes_that_band():
    scan, at = grid(BALL, (0, 0), (2, 1), (20, 8))
    small, band = at[:, 0] >= 18, at[:, 0] == 17
    ball = faced(scan, BALL)
    other = fit_through(CODES["torus"], TORUS, scan, np.flatnonzero(band))
    assert other is not None
    # Apart: nothing of the small piece borders on the large one, and the band is as much another face's.
    less = small & (at[:, 1] < 4)
    faces_ = [
        (ball, np.flatnonzero(~small & ~band)),
        (other[0], np.flatnonzero(band | small & ~less)),
        (ball, np.flatnonzero(less)),
    ]
    made = without_crumbs(scan, faces_, 4 * precision_of(scan))
    largest = max(made, key=lambda face: len(face[1]))
    assert np.isin(np.flatnonzero(less), largest[1]).all()


@pytest.mark.parametrize(("surface", "kind"), [(TUBE, "cylinder"), (BALL, "sphere")])
def test_few_facets_with_vertices_enough_are_told_by_the_simplest_surface(surface, kind):
    scan, _ = grid(surface, (0, 0), (0.3, 0.6), (2, 2))
    ((found, _),) = without_crumbs(scan, [(None, np.arange(len(scan.facets)))], 4 * precision_of(scan))
    assert found is not None and found.kind == kind
    assert np.abs(distances(surface, scan.vertices)).max() < 1e-5


def test_what_lies_on_nothing_stays_freeform():
    scan, _ = grid(TUBE, (0, 0), (0.3, 0.6), (2, 2), off=0.02)
    ((found, facets),) = without_crumbs(scan, [(None, np.arange(len(scan.facets)))], 4 * precision_of(scan))
    assert found is None and len(facets) == len(scan.facets)


@pytest.mark.parametrize(
    ("seed", "chord"),
    [
        (8, 0.1),  # a small cylinder of which a sphere had taken all but five facets
        (38, 0.5),  # a sphere parted by a band that lies on a torus as well: the torus became 419 flat facets
        (14, 0.01),  # strips of a cylinder in one plane with a facet of a torus each
    ],
)
def test_parts_that_had_flats_and_faces_in_pieces_have_none(seed, chord):
    part = random_part(seed)
    scan, _ = exported(part, chord)
    made = solidify(scan)
    assert made.closed and made.valid and made.solids == 1 and made.flat == 0
    assert len(faces(made.body.shape)) <= len(faces(part))
    assert made.volume == pytest.approx(volume(part), rel=1e-3 if chord > 0.2 else 1e-5)


@pytest.mark.parametrize("chord", [0.5, 0.1, 0.01])
def test_blends_that_run_smoothly_into_each_other_are_told_apart_at_their_corners(chord):
    """Five freeform blends hung together as two faces; every one is a face of its own, and none has facets of another."""
    part = random_part(1)
    scan, owner = exported(part, chord)
    labels = exact_regions(scan).labels
    blends = [k for k, kind in enumerate(face_kinds(part)) if kind == "freeform" and k in (3, 5, 15, 17, 18, 20)]
    regions = [np.unique(labels[owner == k]).tolist() for k in blends]
    assert all(len(own) == 1 for own in regions) and len({own[0] for own in regions}) == len(blends)


def test_one_blend_is_one_face_also_where_a_hole_goes_through_it():
    """A hole leaves corners on a blend's border, but no arc of the ball begins there."""
    block = BRepPrimAPI_MakeBox(60.0, 50.0, 20.0).Shape()
    bore = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(22, 25, -20), gp_Dir(0.25, 0, 1)), 11.0, 80.0).Shape()
    block = BRepAlgoAPI_Cut(block, bore).Shape()
    fillet = BRepFilletAPI_MakeFillet(block)
    rim = next(
        e
        for e in edges(block)
        if BRepAdaptor_Curve(e).GetType() == GeomAbs_CurveType.GeomAbs_Ellipse and middle_of(e)[2] > 19
    )
    fillet.Add(3.0, rim)
    fillet.Build()
    blended = fillet.Shape()
    drilled = BRepAlgoAPI_Cut(
        blended, BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(27, 38.5, -5), gp_Dir(0, 0, 1)), 1.5, 40.0).Shape()
    ).Shape()
    for shape in (blended, drilled):
        scan, owner = exported(shape, 0.02)
        labels = exact_regions(scan).labels
        blends = [k for k, kind in enumerate(face_kinds(shape)) if kind == "freeform"]
        assert len(blends) == 1
        assert len(np.unique(labels[owner == blends[0]])) == 1


def _roof(kink: float, rows: int = 6) -> tuple[PreparedScan, np.ndarray]:
    """Two bent sheets that meet in a ridge, at so many radians, and which facets lie well inside along the ridge."""
    u, v = np.linspace(-1, 1, 2 * rows + 1), np.linspace(0, 4, 13)
    x, y = np.meshgrid(u, v, indexing="ij")
    scan, at = quadrangles(np.stack([x, y, -abs(x) * np.tan(kink / 2) - 0.15 * x * x + 0.02 * y * y], axis=-1))
    row, column = at.T
    return scan, (column >= 2) & (column < 10) & (row > 0) & (row < 2 * rows - 1)


@pytest.mark.parametrize(("kink", "count"), [(0.2, 1), (1.0, 2)])
def test_a_ridge_from_border_to_border_parts_a_freeform_face_and_a_gentle_bend_does_not(kink, count):
    scan, inside = _roof(kink)
    parts = parted_at_joints(scan, [(None, np.flatnonzero(inside)), (plane(), np.flatnonzero(~inside))], TOLERANCE)
    freeform = [own for surface, own in parts if surface is None]
    assert len(freeform) == count and len({len(own) for own in freeform}) == 1
    assert sorted(np.concatenate(freeform).tolist()) == np.flatnonzero(inside).tolist()
    for own in freeform:
        assert count == 1 or len(np.unique(np.sign(scan.centroids[own, 0]))) == 1
