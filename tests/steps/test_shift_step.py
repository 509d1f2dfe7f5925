"""Move faces: by a distance, to a size, until something; with neighbours that follow and where they cannot; names, grips and refusals."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus

from contour.construct.place import Place
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of
from contour.solid.boolean import combine
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.shape import NamedShape, faces
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of, volume_of

BLOCK = prism([*rectangle(40, 20), circle(10, 10, 4)], 10, prefix="old")
TOP, RIGHT, BORE = "old.end[p1]", "old.side[e2]", "old.side[c1]"
PLAIN = (800 - 16 * math.pi) * 10


def shift(*names: str, shape=BLOCK, products=None, **more):
    params = {"faces": [{"body": "b", "name": n} for n in names], **more}
    given = {f"faces[{i}]": body(shape) for i in range(len(names))} | (products or {})
    return run("shift", params, given, **{f"faces__{i}": n for i, n in enumerate(names)})


def by(text: str) -> dict:
    return {"distance": {"text": text}}


@pytest.mark.parametrize(("distance", "high"), [("3 mm", 13), ("-4 mm", 6), ("0.001 mm", 10.001)])
def test_a_face_moves_along_its_normal_and_every_name_stays(distance, high):
    made = shift(TOP, **by(distance))
    assert volume_of(made, "b") == pytest.approx(PLAIN * high / 10, rel=1e-9)
    assert bounds(shape_of(made, "b").shape)[1, 2] == pytest.approx(high, abs=1e-6)
    assert shape_of(made, "b").names == BLOCK.names
    assert made.facts.moved == pytest.approx((high - 10,)) and made.facts.added == pytest.approx(
        PLAIN * (high - 10) / 10
    )


def test_a_bore_grows_when_it_goes_into_the_material():
    made = shift(BORE, **by("-1 mm"))
    assert volume_of(made, "b") == pytest.approx((800 - 25 * math.pi) * 10, rel=1e-9)


def test_several_faces_move_together():
    made = shift(TOP, RIGHT, **by("2 mm"))
    assert volume_of(made, "b") == pytest.approx((42 * 20 - 16 * math.pi) * 12, rel=1e-9)


@pytest.mark.parametrize(
    ("name", "size", "volume"),
    [
        (TOP, "25 mm", PLAIN * 2.5),
        (RIGHT, "36.5 mm", (730 - 16 * math.pi) * 10),
        (BORE, "5 mm", (800 - 6.25 * math.pi) * 10),
    ],
)
def test_to_a_size_across_the_material_or_a_diameter(name, size, volume):
    assert volume_of(shift(name, by="size", size={"text": size}), "b") == pytest.approx(volume, rel=1e-9)


def test_the_size_is_that_of_the_wall_behind_the_face_and_not_of_the_part():
    """A step of 4 high on the block: its size is to the block's lower side; a rib of 3 wide has its own other side."""
    rib = combine(BLOCK, prism(rectangle(3, 20, at=(30, 0)), 16, prefix="rib"), "add")
    side = next(n for n in rib.names if n == "rib.side[e2]")
    made = shift(side, shape=rib, by="size", size={"text": "5 mm"})
    assert volume_of(made, "b") == pytest.approx(PLAIN + 5 * 20 * 6, rel=1e-9)


@pytest.mark.parametrize(
    ("target", "place", "high"),
    [
        (plane_region((3, 3, 17), (0, 0, 1)), "until_region", 17),
        (plane_region((3, 3, 6), (0, 0, -1)), "until_region", 6),
        (Place("plane", (0, 0, 12.5), (0, 0, 1)), "until_region", 12.5),
        (Place("point", (80, 1, 11), (0, 0, 1)), "until_point", 11),
    ],
)
def test_until_a_region_a_plane_or_a_point(target, place, high):
    made = shift(TOP, products={place: target}, by="until", **{place: {"id": "u"}})
    assert volume_of(made, "b") == pytest.approx(PLAIN * high / 10, rel=1e-9)


def test_a_bore_until_a_bore_of_the_scan():
    made = shift(
        BORE,
        products={"until_region": cylinder_region((10, 10, 3), (0, 0, -1), 4.25, -1)},
        by="until",
        until_region={"id": "u"},
    )
    assert volume_of(made, "b") == pytest.approx((800 - 4.25**2 * math.pi) * 10, rel=1e-9)


def test_where_neighbours_end_material_is_taken_off_behind_the_outline():
    """A boss pushed below the face it stands on leaves a pocket: no face of it can follow."""
    boss = combine(BLOCK, prism([circle(28, 10, 5, "c9")], 16, prefix="boss"), "add")
    made = shift("boss.end[p-c9]", shape=boss, **by("-9 mm"))
    assert volume_of(made, "b") == pytest.approx(PLAIN - 25 * math.pi * 3, rel=1e-9)
    found = check_solid(shape_of(made, "b").shape)
    names = shape_of(made, "b").names
    assert found.closed and found.valid and found.solids == 1
    assert "boss.end[p-c9]" in names and set(BLOCK.names) <= {r for n in names for r in n.split("+")}


def test_the_grip_stands_in_the_middle_of_the_face():
    (grip,) = shift(RIGHT, **by("2 mm")).handles
    assert grip.origin == pytest.approx((40, 10, 5)) and grip.direction == pytest.approx((1, 0, 0))


