"""Modelled meshes: told from scans, and every face found with its surface through the vertices, on parts whose faces are known."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from contour.check.exact_arrays import exact_arrays
from contour.fit.modelled import exact_regions, nature_of, precision_of
from contour.fit.modelled.mixed import mixed_regions
from contour.fit.modelled.regions import known_surface_of
from contour.fit.segment.whole import Settings
from contour.geometry.surfaces import Surface, distances
from contour.job.questions.segmented import regions_of
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.recipe.problem import ContourError
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.solid.face_geometry import face_kind
from contour.solid.shape import NamedShape, faces
from contour.solid.tessellate import tessellate
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import hawse_casting
from tests.conftest import circle, cube, prism, raw_scan, rectangle

KINDS = {0: "plane", 1: "cylinder", 2: "cone", 3: "sphere", 4: "torus"}


def exported(shape, chord_mm: float) -> tuple[PreparedScan, np.ndarray]:
    """A solid as a mesh file has it: single precision; and the face of each facet."""
    made = tessellate(shape, chord_mm=chord_mm, angle_rad=0.5)
    scan = prepare_scan(raw_scan(made.vertices.astype(np.float32).astype(float)[made.triangles]), 1.0)
    return scan, made.face[scan.source_facet]


def kinds_of(shape) -> list[str]:
    return [KINDS[int(BRepAdaptor_Surface(f).GetType())] for f in faces(shape)]


@pytest.mark.parametrize("chord_mm", [0.5, 0.1, 0.01])
@pytest.mark.parametrize("part", [bracket, pump_cover], ids=["bracket", "pump cover"])
def test_every_face_is_found_whole_and_none_given_to_another(part, chord_mm):
    shape = part().shape
    scan, face = exported(shape, chord_mm)
    found = exact_regions(scan)
    for k, kind in enumerate(kinds_of(shape)):
        labels = set(found.labels[face == k].tolist())
        assert len(labels) == 1, f"face {k} lies in {len(labels)} regions"
        assert found.regions[labels.pop()].kind == kind
    for r in range(len(found.regions)):
        assert len(set(face[found.labels == r].tolist())) == 1
    assert (found.labels >= 0).all()


def test_sizes_come_out_as_they_were_drawn():
    scan, _ = exported(bracket().shape, 0.1)
    found = [r.surface for r in exact_regions(scan).regions if r.kind == "cylinder"]
    drawn = [4.5] * 4 + [9.0, 13.0, 7.0] + [8.0] * 4 + [4.0] * 4
    assert sorted(s.radius for s in found) == pytest.approx(sorted(drawn), rel=1e-5)
    assert sorted(round(s.radius, 3) for s in found if s.outward < 0) == [4.0] * 4 + [4.5] * 4 + [7.0, 9.0]


def test_a_torus_beside_cones_is_one_torus():
    shape = hawse_casting()
    scan, face = exported(shape, 0.01)
    found = exact_regions(scan)
    (ring,) = [k for k, kind in enumerate(kinds_of(shape)) if kind == "torus"]
    (label, most), *rest = Counter(found.labels[face == ring].tolist()).most_common()
    assert found.regions[label].kind == "torus" and not rest and most > 5000
    assert found.regions[label].surface.minor == pytest.approx(4.0, rel=1e-5)


def test_a_box_of_twelve_facets_has_six_planes():
    scan = prepare_scan(raw_scan(cube((30, 20, 10))), 1.0)
    assert nature_of(scan) == "modelled"
    found = exact_regions(scan)
    assert Counter(r.kind for r in found.regions) == {"plane": 6}
    assert sorted(round(r.area) for r in found.regions) == [200, 200, 300, 300, 600, 600]


def test_a_coarse_bore_of_eight_sides_is_a_cylinder():
    t = 2 * np.pi * np.arange(8) / 8
    ring = np.column_stack([6 * np.cos(t), 6 * np.sin(t)])
    quads = []
    for (x0, y0), (x1, y1) in zip(ring, np.roll(ring, -1, axis=0), strict=True):
        a, b, c, d = (x0, y0, 0.0), (x1, y1, 0.0), (x1, y1, 15.0), (x0, y0, 15.0)
        quads += [[a, b, c], [a, c, d]]
    (only,) = exact_regions(prepare_scan(raw_scan(np.array(quads)), 1.0)).regions
    assert only.kind == "cylinder" and only.surface.radius == pytest.approx(6.0, rel=1e-6)


def test_a_scan_is_no_model_and_half_a_model_is_mixed(block_scan):
    assert nature_of(block_scan) == "scanned"
    shape = prism([*rectangle(40, 30), circle(20, 15, 6)], 12).shape
    fine, _ = exported(shape, 0.05)
    assert nature_of(fine) == "modelled"
    corners = fine.vertices[fine.facets]
    scanned = block_scan.vertices[block_scan.facets] + 200.0
    share = fine.areas.sum() / (fine.areas.sum() + block_scan.areas.sum())
    assert 0.1 < share < 0.6
    assert nature_of(prepare_scan(raw_scan(np.vstack([corners, scanned])), 1.0)) == "mixed"


def test_the_precision_is_the_files_own():
    scan, _ = exported(bracket().shape, 0.5)
    assert 1e-6 < precision_of(scan) < 1e-4
    rounded = prepare_scan(raw_scan(np.round(scan.vertices, 3)[scan.facets]), 1.0)
    assert precision_of(rounded) == pytest.approx(0.9e-3, rel=0.2)
    inches = prepare_scan(raw_scan(np.round(scan.vertices / 25.4, 4)[scan.facets]), 25.4)
    assert precision_of(inches) == pytest.approx(0.9e-4 * 25.4, rel=0.2)
    # Round sizes alone are no rounding.
    assert precision_of(prepare_scan(raw_scan(cube((30, 20, 10))), 1.0)) < 1e-5


def test_regions_there_are_already_keep_what_they_have_and_come_first():
    scan, face = exported(prism([*rectangle(40, 30), circle(20, 15, 6)], 12).shape, 0.1)
    bore = next(r for r in exact_regions(scan).regions if r.kind == "cylinder")
    mine = np.flatnonzero(face == face[bore.middle])
    other = Surface("cylinder", (20.0, 15.0, 0.0), (0.0, 0.0, 1.0), 6.25, -1)
    found = exact_regions(scan, protected=((mine, other),))
    assert found.regions[0].surface == other and (found.labels[mine] == 0).all()
    assert sum(r.kind == "cylinder" for r in found.regions) == 1


def test_the_search_says_what_mesh_it_was_and_goes_its_way(block_scan):
    scan, _ = exported(bracket().shape, 0.5)
    said: list[str] = []
    out, found = regions_of(scan, Settings(), report=lambda what, _: said.append(what))
    assert out["mesh"] == "modelled" and "looking for exact surfaces" in said
    assert out["unassigned"] == 0 and len(out["regions"]) == len(found.regions)
    for row, region in zip(out["regions"], found.regions, strict=True):
        at = scan.vertices[np.unique(scan.facets[found.labels == row["id"]])]
        assert np.abs(distances(region.surface, at)).max() < 1e-3
    assert {p["kind"] for p in out["proposals"]} & {"parallel", "perpendicular", "equal-radius"}
    assert regions_of(block_scan, Settings())[0]["mesh"] == "scanned"


def test_what_no_surface_explains_is_one_freeform_rest_and_not_a_plane_a_facet():
    t = np.linspace(0, 40, 21)
    x, y = np.meshgrid(t, t, indexing="ij")
    z = 3 * np.sin(x / 7) * np.cos(y / 9) + 0.02 * x * np.sin(y / 5)
    grid = np.stack([x, y, z], axis=-1)
    a, b, c, d = grid[:-1, :-1], grid[1:, :-1], grid[1:, 1:], grid[:-1, 1:]
    corners = np.concatenate([np.stack([a, b, c], 2).reshape(-1, 3, 3), np.stack([a, c, d], 2).reshape(-1, 3, 3)])
    found = exact_regions(prepare_scan(raw_scan(corners), 1.0))
    rest = max(found.regions, key=lambda r: r.area)
    assert rest.kind == "freeform" and rest.facets > 0.9 * len(corners)
    assert len(found.regions) < 12


def test_a_mesh_of_thousands_of_pieces_is_refused_with_what_to_do() -> None:
    """A lattice of five thousand loose boxes: an answer at once instead of half a million planes."""
    box = tessellate(BRepPrimAPI_MakeBox(2.0, 2.0, 2.0).Shape(), chord_mm=0.1)
    places = np.stack(np.meshgrid(*[np.arange(17.0)] * 3), axis=-1).reshape(-1, 1, 1, 3) * 3
    scan = prepare_scan(raw_scan((box.vertices[box.triangles][None] + places).reshape(-1, 3, 3)), 1.0)
    with pytest.raises(ContourError) as caught:
        exact_regions(scan)
    problem = caught.value.problem
    assert problem.code == "degenerate"
    assert problem.got == "4,913 pieces of 58,956 facets"
    assert problem.where.point is not None
    few = prepare_scan(raw_scan((box.vertices[box.triangles][None] + places[:20]).reshape(-1, 3, 3)), 1.0)
    assert len(exact_regions(few).regions) == 120


def test_of_a_mixed_mesh_the_modelled_walls_of_two_facets_are_faces_too(drilled_block: NamedShape) -> None:
    """A plate with a square pocket, every wall and the floor of two facets, beside a coarse scan."""
    scan = virtual_scan(exact_arrays(drilled_block.shape), ScanSettings(spacing_mm=1.6, noise_mm=0.02, seed=3))
    plate = BRepPrimAPI_MakeBox(60.0, 40.0, 12.0).Shape()
    pocket = BRepPrimAPI_MakeBox(gp_Pnt(10, 10, 6), 14.0, 9.0, 20.0).Shape()
    pin = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(45, 20, 12), gp_Dir(0, 0, 1)), 5.0, 8.0).Shape()
    shape = BRepAlgoAPI_Fuse(BRepAlgoAPI_Cut(plate, pocket).Shape(), pin).Shape()
    model = tessellate(shape, chord_mm=0.01)
    corners = model.vertices[model.triangles]
    scanned = scan.vertices[scan.facets] + [200.0, 0.0, 0.0]
    both = prepare_scan(raw_scan(np.vstack([corners, scanned])), 1.0)
    assert nature_of(both) == "mixed"
    found = mixed_regions(both, Settings())
    own = both.source_facet < len(corners)
    owner = model.face[both.source_facet[own]]
    for f in range(len(faces(shape))):
        (label, count), *_ = Counter(found.labels[own][owner == f].tolist()).most_common(1)
        assert label >= 0, f
        assert count == (owner == f).sum()
    # Of the scan no more is taken than its own surfaces.
    assert len({int(k) for k in found.labels[~own]} - {-1}) < 30


def test_a_splinter_is_known_by_the_surface_of_another_face() -> None:
    """Three quads of a tube's inside, told by the cylinder that the rest of it has given."""
    t = np.linspace(0, 2 * np.pi, 33)[:-1]
    ring = np.column_stack([8 * np.cos(t), 8 * np.sin(t)])
    quads = []
    for (x0, y0), (x1, y1) in zip(ring, np.roll(ring, -1, axis=0), strict=True):
        a, b, c, d = (x0, y0, 0.0), (x1, y1, 0.0), (x1, y1, 6.0), (x0, y0, 6.0)
        quads += [[a, c, b], [a, d, c]]  # they face inwards
    scan = prepare_scan(raw_scan(np.array(quads).astype(np.float32).astype(float)), 1.0)
    bore = Surface("cylinder", (0, 0, 1), (0, 0, 1), 8.0, -1)
    beside = Surface("cylinder", (0.001, 0, 1), (0, 0, 1), 8.0, -1)
    shaft = Surface("cylinder", (0, 0, 1), (0, 0, 1), 8.0, 1)
    ball = Surface("sphere", (0, 0, 3), (0, 0, 1), float(np.hypot(8, 3)), -1)  # both rims lie on it
    six, two = (
        np.flatnonzero(np.isin(scan.source_facet, np.arange(10, end))) for end in (16, 12)
    )  # quads side by side
    assert known_surface_of(scan, six, [beside, shaft, bore], 1e-5) is bore
    assert known_surface_of(scan, six, [beside, shaft], 1e-5) is None
    assert known_surface_of(scan, six, [ball, bore], 1e-5) is bore  # the chords are less deep
    assert known_surface_of(scan, two, [bore], 1e-5) is None  # four vertices lie on many things
    assert known_surface_of(scan, six, [bore], 1e-9) is None  # not within single precision


