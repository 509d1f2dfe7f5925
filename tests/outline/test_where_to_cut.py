"""Places to cut: of a stepped, rounded and bored block the levels are found, and rounds are kept clear of."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from contour.fit.budget import UNLIMITED
from contour.outline.where_to_cut import ranked_cuts
from contour.recipe.problem import ContourError

Z = np.array([0.0, 0.0, 1.0])


def test_a_drilled_block_is_cut_in_its_middle_with_five_pieces(block_scan, unhurried):
    best, *_ = ranked_cuts(block_scan, np.zeros(3), Z)
    assert best.loops == 2 and best.pieces == 5 and best.free == 0 and best.open_share == 0
    assert 1 < best.offset < 9 and best.steady > 5
    assert len(best.paths) == 2 and best.rms < 3 * block_scan.noise_mm
    across = ranked_cuts(block_scan, np.zeros(3), np.array([1.0, 0, 0]))
    # Along x the section is one rectangle, or two beside the bore.
    assert {c.loops for c in across} >= {1} and across[0].pieces in (4, 8)
    assert all(a.grade <= b.grade for a, b in pairwise(across))


def test_a_direction_that_meets_nothing_is_said(block_scan, unhurried):
    far = block_scan.vertices.mean(axis=0)
    with pytest.raises(ContourError, match="gives an outline"):
        ranked_cuts(_empty(block_scan), far, Z)


def test_all_places_together_have_their_time_and_the_last_still_have_a_turn(block_scan, monkeypatch):
    """By a clock that goes on a second at every look: no place gets more than its share, none less than nothing."""
    from contour.outline import where_to_cut

    shares = []
    monkeypatch.setattr(where_to_cut.time, "monotonic", iter(range(1000)).__next__)
    monkeypatch.setattr(where_to_cut, "Budget", lambda seconds: shares.append(seconds) or UNLIMITED)
    assert ranked_cuts(block_scan, np.zeros(3), Z, tried=9)
    assert len(shares) == 9 and min(shares) == 0 and max(shares) <= 0.5


def _empty(scan):
    from dataclasses import replace

    none = np.zeros((0, 3), np.int32)
    return replace(scan, facets=none, across=none, smooth_normals=np.zeros((0, 3)))
