"""Level: faces brought to a lead face, against closed forms; names, both kinds, and refusals."""

from __future__ import annotations

import math

import pytest

from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.shape import faces
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, volume_of


def bench(*heights: float, holes=()):
    """A base of 100 x 20 x 10 with pads of 10 x 10 at every 20 mm, of these heights over it."""
    made = prism([*rectangle(100, 20), *holes], 10, prefix="base")
    for k, h in enumerate(heights):
        pad = prism(rectangle(10, 10, at=(5 + 20 * k, 5)), h, z=10, prefix=f"pad{k}")
        made = combine(made, pad, "add")
    return made


BENCH = bench(4.0, 4.05, 3.9)


def level(lead: str, *names: str, of=BENCH, **more):
    params = {"lead": {"body": "b", "name": lead}, "faces": [{"body": "b", "name": n} for n in names], **more}
    given = {"lead": body(of), **{f"faces[{k}]": body(of) for k in range(len(names))}}
    return run("level", params, given, lead=lead, **{f"faces__{k}": n for k, n in enumerate(names)})


def test_pads_come_into_one_plane_and_the_lead_stays():
    made = level("pad0.end[p1]", "pad1.end[p1]", "pad2.end[p1]")
    assert volume_of(made, "b") == pytest.approx(20000 + 3 * 400, rel=1e-9)
    assert made.facts.moved == pytest.approx((-0.05, 0.1)) and made.facts.most == pytest.approx(0.1)
    shape = shape_of(made, "b")
    found = check_solid(shape.shape)
    assert found.closed and found.valid and set(shape.names) == set(BENCH.names)


def test_bores_get_the_leads_diameter_about_their_own_axes():
    holes = [circle(20, 10, 3.0, "c1"), circle(50, 10, 2.9, "c2"), circle(80, 10, 3.1, "c3")]
    plate = prism([*rectangle(100, 20), *holes], 10, prefix="base")
    made = level("base.side[c1]", "base.side[c2]", "base.side[c3]", of=plate)
    assert volume_of(made, "b") == pytest.approx(20000 - 3 * math.pi * 9 * 10, rel=1e-9)
    shape = shape_of(made, "b")
    bores = [face_surface(faces(shape.shape)[shape.names.index(f"base.side[c{k}]")]) for k in (1, 2, 3)]
    assert [b.radius for b in bores] == pytest.approx([3.0] * 3)
    assert sorted(round(b.at[0], 6) for b in bores) == [20, 50, 80]


def test_a_face_that_looks_the_other_way_may_be_brought_to_the_lead_too():
    """The lower face of a step, to the plane of the upper one's neighbour: + is out of the material for each."""
    made = level("pad0.end[p1]", "pad2.end[p1]")
    assert made.facts.moved == pytest.approx((0.1,))


def test_where_none_is_chosen_what_is_nearly_level_is_offered_and_does():
    far = bench(4.0, 4.05, 3.9, 6.0)
    with pytest.raises(ContourError) as refused:
        level("pad0.end[p1]", of=far)
    problem = refused.value.problem
    assert problem.got == "nothing" and problem.where.param == "faces"
    assert problem.offer is not None and problem.offer.text == "Take the 2 faces within 1 mm of it"
    chosen = problem.offer.choices["faces"]
    assert [(f["name"], f["kind"]) for f in chosen] == [("pad1.end[p1]", "plane"), ("pad2.end[p1]", "plane")]
    assert "pad1.side[e1]" in chosen[0]["beside"]
    made = level("pad0.end[p1]", *(f["name"] for f in chosen), of=far)
    assert made.facts.moved == pytest.approx((-0.05, 0.1))


def test_how_far_from_level_is_offered_is_said():
    with pytest.raises(ContourError) as refused:
        level("pad0.end[p1]", reach={"text": "0.06 mm"})
    assert refused.value.problem.offer.text == "Take the face within 0.06 mm of it"
    with pytest.raises(ContourError) as refused:
        level("base.side[e1]")
    assert refused.value.problem.offer is None and "none is within 1 mm" in refused.value.problem.remedy


@pytest.mark.parametrize(
    ("lead", "names", "code", "param"),
    [
        ("pad0.end[p1]", ["base.side[e1]"], "too-tilted", "faces[0]"),
        ("pad0.end[p1]", ["pad1.end[p1]", "pad0.end[p1]"], "wrong-kind", "faces[1]"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(lead, names, code, param):
    with pytest.raises(ContourError) as refused:
        level(lead, *names)
    assert (refused.value.problem.code, refused.value.problem.where.param) == (code, param)
    assert refused.value.problem.remedy


def test_what_is_level_already_says_so():
    flat = bench(4.0, 4.0)
    with pytest.raises(ContourError) as refused:
        level("pad0.end[p1]", "pad1.end[p1]", of=flat)
    assert refused.value.problem.code == "unchanged"


def test_kinds_do_not_mix():
    plate = prism([*rectangle(100, 20), circle(20, 10, 3.0)], 10, prefix="base")
    with pytest.raises(ContourError) as refused:
        level("base.side[c1]", "base.end[p1]", of=plate)
    assert (refused.value.problem.code, refused.value.problem.where.param) == ("wrong-kind", "faces[0]")
