"""Moving faces: volumes from closed forms, the same faces and names, and refusals that change nothing."""

import math

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity
from contour.solid.boolean import combine
from contour.solid.contacts import ball
from contour.solid.extent import bounds
from contour.solid.face_geometry import face_surface
from contour.solid.facts import face_facts
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.move_what_can import move_what_can
from contour.solid.moved_faces import rolling_faces
from contour.solid.resurface import resurface
from contour.solid.shape import NamedShape, faces
from demo.bracket import base_block, bracket, rounded_rectangle
from demo.truth_parts import TRUTH_PARTS
from tests.conftest import circle, prism, rectangle


@pytest.fixture(scope="module")
def plate():
    """120 x 80 x 12 with rounds of 8 and four bores of 9."""
    return base_block()


def place(named, part: str) -> int:
    (found,) = [k for k, n in enumerate(named.names) if part in n]
    return found


def plate_volume(w=120.0, d=80.0, h=12.0, r=8.0, bore=4.5) -> float:
    return (w * d - (4 - math.pi) * r**2 - 4 * math.pi * bore**2) * h


def test_nothing_moved_is_the_same_solid(plate):
    same = resurface(plate, {})
    assert volume(same.shape) == pytest.approx(volume(plate.shape), rel=1e-12)
    assert same.names == plate.names


@pytest.mark.parametrize("offset", [0.5, -0.5, 0.013, -3.0])
def test_the_top_goes_up_and_down(plate, offset):
    moved = resurface(plate, {place(plate, "end["): offset})
    assert volume(moved.shape) == pytest.approx(plate_volume(h=12 + offset), rel=1e-9)
    assert check_solid(moved.shape).valid


@pytest.mark.parametrize("offset", [0.3, -0.3])
def test_a_side_takes_its_rounds_along(plate, offset):
    """The rounds keep their radius and stay tangent: the plate only gets wider."""
    moved = resurface(plate, {place(plate, "side[ol0]"): offset})
    assert volume(moved.shape) == pytest.approx(plate_volume(d=80 + offset), rel=1e-8)
    radii = [g.radius for g in map(face_surface, faces(moved.shape)) if g and g.kind == "cylinder"]
    assert sorted(round(r, 9) for r in radii) == [4.5] * 4 + [8.0] * 4


@pytest.mark.parametrize("offset", [0.2, -0.2])
def test_a_round_changes_its_radius_and_stays_tangent(plate, offset):
    k = place(plate, "side[oa3]")
    moved = resurface(plate, {k: offset})
    change = (1 - math.pi / 4) * ((8 + offset) ** 2 - 64) * 12
    assert volume(moved.shape) == pytest.approx(plate_volume() - change, rel=1e-9)
    assert np.allclose(bounds(moved.shape), bounds(plate.shape), atol=1e-4)


def test_a_bore_gets_wider_when_its_face_goes_into_the_material(plate):
    moved = resurface(plate, {place(plate, "side[h0]"): -0.25})
    assert volume(plate.shape) - volume(moved.shape) == pytest.approx(math.pi * (4.75**2 - 4.5**2) * 12, rel=1e-9)


def test_all_faces_at_once(plate):
    moved = resurface(plate, dict.fromkeys(range(len(plate.names)), 0.07))
    grown = plate_volume(120.14, 80.14, 12.14, 8.07, 4.43)
    assert volume(moved.shape) == pytest.approx(grown, rel=1e-9)
    assert moved.names == plate.names
    assert [f["kind"] for f in face_facts(moved)] == [f["kind"] for f in face_facts(plate)]


def test_every_face_of_a_part_with_booleans_behind_it():
    """The bracket: pocket, wall, bore, boss and eye, each face both ways; the volume follows the face's own area."""
    part = bracket()
    before = volume(part.shape)
    rows = face_facts(part)
    rolling = rolling_faces(part.shape)
    for k in range(0, len(part.names), 3):
        for d in (0.02, -0.02):
            moved = resurface(part, {k: d})
            assert check_solid(moved.shape).valid
            if k not in rolling and not rolling.keys() & set(rows[k]["beside"]):
                # Neighbours that lean change the area by a share of the offset.
                assert volume(moved.shape) - before == pytest.approx(rows[k]["area"] * d, rel=0.02), part.names[k]


def test_a_pocket_rolls_inside_its_walls():
    body = combine(
        prism(rectangle(60, 40), 20), prism(rounded_rectangle(10, 10, 50, 30, 5, "p"), 30, z=8, prefix="s2"), "subtract"
    )
    floor = place(body, "s2.start")
    moved = resurface(body, {floor: 1.5})
    pocket = 40 * 20 - (4 - math.pi) * 25
    assert volume(moved.shape) == pytest.approx(60 * 40 * 20 - pocket * (12 - 1.5), rel=1e-9)
    wall = place(body, "s2.side[pl0]")
    wider = resurface(body, {wall: -0.4})
    assert volume(body.shape) - volume(wider.shape) == pytest.approx(0.4 * 40 * 12, rel=1e-8)


