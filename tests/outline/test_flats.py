"""Straight stretches of a few facets beside arcs: told where they are, and not where two arcs meet."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter1d
from shapely.geometry import Point, Polygon, box

from benchmarks.gaps import same_structure
from contour.outline.explain import fit_outline
from contour.outline.pieces import Outline
from tests.outline.test_explain import resampled

EDGE, NOISE = 0.57, 0.02
ROUND = {"quad_segs": 2000}


def scanned(shape: Polygon, seed: int) -> np.ndarray:
    """The border of a shape as a scan shows it (n, 2): averaged over facets, crossed twice a facet, with noise."""
    dense = resampled(np.array(shape.exterior.coords), 0.02)
    soft = gaussian_filter1d(dense, 0.6 * EDGE / 0.02, axis=0, mode="wrap")
    rng = np.random.default_rng(seed)
    taken = np.cumsum(rng.uniform(0.3, 1.7, 2 * len(soft)) * 0.5 * EDGE / 0.02).astype(int)
    points = soft[taken[taken < len(soft)]]
    return np.roll(points + rng.normal(0, NOISE, points.shape), int(rng.integers(len(points))), axis=0)


def explained(shape: Polygon, seed: int) -> Outline:
    return fit_outline(scanned(shape, seed), closed=True, tolerance_mm=3 * NOISE, edge_mm=EDGE)


def kinds(outline: Outline) -> list[str]:
    return [p.kind for p in outline.pieces]


def lengths(outline: Outline) -> list[float]:
    """Of the lines, mm."""
    return sorted(float(np.hypot(*np.subtract(p.end, p.start))) for p in outline.pieces if p.kind == "line")


@pytest.mark.parametrize("seed", range(4))
def test_flats_between_the_rounds_of_a_lug_and_at_its_foot_are_lines(seed):
    lugs = box(-44, -1, 44, 1).buffer(8, **ROUND)  # 104 x 18 with corners of 8
    made = explained(Point(0, 0).buffer(42, **ROUND).union(lugs), seed)
    assert same_structure(kinds(made), ("arc", "line") * 6)
    foot = 44 - np.sqrt(42**2 - 9**2)
    assert lengths(made) == pytest.approx([2.0, 2.0, foot, foot, foot, foot], abs=0.4)
    assert sorted(p.radius for p in made.pieces if p.kind == "arc") == pytest.approx([8, 8, 8, 8, 42, 42], abs=0.12)


@pytest.mark.parametrize("seed", range(4))
def test_what_goes_on_straight_from_a_round_to_a_corner_is_a_line(seed):
    plate = box(-26, -14, 26, 14).buffer(3, **ROUND).difference(box(-23, 11, -9, 20))
    made = explained(plate, seed)
    assert same_structure(kinds(made), ("line", "arc") * 4 + ("line",) * 4)
    assert lengths(made)[0] == pytest.approx(3.0, abs=0.3)


@pytest.mark.parametrize("seed", range(4))
def test_arcs_that_touch_each_other_and_arcs_that_meet_in_a_corner_have_no_line_between(seed):
    # Four arcs of 10 and 40 that touch: an oval of 60 mm.
    high = np.sqrt(30**2 - 20**2)
    ends = [Point(x, 0).buffer(10, **ROUND) for x in (-20, 20)]
    sides = Point(0, high).buffer(40, **ROUND).intersection(Point(0, -high).buffer(40, **ROUND))
    reach = 20 * 40 / 30  # where they touch
    oval = sides.intersection(box(-reach, -50, reach, 50)).union(ends[0]).union(ends[1])
    assert kinds(explained(oval, seed)) == ["arc"] * 4
    lens = Point(-20, 0).buffer(30, **ROUND).intersection(Point(20, 0).buffer(30, **ROUND))
    assert kinds(explained(lens, seed)) == ["arc"] * 2