def test_faces_that_others_have_cut_to_splinters_are_found() -> None:
    """A cylinder and a countersink of which slots leave narrow pieces: every piece of more than two facets has its surface."""
    shape = BRepPrimAPI_MakeCylinder(10.0, 20.0).Shape()
    for y in (0.6, -4.6):
        shape = BRepAlgoAPI_Cut(shape, BRepPrimAPI_MakeBox(gp_Pnt(4, y, 5), 20.0, 4.0, 20.0).Shape()).Shape()
    for chord in (0.1, 0.02):
        scan, owner = exported(shape, chord)
        found = exact_regions(scan)
        for f, face in enumerate(faces(shape)):
            mine = owner == f
            if mine.sum() > 2:
                (label, count), *_ = Counter(found.labels[mine].tolist()).most_common(1)
                assert count >= 0.9 * mine.sum()
                assert found.regions[label].kind == face_kind(face)


@pytest.mark.parametrize("chord_mm", [0.003, 0.001])
def test_a_ball_finer_than_its_file_is_rounded_is_one_sphere(chord_mm):
    """About its poles whole strips lie in one plane to within the rounding, and a torus without a hole goes through all of it."""
    ball = BRepPrimAPI_MakeSphere(gp_Ax2(gp_Pnt(0, 0, 92), gp_Dir(0, 0, 1)), 11.0, -1.2, np.pi / 2).Shape()
    found = exact_regions(exported(ball, chord_mm)[0])
    assert sorted(r.kind for r in found.regions) == ["plane", "sphere"]
    sphere = next(r.surface for r in found.regions if r.kind == "sphere")
    assert sphere.radius == pytest.approx(11, rel=1e-6)


def test_a_small_flat_on_a_ball_is_no_part_of_it():
    ball = BRepPrimAPI_MakeSphere(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 11.0, -1.2, 1.45).Shape()
    found = exact_regions(exported(ball, 0.05)[0])
    assert sorted(r.kind for r in found.regions) == ["plane", "plane", "sphere"]