@pytest.mark.parametrize(
    ("names", "more", "products", "code", "param"),
    [
        ((TOP,), by("-10 mm"), {}, "body-broken", None),
        ((TOP,), by("0 mm"), {}, "unchanged", "distance"),
        ((BORE,), by("-30 mm"), {}, "body-broken", None),
        ((TOP,), {"by": "size"}, {}, "bad-params", "size"),
        ((TOP,), {"by": "until"}, {}, "bad-params", "until_region"),
        (
            (TOP,),
            {"by": "until", "until_region": {"id": "u"}},
            {"until_region": plane_region((0, 0, 20), (0, 0.1, 1))},
            "too-tilted",
            "until_region",
        ),
        (
            (TOP,),
            {"by": "until", "until_region": {"id": "u"}},
            {"until_region": cylinder_region((0, 0, 0), (1, 0, 0), 5.0)},
            "wrong-kind",
            "until_region",
        ),
    ],
)
def test_what_cannot_be_done_is_refused_with_its_place(names, more, products, code, param):
    with pytest.raises(ContourError) as refused:
        shift(*names, products=products, **more)
    problem = refused.value.problem
    assert problem.code == code and problem.remedy
    assert param is None or problem.where.param == param


def test_faces_of_two_bodies_are_not_moved_in_one_step():
    params = {"faces": [{"body": "a", "name": TOP}, {"body": "b", "name": TOP}]}
    with pytest.raises(ContourError, match="several bodies"):
        run("shift", params, {"faces[0]": body(BLOCK), "faces[1]": body(BLOCK)}, faces__0=TOP, faces__1=TOP)


@pytest.mark.parametrize("seed", range(8))
def test_random_prisms_by_their_own_volume(seed):
    """A side of a convex prism moves along its normal: the volume by clipping half-planes, which knows nothing of solids."""
    from shapely import Polygon
    from shapely.geometry import box

    rng = np.random.default_rng(seed)
    a = np.sort(rng.uniform(0, 2 * np.pi, 6)) * 0.2 + np.arange(6) * np.pi / 3 * 0.9
    p = 20 * np.column_stack([np.cos(a), np.sin(a)])
    assert Polygon(p).is_valid
    shape = prism(entities_of(p), 7, prefix="old")
    k, d = int(rng.integers(0, 6)), float(rng.uniform(-3, 1.5))
    hull = box(-500, -500, 500, 500)
    for j in range(6):
        q, r = p[j], p[(j + 1) % 6]
        way = (r - q) / np.linalg.norm(r - q)
        n = np.array([way[1], -way[0]])
        at = q + (d if j == k else 0.0) * n
        far = np.array([at - 900 * way, at + 900 * way, at + 900 * way - 900 * n, at - 900 * way - 900 * n])
        hull = hull.intersection(Polygon(far))
    made = shift(f"old.side[e{k + 1}]", shape=shape, **by(f"{d} mm"))
    assert volume_of(made, "b") == pytest.approx(hull.area * 7, rel=1e-6)


def solid(shape):
    return NamedShape(shape, tuple(f"f{k}" for k in range(len(faces(shape)))))


BALL = solid(BRepPrimAPI_MakeSphere(6.0).Shape())
RING = solid(BRepPrimAPI_MakeTorus(20.0, 3.0).Shape())
FRUSTUM = solid(BRepPrimAPI_MakeCone(10.0, 5.0, 12.0).Shape())


def frustum(a, b):
    return math.pi / 3 * 12 * (a * a + a * b + b * b)


@pytest.mark.parametrize(
    ("shape", "more", "volume"),
    [
        (BALL, by("1 mm"), 4 / 3 * math.pi * 7**3),
        (BALL, {"by": "size", "size": {"text": "10 mm"}}, 4 / 3 * math.pi * 5**3),
        (RING, {"by": "size", "size": {"text": "8 mm"}}, 2 * math.pi**2 * 20 * 16),
        (FRUSTUM, by("0.5 mm"), frustum(10 + 0.5 * 13 / 12, 5 + 0.5 * 13 / 12)),
    ],
)
def test_balls_rings_and_cones_move_as_well(shape, more, volume):
    assert volume_of(shift("f0", shape=shape, **more), "b") == pytest.approx(volume, rel=1e-8)


def test_a_cone_ends_at_a_point():
    place = Place("point", (0.0, 12.0, 12.0), (0.0, 0.0, 1.0))
    made = shift("f0", shape=FRUSTUM, by="until", until_point={"id": "p"}, products={"until_point": place})
    assert volume_of(made, "b") == pytest.approx(frustum(17.0, 12.0), rel=1e-8)


def test_a_cone_has_no_one_diameter():
    with pytest.raises(ContourError) as refused:
        shift("f0", shape=FRUSTUM, by="size", size={"text": "10 mm"})
    assert refused.value.problem.code == "wrong-kind" and refused.value.problem.where.param == "by"


def test_a_cone_comes_to_lie_on_a_cone_of_the_scan():
    own = face_surface(faces(FRUSTUM.shape)[0])
    there = replace(own, radius=own.radius + 2.0)
    region = RegionProduct(np.array([0]), there, 0.0)
    made = shift("f0", shape=FRUSTUM, by="until", until_region={"id": "u"}, products={"until_region": region})
    assert volume_of(made, "b") == pytest.approx(frustum(12.0, 7.0), rel=1e-8)
