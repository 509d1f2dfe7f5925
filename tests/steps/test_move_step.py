"""Place body: where corners, axes and volumes come to lie, against matrices worked out by hand; copies, names, grips, refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.recipe.registry import OWN
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.halves import reach_of
from contour.solid.shape import faces, read_shape
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, volume_of

DRILLED = prism([*rectangle(40, 20), circle(10, 10, 3, "c9")], 10, prefix="old")
VOLUME = 8000 - 9 * math.pi * 10


def axis(at, way) -> Place:
    return Place("axis", at, tuple(np.array(way, float) / np.linalg.norm(way)))


def point(*at) -> Place:
    return Place("point", at)


def place(by, products=None, **more):
    given = {k: {"id": k} for k in products or {}}
    values = {k: {"text": v} if isinstance(v, str) else v for k, v in more.items()}
    return run("move", {"body": {"id": "b"}, "by": by, **given, **values}, {"body": body(DRILLED), **(products or {})})


def box(outcome) -> np.ndarray:
    return bounds(shape_of(outcome, "b").shape)


def bore(outcome):
    made = shape_of(outcome, "b")
    return face_surface(faces(made.shape)[made.names.index("old.side[c9]")])


def test_along_the_worlds_axes():
    made = place("values", x="5 mm", z="-2 cm")
    assert box(made) == pytest.approx(np.array([[5, 0, -20], [45, 20, -10]]), abs=1e-6)
    assert made.facts.moved == pytest.approx(math.hypot(5, 20)) and made.facts.turned == 0
    assert set(made.puts) == {"b"} and volume_of(made, "b") == pytest.approx(VOLUME, rel=1e-12)


def test_its_faces_keep_their_names_and_their_kinds():
    made = shape_of(place("turn", angle="33 deg"), "b")
    assert sorted(made.names) == sorted(DRILLED.names)
    assert check_solid(made.shape).valid and bore(place("turn", angle="33 deg")).radius == pytest.approx(3)


def test_turned_about_the_worlds_z_or_an_axis():
    assert box(place("turn", angle="90 deg")) == pytest.approx(np.array([[-20, 0, 0], [0, 40, 10]]), abs=1e-6)
    about = place("turn", {"axis": axis((40, 0, 0), (0, 1, 0))}, angle="180 deg")
    assert box(about) == pytest.approx(np.array([[40, 0, -10], [80, 20, 0]]), abs=1e-6)
    assert about.facts.turned == pytest.approx(180)


def test_a_point_comes_to_lie_on_a_point():
    made = place("points", {"start": point(40, 20, 10), "end": point(0, 0, 0)})
    assert box(made) == pytest.approx(np.array([[-40, -20, -10], [0, 0, 0]]), abs=1e-6)


@pytest.mark.parametrize("way", [(0, 0, 1), (0, 0, -1), (1, 0, 0), (1, 2, -3)])
@pytest.mark.parametrize("flip", [False, True])
def test_an_axis_comes_to_lie_on_an_axis(way, flip):
    onto = axis((7, -3, 2), way)
    made = place("axes", {"own_axis": axis((10, 10, 0), (0, 0, 1)), "onto": onto}, flip=flip, angle="20 deg")
    found = bore(made)
    assert np.linalg.norm(np.cross(found.at - onto.at, onto.along)) < 1e-9
    assert abs(found.along @ onto.along) == pytest.approx(1)
    # The face that looked along its own axis looks along the other one, or against it.
    top = shape_of(made, "b")
    end = face_surface(faces(top.shape)[top.names.index("old.end[p1]")])
    assert end.along @ onto.along == pytest.approx(-1 if flip else 1)
    assert volume_of(made, "b") == pytest.approx(VOLUME, rel=1e-9)


def test_along_the_axis_it_stays_abreast_and_goes_as_far_as_is_said():
    own, onto = axis((10, 10, 0), (0, 0, 1)), axis((0, 0, -50), (0, 0, 1))
    assert box(place("axes", {"own_axis": own, "onto": onto}))[0] == pytest.approx([-10, -10, 0], abs=1e-6)
    pushed = place("axes", {"own_axis": own, "onto": onto}, along="4 mm")
    assert box(pushed)[0] == pytest.approx([-10, -10, 4], abs=1e-6)


def test_scaled_about_the_origin_or_a_point():
    made = place("scale", factor="1.5")
    assert volume_of(made, "b") == pytest.approx(VOLUME * 1.5**3, rel=1e-9) and bore(made).radius == pytest.approx(4.5)
    about = place("scale", {"about": point(40, 20, 10)}, factor="0.5")
    assert box(about) == pytest.approx(np.array([[20, 10, 5], [40, 20, 10]]), abs=1e-6)
    assert about.facts.factor == pytest.approx(0.5) and about.facts.turned == pytest.approx(0, abs=1e-6)


def test_a_copy_is_a_body_of_its_own_even_where_it_lies_in_the_same_place():
    made = place("values", x="50 mm", keep=True)
    assert set(made.puts) == {OWN} and box(made)[0][0] == pytest.approx(50)
    assert set(place("values", keep=True).puts) == {OWN}


def test_grips_lead_where_the_body_goes():
    grips = {h.place: h for h in place("values", x="5 mm", y="3 mm").handles}
    ends = [np.array(g.origin) + v * np.array(g.direction) for g, v in zip(grips.values(), (5, 3, 0), strict=True)]
    assert sorted(grips) == ["x", "y", "z"] and ends == [pytest.approx([25, 13, 5], abs=1e-5)] * 3
    (turn,) = place("turn", angle="30 deg").handles
    assert turn.kind == "angle" and turn.zero == pytest.approx((2 / math.sqrt(5), 1 / math.sqrt(5), 0), abs=1e-6)


@pytest.mark.parametrize(
    ("by", "more", "code", "param"),
    [
        ("values", {}, "unchanged", "by"),
        ("turn", {"angle": "360 deg"}, "unchanged", "by"),
        ("points", {}, "bad-params", "end"),
        ("scale", {"factor": "0"}, "bad-params", "factor"),
        ("scale", {"factor": "-2"}, "bad-params", "factor"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(by, more, code, param):
    with pytest.raises(ContourError) as refused:
        place(by, **more)
    assert refused.value.problem.code == code and refused.value.problem.where.param == param
    assert refused.value.problem.remedy


def plane(at, way) -> Place:
    return Place("plane", at, tuple(np.array(way, float) / np.linalg.norm(way)))


UNDER = plane((20.0, 10.0, 0.0), (0, 0, -1))
WALL = plane((100.0, 0.0, 50.0), (1, 0, 0))


@pytest.mark.parametrize(
    ("flip", "gap", "low", "high"),
    [(False, 0, 100, 110), (True, 0, 90, 100), (False, 2, 102, 112), (False, -1, 99, 109)],
)
def test_a_face_is_laid_on_another_one_middle_on_middle(flip, gap, low, high):
    made = box(place("faces", {"own_face": UNDER, "onto_face": WALL}, flip=flip, gap=f"{gap} mm"))
    assert made[:, 0] == pytest.approx([low, high], abs=1e-6)
    # Abreast of each other: the middles of both faces.
    assert made[:, 1:].mean(axis=0) == pytest.approx([0, 50], abs=1e-6)


@pytest.mark.parametrize(("way", "long"), [((0, 0, 1), 2), ((0, 1, 0), 1)])
def test_an_edge_runs_as_another_one_and_a_hole_lies_where_it_is_wanted(way, long):
    products = {
        "own_face": UNDER,
        "onto_face": WALL,
        "own_way": axis((0.0, 0.0, 0.0), (1, 0, 0)),
        "onto_way": axis((100.0, -7.0, 3.0), way),
        "start": point(10.0, 10.0, 10.0),  # the hole's upper mouth: only abreast of the face counts
        "end": point(140.0, 5.0, 60.0),
    }
    made = place("faces", products)
    assert np.ptp(box(made), axis=0)[long] == pytest.approx(40, abs=1e-6)
    assert box(made)[:, 0] == pytest.approx([100, 110], abs=1e-6)
    hole = bore(made)
    away = hole.at - [100, 5, 60]
    assert np.linalg.norm(away[1:]) < 1e-9 and abs(hole.along[0]) == pytest.approx(1)
    # And turned by an angle from there.
    turned = bore(place("faces", products, angle="90 deg"))
    assert np.linalg.norm((turned.at - [100, 5, 60])[1:]) < 1e-9
    assert np.ptp(box(place("faces", products, angle="90 deg")), axis=0)[3 - long] == pytest.approx(40, abs=1e-6)


@pytest.mark.parametrize("seed", range(8))
def test_onto_any_plane_it_touches_it_and_lies_on_its_side(seed):
    rng = np.random.default_rng(seed)
    at, way = rng.uniform(-50, 50, 3), rng.normal(size=3)
    made = place(
        "faces", {"own_face": UNDER, "onto_face": plane(tuple(at), way)}, angle=f"{rng.uniform(0, 360)} deg", keep=True
    )
    assert set(made.puts) == {OWN}
    shape = made.puts[OWN]

    low, high = reach_of(read_shape(shape.brep), at, way / np.linalg.norm(way))
    assert (low, high) == (pytest.approx(0, abs=1e-6), pytest.approx(10, abs=1e-6))
    assert made.facts.factor == pytest.approx(1)


def test_one_edge_alone_and_edges_that_stand_on_the_face_are_refused():
    given = {"own_face": UNDER, "onto_face": WALL}
    with pytest.raises(ContourError, match="one edge alone") as refused:
        place("faces", {**given, "own_way": axis((0, 0, 0), (1, 0, 0))})
    assert refused.value.problem.where.param == "onto_way"
    with pytest.raises(ContourError, match="square to the face") as refused:
        place("faces", {**given, "own_way": axis((0, 0, 0), (1, 0, 0)), "onto_way": axis((0, 0, 0), (1, 0, 0))})
    assert refused.value.problem.where.param == "onto_way"
    with pytest.raises(ContourError, match="nothing is chosen"):
        place("faces", {"own_face": UNDER})
