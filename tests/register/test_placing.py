"""Placing scans: truth is the pose the scan was moved by."""

from functools import partial

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.geometry.rigid import angle_between_deg, best_rigid, inverse, moved, placement, turned
from contour.geometry.surfaces import Surface
from contour.mesh.prepare import placed, prepare_scan
from contour.recipe.problem import ContourError
from contour.register.best_fit import best_fit
from contour.register.datum import (
    box_corner,
    datum_frame,
    meeting_point,
    principal_frame,
    reflected_frame,
    typed_motion,
)
from contour.register.icp import settle, target_of
from contour.register.symmetry import symmetry_planes
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.solid.boolean import combine
from tests.conftest import circle, prism, raw_scan, rectangle


def some_pose(seed: int) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return placement(Rotation.random(random_state=rng).as_matrix(), rng.uniform(-80, 80, 3))


def stepped():
    """60 x 40 x 12, a boss, two holes and a step: no symmetry at all."""
    body = prism(rectangle(60, 40), 12)
    body = combine(body, prism([circle(18, 22, 9)], 26, prefix="boss"), "add")
    body = combine(body, prism([circle(48, 10, 4)], 40, z=-5, prefix="h1"), "subtract")
    return combine(body, prism(rectangle(12, 40, at=(48, 0)), 30, z=7, prefix="step"), "subtract")


def symmetric():
    """Mirrored across x = 30, and across nothing else."""
    body = prism(rectangle(60, 40), 12)
    body = combine(body, prism([circle(30, 26, 9)], 26, prefix="boss"), "add")
    for k, (x, y) in enumerate([(9, 9), (51, 9)]):
        body = combine(body, prism([circle(x, y, 4)], 40, z=-5, prefix=f"h{k}"), "subtract")
    return body


def scanned(body, **settings):
    return virtual_scan(
        exact_arrays(body.shape), ScanSettings(**{"spacing_mm": 1.1, "noise_mm": 0.02, "seed": 4, **settings})
    )


@pytest.fixture(scope="module")
def stepped_scan():
    return scanned(stepped())


def test_rigid_placements_undo_and_chain():
    a, b = some_pose(1), some_pose(2)
    p = np.random.default_rng(3).uniform(-5, 5, (20, 3))
    assert moved(inverse(a), moved(a, p)) == pytest.approx(p)
    assert moved(a @ b, p) == pytest.approx(moved(a, moved(b, p)))
    assert best_rigid(p, moved(a, p)) == pytest.approx(a)
    assert angle_between_deg(a, a @ typed_motion([0, 0, 33.0], [1, 2, 3])) == pytest.approx(33.0)


@pytest.mark.parametrize(("seed", "missing"), [(0, 0.0), (1, 0.4), (2, 0.0), (3, 0.4)])
def test_a_scan_finds_its_place_on_a_solid_from_any_pose(stepped_scan, seed, missing):
    rng = np.random.default_rng(seed)
    pose = some_pose(seed)
    facets = stepped_scan.facets
    centres = stepped_scan.vertices[facets].mean(axis=1)
    along = centres @ rng.normal(size=3)
    facets = facets[along >= np.quantile(along, missing)]
    used, index = np.unique(facets, return_inverse=True)
    points = moved(pose, stepped_scan.vertices[used])
    solid = exact_arrays(stepped().shape)
    fit = best_fit(
        points, index.reshape(-1, 3).astype(np.int32), solid, partial(signed_distances, solid), noise_mm=0.02
    )
    # Corners of the part come back to within the noise over the root of many points; 0.03 leaves room for softened edges.
    assert np.abs(moved(fit.matrix @ pose, solid.vertices) - solid.vertices).max() < 0.03
    assert fit.p95 < 0.4


def test_another_part_is_not_forced_onto_a_solid(stepped_scan):
    ball = prism([circle(0, 0, 4)], 300, prefix="rod")
    solid = exact_arrays(ball.shape)
    with pytest.raises(ContourError) as caught:
        best_fit(stepped_scan.vertices, stepped_scan.facets, solid, partial(signed_distances, solid), noise_mm=0.02)
    assert caught.value.problem.code == "not-aligned"


