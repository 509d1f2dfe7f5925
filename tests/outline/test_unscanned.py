"""What a mend has made is told along a section's pieces: where it lies is known, for it was taken off by place."""

from dataclasses import replace

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.mesh.slice import slice_scan
from contour.outline.section import marked_unscanned, scanned_runs, section_loops

MIDDLE = np.array([0.0, 0.0, 5.0])
UP = np.array([0.0, 0.0, 1.0])


def told(scan, made):
    """The section at half height with facets at places (n, 3) -> (n,) made by a mend: each piece's middle and its spans."""
    spoilt = replace(scan, source_facet=np.where(made(scan.centroids), -1, scan.source_facet))
    frame = plane_frame(MIDDLE, UP)
    runs = scanned_runs(spoilt, slice_scan(spoilt, MIDDLE, UP), frame)
    loops = section_loops(spoilt, MIDDLE, UP)
    if runs is None:
        return None
    marked = marked_unscanned(loops, runs, scan.edge_mm)
    out = {}
    for loop in marked:
        for p in loop.outline.pieces:
            ends = frame.to_space(np.array([p.start, p.end]))
            out[tuple(np.round(ends.mean(axis=0)[:2]))] = [frame.to_space(np.array(s)) for s in p.assumed]
    return out


def test_where_all_was_scanned_nothing_is_told(block_scan):
    assert told(block_scan, lambda c: np.zeros(len(c), bool)) is None


def test_half_of_one_side_is_told_from_where_to_where(block_scan):
    found = told(block_scan, lambda c: (c[:, 1] < 0.3) & (c[:, 0] > 25) & (c[:, 0] < 34))
    spans = {k: v for k, v in found.items() if v}
    ((middle, (span,)),) = spans.items()
    assert middle == (20, 0)
    assert sorted(span[:, 0]) == pytest.approx([25, 34], abs=1.0) and np.abs(span[:, 1]).max() < 0.2


def test_a_bore_that_was_made_is_told_whole_and_its_neighbours_are_not(block_scan):
    found = told(block_scan, lambda c: np.linalg.norm(c[:, :2] - 15, axis=1) < 6.5)
    spans = {k: v for k, v in found.items() if v}
    assert len(spans) >= 1 and all(np.linalg.norm(np.array(k) - 15) < 7 for k in spans)


def test_where_nothing_was_scanned_every_piece_is_told(block_scan):
    """Facets that were scanned elsewhere remain: else all of it would count as evidence again."""
    found = told(block_scan, lambda c: c[:, 2] < 9)
    assert found and all(found.values())
