import math
from dataclasses import replace

import numpy as np
import pytest

from contour.construct.place import Place
from contour.geometry.surfaces import Surface
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity
from contour.solid.extent import bounds
from contour.solid.topology.resolve import roots
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of, sketch, volume_of

NEW = "newstep0"
SQUARE = sketch(rectangle(10, 10))


def extrude(distance: str = "5 mm", products=None, faces=None, **more):
    params = {"sketch": {"id": "s"}, "distance": {"text": distance}, **more}
    return run("extrude", params, {"sketch": SQUARE, **(products or {})}, **(faces or {}))


def heights(outcome, id: str = NEW) -> tuple[float, float]:
    box = bounds(shape_of(outcome, id).shape)
    return pytest.approx(box[0, 2], abs=1e-6), pytest.approx(box[1, 2], abs=1e-6)


@pytest.mark.parametrize(
    ("distance", "more", "low", "high"),
    [
        ("5 mm", {}, 0, 5),
        ("-5 mm", {}, -5, 0),
        ("6 mm", {"symmetric": True}, -3, 3),
        ("5 mm", {"back": {"text": "2 mm"}}, -2, 5),
        ("-5 mm", {"back": {"text": "2 mm"}}, -5, 2),
    ],
)
def test_one_side_both_sides_and_back(distance, more, low, high):
    made = extrude(distance, **more)
    assert (low, high) == heights(made)
    assert volume_of(made, NEW) == pytest.approx(100 * (high - low))


def test_through_goes_through_whatever_the_bodies_are():
    block = prism(rectangle(30, 30, at=(-10, -10)), 17, z=-4, prefix="old")
    for way in ("1 mm", "-1 mm"):
        made = extrude(
            way,
            {"bodies[0]": body(block)},
            extent="through",
            symmetric=True,
            operation="subtract",
            bodies=[{"id": "b"}],
        )
        assert volume_of(made, "b") == pytest.approx((900 - 100) * 17)
    half = extrude("1 mm", {"bodies[0]": body(block)}, extent="through", operation="subtract", bodies=[{"id": "b"}])
    assert volume_of(half, "b") == pytest.approx(900 * 17 - 100 * 13)


@pytest.mark.parametrize(
    ("distance", "z", "more", "low", "high"),
    [
        ("1 mm", 7.5, {}, 0, 7.5),
        ("-1 mm", -3, {}, -3, 0),
        ("1 mm", 7.5, {"until_offset": {"text": "-0.5 mm"}}, 0, 7),
        ("-1 mm", -3, {"until_offset": {"text": "1 mm"}, "back": {"text": "2 mm"}}, -4, 2),
    ],
)
def test_until_it_is_abreast_of_a_point(distance, z, more, low, high):
    at = Place("point", (90.0, -4.0, z), (0.0, 0.0, 1.0))
    made = extrude(distance, {"until_point": at}, extent="until", until_point={"id": "u"}, **more)
    assert (low, high) == heights(made)


def test_it_goes_the_way_that_leads_to_what_it_ends_at():
    """A point, a parallel plane, a tilted one and a cylinder behind the sketch, though its distance points ahead."""
    at = Place("point", (0.0, 0.0, -2.0), (0.0, 0.0, 1.0))
    made = extrude("1 mm", {"until_point": at}, extent="until", until_point={"id": "u"}, back={"text": "1 mm"})
    assert heights(made) == (-2, 1)
    for region, mean in (
        (plane_region((3, 4, -8), (0, 0, 1)), 8.0),
        (plane_region((0, 0, -8), (-0.5, 0, 1)), 5.5),
        (plane_region((0, 0, -8), (0.5, 0, -1)), 5.5),
    ):
        made = extrude("1 mm", {"until_region": region}, extent="until", until_region={"id": "r"})
        assert volume_of(made, NEW) == pytest.approx(100 * mean)
    bar = cylinder_region((5, -50, -30), (0, 1, 0), 12)
    below = extrude("1 mm", {"until_region": bar}, extent="until", until_region={"id": "r"})
    above = extrude("-1 mm", {"until_region": bar}, extent="until", until_region={"id": "r"})
    assert volume_of(below, NEW) == pytest.approx(volume_of(above, NEW)) and heights(below)[1] == 0


