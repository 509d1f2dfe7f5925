"""One sector against the part's own: where it begins, how wide it is, and that the mean of all is quieter than each."""

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.geometry.frames import plane_frame
from contour.geometry.vectors import square_to
from contour.mesh.facets import compacted
from contour.mesh.prepare import mesh_of, prepare_mesh
from contour.mesh.sector import between_two, one_sector
from contour.mesh.slice import slice_scan
from contour.mesh.topology import facet_geometry, signed_volume
from contour.outline.section import loop_of, marked_unscanned, scanned_runs, section_loops
from contour.sketch.refit import refit_loops
from contour.sketch.taken import TakenLoop, taken_pieces
from contour.solid.mass import volume
from tests.wheels import holed_disc, scan_without, wheel

Z, O = np.array([0, 0, 1.0]), np.zeros(3)


def angles(points, along=Z):
    """Degrees about z, from x."""
    return np.degrees(np.arctan2(points[:, 1], points[:, 0])) % 360


def scanned(mesh):
    """Without the ends, which are flat where it was cut out."""
    return compacted(mesh.without(mesh.source < 0))


def begins(mesh, count) -> float:
    """Degrees from x, within one pitch, at which a sector begins."""
    u, v = square_to(Z)
    a = between_two(mesh, O, Z, count)
    way = np.cos(a) * u + np.sin(a) * v
    return float(np.degrees(np.arctan2(way[1], way[0])) % (360 / count))


@pytest.mark.parametrize(("body", "count"), [(wheel(12), 12), (wheel(7), 7), (holed_disc(6), 6), (holed_disc(3), 3)])
def test_a_sector_begins_between_two(body, count):
    """The middle of a tooth, or of a hole, lies at x: a sector begins half a pitch from there."""
    pitch = 360 / count
    off = abs(begins(mesh_of(scan_without(body)), count) - pitch / 2)
    assert off < 0.22 * pitch


@pytest.mark.parametrize("averaged", [True, False])
def test_it_is_a_pitch_wide_and_lies_on_the_part(averaged):
    body = wheel(10)
    scan = scan_without(body, noise=0.03)
    first = between_two(mesh_of(scan), O, Z, 10)
    made = one_sector(mesh_of(scan), O, Z, 10, first=first, averaged=averaged, step_mm=scan.edge_mm / 1.2)
    spread = np.unwrap(np.radians(np.sort(angles(made.vertices))))
    wide = np.degrees(spread[-1] - spread[0])
    assert min(wide, 360 - np.max(np.diff(np.sort(angles(made.vertices))))) == pytest.approx(36, abs=0.05)
    off = np.abs(np.asarray(signed_distances(exact_arrays(body.shape), scanned(made).vertices)[0]))
    assert np.quantile(off, 0.9) < 0.08


def test_the_mean_of_all_is_quieter_by_the_root_of_their_number():
    scan = scan_without(wheel(16), noise=0.03)
    top = {}
    for averaged in (True, False):
        made = scanned(one_sector(mesh_of(scan), O, Z, 16, first=0.0, averaged=averaged, step_mm=scan.edge_mm / 1.2))
        r = np.linalg.norm(made.vertices[:, :2], axis=1)
        inner = (r > 8) & (r < 18) & (made.vertices[:, 2] > 9)
        top[averaged] = made.vertices[inner, 2].std()
    assert top[False] == pytest.approx(0.03, rel=0.25)
    assert top[True] < 0.45 * top[False]  # by 4, but that places between vertices are averaged already


def test_what_one_tooth_lacks_the_mean_has():
    scan = scan_without(wheel(8), (((22.0, 0.0, 5.0), 6.0),))
    assert (scan.across < 0).any()
    made = one_sector(mesh_of(scan), O, Z, 8, first=between_two(mesh_of(scan), O, Z, 8), averaged=True, step_mm=0.7)
    assert (made.across() >= 0).all()  # closed: flat where it was cut out