def test_settling_is_exact_where_the_surface_holds_and_still_where_it_does_not(stepped_scan):
    target = target_of(stepped_scan.vertices, stepped_scan.facets)
    start = typed_motion([0.5, -0.4, 0.6], [0.3, -0.2, 0.4])
    made = settle(target, stepped_scan.vertices[::7], start, reach_mm=3.0, least_mm=0.05)
    assert np.abs(moved(made.matrix, stepped_scan.vertices) - stepped_scan.vertices).max() < 2e-3
    flat = np.array([[x, y, 0.0] for x in range(20) for y in range(20)])
    facets = np.array(
        [[20 * i + j, 20 * (i + 1) + j, 20 * i + j + 1] for i in range(19) for j in range(19)], dtype=np.int32
    )
    slid = settle(target_of(flat, facets), flat[50:350] + [0.2, 0.1, 0.3], np.eye(4), reach_mm=1.0, least_mm=0.01)
    assert slid.matrix[2, 3] == pytest.approx(-0.3, abs=1e-6)
    assert np.abs(slid.matrix[:2, 3]).max() < 1e-3


@pytest.mark.parametrize("wear_mm", [0.0, 0.3])
def test_the_symmetry_plane_of_a_half_worn_part(wear_mm):
    def worn(p):
        out = p.copy()
        top = (p[:, 0] > 34) & (p[:, 2] > 11.9)
        out[top, 2] -= wear_mm * np.clip((p[top, 0] - 34) / 8, 0, 1)
        out[p[:, 0] > 59.9, 0] -= wear_mm
        return out

    made = scanned(symmetric(), wear=worn)
    pose = some_pose(7)
    scan = prepare_scan(raw_scan(moved(pose, made.vertices)[made.facets]), 1.0)
    best = symmetry_planes(scan.vertices, scan.facets, scan.across, noise_mm=scan.noise_mm)[0]
    normal = turned(inverse(pose), np.array(best.normal))
    point = moved(inverse(pose), np.array(best.point))
    assert np.degrees(np.arccos(min(1.0, abs(normal[0])))) < 0.1
    assert abs((point - [30, 20, 0]) @ normal) < 0.05


def test_a_part_without_symmetry_says_so(stepped_scan):
    scan = prepare_scan(raw_scan(stepped_scan.vertices[stepped_scan.facets]), 1.0)
    with pytest.raises(ContourError) as caught:
        symmetry_planes(scan.vertices, scan.facets, scan.across, noise_mm=scan.noise_mm)
    assert caught.value.problem.code == "no-symmetry"
    assert "%" in (caught.value.problem.got or "")


def plane(origin, normal):
    n = np.array(normal, float) / np.linalg.norm(normal)
    return Surface("plane", tuple(origin), tuple(n), 0.0, 1)


def bore(origin, axis, radius=5.0):
    return Surface("cylinder", tuple(origin), tuple(axis), radius, -1)


def test_three_planes_meet_in_a_corner_and_two_bores_give_a_direction():
    at, off, held = meeting_point(
        [plane((1, 0, 0), (1, 0, 0)), plane((0, 2, 0), (0, 1, 0)), plane((0, 0, 3), (0, 0, 1))], np.zeros(3)
    )
    assert at == pytest.approx([1, 2, 3])
    assert off == pytest.approx([0, 0, 0], abs=1e-9) and held.all()
    on_bore, *_ = meeting_point([plane((0, 0, 4), (0, 0, 1)), bore((7, 8, 50), (0, 0, 1))], np.zeros(3))
    assert on_bore == pytest.approx([7, 8, 4])
    matrix, left = datum_frame(
        plane((0, 0, 4), (0, 0, 1)),
        [bore((0, 0, 0), (0, 0, 1)), bore((3, 4, 9), (0, 0, 1))],
        up="+z",
        along="+x",
        origin=np.zeros(3),
    )
    assert turned(matrix, np.array([0.6, 0.8, 0.0])) == pytest.approx([1, 0, 0])
    assert left.tilt_deg == 0


def test_the_first_surface_holds_the_origin_before_those_that_follow():
    # A plane beside a bore, along its axis: halfway between the two is where nobody's zero is.
    at, off, held = meeting_point([bore((7, 8, 50), (0, 0, 1)), plane((15, 0, 0), (1, 0, 0))], np.array([0, 0, 3.0]))
    assert at == pytest.approx([7, 8, 3]) and off == pytest.approx([0, 8]) and held.tolist() == [True, False]
    # A bore that leans a little and a plane across it: the plane moves it along the bore alone.
    lean = np.array([0.02, 0, 1.0]) / np.linalg.norm([0.02, 0, 1.0])
    at, off, held = meeting_point([bore((7, 8, 50), tuple(lean)), plane((0, 0, 4), (0, 0, 1))], np.zeros(3))
    assert at == pytest.approx([7 - 0.02 * 46, 8, 4]) and off == pytest.approx([0, 0], abs=1e-9) and held.all()
    # Skew axes: on the first, at its place nearest to the second.
    at, off, held = meeting_point([bore((0, 0, 9), (0, 0, 1)), bore((5, 30, 4.5), (1, 0, 0))], np.zeros(3))
    assert at == pytest.approx([0, 0, 4.5]) and off == pytest.approx([0, 30]) and held.all()
    # The same plane twice: the second is off by what they are apart, and is told so.
    *_, off, held = meeting_point([plane((0, 0, 4), (0, 0, 1)), plane((9, 9, 4.2), (0, 0.001, 1))], np.zeros(3))
    assert off[0] == pytest.approx(0, abs=1e-9) and off[1] == pytest.approx(0.2, abs=0.02) and not held[1]


