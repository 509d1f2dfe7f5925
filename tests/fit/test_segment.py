"""Whole-scan segmentation against the faces that were scanned, and on scans that ask for a refusal."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from benchmarks.segment_truth import holed_scan, score
from contour.check.exact_arrays import exact_arrays
from contour.exchange.raw import RawScan
from contour.fit.segment.labels import depth_of, pieces
from contour.fit.segment.whole import Settings, segment
from contour.geometry.surface_rows import PLANE
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.recipe.problem import ContourError
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.truth_parts import hawse_casting, rudder_spindle, valve_block


@pytest.fixture(scope="module")
def casting() -> tuple[PreparedScan, np.ndarray, object]:
    solid = exact_arrays(hawse_casting())
    return (*holed_scan(solid, spacing=0.8, noise=0.02, missing=0.1, seed=8), solid)


@pytest.fixture(scope="module")
def casting_found(casting):
    return segment(casting[0])


def test_a_drafted_casting_comes_apart_into_its_faces(casting, casting_found) -> None:
    scan, true, solid = casting
    found = casting_found
    s = score(scan, true, found, solid)
    assert s.right > 0.96 and s.right_inside > 0.98
    assert s.found >= s.faces - 1 and s.spurious <= 2
    assert np.median(s.plane_angles) < 0.02
    assert np.mean([abs(d) < 3 * u for d, u in s.diameters]) > 0.8
    assert found.noise == pytest.approx(0.02, rel=0.2)
    sizes = [r.area for r in found.regions]
    assert sizes == sorted(sizes, reverse=True)
    assert all(found.labels[r.middle] == k for k, r in enumerate(found.regions))


def test_a_protected_region_stays_and_progress_is_told(casting, casting_found) -> None:
    scan, _, _ = casting
    first = casting_found
    plane = next(k for k, r in enumerate(first.regions) if r.kind == "plane")
    mine = np.flatnonzero(first.labels == plane)[:200]
    surface = first.regions[plane].surface
    assert surface is not None
    told: list[float] = []
    again = segment(scan, protected=((mine, surface),), report=lambda _, share: told.append(share))
    kept = np.unique(again.labels[mine])
    assert len(kept) == 1 and int((again.labels == kept[0]).sum()) >= 200
    assert told == sorted(told) and told[-1] < 1

    def stop(_: str, share: float) -> None:
        if share > 0.3:
            raise InterruptedError

    with pytest.raises(InterruptedError):
        segment(scan, report=stop)


def test_coarser_and_larger_give_fewer_regions() -> None:
    scan, _ = holed_scan(exact_arrays(valve_block()), spacing=1.1, noise=0.02, missing=0.0, seed=2)
    fine = segment(scan)
    large = segment(scan, Settings(least_area=60.0))
    assert len(large.regions) < len(fine.regions)
    assert min(r.area for r in large.regions) > 50


def test_a_least_area_leaves_out_what_is_smaller(block_scan) -> None:
    """A plate of 40 x 30 x 10 with a bore: its two large faces measure some 1,040 mm² each, no other more than 390."""
    found = segment(block_scan, Settings(least_area=450.0))
    assert [r.kind for r in found.regions] == ["plane", "plane"]
    assert all(1000 < r.area < 1100 for r in found.regions) and set(np.unique(found.labels)) == {-1, 0, 1}
    with pytest.raises(ContourError) as refused:
        segment(block_scan, Settings(least_area=1e5))
    problem = refused.value.problem
    assert (problem.code, problem.where.param) == ("nothing-found", "least_area") and "2630" in str(problem.got)


def test_all_noise_is_said_to_hold_nothing() -> None:
    rng = np.random.default_rng(3)
    grid = np.stack(np.meshgrid(np.arange(40.0), np.arange(40.0), indexing="ij"), -1).reshape(-1, 2)
    points = np.column_stack([grid, rng.normal(0, 3, len(grid))])
    a = (np.arange(39)[:, None] * 40 + np.arange(39)).ravel()
    facets = np.vstack([np.column_stack([a, a + 40, a + 41]), np.column_stack([a, a + 41, a + 1])])
    raw = RawScan(points[facets], np.arange(len(facets)), len(facets), "stl")
    with pytest.raises(ContourError, match="noise"):
        segment(prepare_scan(raw, 1.0))


def test_pieces_and_depth_of_a_strip() -> None:
    """A strip of 6 facets in a row, the last two of another label."""
    across = np.full((6, 3), -1, np.int32)
    for k in range(5):
        across[k, 1], across[k + 1, 0] = 3 * (k + 1), 3 * k + 1
    labels = np.array([0, 0, 0, 0, 1, 1])
    number, count = pieces(labels, across)
    assert count == 2 and number.tolist() == [0, 0, 0, 0, 1, 1]
    assert depth_of(labels, across, 5).max() == 0  # every facet has an open side


def test_two_separate_pieces_and_a_fin_that_three_facets_share_are_taken_apart(block_scan) -> None:
    """Open sides, two components and an edge of three facets: nothing ends the search, and the faces of both are found."""
    corners = block_scan.vertices[block_scan.facets]
    beside = corners + [70.0, 0, 0]
    side = corners[len(corners) // 2, :2]
    fin = np.array([[side[0], side[1], side.mean(axis=0) + [0, 0, 3.0]]])
    holed = beside[np.linalg.norm(beside.mean(axis=1) - beside.mean(axis=(0, 1)), axis=1) > 12]
    both = np.vstack([corners, holed, fin])
    scan = prepare_scan(RawScan(both, np.arange(len(both)), len(both), "stl"), 1.0)
    assert (scan.across < 0).any()
    found = segment(scan)
    kinds = [r.kind for r in found.regions]
    assert kinds.count("plane") >= 8 and kinds.count("cylinder") >= 1
    assert (found.labels >= 0).mean() > 0.9


def _label_of(scan: PreparedScan, true: np.ndarray, found, face: int) -> int:
    """The region that most of a true face lies in."""
    return int(np.bincount(found.labels[(true == face) & (found.labels >= 0)]).argmax())


def test_the_narrow_ring_of_a_rounded_shoulder_is_a_plane_square_to_the_axis() -> None:
    """2 mm wide, of which the scan softens one, beside a round of R 4 that reaches over it."""
    solid = exact_arrays(rudder_spindle())
    scan, true = holed_scan(solid, spacing=0.55, noise=0.03, missing=0.15, seed=5)
    found = segment(scan)
    ring = next(f for f, row in enumerate(solid.face_data) if solid.face_kind[f] == PLANE and abs(row[2] - 30) < 1e-6)
    region = found.regions[_label_of(scan, true, found, ring)]
    assert region.surface is not None and region.kind == "plane"
    assert abs(region.surface.axis[2]) == pytest.approx(1, abs=1e-4)
    assert abs(region.surface.origin[2] - 30) < 0.12
    assert region.area > 0.5 * scan.areas[true == ring].sum()


def test_the_wall_that_two_rounds_leave_is_a_plane() -> None:
    """A corner of R 8 on either side of a wall of 3 mm: neither corner takes it."""
    box = BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 19.0, 40.0, 12.0).Shape()
    rounded = BRepFilletAPI_MakeFillet(box)
    edges = TopExp_Explorer(box, TopAbs_EDGE)
    while edges.More():
        edge = TopoDS.Edge(edges.Current())
        curve = BRepAdaptor_Curve(edge)
        if abs(curve.Value(curve.FirstParameter()).Z() - curve.Value(curve.LastParameter()).Z()) > 1:
            rounded.Add(8.0, edge)
        edges.Next()
    solid = exact_arrays(rounded.Shape())
    scan, true = holed_scan(solid, spacing=0.55, noise=0.03, missing=0.0, seed=2)
    found = segment(scan)
    walls = [f for f, row in enumerate(solid.face_data) if solid.face_kind[f] == PLANE and abs(row[4]) > 0.9]
    assert len(walls) == 2
    for wall in walls:
        region = found.regions[_label_of(scan, true, found, wall)]
        assert region.surface is not None and region.kind == "plane"
        assert abs(region.surface.axis[1]) > np.cos(np.radians(4.0))
    assert sum(r.kind == "cylinder" for r in found.regions) == 4


def test_softened_edges_are_no_rings() -> None:
    """A stepped shaft without chamfers or rounds: six faces, and nothing made of its edges."""
    shaft = BRepAlgoAPI_Fuse(BRepPrimAPI_MakeCylinder(10.0, 20.0).Shape(), BRepPrimAPI_MakeCylinder(14.0, 8.0).Shape())
    solid = exact_arrays(shaft.Shape())
    for noise in (0.01, 0.04):
        scan, _ = holed_scan(solid, spacing=0.5, noise=noise, missing=0.1, seed=1)
        assert sorted(r.kind for r in segment(scan).regions if r.area > 8) == ["cylinder"] * 2 + ["plane"] * 3


def grooved(lost: tuple[tuple[float, float, float], ...]) -> tuple[PreparedScan, np.ndarray, object]:
    """A plate with a round groove across it, and patches of 4 mm lost to the scanner."""
    plate = BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 50.0, 40.0, 10.0).Shape()
    rod = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(25, -1, 10), gp_Dir(0, 1, 0)), 3.0, 42.0).Shape()
    solid = exact_arrays(BRepAlgoAPI_Cut(plate, rod).Shape())
    whole = virtual_scan(solid, ScanSettings(spacing_mm=0.7, noise_mm=0.02, seed=3))
    middle = whole.vertices[whole.facets].mean(axis=1)
    keep = np.all([np.linalg.norm(middle - np.array(p), axis=1) > 4 for p in lost], axis=0)
    facets = whole.facets[keep]
    scan = prepare_scan(RawScan(whole.vertices[facets], np.arange(len(facets)), len(facets), "stl"), 1.0)
    return scan, whole.true_face[keep][scan.source_facet].astype(np.int64), solid


def test_a_groove_keeps_the_flats_beside_it_apart_where_holes_cut_through_it() -> None:
    scan, true, solid = grooved(((25, 10, 8.5), (25, 28, 8.5)))
    found = segment(scan)
    roofs = [
        f
        for f, row in enumerate(solid.face_data)
        if solid.face_kind[f] == PLANE and abs(row[5]) > 0.9 and abs(row[2] - 10) < 1e-6
    ]
    labels = {_label_of(scan, true, found, f) for f in roofs}
    assert len(roofs) == len(labels) == 2
    assert sum(r.kind == "cylinder" and r.area > 20 for r in found.regions) == 1  # the groove's three pieces are one


def test_what_a_hole_has_parted_is_one_face_again() -> None:
    """A patch is lost over the whole height of a wall: both halves are the same wall, whatever lies above and below."""
    box = exact_arrays(BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 50.0, 40.0, 6.0).Shape())
    whole = virtual_scan(box, ScanSettings(spacing_mm=0.6, noise_mm=0.02, seed=4))
    middle = whole.vertices[whole.facets].mean(axis=1)
    facets = whole.facets[np.linalg.norm(middle - np.array([25.0, 0.0, 3.0]), axis=1) > 5]
    found = segment(prepare_scan(RawScan(whole.vertices[facets], np.arange(len(facets)), len(facets), "stl"), 1.0))
    assert sorted(r.kind for r in found.regions if r.area > 8) == ["plane"] * 6
