"""Regions changed by hand, as sets of facets: nothing of one region is another's, and what lacks something is refused."""

from __future__ import annotations

import numpy as np
import pytest

from contour.fit.facet_sets import changed
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.recipe.problem import ContourError
from tests.conftest import raw_scan


@pytest.fixture(scope="module")
def sheet() -> PreparedScan:
    """A flat of 10 by 10 squares of 1 mm, two facets each."""
    x, y = np.meshgrid(np.arange(11.0), np.arange(11.0), indexing="ij")
    p = np.stack([x, y, 0 * x], axis=-1)
    a, b, c, d = p[:-1, :-1], p[1:, :-1], p[1:, 1:], p[:-1, 1:]
    triangles = np.concatenate([np.stack([a, b, c], axis=2), np.stack([a, c, d], axis=2)]).reshape(-1, 3, 3)
    return prepare_scan(raw_scan(triangles), 1.0)


def test_what_is_given_is_taken_from_whoever_had_it(sheet):
    left, right = (np.flatnonzero(side) for side in (sheet.centroids[:, 0] < 5, sheet.centroids[:, 0] > 5))
    painted = np.flatnonzero(np.abs(sheet.centroids[:, 0] - 5) < 1)
    members = {"l": left, "r": right, "far": np.zeros(0, np.int64)}
    done = changed("give", "l", members, sheet, painted=painted)
    assert set(done.picked) == {"l", "r"}
    assert not np.intersect1d(done.picked["l"], done.picked["r"]).size
    assert sorted(np.concatenate(list(done.picked.values()))) == list(range(len(sheet.facets)))
    assert np.array_equal(
        changed("take", "l", {"l": left}, sheet, painted=painted).picked["l"], np.setdiff1d(left, painted)
    )
    worn = changed("worn", "l", {"l": left}, sheet, painted=painted)
    assert worn.picked == {} and np.array_equal(worn.worn["l"], np.intersect1d(left, painted))


def test_a_plane_parts_and_joining_puts_together_again(sheet):
    everything = np.arange(len(sheet.facets))
    plane = (np.array([3.0, 0, 0]), np.array([1.0, 0, 0]))
    done = changed("split", "a", {"a": everything}, sheet, plane=plane)
    assert done.part is not None
    assert len(done.picked["a"]) == 140 and len(done.part) == 60
    back = changed("join", "a", {"a": done.picked["a"], "b": done.part}, sheet)
    assert np.array_equal(back.picked["a"], everything) and back.dropped == ("b",)


def test_rings_grow_and_shrink(sheet):
    middle = np.flatnonzero(np.linalg.norm(sheet.centroids[:, :2] - 5, axis=1) < 2)
    more = changed("rings", "a", {"a": middle}, sheet, rings=2).picked["a"]
    assert len(more) > len(middle) and np.isin(middle, more).all()
    less = changed("rings", "a", {"a": more}, sheet, rings=-2).picked["a"]
    assert np.isin(less, more).all() and np.isin(middle, less).mean() > 0.9


@pytest.mark.parametrize(
    ("op", "code"),
    [("give", "too-few-facets"), ("worn", "too-few-facets"), ("split", "bad-params"), ("join", "bad-params")],
)
def test_what_lacks_something_is_refused(sheet, op, code):
    with pytest.raises(ContourError) as raised:
        changed(op, "a", {"a": np.arange(20)}, sheet, painted=np.zeros(0, np.int64))
    assert raised.value.problem.code == code and raised.value.problem.remedy
