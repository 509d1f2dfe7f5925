"""Planes, axes and points against closed forms, and what cannot be."""

import numpy as np
import pytest

from contour.construct.place import Place, spread
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity
from tests.steps.helpers import cylinder_region, plane_region, run, sketch


def ref(n: int = 0) -> dict[str, str]:
    return {"id": f"s{n}"}


def made(kind: str, params: dict, products: dict) -> Place:
    return run(kind, params, products).product


def point(x, y, z, u=0.0) -> Place:
    return Place("point", (x, y, z), u=u)


TOP, SIDE, SLOPED = (
    plane_region((0, 0, 5), (0, 0, 1)),
    plane_region((4, 0, 0), (1, 0, 0)),
    plane_region((0, 0, 0), (0, 1, 1)),
)
BORE = cylinder_region((10, 0, 0), (0, 0, 1), 3.0)


def heights(plane: Place, *points) -> list[float]:
    return [float((np.array(p) - plane.at) @ plane.along) for p in points]


def test_a_parallel_plane_keeps_its_distance_and_a_turned_one_its_angle():
    plane = made("plane", {"plane": ref(), "offset": {"text": "2 mm"}}, {"plane": TOP})
    assert heights(plane, (3, 4, 7)) == pytest.approx([0], abs=1e-12)
    turned = made("plane", {"plane": ref(), "turn_u": {"text": "30 deg"}}, {"plane": TOP})
    assert abs(turned.along @ [0, 0, 1]) == pytest.approx(np.cos(np.radians(30)))
    back = made("plane", {"plane": ref(), "flip": True}, {"plane": TOP})
    assert back.along == pytest.approx([0, 0, -1])


def test_a_plane_that_leans_a_little_is_set_square_where_it_is_and_one_that_leans_on_purpose_is_not():
    leaning = plane_region((3, 4, 5), (2e-4, -3e-4, -1))
    plane = made("plane", {"plane": ref(), "square": True}, {"plane": leaning})
    assert plane.along.tolist() == [0, 0, -1]  # exactly, and the same way round
    assert heights(plane, made("plane", {"plane": ref()}, {"plane": leaning}).at) == pytest.approx([0], abs=1e-12)
    tilted = plane_region((0, 0, 0), (0, np.cos(np.radians(2)), np.sin(np.radians(2))))
    with pytest.raises(ContourError, match=r"2\.00 deg off y") as caught:
        made("plane", {"plane": ref(), "square": True}, {"plane": tilted})
    assert caught.value.problem.code == "too-tilted" and caught.value.problem.where.param == "square"


def test_about_an_axis_the_plane_holds_the_axis_and_the_angle():
    plane = made(
        "plane",
        {"by": "about axis", "plane": ref(), "axis": ref(1), "angle": {"text": "20 deg"}},
        {"plane": SIDE, "axis": BORE},
    )
    assert heights(plane, (10, 0, 0), (10, 0, 9)) == pytest.approx([0, 0], abs=1e-12)
    assert np.degrees(np.arccos(plane.along @ [1, 0, 0])) == pytest.approx(20)
    with pytest.raises(ContourError, match="runs along the plane's normal"):
        made("plane", {"by": "about axis", "plane": ref(), "axis": ref(1)}, {"plane": TOP, "axis": BORE})


def test_midway_halves_distances_and_angles():
    other = plane_region((0, 0, 1), (0, 0, -1))
    plane = made("plane", {"by": "midway", "plane": ref(), "other_plane": ref(1)}, {"plane": TOP, "other_plane": other})
    assert heights(plane, (7, 7, 3)) == pytest.approx([0], abs=1e-12)
    bisector = made(
        "plane", {"by": "midway", "plane": ref(), "other_plane": ref(1)}, {"plane": TOP, "other_plane": SLOPED}
    )
    for p in (bisector.at, bisector.at + 10 * np.cross(bisector.along, [0.3, 0.5, 0.1])):
        far = [abs((p - np.array(s.surface.origin)) @ s.surface.axis) for s in (TOP, SLOPED)]
        assert far[0] == pytest.approx(far[1], abs=1e-9)