def test_a_datum_frame_is_right_handed_and_reports_what_is_not_square():
    pose = some_pose(11)
    tilted = np.array([np.cos(np.radians(1.5)), 0, np.sin(np.radians(1.5))])
    primary, second = (
        plane(moved(pose, np.zeros(3)), turned(pose, np.array([0, 0, 1.0]))),
        plane((0, 0, 0), turned(pose, tilted)),
    )
    matrix, left = datum_frame(primary, [second], up="-z", along="+y", origin=moved(pose, np.zeros(3)))
    assert np.linalg.det(matrix[:3, :3]) == pytest.approx(1)
    assert turned(matrix @ pose, np.array([0, 0, 1.0])) == pytest.approx([0, 0, -1])
    assert turned(matrix @ pose, np.array([1.0, 0, 0])) == pytest.approx([0, 1, 0])
    assert moved(matrix @ pose, np.zeros(3)) == pytest.approx([0, 0, 0])
    assert left.tilt_deg == pytest.approx(1.5)
    # A bore for the origin that leans half a degree counts; a face made at 30 degrees does not.
    lean = lambda deg: turned(pose, np.array([0, np.sin(np.radians(deg)), np.cos(np.radians(deg))]))  # noqa: E731
    for deg, said in ((0.5, 0.5), (30.0, 0.0)):
        other = bore((9, 9, 9), lean(deg))
        _, left = datum_frame(primary, [], also=[other], up="+z", along="+x", origin=np.zeros(3))
        assert left.tilt_deg == pytest.approx(said, abs=1e-6)


@pytest.mark.parametrize(
    ("second", "along"),
    [
        ([plane((0, 0, 0), (0, 0.05, 1))], "+x"),
        ([plane((0, 0, 0), (1, 0, 0))], "-z"),
        ([bore((0, 0, 0), (0, 0, 1)), bore((0, 0, 9), (0, 0, 1))], "+x"),
    ],
)
def test_datums_that_give_no_frame_are_refused(second, along):
    with pytest.raises(ContourError) as caught:
        datum_frame(plane((0, 0, 0), (0, 0, 1)), second, up="+z", along=along, origin=np.zeros(3))
    assert caught.value.problem.where.param in ("secondary", "along")


def test_principal_axes_and_boxes_of_a_block():
    rng = np.random.default_rng(5)
    points = rng.uniform(-1, 1, (4000, 3)) * [30, 20, 5]
    pose = some_pose(3)
    there = moved(pose, points)
    matrix = principal_frame(there, np.ones(len(points)))
    extent = np.ptp(moved(matrix, there), axis=0)
    assert extent == pytest.approx([60, 40, 10], rel=0.06)
    corner = box_corner(matrix, there, centre=False)
    assert moved(corner, there).min(axis=0) == pytest.approx([0, 0, 0], abs=1e-9)
    middle = moved(box_corner(matrix, there, centre=True), there)
    assert middle.min(axis=0) == pytest.approx(-middle.max(axis=0))
    mirrored = reflected_frame(
        moved(pose, np.zeros(3)), turned(pose, np.array([0, 1.0, 0])), "+x", there, np.ones(len(points))
    )
    assert np.abs(turned(mirrored @ pose, np.array([0, 1.0, 0]))) == pytest.approx([1, 0, 0])


def test_a_placed_scan_keeps_its_facets_and_remembers_where_it_came_from(block_scan):
    pose = some_pose(2)
    there = placed(placed(block_scan, pose), typed_motion([0, 0, 90.0], [5, 0, 0]) @ inverse(pose))
    assert there.pose == pytest.approx(typed_motion([0, 0, 90.0], [5, 0, 0]))
    assert np.array_equal(there.facets, block_scan.facets)
    assert there.vertices == pytest.approx(moved(there.pose, block_scan.vertices))
    assert there.noise_mm == block_scan.noise_mm
