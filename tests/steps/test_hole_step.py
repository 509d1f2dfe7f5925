"""Holes against closed forms: volumes of what is drilled away, the walls' axes and sizes, where they end, names, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.recipe.problem import ContourError
from contour.solid.boolean import combine
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.primitives import cone
from contour.solid.shape import faces
from tests.conftest import prism, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of, volume_of

PLATE = prism(rectangle(60, 40), 12, prefix="plate")  # x 0..60, y 0..40, z 0..12
TOP = "plate.end[p1]"
ROD = cone(np.zeros(3), np.array([1.0, 0, 0]), (0.0, 80.0), (15.0, 15.0), prefix="rod")
NEW = "newstep0"
FULL = 60 * 40 * 12


def value(text):
    return {"text": text}


def hole(of=PLATE, face=TOP, products=None, parts=None, **more):
    more = {k: value(v) if isinstance(v, str) and k in VALUES else v for k, v in more.items()}
    params = {"face": {"body": "b", "name": face}, **more}
    return run("hole", params, {"face": body(of), **(products or {})}, face=face, **(parts or {}))


VALUES = {"diameter", "depth", "tip", "head_diameter", "head_depth", "head_angle", "circle", "count", "first"}


def walls(outcome, what="bore"):
    """The surfaces of faces that are called so."""
    made = shape_of(outcome, "b")
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.solids == 1
    by_name = dict(zip(made.names, faces(made.shape), strict=True))
    return {n: face_surface(f) for n, f in by_name.items() if f".side[{what}-" in n}


def points(*at):
    return {
        "products": {f"points[{i}]": Place("point", tuple(map(float, p))) for i, p in enumerate(at)},
        "by": "points",
        "points": [{"id": f"p{i}"} for i in range(len(at))],
    }


def cylinder(d, h):
    return math.pi / 4 * d * d * h


def frustum(d1, d2, h):
    return math.pi / 12 * h * (d1 * d1 + d1 * d2 + d2 * d2)


def test_through_the_middle_of_a_face():
    made = hole(diameter="8 mm")
    assert FULL - volume_of(made, "b") == pytest.approx(cylinder(8, 12), rel=1e-9)
    (wall,) = walls(made).values()
    assert 2 * wall.radius == pytest.approx(8, abs=1e-9)
    assert np.linalg.norm(np.cross(wall.at - [30, 20, 0], [0, 0, 1])) < 1e-9
    assert made.facts.count == 1 and made.facts.depth is None


@pytest.mark.parametrize(("bottom", "tip"), [("flat", 0.0), ("point", 118.0), ("point", 90.0)])
def test_a_depth_with_a_drill_point_or_flat(bottom, tip):
    more = {"tip": f"{tip} deg"} if tip else {}
    made = hole(diameter="6 mm", extent="blind", depth="7 mm", bottom=bottom, **more)
    point = frustum(6, 0, 3 / math.tan(math.radians(tip / 2))) if tip else 0.0
    assert FULL - volume_of(made, "b") == pytest.approx(cylinder(6, 7) + point, rel=1e-9)
    (grip,) = made.handles
    assert grip.place == "depth" and grip.direction == pytest.approx((0, 0, -1)) and grip.origin[2] == pytest.approx(12)


def test_counterbored_and_countersunk_by_values():
    made = hole(diameter="5 mm", form="counterbored", head_diameter="10 mm", head_depth="4 mm")
    assert FULL - volume_of(made, "b") == pytest.approx(cylinder(5, 12) + cylinder(10, 4) - cylinder(5, 4), rel=1e-9)
    assert made.facts.mouth == pytest.approx(10)
    made = hole(diameter="5 mm", form="countersunk", head_diameter="9 mm", head_angle="90 deg")
    assert FULL - volume_of(made, "b") == pytest.approx(cylinder(5, 10) + frustum(9, 5, 2), rel=1e-9)
    (sunk,) = walls(made, "sunk").values()
    assert math.degrees(sunk.half_angle) == pytest.approx(45)


@pytest.mark.parametrize(
    ("screw", "room", "form", "diameter", "mouth"),
    [
        ("M6", "medium", "plain", 6.6, 6.6),
        ("M6", "close", "counterbored", 6.4, 11.0),
        ("M5x0.8", "wide", "countersunk", 5.8, 11.2),
        ("1/4-20 UNC", "close", "counterbored", 0.257 * 25.4, 7 / 16 * 25.4),
    ],
)
def test_as_wide_as_the_tables_say(screw, room, form, diameter, mouth):
    """ISO 273, DIN 974-1, ISO 10642, ASME B18.3: figures as printed there."""
    made = hole(size="clearance", screw=screw, room=room, form=form)
    (wall,) = walls(made).values()
    assert 2 * wall.radius == pytest.approx(diameter) and made.facts.mouth == pytest.approx(mouth)
    assert made.facts.diameter == pytest.approx(diameter)


def test_to_be_tapped_by_the_drill_that_is_stocked():
    made = hole(size="tapped", screw="m8", extent="blind", depth="9 mm")
    assert made.facts.thread == "M8x1.25" and made.facts.diameter == pytest.approx(6.8) and made.facts.drill == "6.8 mm"


def test_at_points_that_lie_off_the_face():
    """A corner under the plate and a point over it are taken square onto the face."""
    made = hole(diameter="4 mm", **points((10, 10, 0), (45, 30, 50)))
    found = walls(made)
    assert sorted(found) == [f"{NEW}.side[bore-1]", f"{NEW}.side[bore-2]"]
    for wall, at in zip((found[n] for n in sorted(found)), ((10, 10, 0), (45, 30, 0)), strict=True):
        assert np.linalg.norm(np.cross(wall.at - at, [0, 0, 1])) < 1e-9
    assert FULL - volume_of(made, "b") == pytest.approx(2 * cylinder(4, 12), rel=1e-9)


def test_on_axes_that_lean():
    """A hole on a fitted cylinder's axis runs along it, not square to the face."""
    lean = math.radians(10)
    axis = (math.sin(lean), 0.0, math.cos(lean))
    made = hole(
        by="axes", axes=[{"id": "r"}], diameter="5 mm", products={"axes[0]": cylinder_region((30, 20, 6), axis, 2.4)}
    )
    (wall,) = walls(made).values()
    assert abs(wall.along @ axis) == pytest.approx(1, abs=1e-12)
    assert FULL - volume_of(made, "b") == pytest.approx(cylinder(5, 12 / math.cos(lean)), rel=1e-9)


