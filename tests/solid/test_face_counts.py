"""A solid made from a modelled mesh has about as many faces as the solid that was exported: one surface told wrongly can leave hundreds of flats."""

from __future__ import annotations

import pytest

from benchmarks.random_parts import random_part
from contour.solid.mass import volume
from contour.solid.shape import faces
from contour.solid.solidify import solidify
from tests.fit.test_modelled import exported

# Seams of closed blends, and blends of two rows that two cones go through as well, are told as the mesh has them.
MOST_APART = 3


@pytest.mark.parametrize(
    ("seed", "chord_mm"),
    [(8, 0.1), (14, 0.1), (20, 0.1), (31, 0.1), (38, 0.1), (46, 0.01), (77, 0.5), (111, 0.1), (123, 0.5), (191, 0.1)],
)
def test_about_as_many_faces_come_back_as_went_out(seed, chord_mm):
    true = random_part(seed)
    scan, _ = exported(true, chord_mm)
    made = solidify(scan)
    assert made.closed and made.valid and made.flat == 0
    assert len(faces(made.body.shape)) == pytest.approx(len(faces(true)), abs=MOST_APART)
    assert made.volume == pytest.approx(volume(true), rel=1e-3)
