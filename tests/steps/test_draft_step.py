"""Drafted walls against closed forms: frustums, both ways, about a plane in the middle, round walls and bores; names; refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.solid.edge_blends import Rounding, fillet
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.primitives import cone
from contour.solid.shape import faces
from contour.solid.topology.edges import edge_names
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, plane_region, run, shape_of

BOX = prism(rectangle(40, 30), 20, prefix="box")
SIDES = tuple(n for n in BOX.names if ".side" in n)
TOP = "box.end[p1]"


def draft(of, names, angle="5 deg", z=0.0, normal=(0, 0, 1), **more):
    params = {
        "faces": [{"body": "b", "name": n} for n in names],
        "stays": {"id": "r"},
        "angle": {"text": angle},
        **more,
    }
    products = {f"faces[{i}]": body(of) for i in range(len(names))} | {"stays": plane_region((0, 0, z), normal)}
    return run("draft", params, products, **{f"faces__{i}": n for i, n in enumerate(names)})


def checked(outcome):
    made = shape_of(outcome, "b")
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.solids == 1
    return found.volume


def frustum(a, b, low, high, angle):
    """A box of a x b at height 0 whose four sides lean, between two heights."""
    t = math.tan(math.radians(angle))
    z = np.linspace(low, high, 20001)
    return float(np.trapezoid((a - 2 * z * t) * (b - 2 * z * t), z))


@pytest.mark.parametrize(("angle", "z"), [(5.0, 0.0), (-3.0, 0.0), (4.0, 20.0), (7.0, 8.0)])
def test_all_sides_about_a_plane(angle, z):
    made = draft(BOX, SIDES, f"{angle} deg", z)
    assert checked(made) == pytest.approx(frustum(40, 30, -z, 20 - z, angle), rel=1e-7)
    assert made.facts.faces_drafted == 4 and made.facts.removed == pytest.approx(24000 - checked(made))
    assert sorted(shape_of(made, "b").names) == sorted(BOX.names)


def test_the_other_way_is_that_of_the_turned_plane():
    one = checked(draft(BOX, SIDES, z=0.0, flip=True))
    assert one == pytest.approx(frustum(40, 30, 0, 20, -5), rel=1e-7)
    assert one == pytest.approx(checked(draft(BOX, SIDES, normal=(0, 0, -1))), rel=1e-9)


def test_one_wall_alone_and_its_grip():
    made = draft(BOX, SIDES[:1])
    t = math.tan(math.radians(5))
    assert 24000 - checked(made) == pytest.approx(
        0.5 * 20 * 20 * t * (40 if "e1" in SIDES[0] or "e3" in SIDES[0] else 30)
    )
    (grip,) = made.handles
    assert grip.place == "angle" and grip.kind == "angle" and grip.zero == pytest.approx((0, 0, 1))


def test_round_walls_become_cones_outside_and_in_a_bore():
    ring = prism([circle(0, 0, 12, "rim"), circle(0, 0, 5, "eye")], 20, prefix="ring")
    wall, eye = (next(n for n in ring.names if k in n) for k in ("rim", "eye"))
    t = math.tan(math.radians(3))
    cone_ = lambda a, b: math.pi * 20 / 3 * (a * a + a * b + b * b)  # noqa: E731
    outer = cone_(12, 12 - 20 * t)
    assert checked(draft(ring, [wall], "3 deg")) == pytest.approx(outer - math.pi * 25 * 20, rel=1e-9)
    assert checked(draft(ring, [eye], "3 deg")) == pytest.approx(math.pi * 144 * 20 - cone_(5, 5 + 20 * t), rel=1e-9)
    both = shape_of(draft(ring, [wall, eye], "3 deg"), "b")
    angles = [math.degrees(s.half_angle) for f in faces(both.shape) if (s := face_surface(f)) and s.kind == "cone"]
    assert angles == pytest.approx([3, 3])


@pytest.mark.parametrize(
    ("names", "angle", "code", "param"),
    [
        ((TOP,), "5 deg", "wrong-kind", "faces"),
        (SIDES, "0 deg", "bad-params", "angle"),
        (SIDES, "85 deg", "bad-params", "angle"),
        (SIDES, "60 deg", "body-broken", None),
    ],
)
def test_what_cannot_be_is_refused(names, angle, code, param):
    with pytest.raises(ContourError) as refused:
        draft(BOX, names, angle)
    assert refused.value.problem.code == code and (param is None or refused.value.problem.where.param == param)


def test_a_rod_lying_down_cannot_be_drafted_upwards():
    rod = cone(np.zeros(3), np.array([1.0, 0, 0]), (0.0, 30.0), (5.0, 5.0), prefix="rod")
    with pytest.raises(ContourError) as refused:
        draft(rod, ["rod.side[wall]"])
    assert refused.value.problem.code == "wrong-kind" and refused.value.problem.where.point is not None


def test_walls_among_rounds_are_drafted_rightly_or_refused():
    """Sides between upright rounds: either all lean as they should, or it is said which one cannot."""
    upright = [n for n in edge_names(BOX) if TOP not in n and "start" not in n]
    of = fillet(BOX, [Rounding(tuple(upright), 4.0, tuple("radius" for _ in upright))], prefix="rd").made
    made = shape_of(draft(of, [n for n in SIDES if n in of.names]), "b")
    for name, face in zip(made.names, faces(made.shape), strict=True):
        if name in SIDES:
            assert math.degrees(math.asin(float(face_surface(face).along[2]))) == pytest.approx(5, abs=1e-5)


def test_where_a_narrow_wall_runs_out_that_wall_is_named():
    """Found by a random prism: its narrowest side has gone before the top is reached."""
    from contour.simulate.star_outlines import entities_of, star_outline

    rng = np.random.default_rng([26, 37])
    corners = star_outline(rng, most=8, radius_mm=(15, 35))
    height, angle = float(rng.uniform(5, 20)), float(rng.uniform(-5, 5))
    prism_ = prism(entities_of(corners), height, prefix="box")
    with pytest.raises(ContourError) as refused:
        draft(prism_, [n for n in prism_.names if ".side" in n], f"{angle} deg")
    where = refused.value.problem.where
    lengths = np.linalg.norm(corners - np.roll(corners, -1, axis=0), axis=1)
    assert where.point is not None and where.entity.endswith(f"e{int(np.argmin(lengths)) + 1}")