def test_midway_between_two_and_four_faces():
    planes = {
        "between[0]": plane_region((10, 0, 0), (1, 0, 0)),
        "between[1]": plane_region((40, 0, 0), (-1, 0, 0)),
        "between[2]": plane_region((0, 4, 0), (0, 1, 0)),
        "between[3]": plane_region((0, 30, 0), (0, 1, 0)),
    }
    two = hole(between=[{"id": f"r{i}"} for i in range(2)], products=dict(list(planes.items())[:2]))
    four = hole(between=[{"id": f"r{i}"} for i in range(4)], products=planes)
    for made, at in ((two, (25, 20, 0)), (four, (25, 17, 0))):
        (wall,) = walls(made).values()
        assert np.linalg.norm(np.cross(wall.at - at, [0, 0, 1])) < 1e-9
    with pytest.raises(ContourError, match="midway between two"):
        hole(between=[{"id": "r0"}], products=dict(list(planes.items())[:1]))


def test_midway_between_drafted_faces_is_as_far_from_both():
    tilted = {
        "between[0]": plane_region((0, 0, 12), (1, 0, 0.1)),
        "between[1]": plane_region((40, 0, 12), (-1, 0, 0.3)),
    }
    (wall,) = walls(hole(between=[{"id": "a"}, {"id": "b"}], products=tilted)).values()
    assert wall.at[0] == pytest.approx(20, abs=1e-9)


