"""Profiles raised from faces and sunk into them, against integrals over the profile; on planes, rounds, chains; clipped ones, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.sketch.entities import Sketch
from contour.solid.boolean import combine
from contour.solid.edge_blends import Rounding, edges_of_face, fillet
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.primitives import cone
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, sketch

NEW = "newstep0"
BLOCK = prism(rectangle(40, 30), 10, prefix="b")
BAR = cone(np.array([0, 0, 0.0]), np.array([1.0, 0, 0]), (0.0, 60.0), (15.0, 15.0), prefix="c")
WALL = "c.side[wall]"
OVER = plane_frame(np.array([0.0, 0.0, 40.0]), np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))


def relief(of, entities, *names, mm, frame=None, z=0.0):
    drawn = Sketch(frame, tuple(entities)) if frame is not None else sketch(entities, z=z)
    params = {"sketch": {"id": "s"}, "faces": [{"body": "b", "name": n} for n in names], "height": {"text": f"{mm} mm"}}
    given = {"sketch": drawn} | {f"faces[{k}]": body(of) for k in range(len(names))}
    return run("relief", params, given, **{f"faces__{k}": n for k, n in enumerate(names)})


def changed(outcome, before):
    found = check_solid(shape_of(outcome, "b").shape)
    assert found.closed and found.valid and found.solids == 1
    assert outcome.facts.changed == pytest.approx(found.volume - volume(before.shape), abs=1e-9)
    return outcome.facts.changed


def over_round(radius: float, mm: float, low: float, high: float) -> float:
    """Area between a round of a radius and one further out by mm, over a stretch beside its middle."""

    def under(r: float, y: float) -> float:
        return (y * math.sqrt(r * r - y * y) + r * r * math.asin(y / r)) / 2

    return under(radius + mm, high) - under(radius + mm, low) - under(radius, high) + under(radius, low)


@pytest.mark.parametrize("mm", [2.0, -1.5, 0.1])
def test_on_a_flat_face_it_is_the_prism(mm):
    made = relief(BLOCK, rectangle(12, 8, at=(5, 6)), "b.end[p1]", mm=mm)
    assert changed(made, BLOCK) == pytest.approx(12 * 8 * mm, rel=1e-9) and made.problems == ()
    # Its end is called after the face that it lies beside, its walls after the drawing.
    names = shape_of(made, "b").names
    assert any(n.startswith(f"{NEW}.{'over' if mm > 0 else 'under'}[b.end[p1]]") for n in names)
    assert sum(f"{NEW}.side[e" in n for n in names) == 4


@pytest.mark.parametrize("mm", [1.0, -0.6, 4.0])
@pytest.mark.parametrize("low", [-4.0, 3.0])
def test_on_a_round_face_its_end_runs_beside_it(mm, low):
    """On the near side only, though the profile lies over the far one too."""
    made = relief(BAR, rectangle(20, 7, at=(10, low)), WALL, mm=mm, frame=OVER)
    assert changed(made, BAR) == pytest.approx(20 * over_round(15, mm, low, low + 7), rel=1e-6)


def test_over_a_fillet_and_the_faces_beside_it():
    of = fillet(BLOCK, [Rounding(edges_of_face(BLOCK, "b.end[p1]")[:1], 3)], prefix="f").made
    round_ = next(n for n in of.names if n.startswith("f["))
    made = relief(of, rectangle(10, 8, at=(8, 1)), round_, "b.end[p1]", mm=0.5, z=30)
    flat = 10 * 6 * 0.5  # from y = 3 on
    bent = 10 * over_round(3, 0.5, 0, 2)
    assert changed(made, of) == pytest.approx(flat + bent, rel=1e-6)


def test_several_profiles_and_islands():
    ring = [circle(10, 15, 5, "c1"), circle(10, 15, 3, "c2"), circle(28, 15, 4, "c3")]
    made = relief(BLOCK, ring, "b.end[p1]", mm=1)
    assert changed(made, BLOCK) == pytest.approx(math.pi * (25 - 9 + 16), rel=1e-9)


def test_what_runs_beyond_the_face_is_left_out_and_said():
    made = relief(BLOCK, rectangle(10, 10, at=(-4, 10)), "b.end[p1]", mm=1)
    assert changed(made, BLOCK) == pytest.approx(60, rel=1e-9)
    (said,) = made.problems
    assert "beyond" in said.message and said.where.param == "faces"


def test_what_misses_the_face_and_what_has_no_height_are_refused():
    with pytest.raises(ContourError, match="does not meet") as refused:
        relief(BLOCK, rectangle(5, 5, at=(100, 0)), "b.end[p1]", mm=1)
    assert refused.value.problem.where.param == "faces"
    with pytest.raises(ContourError, match="neither raised nor sunk"):
        relief(BLOCK, rectangle(5, 5), "b.end[p1]", mm=0)


def test_sunk_through_a_thin_wall_opens_it():
    tube = combine(
        BAR, cone(np.array([-1, 0, 0.0]), np.array([1.0, 0, 0]), (0.0, 62.0), (13.0, 13.0), prefix="d"), "subtract"
    )
    made = relief(tube, rectangle(10, 4, at=(20, -2)), WALL, mm=-3, frame=OVER)
    want = 10 * over_round(13, 2, -2, 2)
    assert -changed(made, tube) == pytest.approx(want, rel=1e-6)
