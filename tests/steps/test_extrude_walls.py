"""Thin walls and leaning walls of extrusions against closed forms; what runs evenly beside an outline; spots on the scan it ends at."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from shapely.geometry import LinearRing, LineString, Point, Polygon

from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.alongside import alongside
from contour.sketch.entities import Entity, entity_points
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_kind, face_surface
from contour.solid.gate import check_solid
from contour.solid.shape import faces
from tests.conftest import circle, facet_near, prism, rectangle
from tests.steps.helpers import body, run, shape_of, sketch, volume_of

NEW = "newstep0"
SLOT = [
    Entity("a", "line", (0, 0), (20, 0)),
    Entity("b", "arc", (20, 0), (20, 10), mid=(25, 5)),
    Entity("c", "line", (20, 10), (0, 10)),
    Entity("d", "arc", (0, 10), (0, 0), mid=(-5, 5)),
]


def extrude(entities, distance="10 mm", products=None, **more):
    values = {k: {"text": v} if k in ("wall", "draft", "back") else v for k, v in more.items()}
    params = {"sketch": {"id": "s"}, "distance": {"text": distance}, **values}
    return run("extrude", params, {"sketch": sketch(entities), **(products or {})})


def sound(outcome, id: str = NEW):
    made = shape_of(outcome, id)
    found = check_solid(made.shape)
    assert found.closed and found.valid
    return made


@pytest.mark.parametrize(
    ("side", "area"), [("inside", 40 * 30 - 36 * 26), ("outside", 44 * 34 - 40 * 30), ("middle", 42 * 32 - 38 * 28)]
)
def test_a_wall_along_a_rectangle(side, area):
    made = extrude(rectangle(40, 30), wall="2 mm", wall_side=side)
    assert volume_of(made, NEW) == pytest.approx(10 * area, rel=1e-9)
    names = set(sound(made).names)
    assert len(names) == 10 and f"{NEW}.side[e1:wall]" in names
    assert (f"{NEW}.side[e1]" in names) == (side != "middle")


def test_a_wall_along_a_slot_is_round_where_the_slot_is():
    made = sound(extrude(SLOT, wall="1.5 mm"))
    radii = sorted({round(face_surface(f).radius, 9) for f in faces(made.shape) if face_kind(f) == "cylinder"})
    assert radii == [3.5, 5]
    area = lambda r: 40 * r + math.pi * r * r  # noqa: E731
    assert volume_of(extrude(SLOT, wall="1.5 mm"), NEW) == pytest.approx(10 * (area(5) - area(3.5)), rel=1e-9)


def test_openings_get_walls_of_their_own():
    plate = [*rectangle(40, 30), circle(20, 15, 5)]
    made = extrude(plate, wall="1 mm")
    frame, tube = 40 * 30 - 38 * 28, math.pi * (36 - 25)
    assert volume_of(made, NEW) == pytest.approx(10 * (frame + tube), rel=1e-9)
    assert check_solid(shape_of(made, NEW).shape).solids == 2


@pytest.mark.parametrize(("side", "low", "high"), [("inside", 0, 2), ("outside", -2, 0), ("middle", -1, 1)])
def test_an_open_line_is_enough(side, low, high):
    """Along x and then up: on its left is up and then back."""
    line = [Entity("a", "line", (0, 0), (20, 0)), Entity("b", "line", (20, 0), (20, 15))]
    made = sound(extrude(line, wall="2 mm", wall_side=side))
    box = bounds(made.shape)
    assert box[0, 1] == pytest.approx(low, abs=1e-6) and box[1, 0] == pytest.approx(20 - low, abs=1e-6)
    # Both legs up to the middle of the corner, which the mitre shares out evenly.
    legs = {"inside": 20 + 15 - 2, "outside": 20 + 15 + 2, "middle": 35}[side]
    assert volume_of(extrude(line, wall="2 mm", wall_side=side), NEW) == pytest.approx(10 * 2 * legs, rel=1e-9)
    assert {f"{NEW}.side[b:end]", f"{NEW}.side[a:begin]"} <= set(made.names)


@pytest.mark.parametrize("seed", range(10))
def test_beside_random_outlines_it_runs_as_far_off_as_a_buffer(seed):
    """Shapely's mitred buffer is the independent truth, where it keeps every corner."""
    p = star_outline(np.random.default_rng(seed), radius_mm=(8, 14))
    off = 0.3 if seed % 2 else -0.3
    got = alongside(entities_of(p), off, closed=True, mark=":w")
    want = Polygon(p).buffer(-off, join_style="mitre", mitre_limit=1000)
    mine = Polygon([e.start for e in got])
    assert mine.symmetric_difference(want).area < 1e-9 * want.area
    assert [e.id for e in got] == [f"e{k + 1}:w" for k in range(len(p))]