def test_through_points_lines_and_tangent():
    given = {"point": point(0, 0, 0), "other_point": point(1, 0, 1), "third_point": point(0, 1, 2)}
    plane = made("plane", {"by": "points", **{k: ref() for k in given}}, given)
    assert heights(plane, *[p.origin for p in given.values()]) == pytest.approx([0, 0, 0], abs=1e-12)
    with pytest.raises(ContourError, match="on one line") as caught:
        made("plane", {"by": "points", **{k: ref() for k in given}}, {**given, "third_point": point(2, 0, 2)})
    assert caught.value.problem.code == "degenerate" and caught.value.problem.where.point is not None
    parallel = {"axis": BORE, "other_axis": cylinder_region((0, 6, 0), (0, 0, -1), 1.0)}
    plane = made("plane", {"by": "lines", "axis": ref(), "other_axis": ref(1)}, parallel)
    assert heights(plane, (10, 0, 4), (0, 6, -4)) == pytest.approx([0, 0], abs=1e-12)
    with pytest.raises(ContourError, match="pass each other"):
        made(
            "plane",
            {"by": "lines", "axis": ref(), "other_axis": ref(1)},
            {**parallel, "other_axis": cylinder_region((0, 6, 0), (1, 0, 0), 1.0)},
        )
    touching = made("plane", {"by": "tangent", "axis": ref(), "plane": ref(1)}, {"axis": BORE, "plane": SIDE})
    assert heights(touching, (13, 5, 5)) == pytest.approx([0], abs=1e-12)
    far = made("plane", {"by": "tangent", "axis": ref(), "plane": ref(1), "far": True}, {"axis": BORE, "plane": SIDE})
    assert heights(far, (7, 5, 5)) == pytest.approx([0], abs=1e-12)


def test_across_a_curve_the_plane_stands_square_on_it():
    arc = sketch(
        [Entity("e1", "arc", (10.0, 0.0), (-10.0, 0.0), (0.0, 10.0)), Entity("e2", "line", (-10.0, 0.0), (10.0, 0.0))]
    )
    plane = made("plane", {"by": "across curve", "sketch": ref(), "along": {"text": "0.25"}}, {"sketch": arc})
    at = np.radians(45)
    assert plane.at == pytest.approx([10 * np.cos(at), 10 * np.sin(at), 0], abs=2e-3)
    assert abs(plane.along @ [-np.sin(at), np.cos(at), 0]) == pytest.approx(1, abs=1e-3)
    with pytest.raises(ContourError, match="no such piece"):
        made("plane", {"by": "across curve", "sketch": ref(), "piece": "e9"}, {"sketch": arc})


def test_axes_and_points_where_things_meet():
    axis = made("axis", {"by": "planes", "plane": ref(), "other_plane": ref(1)}, {"plane": TOP, "other_plane": SIDE})
    assert abs(axis.along @ [0, 1, 0]) == pytest.approx(1)
    assert axis.at[[0, 2]] == pytest.approx([4, 5])
    with pytest.raises(ContourError, match="parallel"):
        made("axis", {"by": "planes", "plane": ref(), "other_plane": ref(1)}, {"plane": TOP, "other_plane": TOP})
    meet = made("point", {"by": "axis and plane", "axis": ref(), "plane": ref(1)}, {"axis": BORE, "plane": TOP})
    assert meet.origin == pytest.approx((10, 0, 5))
    corner = made(
        "point",
        {"by": "planes", "plane": ref(), "other_plane": ref(1), "third_plane": ref(2)},
        {"plane": TOP, "other_plane": SIDE, "third_plane": plane_region((0, 2, 0), (0, 1, 0))},
    )
    assert corner.origin == pytest.approx((4, 2, 5))
    typed = run("point", {"x": {"text": "1 mm"}, "y": {"text": "2 mm"}, "z": {"text": "0.5 inch"}}, {})
    assert typed.product.origin == pytest.approx((1, 2, 12.7)) and typed.facts.at_z == pytest.approx(12.7)
    crossing = run(
        "point",
        {"by": "axes", "axis": ref(), "other_axis": ref(1)},
        {"axis": BORE, "other_axis": cylinder_region((0, 0.4, 2), (1, 0, 0), 1.0)},
    )
    assert crossing.product.origin == pytest.approx((10, 0.2, 2)) and crossing.facts.miss == pytest.approx(0.4)
    with pytest.raises(ContourError, match="has to be an axis"):
        made("axis", {"axis": ref()}, {"axis": TOP})
    with pytest.raises(ContourError, match="nothing is chosen"):
        made("axis", {"by": "planes", "plane": ref()}, {"plane": TOP})