def test_on_a_circle_with_one_left_out():
    made = hole(by="circle", circle="24 mm", count="6", skip="2", first="30 deg", diameter="3 mm")
    found = walls(made)
    assert sorted(found) == [f"{NEW}.side[bore-{k}]" for k in (1, 3, 4, 5, 6)]
    from_middle = [wall.at[:2] - [30, 20] for wall in found.values()]
    assert [np.linalg.norm(v) for v in from_middle] == pytest.approx([12] * 5)
    angles = sorted(math.degrees(math.atan2(v[1], v[0])) % 60 for v in from_middle)
    assert angles[-1] - angles[0] < 1e-6 or angles[-1] - angles[0] == pytest.approx(60)
    assert made.facts.circle == pytest.approx(24) and made.facts.count == 5


def test_the_missing_member_of_a_circle_found_in_the_scan():
    """Five of six holes are there, each a hair off; all six come out on one true circle."""
    rng = np.random.default_rng(4)
    angles = np.radians(17 + 60 * np.array([0, 1, 3, 4, 5]))
    at = np.column_stack([30 + 14 * np.cos(angles), 20 + 14 * np.sin(angles)]) + rng.normal(0, 0.004, (5, 2))
    members = {f"axes[{i}]": cylinder_region((*p, 3), (0, 0, 1), 2) for i, p in enumerate(at)}
    made = hole(by="circle", count="6", axes=[{"id": f"m{i}"} for i in range(5)], products=members, diameter="4 mm")
    found = walls(made)
    assert len(found) == 6 and made.facts.off < 0.015
    true = np.radians(17 + 60 * np.arange(6))
    places = np.array([w.at[:2] for w in found.values()])
    for a in true:
        want = np.array([30 + 14 * math.cos(a), 20 + 14 * math.sin(a)])
        assert np.linalg.norm(places - want, axis=1).min() < 0.02
    assert made.facts.circle == pytest.approx(28, abs=0.02)


def test_into_a_rod_from_its_side():
    """Towards the axis; what it takes away is two cylinders' common volume, by integration."""
    wall = "rod.side[wall]"
    made = hole(ROD, wall, diameter="6 mm", extent="blind", depth="15 mm", bottom="flat", **points((40, 3, 30)))
    (bore,) = walls(made).values()
    way = np.array([0, 3, 30]) / math.hypot(3, 30)
    assert abs(bore.along @ way) == pytest.approx(1, abs=1e-9)
    x = np.linspace(-3, 3, 20001)
    sagitta = np.sqrt(15**2 - x**2)
    taken = np.trapezoid(2 * np.sqrt(9 - x**2) * sagitta, x)
    assert math.pi * 225 * 80 - volume_of(made, "b") == pytest.approx(taken, rel=1e-5)


def test_what_stands_on_the_mouth_is_drilled_away_and_what_hangs_over_it_stays():
    """Half of the hole goes through a boss of 5.9 mm on the plate; a roof 8 mm over it, held by a post, is not touched."""
    boss = prism(rectangle(10, 40, at=(30, 0)), 6, z=11.9, prefix="boss")
    roof = prism(rectangle(60, 40), 2, z=20, prefix="roof")
    post = prism(rectangle(4, 40, at=(56, 0)), 12, z=9, prefix="post")
    part = combine(combine(combine(PLATE, boss, "add"), post, "add"), roof, "add")
    top = next(n for n in part.names if n.startswith(TOP))
    made = hole(part, top, diameter="8 mm", **points((30, 20, 12)))
    taken = volume(part.shape) - volume_of(made, "b")
    assert taken == pytest.approx(cylinder(8, 12) + cylinder(8, 5.9) / 2, rel=1e-7)


