"""Sweep against closed forms: area times the way of the middle (Pappus, mitred corners), Cavalieri for what keeps its direction, twists; kinds and
names of faces, edges of bodies as paths, and refusals."""

from __future__ import annotations

import math
from collections import Counter
from itertools import pairwise

import numpy as np
import pytest
from shapely.geometry import Polygon

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.entities import Entity, Sketch
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_kind, face_surface
from contour.solid.gate import check_solid
from contour.solid.shape import faces
from contour.solid.topology.edges import edge_names
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, sketch, volume_of

NEW = "newstep0"
# The path's plane stands on the profile's: its x is the world's x, its y the world's z.
UPRIGHT = plane_frame(np.zeros(3), np.array([0, -1.0, 0]), np.array([1.0, 0, 0]))
BAR = rectangle(4, 3, at=(-2, -1.5))


def line(tag, a, b) -> Entity:
    return Entity(tag, "line", a, b)


def arc(tag, a, mid, b) -> Entity:
    return Entity(tag, "arc", a, b, mid=mid)


R = 10 / math.sqrt(2)
HOOK = [line("l1", (0, 0), (0, 20)), arc("a2", (0, 20), (10 - R, 20 + R), (10, 30)), line("l3", (10, 30), (30, 30))]


def sweep(path, profile=None, bodies=(), z=0.0, **more):
    values = {k: {"text": v} if k == "twist" else v for k, v in more.items()}
    params = {"sketch": {"id": "s"}, "path": {"id": "p"}, "bodies": [{"id": f"b{k}"} for k in range(len(bodies))]}
    products = {"sketch": sketch(profile or BAR, z), "path": Sketch(UPRIGHT, tuple(path))}
    products |= {f"bodies[{k}]": body(b) for k, b in enumerate(bodies)}
    return run("sweep", params | values, products)


def good(outcome, faces_count: int, id: str = NEW):
    found = check_solid(shape_of(outcome, id).shape)
    assert found.closed and found.valid and found.faces == faces_count
    return shape_of(outcome, id)


def test_straight_and_round_pieces_give_plain_faces_each_with_its_name():
    made = good(sweep(HOOK), 14)
    assert volume_of(sweep(HOOK), NEW) == pytest.approx(12 * (40 + 5 * math.pi), rel=1e-9)
    assert Counter(face_kind(f) for f in faces(made.shape)) == {"plane": 12, "cylinder": 2}
    assert set(made.names) == {f"{NEW}.side[e{k}:{p}]" for k in (1, 2, 3, 4) for p in ("l1", "a2", "l3")} | {
        f"{NEW}.start[p1]",
        f"{NEW}.end[p1]",
    }
    # The name says which piece of the path a wall stands on.
    k = made.names.index(f"{NEW}.side[e1:l3]")
    assert bounds(faces(made.shape)[k])[:, 0] == pytest.approx([10, 30], abs=1e-6)


def test_the_path_may_be_drawn_in_any_order_and_from_any_end():
    turned = [HOOK[2].reversed(), HOOK[0].reversed(), HOOK[1]]
    assert sorted(shape_of(sweep(turned), NEW).names) == sorted(shape_of(sweep(HOOK), NEW).names)
    assert volume_of(sweep(turned), NEW) == pytest.approx(12 * (40 + 5 * math.pi), rel=1e-9)


def test_corners_are_mitred():
    made = sweep([line("l1", (0, 0), (0, 20)), line("l2", (0, 20), (25, 20))])
    assert volume_of(made, NEW) == pytest.approx(12 * 45, rel=1e-9)
    good(made, 10)
    blunt = sweep([line("l1", (0, 0), (0, 20)), line("l2", (0, 20), (20, 40))])
    assert volume_of(blunt, NEW) == pytest.approx(12 * (20 + 20 * math.sqrt(2)), rel=1e-9)


def test_closed_paths_have_no_ends():
    race = [line("l1", (0, -5), (0, 20)), arc("a2", (0, 20), (10, 30), (20, 20)), line("l3", (20, 20), (20, -5))]
    made = sweep([*race, arc("a4", (20, -5), (10, -15), (0, -5))], z=-5.0)
    assert volume_of(made, NEW) == pytest.approx(12 * (50 + 20 * math.pi), rel=1e-9)
    good(made, 16)
    frame = sweep([*rectangle(20, 30, tag="k")])
    assert volume_of(frame, NEW) == pytest.approx(12 * 100, rel=1e-9)


def test_tubes_keep_their_bore():
    made = sweep(HOOK, [circle(0, 0, 3), circle(0, 0, 2, "c2")])
    assert volume_of(made, NEW) == pytest.approx(math.pi * 5 * (40 + 5 * math.pi), rel=1e-6)
    shape = good(made, 8)
    assert {face_surface(f).radius for f in faces(shape.shape) if face_kind(f) == "cylinder"} == {3, 2}