@pytest.mark.parametrize("teeth", [3, 4, 9])
def test_a_section_of_it_is_closed_by_straight_ends_that_were_not_scanned(teeth):
    """Root, flank, tip, flank, root and the bore between two ends along the radius."""
    scan = scan_without(wheel(teeth))
    first = between_two(mesh_of(scan), O, Z, teeth)
    made = one_sector(mesh_of(scan), O, Z, teeth, first=first, averaged=True, step_mm=scan.edge_mm / 1.2)
    sector = prepare_mesh(made, pose=np.eye(4), raw_facets=scan.raw_facets)
    at = np.array([0, 0, 5.0])
    runs = scanned_runs(sector, slice_scan(sector, at, Z), plane_frame(at, Z))
    (loop,) = marked_unscanned(section_loops(sector, at, Z), runs, sector.edge_mm)
    assert loop.outline.closed and len(loop.outline.pieces) == 8
    ends = [p for p in loop.outline.pieces if p.assumed]
    assert len(ends) == 2 and all(abs(np.cross(p.start, p.end)) < 0.5 for p in ends)
    # A sector's own area: of the circle inscribed by roots and tips, in closed form.
    assert loop.area == pytest.approx(_area_between(teeth) / teeth, rel=0.01)


def test_a_section_of_it_is_taken_and_fitted_again_with_its_ends():
    """Pieces over what was not scanned are assumed when they are taken; the cut has them, and they follow it."""
    scan = scan_without(wheel(4))
    first = between_two(mesh_of(scan), O, Z, 4)
    made = one_sector(mesh_of(scan), O, Z, 4, first=first, averaged=True, step_mm=scan.edge_mm / 1.2)
    sector = prepare_mesh(made, pose=np.eye(4), raw_facets=scan.raw_facets)
    at = np.array([0, 0, 5.0])
    frame, cuts = plane_frame(at, Z), slice_scan(sector, at, Z)
    runs = scanned_runs(sector, cuts, frame)
    (loop,) = marked_unscanned(section_loops(sector, at, Z), runs, sector.edge_mm)
    pieces = [
        piece.model_copy(update={"assumed": bool(p.assumed)})
        for piece, p in zip(taken_pieces(loop.outline), loop.outline.pieces, strict=True)
    ]
    lines = [(frame.to_plane(c.points), c.closed) for c in cuts]
    (again,) = refit_loops([TakenLoop(closed=True, pieces=pieces)], lines, frame, 0.03, sector.edge_mm)
    assert loop_of(again, frame).area == pytest.approx(_area_between(4) / 4, rel=0.01)


def _area_between(teeth: int) -> float:
    """Of the wheel's outline less its bore: a polygon of which every corner is known."""
    a = 2 * np.pi / teeth
    spots = [(np.cos(a * s) * r, np.sin(a * s) * r) for k in range(teeth) for s, r in _corners(k)]
    x, y = np.array(spots).T
    return float(0.5 * abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)) - np.pi * 36)


def _corners(k: int) -> list[tuple[float, float]]:
    return [(k - 0.25, 20.0), (k - 0.15, 24.0), (k + 0.15, 24.0), (k + 0.25, 20.0)]


@pytest.mark.parametrize("averaged", [True, False])
@pytest.mark.parametrize("teeth", [2, 3, 8])
def test_without_a_bore_both_ends_meet_on_the_axis_and_are_closed(teeth, averaged):
    """A splined shaft: one rim runs along both ends, over the axis."""
    body = wheel(teeth, bore=0)
    scan = scan_without(body)
    first = between_two(mesh_of(scan), O, Z, teeth)
    made = one_sector(mesh_of(scan), O, Z, teeth, first=first, averaged=averaged, step_mm=scan.edge_mm / 1.2)
    assert (made.across() >= 0).all()
    assert signed_volume(made.vertices, made.facets) == pytest.approx(volume(body.shape) / teeth, rel=0.01)


def test_two_sectors_are_halves():
    scan = scan_without(wheel(2))
    made = one_sector(mesh_of(scan), O, Z, 2, first=0.0, averaged=False, step_mm=0.7)
    area = facet_geometry(scanned(made).vertices, scanned(made).facets)[2].sum()
    assert area == pytest.approx(scan.areas.sum() / 2, rel=0.01)
    assert (made.across() >= 0).all()