def test_a_free_curve_side_goes_along_with_the_top():
    from contour.sketch.entities import Entity

    wave = tuple((x, 20 + 2 * math.sin(x / 6)) for x in np.linspace(40, 0, 21))
    sides = [
        Entity("e1", "line", (0, 0), (40, 0)),
        Entity("e2", "line", (40, 0), wave[0]),
        Entity("e3", "free", wave[0], wave[-1], None, wave),
        Entity("e4", "line", wave[-1], (0, 0)),
    ]
    body = prism(sides, 10)
    moved = resurface(body, {place(body, "end["): 2.5})
    assert volume(moved.shape) == pytest.approx(volume(body.shape) * 1.25, rel=1e-6)


def test_what_would_need_another_topology_is_refused(plate):
    with pytest.raises(ContourError) as caught:
        resurface(plate, {place(plate, "end["): -13.0})
    assert caught.value.problem.code == "body-broken"
    assert volume(plate.shape) == pytest.approx(plate_volume(), rel=1e-9)


def test_a_bore_wider_than_the_plate_is_refused():
    body = prism([*rectangle(20, 20), circle(10, 10, 5)], 5)
    with pytest.raises(ContourError):
        resurface(body, {place(body, "side[c1]"): -6.0})


def test_rounds_know_how_their_axis_moves(plate):
    rolling = rolling_faces(plate.shape)
    assert len(rolling) == 4
    # A millimetre more radius moves the axis by one inwards along both sides.
    assert all(np.allclose(np.abs(way), [1, 1, 0], atol=1e-6) for way in rolling.values())


def test_face_facts_tell_planes_and_cylinders(plate):
    rows = {f["name"]: f for f in face_facts(plate)}
    top = rows["base.end[p-oa0]"]
    assert top["kind"] == "plane"
    assert top["axis"] == [0, 0, 1]
    assert top["area"] == pytest.approx(plate_volume() / 12, rel=1e-6)
    bore = rows["base.side[h0]"]
    assert (bore["kind"], bore["inside"], bore["diameter"]) == ("cylinder", True, 9.0)
    assert len(top["beside"]) == 12
    assert len(rows["base.side[ol0]"]["beside"]) == 4


def test_two_sides_that_are_one_plane_stay_so_while_a_round_beside_them_rolls():
    """A flat side in two pieces touches itself tangentially; it is no round that could roll (a KeyError once)."""
    around = rounded_rectangle(0.0, 0.0, 120.0, 80.0, 8.0, "o")
    k = next(i for i, e in enumerate(around) if e.kind == "line")
    line, half = around[k], np.mean([around[k].start, around[k].end], axis=0)
    mid = (float(half[0]), float(half[1]))
    halves = [Entity("h1", "line", line.start, mid), Entity("h2", "line", mid, line.end)]
    body = prism([*around[:k], *halves, *around[k + 1 :]], 12.0)
    side = next(n for n in range(len(body.names)) if "side[ol1]" in body.names[n])
    moved = resurface(body, {side: 0.3})
    assert len(moved.names) == len(body.names)
    assert volume(moved.shape) == pytest.approx((120.3 * 80 - (4 - math.pi) * 64) * 12, rel=1e-8)
    half = next(n for n in range(len(body.names)) if "side[h1]" in body.names[n])
    both = resurface(body, {half: 0.3})
    assert volume(both.shape) == pytest.approx((120 * 80.3 - (4 - math.pi) * 64) * 12, rel=1e-8)
    other = next(n for n in range(len(body.names)) if "side[h2]" in body.names[n])
    with pytest.raises(ContourError, match="one surface"):
        resurface(body, {half: 0.3, other: 0.2})


PARTS = {name: make for name, make in TRUTH_PARTS.items() if name != "davit foot"}


@pytest.mark.parametrize("name", PARTS)
def test_faces_moved_at_random_leave_a_good_solid_and_the_rest_says_why(name):
    shape = PARTS[name]()
    part = NamedShape(shape, tuple(f"f{k}" for k in range(len(faces(shape)))))
    rng = np.random.default_rng([5, list(TRUTH_PARTS).index(name)])
    moves = {k: float(rng.uniform(-0.4, 0.4)) for k in range(len(part.names))}
    made, refused = move_what_can(part, moves)
    facts = check_solid(made.shape)
    assert facts.closed and facts.valid and facts.solids == 1
    assert len(refused) <= 4
    assert all(error.problem.got and error.problem.remedy for error in refused.values())
    for k, (was, now) in enumerate(zip(faces(shape), faces(made.shape), strict=True)):
        if k not in refused:
            a, b = face_surface(was), face_surface(now)
            size = (b.at - a.at) @ a.along if a.kind == "plane" else (ball(b) - ball(a)) * a.outward
            assert size * (np.cos(a.half_angle)) == pytest.approx(moves[k], abs=1e-6)


def test_what_is_moved_where_many_faces_meet_in_a_point_is_refused_with_the_place():
    shape = TRUTH_PARTS["davit foot"]()
    part = NamedShape(shape, tuple(f"f{k}" for k in range(len(faces(shape)))))
    made, refused = move_what_can(part, {3: 0.2, 4: 0.1})
    assert check_solid(made.shape).valid
    assert all(error.problem.where.point is not None for error in refused.values())
