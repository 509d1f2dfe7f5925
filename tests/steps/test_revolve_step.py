"""Revolve against closed forms: Pappus' theorem on random outlines, round bodies, both ways, planes it ends at, names, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest
from shapely.geometry import Polygon

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.entities import Entity
from contour.solid.extent import bounds
from contour.solid.gate import check_solid
from contour.solid.shape import faces
from contour.solid.topology.resolve import roots
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of, sketch, volume_of

NEW = "newstep0"
Y = Place("axis", (0.0, 0.0, 0.0), (0.0, 1.0, 0.0))
RING = rectangle(4, 3, at=(6, 0))


def revolve(entities=None, axis=Y, products=None, faces=None, **more):
    params = {"sketch": {"id": "s"}, "axis": {"id": "a"}, **more}
    given = {"sketch": sketch(entities or RING), "axis": axis, **(products or {})}
    return run("revolve", params, given, **(faces or {}))


def angle(text: str) -> dict:
    return {"angle": {"text": text}}


def test_a_ring_has_four_faces_and_the_volume_of_its_middle_way():
    made = shape_of(revolve(), NEW)
    assert check_solid(made.shape).closed and check_solid(made.shape).valid
    assert volume_of(revolve(), NEW) == pytest.approx(2 * math.pi * 8 * 12, rel=1e-9)
    assert sorted(made.names) == [f"{NEW}.side[e{k}]" for k in (1, 2, 3, 4)]
    assert bounds(made.shape) == pytest.approx(np.array([[-10, 0, -10], [10, 3, 10]]), abs=1e-5)


@pytest.mark.parametrize("seed", range(12))
def test_random_outlines_by_pappus(seed):
    """A star-shaped outline of random corners, at random angles and axes."""
    rng = np.random.default_rng(seed)
    p = star_outline(rng)
    part = Polygon(p)
    way = rng.uniform(0, 2 * np.pi)
    along, across = np.array([np.cos(way), np.sin(way)]), np.array([-np.sin(way), np.cos(way)])
    nearest = float((p @ across).min())
    origin = across * (nearest - rng.uniform(0.01, 20))
    far = float((np.array(part.centroid.coords[0]) - origin) @ across)
    turn = float(rng.uniform(5, 360)) if seed % 3 else 360.0
    axis = Place("axis", (*origin, 0.0), (*along, 0.0))
    made = revolve(entities_of(p), axis, **angle(f"{turn} deg"))
    assert volume_of(made, NEW) == pytest.approx(math.radians(turn) * far * part.area, rel=1e-6)
    found = check_solid(shape_of(made, NEW).shape)
    assert found.closed and found.valid and found.faces == len(p) + (2 if turn < 360 else 0)


def test_what_touches_the_axis_closes_there():
    cone = [(0, 0), (5, 0), (0, 12)]
    assert volume_of(revolve(entities_of(np.array(cone))), NEW) == pytest.approx(math.pi * 25 * 12 / 3, rel=1e-9)
    ball = [Entity("e1", "line", (0, -7), (0, 7)), Entity("e2", "arc", (0, 7), (0, -7), mid=(7, 0))]
    made = revolve(ball)
    assert volume_of(made, NEW) == pytest.approx(4 / 3 * math.pi * 343, rel=1e-9)
    # The line on the axis makes nothing.
    assert shape_of(made, NEW).names == (f"{NEW}.side[e2]",)
    ring = revolve([circle(9, 0, 2)])
    assert volume_of(ring, NEW) == pytest.approx(2 * math.pi**2 * 9 * 4, rel=1e-9)


@pytest.mark.parametrize(
    ("more", "low", "high"),
    [
        (angle("90 deg"), 0, 90),
        (angle("-90 deg"), -90, 0),
        (angle("90 deg") | {"symmetric": True}, -45, 45),
        (angle("90 deg") | {"back": {"text": "30 deg"}}, -30, 90),
        (angle("-90 deg") | {"back": {"text": "30 deg"}}, -90, 30),
    ],
)
def test_it_turns_one_way_or_both_and_its_ends_keep_their_names(more, low, high):
    outcome = revolve(**more)
    made = shape_of(outcome, NEW)
    assert volume_of(outcome, NEW) == pytest.approx(math.radians(high - low) * 8 * 12, rel=1e-9)
    # Right-handed about y: x goes to -z. Where a turn begins and ends, seen from the axis.
    ends: dict[str, float] = {}
    for face, name in zip(faces(made.shape), made.names, strict=True):
        if ".start" in name or ".end" in name:
            x, _, z = bounds(face).mean(axis=0)
            ends[name.split(".")[1].split("[")[0]] = math.degrees(math.atan2(-z, x))
    begins, stops = (low, high) if not more["angle"]["text"].startswith("-") else (high, low)
    assert ends["start"] == pytest.approx(begins, abs=1e-6) and ends["end"] == pytest.approx(stops, abs=1e-6)


def test_names_stay_when_the_angle_changes():
    names = {
        turn: set(shape_of(revolve(**angle(turn)), NEW).names) for turn in ("90 deg", "200 deg", "359 deg", "360 deg")
    }
    assert names["90 deg"] == names["200 deg"] == names["359 deg"]
    assert names["90 deg"] - names["360 deg"] == {f"{NEW}.start[p1]", f"{NEW}.end[p1]"}


@pytest.mark.parametrize(
    ("normal", "way", "degrees"),
    [((1, 0, 1), "", 45), ((1, 0, 1), "-", 135), ((1, 0, 0), "", 90), ((0, 0, 1), "", 180)],
)
def test_it_ends_at_the_first_half_of_a_plane_through_the_axis(normal, way, degrees):
    made = revolve(
        products={"until_region": plane_region((0, 5, 0), normal)},
        extent="until",
        until_region={"id": "u"},
        **angle(f"{way}10 deg"),
    )
    assert volume_of(made, NEW) == pytest.approx(math.radians(degrees) * 8 * 12, rel=1e-9)


def test_it_is_added_taken_away_and_met():
    block = body(prism(rectangle(30, 30, at=(-15, -15)), 30, z=-15, prefix="old"))
    whole = 27_000.0
    ring = 2 * math.pi * 8 * 12

    def on(operation: str) -> float:
        made = revolve(products={"bodies[0]": block}, operation=operation, bodies=[{"id": "b"}])
        return volume_of(made, "b")

    assert on("subtract") == pytest.approx(whole - ring, rel=1e-9)
    assert on("intersect") == pytest.approx(ring, rel=1e-9)
    wide = revolve(rectangle(14, 3, at=(6, 0)), products={"bodies[0]": block}, operation="add", bodies=[{"id": "b"}])
    names = shape_of(wide, "b").names
    assert volume_of(wide, "b") > whole and {r.split(".")[0] for n in names for r in roots(n)} == {NEW, "old"}


def test_a_fitted_axis_is_laid_into_the_plane_and_told():
    tilted = cylinder_region((0, 0, 0.2), (0, math.cos(0.005), math.sin(0.005)), 3.0)
    made = revolve(axis=tilted)
    assert volume_of(made, NEW) == pytest.approx(2 * math.pi * 8 * 12, rel=1e-9)
    assert made.facts.tilt == pytest.approx(math.degrees(0.005)) and made.facts.off == pytest.approx(0.2, abs=1e-4)


@pytest.mark.parametrize(
    ("more", "code", "said"),
    [
        ({"axis": Place("axis", (8, 0, 0), (0, 1, 0))}, "self-crossing", "crosses the axis at e"),
        ({"axis": Place("axis", (0, 0, 0), (0, 0, 1))}, "too-tilted", "90.00 deg"),
        ({"axis": Place("axis", (0, 0, 3), (0, 1, 0))}, "too-tilted", "3.000 mm"),
        (angle("0 deg"), "bad-params", "0 deg"),
        (angle("300 deg") | {"back": {"text": "90 deg"}}, "bad-params", "390 deg"),
        ({"operation": "subtract"}, "no-body", "0 bodies"),
    ],
)
def test_what_cannot_be_turned_is_refused_with_its_place(more, code, said):
    with pytest.raises(ContourError) as refused:
        revolve(**more)
    problem = refused.value.problem
    assert problem.code == code and said in f"{problem.message} {problem.got}" and problem.remedy
    assert problem.where.param in ("axis", "angle", "bodies")


def test_a_plane_that_the_axis_does_not_lie_in_ends_no_turn():
    for region in (
        plane_region((1, 0, 0), (1, 0, 0)),
        plane_region((0, 0, 0), (0.1, 1, 0)),
        cylinder_region((0, 0, 0), (0, 1, 0), 2.0),
    ):
        with pytest.raises(ContourError) as refused:
            revolve(products={"until_region": region}, extent="until", until_region={"id": "u"})
        assert refused.value.problem.code == "wrong-ending" and refused.value.problem.where.param == "until_region"


def test_the_grip_turns_about_the_axis_from_the_middle_of_the_profile():
    (grip,) = revolve(**angle("90 deg")).handles
    assert (grip.place, grip.kind) == ("angle", "angle")
    assert grip.origin == pytest.approx((0, 1.5, 0)) and grip.direction == pytest.approx((0, 1, 0))
    assert grip.zero == pytest.approx((1, 0, 0))


@pytest.mark.parametrize("off", [1e-3, -1e-3, 6e-5, -6e-5])
def test_an_outline_that_misses_the_axis_by_a_hair_lies_on_it(off):
    """A fitted end is a micrometre beside the axis: no pinhole, and nothing that crosses. A cylinder of R 5, 12 long."""
    corners = [(off, 0.0), (5.0, 0.0), (5.0, 12.0), (-off, 12.0)]
    made = revolve(entities_of(np.array(corners)))
    assert volume_of(made, NEW) == pytest.approx(math.pi * 25 * 12, rel=1e-9)
    assert len(faces(shape_of(made, NEW).shape)) == 3


def test_a_corner_where_an_ellipse_ends_stays_on_it():
    """Half an ellipse of 4 by 7, its ends a micrometre past the axis of its turn: the line between them stays with it, and the outline closed."""
    half = Entity("e2", "ellipse", (1e-3, 7), (1e-3, -7), mid=(4, 0), ellipse=(1e-3, 0, 7, 4, math.pi / 2))
    made = revolve([Entity("e1", "line", (1e-3, -7), (1e-3, 7)), half])
    assert check_solid(shape_of(made, NEW).shape).closed
    assert volume_of(made, NEW) == pytest.approx(4 / 3 * math.pi * 16 * 7, rel=1e-3)
