"""Pieces of mesh spread out flat: what can be unrolled keeps its lengths, what cannot keeps every facet's turn."""

from __future__ import annotations

import numpy as np
import pytest

from contour.mesh.flatten import flattened


def sheet(rows: int, columns: int, place):
    """Facets over a grid of parameters from 0 to 1, with vertices where place(u, v) puts them."""
    u, v = np.meshgrid(np.linspace(0, 1, rows), np.linspace(0, 1, columns), indexing="ij")
    at = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = at[:-1, :-1].ravel(), at[1:, :-1].ravel(), at[1:, 1:].ravel(), at[:-1, 1:].ravel()
    facets = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    return np.stack(place(u.ravel(), v.ravel()), axis=1), facets


def turns(flat, facets):
    a, b, c = (flat[facets[:, k]] for k in range(3))
    return (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]


def sides(places, facets):
    return np.linalg.norm(places[facets] - places[np.roll(facets, -1, axis=1)], axis=2)


def cylinder(u, v):
    return 5 * np.cos(3 * u), 5 * np.sin(3 * u), 12 * v


def cone(u, v):
    return (4 + 6 * v) * np.cos(2 * u), (4 + 6 * v) * np.sin(2 * u), 8 * v


@pytest.mark.parametrize("place", [cylinder, cone])
def test_what_unrolls_keeps_its_lengths(place):
    vertices, facets = sheet(9, 4, place)
    flat = flattened(vertices, facets)
    # Chords of a developable surface make one as well, of a cone very nearly.
    assert sides(flat, facets) == pytest.approx(sides(vertices, facets), rel=2e-3)
    assert (turns(flat, facets) > 0).all()


def test_a_quarter_of_a_torus_spreads_with_every_facet_its_right_way_up():
    """A blend about a boss: a ring with a hole in it."""

    def place(u, v):
        w, t = 2 * np.pi * u, np.pi / 2 * v
        return (10 - 3 * np.sin(t)) * np.cos(w), (10 - 3 * np.sin(t)) * np.sin(w), 3 - 3 * np.cos(t)

    vertices, facets = sheet(33, 6, place)
    # The last row is the first.
    facets = np.where(facets >= 32 * 6, facets - 32 * 6, facets)
    flat = flattened(vertices[: 32 * 6], facets)
    assert flat is not None and (np.sign(turns(flat, facets)) == np.sign(turns(flat, facets))[0]).all()
    assert turns(flat, facets).sum() / 2 == pytest.approx(sum(area(vertices, facets)), rel=0.2)


def area(vertices, facets):
    a, b, c = (vertices[facets[:, k]] for k in range(3))
    return np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2


def test_what_closes_around_itself_or_hangs_nowhere_together_does_not_spread():
    tetrahedron = np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]])
    closed = np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [0, 3, 2]])
    assert flattened(tetrahedron, closed) is None
    vertices, facets = sheet(3, 3, cylinder)
    two = np.vstack([facets, facets + len(vertices)])
    assert flattened(np.vstack([vertices, vertices + 50]), two) is None
    # A facet without an area has no angles to keep.
    assert flattened(np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0]]), np.array([[0, 1, 2]])) is None
