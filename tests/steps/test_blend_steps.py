"""Fillets and chamfers: volumes against closed forms, what fails told with its place and the size that works."""

from __future__ import annotations

import math

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity, Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.extrude import extrude
from contour.solid.face_geometry import face_kinds
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape
from contour.solid.topology.edges import edge_names
from contour.solid.topology.rows import topology_rows
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of

BLOCK = prism(rectangle(40, 30), 10)
SPANDREL = 1 - math.pi / 4  # of r² and 1 mm of edge: what a fillet takes off a square corner
TOP = {"body": "b", "name": "s1.end[p1]"}


def edge(name: str) -> dict:
    return {"body": "b", "edge": name}


def names_in(part: dict) -> str | tuple[str, ...]:
    return part.get("name") or part.get("edge") or part["chain"]


def blend(kind: str, on: NamedShape, edges: list[dict], resolved: dict | None = None, **more):
    """The step on a body, the references meaning what they say unless told otherwise."""
    product = body(on)
    places = {f"edges[{i}]": e for i, e in enumerate(edges)}
    for i, row in enumerate(more.get("more", [])):
        places |= {f"more[{i}].edges[{k}]": e for k, e in enumerate(row["edges"])}
    if more.get("side"):
        places["side"] = more["side"]
    given = {p.replace("[", "__").replace("]", ""): (resolved or {}).get(p, names_in(e)) for p, e in places.items()}
    params = {"edges": edges, **more}
    return run(kind, params, dict.fromkeys(places, product), **given)


def removed(made) -> float:
    return made.facts.removed


def test_one_edge_rounded_takes_off_its_spandrel_and_names_the_new_face_by_the_edge():
    made = blend("fillet", BLOCK, [edge("s1.end[p1]|s1.side[e1]")], radius={"text": "3 mm"})
    assert removed(made) == pytest.approx(SPANDREL * 9 * 40, rel=1e-9)
    solid = shape_of(made, "b")
    assert "newstep0.fillet[s1.end[p1]|s1.side[e1]]" in solid.names
    assert check_solid(solid.shape).valid and len(solid.names) == 7


def test_all_edges_of_a_face_meet_in_corners_that_are_parts_of_spheres_no_more_no_less():
    """Four edges of the top and the four upright ones: the corners are eighths of balls."""
    r = 2.0
    upright = [edge(f"s1.side[e{k}]|s1.side[e{k % 4 + 1}]") for k in (1, 2, 3)] + [edge("s1.side[e1]|s1.side[e4]")]
    made = blend("fillet", BLOCK, [TOP, *upright], radius={"text": f"{r} mm"})
    straight = SPANDREL * r**2 * (2 * (40 - 2 * r) + 2 * (30 - 2 * r) + 4 * (10 - r))
    corners = 4 * (r**3 - math.pi * r**3 / 6)
    assert removed(made) == pytest.approx(straight + corners, rel=1e-7)
    assert face_kinds(shape_of(made, "b").shape).count("sphere") == 4


def test_an_inner_edge_gains_material_and_a_round_one_gives_a_torus():
    boss = combine(BLOCK, prism([circle(20, 15, 5, "e9")], 20, prefix="s2"), "add")
    foot = next(e["name"] for e in topology_rows(boss)["edges"] if e["kind"] == "circle" and e["centre"][2] == 10)
    made = blend("fillet", boss, [edge(foot)], radius={"text": "2 mm"})
    r = 2.0
    # Pappus: the spandrel's area at the distance of its centroid from the boss's axis
    area = SPANDREL * r**2
    outwards = (r**2 * r / 2 - (math.pi / 4 * r**2) * (r - 4 * r / (3 * math.pi))) / area
    assert removed(made) == pytest.approx(-2 * math.pi * (5 + outwards) * area, rel=1e-7)
    assert face_kinds(shape_of(made, "b").shape).count("torus") == 1


def test_several_radii_in_one_step_and_the_later_list_wins():
    both = "s1.end[p1]|s1.side[e1]"
    made = blend(
        "fillet",
        BLOCK,
        [edge(both), edge("s1.end[p1]|s1.side[e3]")],
        radius={"text": "1 mm"},
        more=[{"edges": [edge(both)], "radius": {"text": "2 mm"}}],
    )
    assert removed(made) == pytest.approx(SPANDREL * 40 * (1 + 4), rel=1e-9)
    assert [h.place for h in made.handles] == ["radius", "more[0].radius"]


