"""A thread step: measured from the facets of a wall, taken as a standard, and what it says where there is no thread."""

from __future__ import annotations

import numpy as np
import pytest

from contour.fit.thread.walls import threaded_walls
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from contour.recipe.registry import Inputs
from contour.recipe.values import facets_to_bytes
from contour.steps import KINDS
from tests.fit.test_thread import HOLE, STUD
from tests.fit.threaded import axis_of, scan_of


def run(part, facets: np.ndarray | None = None, numbers: np.ndarray | None = None, **params):
    scan = scan_of(part)
    own = threaded_walls(scan)[0].facets if facets is None else facets
    picked = {"blob": "a" * 64, "count": len(own)}
    kind = KINDS["thread"]
    checked = kind.params.model_validate({"scan": {"id": "s"}, "picked": picked, **params})
    blob = facets_to_bytes(scan.source_facet[own] if numbers is None else numbers)
    return kind.run(checked, Inputs("step", {"scan": ScanProduct(scan)}, "mm", blob=lambda _: blob))


@pytest.mark.parametrize("part", [HOLE, STUD])
def test_the_wall_gives_axis_pitch_and_diameters(part) -> None:
    done = run(part)
    f = done.facts
    assert f.inside == part.inside and f.hand == ("right" if part.hand > 0 else "left")
    assert f.pitch == f.measured_pitch == pytest.approx(part.pitch, rel=2e-3)
    assert f.major == pytest.approx(part.major, abs=0.06)
    assert 0.5 * part.length < f.length < 1.1 * part.length
    _, axis = axis_of(part)
    assert abs(done.product.along @ axis) > 0.99999 and done.product.radius == pytest.approx(part.major / 2, abs=0.03)


def test_a_thread_taken_as_a_standard_has_its_figures_and_keeps_what_was_measured() -> None:
    f = run(HOLE, taken_as="m10X1.5").facts
    assert (f.taken_as, f.major, f.pitch) == ("M10x1.5", 10.0, 1.5)
    assert f.minor == pytest.approx(HOLE.minor, abs=1e-3) and f.measured_pitch != 1.5
    assert f.near[0].designation == "M10x1.5" and f.near[0].tap_drill == "8.5 mm"


def test_an_unknown_standard_and_facets_without_a_thread_are_refused_with_their_place() -> None:
    with pytest.raises(ContourError) as unknown:
        run(HOLE, taken_as="M10.3x7")
    assert unknown.value.problem.where.param == "taken_as"
    scan = scan_of(HOLE)
    kind = KINDS["thread"]
    with pytest.raises(ContourError) as bare:
        kind.run(kind.params.model_validate({"scan": {"id": "s"}}), Inputs("step", {"scan": ScanProduct(scan)}, "mm"))
    assert bare.value.problem.where.param == "picked" and bare.value.problem.remedy
    outside = np.setdiff1d(np.arange(len(scan.facets)), threaded_walls(scan)[0].facets)
    with pytest.raises(ContourError) as none:
        run(HOLE, facets=outside)
    assert none.value.problem.code == "nothing-found" and none.value.problem.where.point is not None
    with pytest.raises(ContourError) as gone:  # facets that a mend has dropped
        run(HOLE, numbers=np.array([10_000_000]))
    assert gone.value.problem.got == "0 facets"