def test_what_lies_beside_the_path_goes_its_own_way():
    """Three millimetres outside the bend: by Pappus its own radius counts."""
    made = sweep(HOOK, rectangle(2, 2, at=(-5, -1)))
    assert volume_of(made, NEW) == pytest.approx(4 * (40 + math.pi / 2 * 14), rel=1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_what_keeps_its_direction_has_the_volume_of_its_height(seed):
    """Cavalieri: every cut parallel to the profile is the profile."""
    rng = np.random.default_rng(seed)
    p = star_outline(rng)
    spots = np.cumsum(np.column_stack([rng.uniform(-6, 6, 5), rng.uniform(3, 9, 5)]), axis=0)
    spots = np.vstack([[0, 0], spots])
    path = [line(f"l{k}", tuple(a), tuple(b)) for k, (a, b) in enumerate(pairwise(spots))]
    if seed % 2:
        way = np.array([spots[1][0], spots[1][1]])
        mid = way / 2 + 0.2 * np.array([-way[1], way[0]])
        path[0] = arc("l0", (0.0, 0.0), tuple(mid), tuple(spots[1]))
    made = sweep(path, entities_of(p), way="fixed")
    assert volume_of(made, NEW) == pytest.approx(Polygon(p).area * spots[-1][1], rel=1e-6)
    assert check_solid(shape_of(made, NEW).shape).valid


def test_straight_walls_of_what_keeps_its_direction_are_flat():
    made = good(sweep([line("l1", (0, 0), (8, 20))], way="fixed"), 6)
    assert {face_kind(f) for f in faces(made.shape)} == {"plane"}


@pytest.mark.parametrize("twist", ["90 deg", "-30 deg", "800 deg"])
def test_a_twist_changes_no_volume_about_its_middle(twist):
    straight = sweep([line("l1", (0, 0), (0, 25))], twist=twist)
    assert volume_of(straight, NEW) == pytest.approx(12 * 25, rel=1e-5)
    hook = sweep(HOOK, twist=twist)
    assert volume_of(hook, NEW) == pytest.approx(12 * (40 + 5 * math.pi), rel=1e-5)
    good(hook, 14)


def test_a_twist_turns_the_end_as_far_as_it_says():
    made = shape_of(sweep([line("l1", (0, 0), (0, 25))], rectangle(6, 2, at=(-3, -1)), twist="90 deg"), NEW)
    end = bounds(faces(made.shape)[made.names.index(f"{NEW}.end[p1]")])
    assert end == pytest.approx(np.array([[-1, -3, 25], [1, 3, 25]]), abs=1e-6)


def test_it_is_joined_to_a_body_and_cut_out_of_it():
    block = prism(rectangle(40, 40, at=(-20, -20)), 10, prefix="old")
    tube = [circle(0, 0, 2)]
    made = sweep([line("l1", (0, 0), (0, 30))], tube, bodies=[block], operation="add")
    assert volume_of(made, "b0") == pytest.approx(16000 + math.pi * 4 * 20, rel=1e-9)
    cut = sweep([line("l1", (0, 0), (0, 30))], tube, bodies=[block], operation="subtract")
    assert volume_of(cut, "b0") == pytest.approx(16000 - math.pi * 4 * 10, rel=1e-9)


def test_edges_of_a_body_are_a_path():
    """Up one edge of a block and along the next one."""
    block = prism(rectangle(40, 30), 10, prefix="old")
    names = edge_names(block)
    up = next(n for n in names if set(n.split("|")) == {"old.side[e1]", "old.side[e4]"})
    along = next(n for n in names if set(n.split("|")) == {"old.side[e1]", "old.end[p1]"})
    params = {"sketch": {"id": "s"}, "edges": [{"body": "b", "edge": along}, {"body": "b", "edge": up}]}
    given = {"sketch": sketch(rectangle(2, 2, at=(-1, -1))), "edges[0]": body(block), "edges[1]": body(block)}
    made = run("sweep", params, given, edges__0=along, edges__1=up)
    assert volume_of(made, NEW) == pytest.approx(4 * 50, rel=1e-9) and made.facts.length == pytest.approx(50)


@pytest.mark.parametrize(
    ("path", "more", "code", "param"),
    [
        ([line("l1", (0, 5), (0, 20))], {}, "bad-params", "path"),
        ([line("l1", (0, 0), (20, 1))], {}, "too-tilted", "path"),
        ([line("l1", (0, 0), (0, 9)), line("l2", (3, 9), (9, 9))], {}, "open-end", "path"),
        ([arc("a1", (0, 0), (1.5 - 1.5 / math.sqrt(2), 1.5 / math.sqrt(2)), (1.5, 1.5))], {}, "self-crossing", "path"),
        ([*rectangle(20, 30, tag="k")], {"twist": "90 deg"}, "bad-params", "twist"),
        ([line("l1", (0, 0), (0, 9)), line("l2", (0, 9), (9, 9))], {"twist": "9 deg"}, "bad-params", "path"),
        ([line("l1", (0, 0), (0, 9)), line("l2", (0, 9), (9, 9))], {"way": "fixed"}, "too-tilted", "path"),
        ([], {}, "bad-params", "path"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(path, more, code, param):
    with pytest.raises(ContourError) as refused:
        sweep(path, **more)
    assert (refused.value.problem.code, refused.value.problem.where.param) == (code, param)
    assert refused.value.problem.remedy