def spot_of(shape: NamedShape, place: tuple[float, float, float]) -> float:
    """How far a place lies from the solid's faces, mm."""
    return float(BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(gp_Pnt(*place)).Vertex(), shape.shape).Value())


def test_a_radius_changes_evenly_from_end_to_end_and_turned_round_the_other_way():
    along = [edge("s1.end[p1]|s1.side[e1]")]  # from x = 0 to 40 at y = 0, z = 10
    even = SPANDREL * 40 * (2 * 2 + 2 * 5 + 5 * 5) / 3
    # How deep the fillet lies under the corner, at either end.
    deep = {r: r * (math.sqrt(2) - 1) for r in (2, 5)}
    found = {}
    for turned in (False, True):
        made = blend("fillet", BLOCK, along, radius={"text": "2 mm"}, end_radius={"text": "5 mm"}, turned=turned)
        assert removed(made) == pytest.approx(even, rel=1e-4)
        solid = shape_of(made, "b")
        assert check_solid(solid.shape).valid and len(solid.names) == 7
        found[turned] = [spot_of(solid, (x, 0, 10)) for x in (0.0, 40.0)]
    assert sorted(found[False]) == pytest.approx([deep[2], deep[5]], rel=2e-3)
    assert found[True] == pytest.approx(found[False][::-1], rel=1e-6)


def test_which_end_is_which_hangs_on_names_and_not_on_how_the_kernel_turns_an_edge():
    along = [edge("s1.end[p1]|s1.side[e1]")]
    other = prism([e.reversed() for e in reversed(rectangle(40, 30))], 10)
    ends = []
    for on in (BLOCK, other):
        solid = shape_of(blend("fillet", on, along, radius={"text": "1 mm"}, end_radius={"text": "4 mm"}), "b")
        ends.append([spot_of(solid, (x, 0, 10)) for x in (0.0, 40.0)])
    assert ends[0] == pytest.approx(ends[1], rel=1e-6)


def test_a_changing_radius_runs_on_and_has_ends():
    # Three sides of a plate with two round corners: one run of edges, as long as it is.
    loop = rounded_end()
    plate = prism(loop, 10)
    first = next(n for n in edge_names(plate) if n.startswith("s1.end[p1]|") and "[e2]" in n)
    made = blend("fillet", plate, [edge(first)], radius={"text": "1 mm"}, end_radius={"text": "3 mm"})
    assert check_solid(shape_of(made, "b").shape).valid
    solid, run_on = shape_of(made, "b"), 80 + 10 * math.pi
    depths = [spot_of(solid, (x, y, 10)) / (math.sqrt(2) - 1) for x, y in ((20, 0), (40, 0), (40, 20), (20, 20))]
    radii = sorted([1 + 2 * s / run_on for s in (20, 40, 40 + 10 * math.pi, 60 + 10 * math.pi)])
    assert sorted(depths) == pytest.approx(radii, abs=0.02)
    # Another list on the same run, its ends the other way round, is a radius of its own.
    last = next(n for n in edge_names(plate) if n.startswith("s1.end[p1]|") and "[e3]" in n)
    both = {"radius": {"text": "1 mm"}, "end_radius": {"text": "3 mm"}}
    with pytest.raises(ContourError, match="radius of its own"):
        blend("fillet", plate, [edge(first)], more=[{"edges": [edge(last)], **both, "turned": True}], **both)
    disc = prism([circle(0, 0, 10)], 10)
    rim = next(n for n in edge_names(disc) if n.startswith("s1.end["))
    with pytest.raises(ContourError) as raised:
        blend("fillet", disc, [edge(rim)], radius={"text": "1 mm"}, end_radius={"text": "2 mm"})
    assert (raised.value.problem.code, raised.value.problem.where.param) == ("wrong-kind", "end_radius")
    with pytest.raises(ContourError) as raised:
        blend("fillet", BLOCK, [edge("s1.end[p1]|s1.side[e1]")], radius={"text": "1 mm"}, end_radius={"text": "0 mm"})
    assert (raised.value.problem.code, raised.value.problem.where.param) == ("bad-params", "end_radius")


