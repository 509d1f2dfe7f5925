"""Faces to solid as a step: the body with its names, what it tells, and what it refuses."""

from __future__ import annotations

import numpy as np
import pytest

from contour.mesh.prepare import prepare_scan
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from contour.recipe.registry import OWN
from tests.conftest import circle, cube, prism, raw_scan, rectangle
from tests.fit.test_modelled import exported
from tests.steps.helpers import run, shape_of, volume_of

PARAMS = {"scan": {"id": "s"}}
BLOCK = prism([*rectangle(40, 30), circle(20, 15, 6)], 12)


def mesh(scan) -> dict[str, ScanProduct]:
    return {"scan": ScanProduct(scan)}


def test_a_drilled_block_comes_back_with_its_size_and_lasting_names():
    made = run("solidify", PARAMS, mesh(exported(BLOCK.shape, 0.05)[0]))
    assert volume_of(made, OWN) == pytest.approx(40 * 30 * 12 - np.pi * 36 * 12, rel=1e-6)
    facts = made.facts
    assert (facts.planes, facts.cylinders, facts.freeform, facts.flat_facets, facts.gaps) == (6, 1, 0, 0, 0)
    assert facts.closed and facts.valid and made.problems == ()
    names = shape_of(made, OWN).names
    assert len(set(names)) == 7 and all(n.startswith("newstep0.face[") for n in names)


def test_every_open_place_is_a_problem_with_its_point():
    box = cube((30, 20, 10))
    top = np.abs(box[:, :, 2] - 10).max(axis=1) < 1e-9
    made = run("solidify", PARAMS, mesh(prepare_scan(raw_scan(box[~top]), 1.0)))
    assert made.facts.gaps == len(made.problems) > 0 and not made.facts.closed
    assert {p.code for p in made.problems} == {"open-end"}
    assert all(p.where.point[2] == pytest.approx(10) for p in made.problems)


def test_a_tolerance_beyond_reason_is_refused_by_its_field():
    with pytest.raises(ContourError) as caught:
        run("solidify", {**PARAMS, "tolerance": {"text": "3 mm"}}, mesh(exported(BLOCK.shape, 0.2)[0]))
    assert caught.value.problem.where.param == "tolerance"


def test_a_rounded_file_needs_no_tolerance_of_its_own():
    scan, _ = exported(BLOCK.shape, 0.1)
    rounded = prepare_scan(raw_scan(np.round(scan.vertices[scan.facets], 4)), 1.0)
    made = run("solidify", PARAMS, mesh(rounded))
    assert made.facts.cylinders == 1 and made.facts.valid
    assert volume_of(made, OWN) == pytest.approx(40 * 30 * 12 - np.pi * 36 * 12, rel=1e-4)


def test_a_scan_is_sent_another_way(block_scan):
    with pytest.raises(ContourError, match="scan"):
        run("solidify", PARAMS, mesh(block_scan))
