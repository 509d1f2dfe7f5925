"""Shells through each other, facets without area, and two scans made one: against closed forms."""

import numpy as np
import pytest

from contour.mesh.facets import Mesh, pieces_of
from contour.mesh.merge import merged
from contour.mesh.orient import turned_facets
from contour.mesh.piercing import pierced_pairs
from contour.mesh.thin import drop_thin
from contour.mesh.topology import signed_volume
from contour.mesh.unite import unite_shells
from tests.conftest import cube
from tests.shapes import soup, sphere


def volume(mesh: Mesh) -> float:
    return signed_volume(mesh.vertices, mesh.facets)


def united(*parts: np.ndarray) -> tuple[Mesh, int]:
    mesh = soup(*parts)
    return unite_shells(mesh, pierced_pairs(mesh.vertices, mesh.facets))


def test_two_boxes_through_each_other_become_one_skin():
    made, count = united(cube((10, 10, 10)), cube((10, 10, 10)) + [5.1, 4.9, 5.3])
    assert count == 2
    assert pieces_of(made.facets, made.across())[0] == 1
    assert volume(made) == pytest.approx(2000 - 4.9 * 5.1 * 4.7)
    assert (made.across() >= 0).all()


def test_a_row_of_boxes_is_united_in_one_go():
    made, count = united(*(cube((10, 4, 4)) + [8.0 * k, 0.01 * k, 0.013 * k] for k in range(6)))
    assert count == 6
    assert pieces_of(made.facets, made.across())[0] == 1
    # Five overlaps of 2 mm, each a little narrower than the boxes.
    assert volume(made) == pytest.approx(6 * 160 - 5 * 2 * (4 - 0.01) * (4 - 0.013), rel=1e-9)


def test_boxes_that_only_lie_side_by_side_stay_two():
    mesh = soup(cube((10, 10, 10)), cube((10, 10, 10)) + [12.0, 0, 0])
    made, count = unite_shells(mesh, pierced_pairs(mesh.vertices, mesh.facets))
    assert count == 0
    assert made is mesh


def test_an_open_shell_is_not_united():
    lidless = cube((10, 10, 10))[2:]
    made, count = united(lidless, cube((4, 4, 30)) + [3.0, 3.1, -5.0])
    assert count == 0
    assert len(made.facets) == len(lidless) + 12


def test_united_facets_keep_the_number_of_the_facet_they_are_part_of():
    made, _ = united(cube((10, 10, 10)), cube((4, 4, 30)) + [3.0, 3.1, -5.0])
    whole = np.vstack([cube((10, 10, 10)), cube((4, 4, 30)) + [3.0, 3.1, -5.0]])
    normal = np.cross(whole[:, 1] - whole[:, 0], whole[:, 2] - whole[:, 0])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    middle = made.vertices[made.facets].mean(axis=1)
    off = np.einsum("ij,ij->i", middle - whole[made.source, 0], normal[made.source])
    assert np.abs(off).max() < 1e-9


@pytest.mark.parametrize("depth", [1, 2, 3])
def test_nested_shells_face_in_and_out_in_turn(depth):
    shells = [cube((20 - 4 * k,) * 3) + 2.0 * k for k in range(depth + 1)]
    mesh = soup(*shells)
    turned = turned_facets(mesh, mesh.across())
    facets = np.where(turned[:, None], mesh.facets[:, ::-1], mesh.facets)
    wanted = sum((-1) ** k * (20 - 4 * k) ** 3 for k in range(depth + 1))
    assert signed_volume(mesh.vertices, facets) == pytest.approx(wanted)


def test_single_facets_turned_the_wrong_way_are_named():
    mesh = sphere(24, 10.0)
    rng = np.random.default_rng(5)
    wrong = rng.random(len(mesh.facets)) < 0.2
    facets = np.where(wrong[:, None], mesh.facets[:, ::-1], mesh.facets).astype(np.int32)
    spoilt = Mesh(mesh.vertices, facets, mesh.source)
    assert np.array_equal(turned_facets(spoilt, spoilt.across()), wrong)


def test_a_needle_is_collapsed_and_a_cap_turned():
    """One side of a box with a vertex a hair from its edge, and one a hair from a corner."""
    corners = cube((10, 10, 10))
    for place in ([5.0, 1e-9, 10.0], [1e-9, 1e-9, 10.0]):
        top = [t for t in corners if (t[:, 2] == 10).all()]
        rest = [t for t in corners if not (t[:, 2] == 10).all()]
        ring = [np.array(c, float) for c in ([0, 0, 10], [10, 0, 10], [10, 10, 10], [0, 10, 10])]
        fan = [np.array([ring[k], ring[(k + 1) % 4], place]) for k in range(4)]
        assert len(top) == 2
        mesh = soup(np.array([*rest, *fan]))
        made, count, moved = drop_thin(mesh)
        assert count >= 1
        assert moved < 1e-6
        assert (made.across() >= 0).all()
        assert volume(made) == pytest.approx(1000)


def halves(radius: float, overlap: float) -> list[Mesh]:
    """A sphere seen from above and from below, each a little past its middle."""
    out = []
    for side in (1, -1):
        mesh = sphere(64, radius)
        centre = mesh.vertices[mesh.facets].mean(axis=1)
        part = mesh.without(side * centre[:, 2] < -overlap)
        out.append(Mesh(part.vertices, part.facets, part.source + (side < 0) * len(mesh.facets)))
    return out


def test_two_halves_of_a_sphere_become_one_closed_skin():
    made = merged(halves(20.0, 3.0), step_mm=0.8)
    across = made.across()
    assert (across == -2).sum() == 0
    radius = np.linalg.norm(made.vertices, axis=1)
    assert np.abs(radius - 20).max() < 0.05
    assert (across == -1).mean() < 0.002
    assert volume(made) == pytest.approx(4 / 3 * np.pi * 20**3, rel=0.005)


def test_what_no_scan_saw_stays_open():
    top, _ = halves(20.0, 0.0)
    made = merged([top], step_mm=0.8)
    rim = np.unique(made.facets[np.nonzero(made.across() == -1)[0]])
    assert len(rim) > 50
    assert np.abs(made.vertices[rim, 2]).max() < 2.5
    assert made.vertices[:, 2].min() > -1.5


def test_between_two_scans_that_disagree_the_middle_is_taken():
    one, two = halves(20.0, 8.0)
    two = Mesh(two.vertices * (20.1 / 20.0), two.facets, two.source)
    made = merged([one, two], step_mm=0.8)
    belt = np.abs(made.vertices[:, 2]) < 2.0
    radius = np.linalg.norm(made.vertices[belt], axis=1)
    assert radius.mean() == pytest.approx(20.05, abs=0.02)
    poles = np.linalg.norm(made.vertices[made.vertices[:, 2] > 15], axis=1)
    assert poles.mean() == pytest.approx(20.0, abs=0.02)


def test_merged_facets_say_which_scan_they_come_from():
    one, two = halves(20.0, 3.0)
    made = merged([one, two], step_mm=0.8)
    middle = made.vertices[made.facets].mean(axis=1)[:, 2]
    first = made.source < 2 * 64 * 128
    assert first[middle > 6].mean() > 0.99
    assert (~first)[middle < -6].mean() > 0.99