def test_ends_between_the_same_faces_are_not_told_apart_by_chance():
    half = prism([Entity("l", "line", (-10, 0), (10, 0)), Entity("a", "arc", (10, 0), (-10, 0), mid=(0, 10))], 8)
    straight = edge("s1.end[p-a]|s1.side[l]")
    bottom = edge("s1.side[l]|s1.start[p-a]")
    row = {"edges": [straight], "radius": {"text": "1 mm"}, "end_radius": {"text": "2 mm"}}
    with pytest.raises(ContourError) as raised:
        blend("fillet", half, [bottom], radius={"text": "1 mm"}, more=[row])
    where = raised.value.problem.where
    assert (raised.value.problem.code, where.param) == ("ref-ambiguous", "more[0].end_radius")
    assert abs(where.point[0]) == pytest.approx(10) and where.point[1:] == pytest.approx((0, 8), abs=1e-9)


def rounded_end() -> list[Entity]:
    """A strip 40 x 20 whose right end is round."""
    return [
        Entity("e1", "line", (0, 0), (40, 0)),
        Entity("e2", "arc", (40, 0), (40, 20), mid=(50, 10)),
        Entity("e3", "line", (40, 20), (0, 20)),
        Entity("e4", "line", (0, 20), (0, 0)),
    ]


def test_the_handle_stands_on_the_edge_and_points_into_the_material():
    (handle,) = blend("fillet", BLOCK, [edge("s1.end[p1]|s1.side[e1]")], radius={"text": "1 mm"}).handles
    assert handle.origin == pytest.approx((20, 0, 10)) and handle.kind == "radius"
    assert handle.direction == pytest.approx((0, math.sqrt(0.5), -math.sqrt(0.5)))
    boss = combine(BLOCK, prism(rectangle(10, 10, at=(10, 10)), 20, prefix="s2"), "add")
    (handle,) = blend("fillet", boss, [edge("s1.end[p1]|s2.side[e1]")], radius={"text": "1 mm"}).handles
    assert handle.direction == pytest.approx((0, -math.sqrt(0.5), math.sqrt(0.5)))  # out of the corner, where it grows


def test_a_fillet_runs_on_along_edges_without_a_bend():
    from demo.bracket import rounded_rectangle

    plate = prism(rounded_rectangle(0, 0, 40, 30, 5, "o"), 10)
    line = next(e["name"] for e in topology_rows(plate)["edges"] if "end" in e["name"] and e["kind"] == "line")
    made = blend("fillet", plate, [edge(line)], radius={"text": "1 mm"})
    assert made.facts.blends == 8


@pytest.mark.parametrize(("radius", "most"), [("12 mm", 10.0), ("40 mm", 10.0)])
def test_an_edge_that_cannot_take_it_is_named_with_the_largest_that_works(radius, most):
    with pytest.raises(ContourError) as caught:
        blend(
            "fillet", BLOCK, [edge("s1.end[p1]|s1.side[e1]"), edge("s1.end[p1]|s1.side[e3]")], radius={"text": radius}
        )
    p = caught.value.problem
    assert (p.code, p.where.param) == ("body-broken", "edges[0]")
    assert p.where.point == pytest.approx((20, 0, 10)) and "edge of" in p.message
    offered = float(p.need.split()[-2])
    assert 0.8 * most <= offered <= most
    blend("fillet", BLOCK, [edge("s1.end[p1]|s1.side[e1]")], radius={"text": f"{offered} mm"})


def test_edges_that_only_do_not_fit_together_say_so():
    thin = prism(rectangle(40, 6), 10)
    pair = [edge("s1.end[p1]|s1.side[e1]"), edge("s1.end[p1]|s1.side[e3]")]
    with pytest.raises(ContourError) as caught:
        blend("fillet", thin, pair, radius={"text": "4 mm"})
    p = caught.value.problem
    assert "by itself" in p.message
    assert 2.5 <= float(p.need.split()[2]) < 3.0
    blend("fillet", thin, pair, radius={"text": "2.9 mm"})