def test_uncertainty_of_a_midplane_is_half_of_both_and_grows_with_distance():
    a = RegionProduct(TOP.source_facets, TOP.surface, 0.0, (0, 0, 5), 10.0, {"position": 0.006, "direction": 0.0})
    b = RegionProduct(
        TOP.source_facets, plane_region((0, 0, 1), (0, 0, -1)).surface, 0.0, (0, 0, 1), 10.0, {"position": 0.008}
    )
    plane = made("plane", {"by": "midway", "plane": ref(), "other_plane": ref(1)}, {"plane": a, "other_plane": b})
    assert plane.u == pytest.approx(0.005, rel=1e-6)
    # A tilt of 1 mrad at a distance of 50 mm is worth 0.05 mm, square to what the plane's own position is worth.
    tilting = Place("plane", (0, 0, 0), (0, 0, 1), u=0.03, u_tilt=0.001)
    far = spread(lambda p: float((np.array([50.0, 0, 0]) - p[0].at) @ p[0].along), [tilting])
    assert far[0] == pytest.approx(np.hypot(0.03, 0.05), rel=1e-3)


def test_edges_and_corners_of_a_body_stand_for_axes_and_points():
    """The middle of a straight edge, the centre and axis of a round one, a corner; a curved edge has no axis."""
    from tests.conftest import circle, prism, rectangle
    from tests.steps.helpers import body as as_body

    product = as_body(prism([*rectangle(40, 30), circle(10, 12, 4, "c1")], 8))
    front, rim = "s1.end[p1]|s1.side[e1]", "s1.end[p1]|s1.side[c1]"
    corner = "s1.end[p1]|s1.side[e1]|s1.side[e2]"

    def point(ref, name):
        return run("point", {"by": "centre", "of": {"body": "b", **ref}}, {"of": product}, of=name).product.origin

    assert point({"edge": front}, front) == pytest.approx((20, 0, 8))
    assert point({"edge": rim}, rim) == pytest.approx((10, 12, 8))
    assert point({"vertex": corner}, corner) == pytest.approx((40, 0, 8))

    def axis(name):
        given = {"by": "round", "axis": {"body": "b", "edge": name}}
        return run("axis", given, {"axis": product}, axis=name).product

    made = axis(rim)
    assert made.origin == pytest.approx((10, 12, 8)) and abs(made.direction[2]) == pytest.approx(1)
    assert made.radius == pytest.approx(4)
    assert abs(axis(front).direction[0]) == pytest.approx(1)


def test_pieces_of_a_sketch_serve_as_axes_and_points():
    drawn = sketch([Entity("l", "line", (1.0, 2.0), (7.0, 10.0)), Entity("c", "arc", (6.0, 0.0), (6.0, 0.0), mid=(2.0, 0.0))], z=5.0)  # fmt: skip
    line, circle = {"sketch": "s0", "entity": "l"}, {"sketch": "s0", "entity": "c"}
    axis = run("axis", {"axis": line}, {"axis": drawn}, axis="l").product
    assert axis.along == pytest.approx([0.6, 0.8, 0]) and axis.at == pytest.approx([4, 6, 5])
    through = run(
        "axis",
        {"by": "points", "point": circle, "other_point": line},
        {"point": drawn, "other_point": drawn},
        point="c",
        other_point="l",
    ).product
    assert through.along == pytest.approx(np.array([0, 6, 0]) / 6) and through.at[0] == pytest.approx(4)
    middle = run("point", {"by": "centre", "of": circle}, {"of": drawn}, of="c").product
    assert middle.origin == pytest.approx((4, 0, 5))
    free = sketch([Entity("f", "free", (0.0, 0.0), (2.0, 0.0), points=((0.0, 0.0), (1.0, 1.0), (2.0, 0.0)))])
    with pytest.raises(ContourError, match="no axis") as caught:
        run("axis", {"axis": {"sketch": "s0", "entity": "f"}}, {"axis": free}, axis="f")
    assert caught.value.problem.where.param == "axis"
