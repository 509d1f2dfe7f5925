"""Inside or outside of every truth part: the exact distance against the kernel's own classifier."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_State

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.solid.shape import is_valid
from demo.truth_parts import TRUTH_PARTS


@pytest.mark.parametrize("name", TRUTH_PARTS)
def test_signs_agree_with_the_kernel(name: str) -> None:
    shape = TRUTH_PARTS[name]()
    assert is_valid(shape)
    solid = exact_arrays(shape)
    low, high = solid.vertices.min(axis=0) - 2, solid.vertices.max(axis=0) + 2
    points = np.random.default_rng(5).uniform(low, high, (600, 3))
    signed = signed_distances(solid, points)[0]
    kernel = BRepClass3d_SolidClassifier(shape)
    for p, d in zip(points, signed, strict=True):
        kernel.Perform(gp_Pnt(*(float(x) for x in p)), 1e-6)
        assert (kernel.State() == TopAbs_State.TopAbs_IN) == (d < 0), (p, d)