def test_what_it_swallows_is_said_and_where():
    """A pin of Ø 2 and half a millimetre high stands where the fillet goes: it is gone, with its wall and its end."""
    pinned = combine(BLOCK, prism([circle(20, 2, 1, "e9")], 10.5, prefix="s2"), "add")
    made = blend("fillet", pinned, [edge("s1.end[p1]|s1.side[e1]")], radius={"text": "4 mm"})
    assert removed(made) == pytest.approx(SPANDREL * 16 * 40 + math.pi * 0.5, rel=1e-7)
    (said,) = made.problems
    assert (said.code, said.got) == ("swallowed", "cylinder, plane")
    assert math.hypot(said.where.point[0] - 20, said.where.point[1] - 2) <= 1.001 and said.where.point[2] > 10


def test_all_around_a_face_leaves_out_where_it_runs_into_its_neighbour():
    """The side of a plate with rounded corners ends in two smooth edges: only its upper and lower ones are chamfered, and what
    runs on from them."""
    from demo.bracket import rounded_rectangle

    plate = prism(rounded_rectangle(0, 0, 40, 30, 5, "o"), 10)
    made = blend("chamfer", plate, [{"body": "b", "name": "s1.side[ol0]"}], distance={"text": "1 mm"})
    assert made.facts.edges == 2 and made.facts.blends == 16