def test_across_an_edge_takes_the_half_that_is_there():
    made = hole(diameter="10 mm", **points((60, 20, 12)))
    assert FULL - volume_of(made, "b") == pytest.approx(cylinder(10, 12) / 2, rel=1e-9)


def test_it_ends_at_a_plane_and_at_a_cylinder():
    far = {"until_region": plane_region((0, 0, 4), (0, 0, 1))}
    made = hole(extent="until", until_region={"id": "r"}, bottom="flat", diameter="5 mm", products=far)
    assert FULL - volume_of(made, "b") == pytest.approx(cylinder(5, 8), rel=1e-9) and made.facts.depth == pytest.approx(
        8
    )
    bar = {"until_region": cylinder_region((0, 20, 0), (1, 0, 0), 5)}
    made = hole(extent="until", until_region={"id": "r"}, bottom="flat", diameter="5 mm", products=bar)
    assert made.facts.depth == pytest.approx(7)
    behind = {"until_region": plane_region((0, 0, 40), (0, 0, 1))}
    with pytest.raises(ContourError) as refused:
        hole(extent="until", until_region={"id": "r"}, products=behind)
    assert refused.value.problem.code == "wrong-ending"


def test_holes_that_meet_are_drilled_one_after_the_other():
    made = hole(diameter="6 mm", **points((20, 20, 12), (24, 20, 12)))
    # Two circles of radius 3, 4 mm apart.
    lens = 2 * 9 * math.acos(2 / 3) - 2 * math.sqrt(36 - 16)
    assert FULL - volume_of(made, "b") == pytest.approx((2 * math.pi * 9 - lens) * 12, rel=1e-9)


@pytest.mark.parametrize(
    ("more", "param", "code"),
    [
        ({"diameter": "0 mm"}, "diameter", "bad-params"),
        ({"extent": "blind", "depth": "0 mm"}, "depth", "bad-params"),
        ({"form": "counterbored"}, "head_diameter", "bad-params"),
        ({"form": "counterbored", "head_diameter": "4 mm", "head_depth": "2 mm"}, "head_diameter", "bad-params"),
        ({"form": "countersunk", "head_diameter": "20 mm", "extent": "blind", "depth": "3 mm"}, "depth", "bad-params"),
        ({"size": "tapped", "screw": "M7.3"}, "screw", "bad-params"),
        ({"by": "circle", "count": "2.5"}, "count", "bad-params"),
        ({"by": "circle", "skip": "7"}, "skip", "bad-params"),
        ({"by": "points"}, "points", "bad-params"),
        ({"by": "axes"}, "axes", "bad-params"),
        ({"extent": "blind", "tip": "180 deg"}, "tip", "bad-params"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(more, param, code):
    with pytest.raises(ContourError) as refused:
        hole(**more)
    assert refused.value.problem.where.param == param and refused.value.problem.code == code


def test_a_place_off_the_body_is_refused_with_the_place():
    with pytest.raises(ContourError) as refused:
        hole(**points((10, 10, 12), (90, 20, 12)))
    problem = refused.value.problem
    assert problem.code == "unchanged" and problem.where.param == "points[1]"
    assert problem.where.point == pytest.approx((90, 20, 12))


def test_names_last_through_changes():
    """Sizes, forms, reach and what stands before it in the circle change; the wall is called the same."""
    changes = [
        {"diameter": "3 mm"},
        {"diameter": "5 mm"},
        {"circle": "22 mm"},
        {"first": "11 deg"},
        {"extent": "blind"},
        {"extent": "blind", "bottom": "flat"},
        {"form": "countersunk", "head_diameter": "9 mm"},
        {"form": "counterbored", "head_diameter": "9 mm", "head_depth": "2 mm"},
        {"skip": "1, 2"},
        {"size": "clearance", "screw": "M4"},
    ]
    for more in changes:
        assert f"{NEW}.side[bore-4]" in walls(hole(by="circle", count="6", **more))