@pytest.mark.parametrize("off", [1.0, -1.0, 2.4, -2.4])
def test_beside_lines_and_arcs_every_place_is_as_far_off(off):
    chain = [
        Entity("a", "line", (0, 0), (12, 0)),
        Entity("b", "arc", (12, 0), (20, 4), mid=(16.8, 0.9)),
        Entity("c", "arc", (20, 4), (30, 4), mid=(25, 7)),
        Entity("d", "line", (30, 4), (33, 15)),
    ]
    path = LineString(np.vstack([entity_points(e, step_deg=0.05) for e in chain]))
    moved = alongside(chain, off, closed=False, mark="")
    for e in moved:
        along = LineString(entity_points(e, step_deg=0.5))
        away = np.array([path.distance(along.interpolate(s, normalized=True)) for s in np.linspace(0, 1, 41)])
        # Beyond a corner the mitre is farther off; nowhere is it nearer.
        assert away.min() > abs(off) - 1e-3 and np.median(away) == pytest.approx(abs(off), abs=1e-3)
    assert all(a.end == b.start for a, b in pairwise(moved))
    side = LinearRing([*path.coords, (33, 60), (-20, 60), (-20, 0)])
    assert Polygon(side).contains(Point(entity_points(moved[0])[0] + [0.01, 0])) == (off > 0)


@pytest.mark.parametrize("degrees", [5, -5, 12])
def test_leaning_walls_of_a_rectangle(degrees):
    made = extrude(rectangle(40, 30), draft=f"{degrees} deg")
    grow = 10 * math.tan(math.radians(degrees))
    assert volume_of(made, NEW) == pytest.approx(12000 + 10 * grow * 70 + 40 * grow**2 / 3, rel=1e-9)
    assert len(sound(made).names) == 6 and f"{NEW}.side[e1]" in shape_of(made, NEW).names


def test_round_walls_that_lean_are_cones_and_holes_narrow_where_material_widens():
    made = extrude([*rectangle(40, 30), circle(20, 15, 5)], draft="4 deg")
    grow = 10 * math.tan(math.radians(4))
    hole = 10 * math.pi / 3 * (25 + (5 - grow) ** 2 + 5 * (5 - grow))
    block = 12000 + 10 * grow * 70 + 40 * grow**2 / 3
    assert volume_of(made, NEW) == pytest.approx(block - hole, rel=1e-9)
    assert [face_kind(f) for f in faces(sound(made).shape)].count("cone") == 1


def test_it_leans_the_way_it_goes_from_the_sketch_on():
    for distance in ("10 mm", "-10 mm"):
        wide = bounds(shape_of(extrude(rectangle(10, 10), distance, draft="5 deg"), NEW).shape)
        far = 0 if distance.startswith("-") else 1
        assert wide[1, 0] - wide[0, 0] == pytest.approx(10 + 20 * math.tan(math.radians(5)), abs=1e-6)
        assert abs(wide[far, 2]) == pytest.approx(10, abs=1e-6)
    both = extrude(rectangle(10, 10), "10 mm", draft="5 deg", back="10 mm")
    t = math.tan(math.radians(5))
    half = lambda g: 100 * 10 + 10 * g * 20 + 40 * g * g / 3  # noqa: E731
    assert volume_of(both, NEW) == pytest.approx(half(10 * t) + half(-10 * t), rel=1e-9)


def test_a_thin_wall_leans_too():
    made = extrude(rectangle(40, 30), wall="2 mm", draft="3 deg")
    g = 10 * math.tan(math.radians(3))
    outer = 10 * 1200 + 10 * g * 70 + 40 * g * g / 3
    inner = 10 * 36 * 26 - 10 * g * 62 + 40 * g * g / 3
    assert volume_of(made, NEW) == pytest.approx(outer - inner, rel=1e-9)


FREE = [Entity("f", "free", (0, 0), (20, 0), points=((0, 0), (5, -4), (12, -2), (20, 0))), *rectangle(20, 10)[1:]]


@pytest.mark.parametrize(
    ("entities", "more", "code", "param", "entity"),
    [
        (FREE, {"draft": "5 deg"}, "wrong-kind", "draft", "f"),
        (FREE, {"wall": "1 mm"}, "wrong-kind", "wall", "f"),
        (rectangle(10, 10), {"wall": "6 mm"}, "self-crossing", "wall", "e1"),
        ([circle(0, 0, 2)], {"wall": "3 mm"}, "self-crossing", "wall", "c1"),
        (rectangle(10, 10), {"wall": "0 mm"}, "bad-params", "wall", None),
        (rectangle(10, 10), {"draft": "-40 deg"}, "body-broken", "draft", None),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(entities, more, code, param, entity):
    with pytest.raises(ContourError) as refused:
        extrude(entities, **more)
    where = refused.value.problem.where
    assert (refused.value.problem.code, where.param, where.entity) == (code, param, entity)
    assert refused.value.problem.remedy


def test_it_ends_abreast_of_a_spot_on_the_scan(block_scan):
    """The block is 10 mm high: a spot on its top."""
    top = float(block_scan.vertices[:, 2].max())
    facet = facet_near(block_scan, (5.0, 5.0, top))
    spot = {"facet": int(block_scan.source_facet[facet])}
    height = float(block_scan.vertices[block_scan.facets[facet]][:, 2].mean())
    scan = {"scan": ScanProduct(block_scan)}
    made = extrude(rectangle(10, 10), products=scan, extent="until", until_point_spot=spot, scan={"id": "sc"})
    assert volume_of(made, NEW) == pytest.approx(100 * height, rel=1e-9)
    block = prism(rectangle(40, 30), 4, prefix="old")
    params = {
        "faces": [{"body": "b", "name": "old.end[p1]"}],
        "by": "until",
        "until_point_spot": spot,
        "scan": {"id": "sc"},
    }
    moved = run("shift", params, {"faces[0]": body(block), **scan}, faces__0="old.end[p1]")
    assert volume_of(moved, "b") == pytest.approx(1200 * height, rel=1e-6)