@pytest.mark.parametrize("kind", ["fillet", "chamfer"])
def test_a_face_without_an_edge_to_be_felt_is_refused(kind):
    """A whole ball has a seam and two poles, and no edge."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    ball = NamedShape(BRepPrimAPI_MakeSphere(5.0).Solid(), ("ball",))
    size = {"radius": {"text": "1 mm"}} if kind == "fillet" else {"distance": {"text": "1 mm"}}
    with pytest.raises(ContourError, match="no edge around it") as caught:
        blend(kind, ball, [{"body": "b", "name": "ball"}], **size)
    assert caught.value.problem.where.param == "edges[0]"


def test_edges_that_run_on_into_one_another_have_one_radius():
    from demo.bracket import rounded_rectangle

    plate = prism(rounded_rectangle(0, 0, 40, 30, 5, "o"), 10)
    lines = [e["name"] for e in topology_rows(plate)["edges"] if "end" in e["name"] and e["kind"] == "line"]
    more = [{"edges": [edge(lines[1])], "radius": {"text": "2 mm"}}]
    with pytest.raises(ContourError, match="runs on from another one") as caught:
        blend("fillet", plate, [edge(lines[0])], radius={"text": "1 mm"}, more=more)
    assert caught.value.problem.where.param == "more[0].edges[0]"
    same = [{"edges": [edge(lines[1])], "radius": {"text": "1 mm"}}]
    assert blend("fillet", plate, [edge(lines[0])], radius={"text": "1 mm"}, more=same).facts.blends == 8


def test_a_smooth_edge_and_nothing_and_two_bodies_are_refused():
    from demo.bracket import rounded_rectangle

    plate = prism(rounded_rectangle(0, 0, 40, 30, 5, "o"), 10)
    smooth = next(e["name"] for e in topology_rows(plate)["edges"] if e["smooth"])
    with pytest.raises(ContourError, match="smooth") as caught:
        blend("fillet", plate, [edge(smooth)], radius={"text": "1 mm"})
    assert caught.value.problem.where.param == "edges[0]"
    with pytest.raises(ContourError, match="needs a radius"):
        blend("fillet", BLOCK, [edge("s1.end[p1]|s1.side[e1]")], radius={"text": "0 mm"})
    other = {"body": "c", "edge": "s1.end[p1]|s1.side[e1]"}
    with pytest.raises(ContourError, match="several bodies"):
        blend("fillet", BLOCK, [edge("s1.end[p1]|s1.side[e1]"), other], radius={"text": "1 mm"})
    with pytest.raises(ContourError, match="no longer there"):
        blend("fillet", BLOCK, [edge("nowhere")], radius={"text": "1 mm"})


def test_equal_chamfers_take_off_triangles_and_meet_in_mitres():
    made = blend("chamfer", BLOCK, [edge("s1.end[p1]|s1.side[e1]")], distance={"text": "2 mm"})
    assert removed(made) == pytest.approx(2 * 2 / 2 * 40, rel=1e-9)
    around = blend("chamfer", BLOCK, [TOP], distance={"text": "2 mm"})
    # The top 2 mm: a prismatoid with its middle section of 38 x 28.
    assert removed(around) == pytest.approx(2 * 1200 - 2 / 6 * (1200 + 4 * 38 * 28 + 36 * 26), rel=1e-9)
    assert "newstep0.chamfer[s1.end[p1]|s1.side[e1]]" in shape_of(around, "b").names


@pytest.mark.parametrize(
    ("more", "on_top", "on_side"),
    [
        ({"by": "two distances", "other": {"text": "1 mm"}, "side": TOP}, 3, 1),
        ({"by": "two distances", "other": {"text": "1 mm"}, "side": TOP, "flip": True}, 1, 3),
        ({"by": "distance and angle", "angle": {"text": "30 deg"}, "side": TOP}, 3, 3 * math.tan(math.radians(30))),
        (
            {"by": "distance and angle", "angle": {"text": "30 deg"}, "side": TOP, "flip": True},
            3 * math.tan(math.radians(30)),
            3,
        ),
    ],
)
def test_the_first_distance_lies_on_the_chosen_face(more, on_top, on_side):
    name = "s1.end[p1]|s1.side[e1]"
    made = blend("chamfer", BLOCK, [edge(name)], distance={"text": "3 mm"}, **more)
    assert removed(made) == pytest.approx(on_top * on_side / 2 * 40, rel=1e-9)
    rows = {f["name"]: f for f in topology_rows(shape_of(made, "b"))["faces"]}
    assert rows["s1.end[p1]"]["area"] == pytest.approx(40 * (30 - on_top), abs=1e-4)
    assert rows["s1.side[e1]"]["area"] == pytest.approx(40 * (10 - on_side), abs=1e-4)


def test_both_rims_of_a_cross_hole_are_chamfered_each_by_its_name():
    frame = plane_frame(np.array([0, -40.0, 30]), np.array([0, 1.0, 0]), np.array([1.0, 0, 0]))
    hole = extrude(find_profiles(Sketch(frame, (circle(0, 0, 3),))), frame, start_mm=0, end_mm=80, prefix="d")
    shaft = combine(prism([circle(0, 0, 10)], 60), hole, "subtract")
    rims = [e["name"] for e in topology_rows(shaft)["edges"] if "#" in e["name"]]
    one = blend("chamfer", shaft, [edge(rims[0])], distance={"text": "0.5 mm"})
    two = blend("chamfer", shaft, [edge(r) for r in rims], distance={"text": "0.5 mm"})
    assert removed(two) == pytest.approx(2 * removed(one), rel=1e-4) and removed(one) > 2 * math.pi * 3 * 0.125 * 0.8


def test_too_large_a_chamfer_says_what_works():
    with pytest.raises(ContourError) as caught:
        blend("chamfer", BLOCK, [edge("s1.end[p1]|s1.side[e1]")], distance={"text": "15 mm"})
    assert caught.value.problem.where.param == "edges[0]"
    assert 8 <= float(caught.value.problem.need.split()[-2]) <= 10


def test_an_edge_of_a_drafted_wall_measures_its_angle_on_the_face():
    """The kernel's own angle at a corner that is not square: 20° to the top, whatever the wall does."""
    from contour.sketch.entities import Entity

    wedge = prism(
        [
            Entity("e1", "line", (0.0, 0.0), (30.0, 0.0)),
            Entity("e2", "line", (30.0, 0.0), (22.0, 20.0)),
            Entity("e3", "line", (22.0, 20.0), (0.0, 20.0)),
            Entity("e4", "line", (0.0, 20.0), (0.0, 0.0)),
        ],
        10,
    )
    side = {"body": "b", "name": "s1.side[e3]"}
    made = blend(
        "chamfer",
        wedge,
        [edge("s1.side[e2]|s1.side[e3]")],
        by="distance and angle",
        distance={"text": "2 mm"},
        angle={"text": "20 deg"},
        side=side,
    )
    row = next(f for f in topology_rows(shape_of(made, "b"))["faces"] if "chamfer" in f["name"])
    assert math.degrees(math.acos(abs(row["axis"][1]))) == pytest.approx(20.0, abs=1e-4)
    assert volume(shape_of(made, "b").shape) < volume(wedge.shape)