def test_a_point_in_the_plane_is_refused_with_what_to_do():
    at = Place("point", (4.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    with pytest.raises(ContourError) as refused:
        extrude("1 mm", {"until_point": at}, extent="until", until_point={"id": "u"})
    problem = refused.value.problem
    assert problem.where.param == "until_point" and "another point" in problem.remedy


def test_through_nothing_is_refused():
    with pytest.raises(ContourError, match="no body to go through"):
        extrude(extent="through")


@pytest.mark.parametrize(("offset", "high"), [(None, 8), ("1.5 mm", 9.5), ("-2 mm", 6)])
def test_until_a_parallel_region(offset, high):
    more = {"until_offset": {"text": offset}} if offset else {}
    made = extrude(
        "1 mm", {"until_region": plane_region((3, 4, 8), (0, 0, 1))}, extent="until", until_region={"id": "r"}, **more
    )
    assert heights(made) == (0, high)
    assert any(n == f"{NEW}.end[p1]" for n in shape_of(made, NEW).names)


def test_until_a_tilted_plane_ends_on_it():
    """A prism of 10 x 10 cut by z = 8 + x/2 has its mean height at x = 5."""
    made = extrude(
        "1 mm", {"until_region": plane_region((0, 0, 8), (-0.5, 0, 1))}, extent="until", until_region={"id": "r"}
    )
    assert volume_of(made, NEW) == pytest.approx(100 * 10.5)
    assert f"{NEW}.end[until]" in shape_of(made, NEW).names


def test_until_a_tilted_plane_from_above():
    made = extrude(
        "-1 mm", {"until_region": plane_region((0, 0, -8), (-0.5, 0, 1))}, extent="until", until_region={"id": "r"}
    )
    assert volume_of(made, NEW) == pytest.approx(100 * 5.5)


@pytest.mark.parametrize(
    ("z", "offset", "height"),
    [(30.0, "0 mm", "outside"), (30.0, "-1 mm", "outside"), (0.0, "0 mm", "inside"), (0.0, "-2 mm", "inside")],
)
def test_until_a_cylinder_from_outside_and_inside(z, offset, height):
    """A bar of Ø 24 along y over (5, ., z): its shell over x in 0..10 lies at sqrt(r² - (x - 5)²)."""
    shift = float(offset.split()[0])
    radius = 12 - shift if height == "outside" else 12 + shift
    region = cylinder_region((5, -50, z), (0, 1, 0), 12)
    made = extrude(
        "1 mm", {"until_region": region}, extent="until", until_region={"id": "r"}, until_offset={"text": offset}
    )
    # Integral of sqrt(r² - u²) over u in -5..5, times the depth of 10.
    under = 10 * (5 * math.sqrt(radius**2 - 25) + radius**2 * math.asin(5 / radius))
    assert volume_of(made, NEW) == pytest.approx(100 * z - under if height == "outside" else under, rel=1e-6)


def test_until_a_face_of_another_body():
    tower = prism(rectangle(5, 5, at=(40, 0)), 13, prefix="old")
    end = next(n for n in tower.names if ".end" in n)
    ref = {"body": "b", "name": end, "kind": "plane"}
    made = extrude("1 mm", {"until_face": body(tower)}, {"until_face": end}, extent="until", until_face=ref)
    assert heights(made) == (0, 13)


def test_until_what_it_cannot_reach_is_refused():
    with pytest.raises(ContourError) as caught:
        extrude("1 mm", {"until_region": plane_region((0, 0, 8), (1, 0, 0))}, extent="until", until_region={"id": "r"})
    assert caught.value.problem.code == "too-tilted"


def test_until_a_cone_is_refused_as_what_it_is():
    cone = RegionProduct(np.array([0]), Surface("cone", (5, 5, 20), (0, 0, -1), 3.0, 1, half_angle=0.3), 0.0)
    with pytest.raises(ContourError, match="only planes and cylinders") as caught:
        extrude("1 mm", {"until_region": cone}, extent="until", until_region={"id": "r"})
    assert caught.value.problem.got == "cone" and caught.value.problem.where.param == "until_region"


def test_until_nothing_chosen_is_refused():
    with pytest.raises(ContourError, match="no region and no face"):
        extrude(extent="until")


def test_intersect_leaves_what_both_share():
    block = prism(rectangle(30, 30, at=(4, 4)), 3, prefix="old")
    made = extrude("5 mm", {"bodies[0]": body(block)}, operation="intersect", bodies=[{"id": "b"}])
    assert volume_of(made, "b") == pytest.approx(6 * 6 * 3)


def test_adding_to_two_bodies_makes_one_of_them():
    left, right = prism(rectangle(4, 10, at=(-4, 0)), 5, prefix="l"), prism(rectangle(4, 10, at=(10, 0)), 5, prefix="r")
    products = {"bodies[0]": body(left), "bodies[1]": body(right)}
    made = extrude("5 mm", products, operation="add", bodies=[{"id": "l"}, {"id": "r"}])
    assert list(made.puts) == ["l"]
    assert made.gone == ("r",)
    assert volume_of(made, "l") == pytest.approx(18 * 10 * 5)
    prefixes = {root.split(".")[0] for name in shape_of(made, "l").names for root in roots(name)}
    assert prefixes == {"l", "r", NEW}


def test_subtracting_changes_each_body_it_touches_and_says_which_it_does_not():
    near, far = prism(rectangle(30, 30), 3, prefix="n"), prism(rectangle(5, 5, at=(90, 90)), 3, prefix="f")
    products = {"bodies[0]": body(near), "bodies[1]": body(far)}
    made = extrude("9 mm", products, operation="subtract", bodies=[{"id": "n"}, {"id": "f"}])
    assert list(made.puts) == ["n"]
    assert [p.code for p in made.problems] == ["unchanged"]
    with pytest.raises(ContourError, match="touches none"):
        extrude(
            "9 mm",
            {"bodies[0]": body(far), "bodies[1]": body(far)},
            operation="subtract",
            bodies=[{"id": "f"}, {"id": "g"}],
        )


def test_working_on_no_body_is_refused():
    with pytest.raises(ContourError) as caught:
        extrude(operation="intersect")
    assert caught.value.problem.code == "no-body"


def test_only_the_chosen_profiles():
    two = sketch([*rectangle(10, 10), circle(30, 5, 2, "c9")])
    made = run("extrude", {"sketch": {"id": "s"}, "distance": {"text": "4 mm"}, "profiles": ["p-c9"]}, {"sketch": two})
    assert volume_of(made, NEW) == pytest.approx(math.pi * 4 * 4)
    with pytest.raises(ContourError, match="no such profile"):
        run("extrude", {"sketch": {"id": "s"}, "distance": {"text": "4 mm"}, "profiles": ["zz"]}, {"sketch": two})


OVAL = (0.0, 0.0, 8.0, 5.0, 0.5)
AT = (8 * math.cos(0.5), 8 * math.sin(0.5))


def test_an_ellipse_extrudes_to_its_closed_form_and_cuts_a_hole():
    whole = Entity("e1", "ellipse", AT, AT, (-AT[0], -AT[1]), ellipse=OVAL)
    made = extrude("6 mm", {"sketch": sketch([whole])})
    assert volume_of(made, NEW) == pytest.approx(math.pi * 8 * 5 * 6, rel=1e-9)
    plate = extrude("6 mm", {"sketch": sketch([*rectangle(40, 40, at=(-20, -20)), replace(whole, id="e9")])})
    assert volume_of(plate, NEW) == pytest.approx((1600 - math.pi * 40) * 6, rel=1e-9)


def test_half_an_ellipse_closed_by_a_line_extrudes():
    end = (-AT[0], -AT[1])
    over = (-5 * math.sin(0.5), 5 * math.cos(0.5))
    for mid in (over, (-over[0], -over[1])):  # both ways round
        half = [Entity("e1", "ellipse", AT, end, mid, ellipse=OVAL), Entity("e2", "line", end, AT)]
        made = extrude("3 mm", {"sketch": sketch(half)})
        assert volume_of(made, NEW) == pytest.approx(math.pi * 8 * 5 * 3 / 2, rel=1e-9)


@pytest.mark.parametrize(("distance", "says"), [("5 mm", "add"), ("-5 mm", "subtract")])
def test_the_direction_proposes_what_becomes_of_it(distance, says):
    """On a block's upper face: out of it, or into it."""
    block = prism(rectangle(30, 30, at=(-10, -10)), 17, z=-17, prefix="old")
    of = {"operation": "add" if says == "add" else "subtract", "bodies": [{"id": "b"}]}
    assert extrude(distance, {"bodies[0]": body(block)}, **of).facts.proposes == says
    assert extrude(distance).facts.proposes is None
