"""Pieces of mesh cut in two: each part hangs together, the cut is short, and what cannot be cut is left."""

from __future__ import annotations

import numpy as np
import pytest

from contour.mesh.facets import border_loops, pieces_of
from contour.mesh.parting import parted
from contour.mesh.topology import neighbours
from tests.mesh.test_flatten import cylinder, sheet


def ring(around: int, rows: int, place):
    """Facets over a band that closes: around columns, its vertices where place(turn from 0 to 1, v) puts them."""
    u, v = np.meshgrid(np.arange(around) / around, np.linspace(0, 1, rows), indexing="ij")
    at = np.arange(around * rows).reshape(around, rows)
    a, b = at[:, :-1], np.roll(at, -1, axis=0)[:, :-1]
    c, d = np.roll(at, -1, axis=0)[:, 1:], at[:, 1:]
    rows_of = [np.column_stack([x.ravel() for x in corners]) for corners in ((a, b, c), (a, c, d))]
    return np.stack(place(u.ravel(), v.ravel()), axis=1), np.vstack(rows_of)


def tube(u, v):
    return 6 * np.cos(2 * np.pi * u), 6 * np.sin(2 * np.pi * u), 10 * v


def area(vertices, facets):
    a, b, c = (vertices[facets[:, k]] for k in range(3))
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


def parts_of(facets, one):
    for part in (facets[one], facets[~one]):
        used, own = np.unique(part, return_inverse=True)
        own = own.reshape(-1, 3).astype(np.int32)
        across, _ = neighbours(own, len(used))
        yield part, pieces_of(own, across)[0], len(border_loops(own, across))


def test_a_ring_is_cut_across_in_two_places_about_opposite_each_other():
    vertices, facets = ring(24, 6, tube)
    one = parted(vertices, facets)
    for part, pieces, loops in parts_of(facets, one):
        assert (pieces, loops) == (1, 1)
        assert 0.25 < area(vertices, part) / area(vertices, facets) < 0.75
    # Straight up the wall, which is the shortest way: vertices of both parts lie at two angles.
    shared = vertices[np.intersect1d(facets[one], facets[~one])]
    assert len(np.unique(np.round(np.arctan2(shared[:, 1], shared[:, 0]), 6))) == 2 and len(shared) == 12


def test_a_strip_is_cut_across_the_middle_of_its_length():
    vertices, facets = sheet(21, 5, lambda u, v: (40 * u, 6 * v, 0.2 * u * u))
    one = parted(vertices, facets)
    shared = vertices[np.intersect1d(facets[one], facets[~one])]
    assert len(shared) == 5 and np.ptp(shared[:, 0]) < 1e-9
    assert 12 <= shared[0, 0] <= 28
    assert all((pieces, loops) == (1, 1) for _, pieces, loops in parts_of(facets, one))


def test_a_plate_with_a_hole_becomes_two_plates_without_one():
    def washer(u, v):
        r = 4 + 8 * v
        return r * np.cos(2 * np.pi * u), r * np.sin(2 * np.pi * u), 0 * u

    vertices, facets = ring(16, 4, washer)
    assert all((pieces, loops) == (1, 1) for _, pieces, loops in parts_of(facets, parted(vertices, facets)))


def test_what_has_no_row_of_vertices_to_cut_along_is_left():
    vertices, facets = sheet(9, 2, cylinder)  # one row of facets: a cut would be a chord
    assert parted(vertices, facets) is None


def test_a_band_of_single_facets_is_cut_along_one_side_where_that_is_allowed():
    vertices, facets = sheet(21, 2, lambda u, v: (40 * u, 6 * v, 4 * u * u))
    assert parted(vertices, facets) is None
    one = parted(vertices, facets, least_way=2)
    assert len(np.intersect1d(facets[one], facets[~one])) == 2
    assert all((pieces, loops) == (1, 1) for _, pieces, loops in parts_of(facets, one))


@pytest.mark.parametrize("closed", [True, False])
def test_what_has_no_border_is_left(closed):
    a = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], float)
    facets = np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]])
    assert parted(a, facets if closed else facets[:1]) is None


def test_what_does_not_hang_together_is_parted_where_it_does_not():
    vertices, facets = sheet(5, 3, cylinder)
    both = np.vstack([facets, facets + len(vertices)])
    one = parted(np.vstack([vertices, vertices + [0, 0, 40]]), both)
    assert one.sum() == len(facets) and (one[: len(facets)].all() or one[len(facets) :].all())
