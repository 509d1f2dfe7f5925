"""Rounds between faces that do not meet yet, against closed forms: over steps, worn edges and chamfers, inside and outside; and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of
from contour.sketch.entities import Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.edge_blends import Bevel, chamfer, edges_of_face
from contour.solid.extrude import extrude
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.primitives import cone
from contour.solid.shape import faces
from tests.conftest import prism, rectangle
from tests.steps.helpers import body, run, shape_of

FRAME = plane_frame(np.zeros(3), np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))


def bar(*corners, length=25.0):
    sketch = Sketch(FRAME, tuple(entities_of(np.array(corners, float))))
    return extrude(find_profiles(sketch), FRAME, start_mm=0, end_mm=length, prefix="b")


def joined(of, first, second, mm=3.0, between=()):
    params = {
        "first": {"body": "b", "name": first},
        "second": {"body": "b", "name": second},
        "radius": {"text": f"{mm} mm"},
    }
    params["between"] = [{"body": "b", "name": n} for n in between]
    given = {"first": body(of), "second": body(of)} | {f"between[{k}]": body(of) for k in range(len(between))}
    return run(
        "face_fillet", params, given, first=first, second=second, **{f"between__{k}": n for k, n in enumerate(between)}
    )


def held(outcome, before) -> float:
    made = shape_of(outcome, "b")
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.solids == 1
    assert outcome.facts.removed == pytest.approx(volume(before.shape) - found.volume, abs=1e-6)
    return found.volume


def radius_of(outcome) -> list[float]:
    made = shape_of(outcome, "b")
    return [
        s.radius
        for n, f in zip(made.names, faces(made.shape), strict=True)
        if n.startswith("newstep0.fillet") and (s := face_surface(f)) is not None and s.kind == "cylinder"
    ]


CORNER = 1 - math.pi / 4  # of a square of the radius, beside its quarter round


# Two sides at right angles with something between them: the corners of what lies there.
OUTER = {"a bevel": [(20, 8), (18, 10)], "a worn corner": [(20, 8.5), (19.2, 9.1), (18.9, 10)]}


@pytest.mark.parametrize("what", list(OUTER))
@pytest.mark.parametrize("mm", [1.0, 3.0, 6.0])
def test_an_outer_corner_is_what_it_would_be_had_it_been_sharp(what, mm):
    of = bar((0, 0), (20, 0), *OUTER[what], (0, 10))
    top = f"b.side[e{2 + len(OUTER[what])}]"
    made = joined(of, "b.side[e2]", top, mm)
    assert held(made, of) == pytest.approx((200 - CORNER * mm**2) * 25, rel=1e-9)
    assert radius_of(made) == [pytest.approx(mm)]
    assert {"b.side[e2]", top} <= set(shape_of(made, "b").names)


def test_an_inner_corner_with_a_ledge_in_it():
    of = bar((0, 0), (30, 0), (30, 5), (9, 5), (8, 6), (8, 25), (0, 25))
    made = joined(of, "b.side[e3]", "b.side[e5]", 4.0)
    sharp = 30 * 5 + 8 * 20
    assert held(made, of) == pytest.approx((sharp + CORNER * 16) * 25, rel=1e-9)


def test_faces_that_meet_already_are_rounded_there():
    of = prism(rectangle(20, 10), 8, prefix="b")
    made = joined(of, "b.end[p1]", "b.side[e1]", 2.0)
    assert held(made, of) == pytest.approx(20 * 10 * 8 - CORNER * 4 * 20, rel=1e-9)


def test_a_boss_whose_foot_is_chamfered_gets_a_round_instead():
    boss = combine(
        prism(rectangle(60, 60, at=(-30, -30)), 6, prefix="b"),
        cone(np.array([0, 0, 6.0]), np.array([0, 0, 1.0]), (0.0, 20.0), (10.0, 10.0), prefix="c"),
        "add",
    )
    foot = [e for e in edges_of_face(boss, "c.side[wall]") if "b.end" in e]
    of = chamfer(boss, [Bevel(tuple(foot), 1.5)], prefix="x").made
    made = joined(of, "b.end[p1]", "c.side[wall]", 3.0)
    # Outside a round of 10 mm: a square of 3 mm less a quarter, by its middle.
    quarter = math.pi * 9 / 4
    want = math.pi * (13**2 - 100) * 3 - 2 * math.pi * (13 - 4 * 3 / (3 * math.pi)) * quarter
    assert held(made, of) == pytest.approx(volume(boss.shape) + want, rel=1e-7)


def test_what_goes_can_be_chosen():
    of = bar((0, 0), (20, 0), *OUTER["a worn corner"], (0, 10))
    made = joined(of, "b.side[e2]", "b.side[e5]", 3.0, between=("b.side[e3]", "b.side[e4]"))
    assert held(made, of) == pytest.approx((200 - CORNER * 9) * 25, rel=1e-9)


def test_what_cannot_be_joined_says_what_lies_between():
    of = prism(rectangle(20, 10), 8, prefix="b")
    with pytest.raises(ContourError, match="do not meet") as refused:
        joined(of, "b.end[p1]", "b.start[p1]")  # they are parallel
    assert refused.value.problem.where.point is not None and refused.value.problem.where.param == "between"
    with pytest.raises(ContourError, match="two faces"):
        joined(of, "b.end[p1]", "b.end[p1]")
    with pytest.raises(ContourError, match="needs a radius"):
        joined(of, "b.end[p1]", "b.side[e1]", 0)
    with pytest.raises(ContourError) as refused:
        joined(of, "b.end[p1]", "b.side[e1]", 50.0)
    assert refused.value.problem.code == "body-broken"
