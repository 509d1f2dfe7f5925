"""One sector against the part's own: where it begins, how wide it is, and that the mean of all is quieter than each."""

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.geometry.vectors import square_to
from contour.mesh.prepare import mesh_of
from contour.mesh.sector import between_two, one_sector
from tests.wheels import holed_disc, scan_without, wheel

Z, O = np.array([0, 0, 1.0]), np.zeros(3)


def angles(points, along=Z):
    """Degrees about z, from x."""
    return np.degrees(np.arctan2(points[:, 1], points[:, 0])) % 360


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
    off = np.abs(np.asarray(signed_distances(exact_arrays(body.shape), made.vertices)[0]))
    assert np.quantile(off, 0.9) < 0.08


def test_the_mean_of_all_is_quieter_by_the_root_of_their_number():
    scan = scan_without(wheel(16), noise=0.03)
    top = {}
    for averaged in (True, False):
        made = one_sector(mesh_of(scan), O, Z, 16, first=0.0, averaged=averaged, step_mm=scan.edge_mm / 1.2)
        r = np.linalg.norm(made.vertices[:, :2], axis=1)
        inner = (r > 8) & (r < 18) & (made.vertices[:, 2] > 9)
        top[averaged] = made.vertices[inner, 2].std()
    assert top[False] == pytest.approx(0.03, rel=0.25)
    assert top[True] < 0.45 * top[False]  # by 4, but that places between vertices are averaged already


def test_what_one_tooth_lacks_the_mean_has():
    scan = scan_without(wheel(8), (((22.0, 0.0, 5.0), 6.0),))
    made = one_sector(mesh_of(scan), O, Z, 8, first=between_two(mesh_of(scan), O, Z, 8), averaged=True, step_mm=0.7)
    f, k = np.nonzero(made.across() < 0)
    rim = made.vertices[np.unique(made.facets[f, k])]
    a = np.sort(angles(rim)) % 45
    ends = np.minimum(np.abs(a - a.min()), np.abs(a - a.max()))
    assert ends.max() < 4  # open only where the sector was cut out


def test_two_sectors_are_halves():
    scan = scan_without(wheel(2))
    made = one_sector(mesh_of(scan), O, Z, 2, first=0.0, averaged=False, step_mm=0.7)
    assert len(made.facets) == pytest.approx(len(scan.facets) / 2, rel=0.1)
