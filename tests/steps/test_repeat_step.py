"""Repeated bodies against closed forms: volumes, where members lie, names, what goes into what, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.construct.place import Place
from contour.construct.repeats import around
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity
from contour.solid.extent import bounds
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.pieces import pieces
from contour.solid.repeated import copied, put_on
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, plane_region, run, shape_of, sketch, volume_of

NEW = "newstep0"
PIN = prism([circle(10, 0, 2)], 8, prefix="pin")  # Ø 4 x 8 beside the z axis
PLATE = prism(rectangle(80, 80, at=(-40, -40)), 5, prefix="plate")
X = Place("axis", (0.0, 0.0, 0.0), (1.0, 0.0, 0.0))
Y = Place("axis", (0.0, 0.0, 0.0), (0.0, 1.0, 0.0))
Z = Place("axis", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0))
VALUES = {"pitch", "count", "pitch_across", "count_across", "angle", "gap"}
ONE = math.pi * 4 * 8


def repeat(of=PIN, products=None, **more):
    params = {k: {"text": v} if k in VALUES else v for k, v in more.items()}
    for name in ("along", "across", "axis", "path", "plane"):
        if products and name in products:
            params[name] = {"id": name}
    return run("repeat", {"body": {"id": "b"}, **params}, {"body": body(of), **(products or {})})


def middles(outcome, id=NEW):
    """Middles of the members' boxes, sorted."""
    found = [bounds(p.shape).mean(axis=0) for p, _ in pieces(shape_of(outcome, id))]
    return np.array(sorted(np.round(m, 6).tolist() for m in found))


def test_in_a_row_and_in_rows():
    made = repeat(products={"along": X}, pitch="7 mm", count="4")
    assert middles(made) == pytest.approx(np.array([[17, 0, 4], [24, 0, 4], [31, 0, 4]]))
    assert volume_of(made, NEW) == pytest.approx(3 * ONE) and made.facts.members == 4
    (grip,) = made.handles
    assert grip.place == "pitch" and grip.direction == pytest.approx((1, 0, 0))
    grid = repeat(products={"along": X, "across": Y}, pitch="-7 mm", count="2", pitch_across="6 mm", count_across="3")
    assert middles(grid) == pytest.approx(np.array([[3, 0, 4], [3, 6, 4], [3, 12, 4], [10, 6, 4], [10, 12, 4]]))


@pytest.mark.parametrize(("spread", "angles"), [("even", (72, 144, 216, 288)), ("angle", (25, 50, 75, 100))])
def test_about_an_axis(spread, angles):
    made = repeat(products={"axis": Z}, by="circle", count="5", spread=spread, angle="25 deg")
    found = middles(made)
    want = sorted([10 * math.cos(math.radians(a)), 10 * math.sin(math.radians(a)), 4] for a in angles)
    assert found == pytest.approx(np.array(want), abs=1e-5)


def test_members_are_left_out_and_the_others_keep_their_names():
    made = repeat(products={"along": X}, pitch="7 mm", count="4", skip="3")
    names = shape_of(made, NEW).names
    assert {n.split("[")[0] for n in names} == {f"{NEW}.copy2", f"{NEW}.copy4"}
    assert f"{NEW}.copy4[pin.side[c1]]" in names and made.facts.left_out == 1


def test_along_a_path_turning_with_it():
    """A quarter of a circle of radius 30 about (0, 30): the last member stands across, turned by 90 degrees."""
    bar = prism(rectangle(4, 2, at=(-2, -1)), 3, prefix="bar")
    arc = [Entity("a", "arc", (0, 0), (30, 30), mid=(30 * math.sin(math.pi / 4), 30 - 30 * math.cos(math.pi / 4)))]
    made = repeat(bar, products={"path": sketch(arc)}, by="path", count="4")
    assert volume_of(made, NEW) == pytest.approx(3 * 24)
    spots = [(30 * math.sin(a), 30 - 30 * math.cos(a), 1.5) for a in np.radians([30, 60, 90])]
    assert middles(made) == pytest.approx(np.array(sorted(spots)), abs=0.02)
    last = max((p for p, _ in pieces(shape_of(made, NEW))), key=lambda p: bounds(p.shape)[1][1])
    low, high = bounds(last.shape)
    assert high - low == pytest.approx([2, 4, 3], abs=0.01)
    still = repeat(bar, products={"path": sketch(arc)}, by="path", count="4", turning=False)
    assert all(np.ptp(bounds(p.shape), axis=0) == pytest.approx([4, 2, 3]) for p, _ in pieces(shape_of(still, NEW)))
    with pytest.raises(ContourError, match="too short") as refused:
        repeat(bar, products={"path": sketch(arc)}, by="path", count="4", gap="20 mm")
    assert refused.value.problem.where.param == "gap"


def test_mirrored_onto_itself_as_one_body():
    half = prism(rectangle(20, 10), 5, prefix="half")  # x 0..20
    given = {"plane": plane_region((20, 0, 0), (1, 0, 0)), "bodies[0]": body(half)}
    made = repeat(half, products=given, by="mirror", operation="add", bodies=[{"id": "b"}])
    whole = shape_of(made, "b")
    assert check_solid(whole.shape).solids == 1 and check_solid(whole.shape).closed
    assert volume(whole.shape) == pytest.approx(40 * 10 * 5)
    # Sides that run on are one face now, and are called by both.
    assert any("half.side[e1]" in n and f"{NEW}.copy2[half.side[e1]]" in n for n in whole.names)


def test_mirrored_as_a_body_of_its_own():
    """A wedge is not its own image: its thick end comes to lie on the other side."""
    wedge = prism(
        [
            Entity("a", "line", (0, 0), (10, 0)),
            Entity("b", "line", (10, 0), (10, 5)),
            Entity("c", "line", (10, 5), (0, 0)),
        ],
        4,
        prefix="w",
    )
    made = shape_of(repeat(wedge, products={"plane": plane_region((0, 0, 0), (1, 0, 0))}, by="mirror"), NEW)
    found = check_solid(made.shape)
    assert found.closed and found.valid and found.volume == pytest.approx(100)
    assert bounds(made.shape) == pytest.approx(np.array([[-10, 0, 0], [0, 5, 4]]), abs=1e-5)
    assert sorted(made.names) == sorted(f"{NEW}.copy2[{n}]" for n in wedge.names)


def test_a_tool_is_taken_away_at_every_place_and_goes_into_it():
    given = {"axis": Z, "bodies[0]": body(PLATE)}
    more = {"by": "circle", "count": "6", "operation": "subtract", "bodies": [{"id": "p"}]}
    made = repeat(products=given, **more)
    assert volume_of(made, "p") == pytest.approx(80 * 80 * 5 - 6 * math.pi * 4 * 5)
    assert made.gone == ("b",)
    kept = repeat(products=given, keep=True, **more)
    assert kept.gone == () and volume_of(kept, "p") == pytest.approx(volume_of(made, "p"))


def test_members_that_run_into_each_other():
    """As a body of their own they are refused; added to a plate they become one."""
    with pytest.raises(ContourError) as refused:
        repeat(products={"along": X}, pitch="3 mm", count="3")
    assert refused.value.problem.code == "self-crossing"
    given = {"along": X, "bodies[0]": body(PLATE)}
    made = repeat(products=given, pitch="3 mm", count="3", operation="add", bodies=[{"id": "p"}])
    lens = 2 * 4 * math.acos(3 / 4) - 3 / 2 * math.sqrt(16 - 9)
    assert volume_of(made, "p") == pytest.approx(80 * 80 * 5 + (3 * math.pi * 4 - 2 * lens) * 3, rel=1e-9)


def test_what_all_members_and_a_plate_share():
    given = {"along": X, "bodies[0]": body(PLATE)}
    for pitch, area in (
        ("9 mm", 2 * math.pi * 4),
        ("3 mm", 2 * math.pi * 4 - 8 * math.acos(3 / 4) + 1.5 * math.sqrt(7)),
    ):
        made = repeat(products=given, pitch=pitch, count="2", operation="intersect", bodies=[{"id": "p"}])
        assert volume_of(made, "p") == pytest.approx(area * 5, rel=1e-9)


@pytest.mark.parametrize(
    ("more", "param"),
    [
        ({"count": "2.5"}, "count"),
        ({"count": "1"}, "count"),
        ({"pitch": "0 mm"}, "pitch"),
        ({"skip": "1"}, "skip"),
        ({"skip": "9"}, "skip"),
        ({"count": "2", "skip": "2"}, "skip"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(more, param):
    with pytest.raises(ContourError) as refused:
        repeat(products={"along": X}, **more)
    assert refused.value.problem.where.param == param


def test_copies_that_stand_apart_are_offered_as_a_body_of_their_own():
    params = {"along": X, "bodies[0]": body(PIN)}
    with pytest.raises(ContourError, match="separate pieces") as refused:
        repeat(products=params, pitch="7 mm", count="3", operation="add", bodies=[{"id": "b"}])
    assert refused.value.problem.offer.choices == {"operation": "new"}
    touching = repeat(products=params, pitch="3 mm", count="3", operation="add", bodies=[{"id": "b"}])
    assert len(pieces(shape_of(touching, "b"))) == 1


def sector(count: int, *, bore: float = 5.0, root: float = 14.0, tip: float = 18.0):
    """One tooth of so many: out along one end, root, flank, tip, flank, root, in along the other, the bore; without one both ends meet on the axis."""
    pitch = 2 * np.pi / count

    def at(r: float, share: float) -> tuple[float, float]:
        return (float(r * np.cos(0.3 + share * pitch)), float(r * np.sin(0.3 + share * pitch)))

    corners = [(bore, 0.0), (root, 0.0), (root, 0.3), (tip, 0.4), (tip, 0.6), (root, 0.7), (root, 1.0), (bore, 1.0)]
    corners = corners if bore else corners[:-1]
    through = {1: (root, 0.15), 3: (tip, 0.5), 5: (root, 0.85), 7: (bore, 0.5)}
    lines = [
        Entity(f"e{k}", "arc" if k in through else "line", at(*a), at(*b), at(*through[k]) if k in through else None)
        for k, (a, b) in enumerate(zip(corners, [*corners[1:], corners[0]], strict=True))
    ]
    return prism(lines, 8)


@pytest.mark.parametrize(("count", "bore"), [(2, 5), (3, 5), (6, 5), (7, 5), (12, 5), (3, 0), (8, 0)])
def test_sectors_that_touch_become_one_ring_without_a_seam(count, bore):
    """Each shares a face with the next one; 12 stood as so many separate pieces."""
    one = sector(count, bore=bore)
    copies = [
        copied(one, m, name=f"s.copy{k}")
        for k, m in enumerate(around(np.zeros(3), np.array(Z.along), 360 / count, count))
        if k
    ]
    made = put_on(one, copies, "add")
    assert len(made.names) == 4 * count + (3 if bore else 2) and len(set(made.names)) == len(made.names)
    assert volume(made.shape) == pytest.approx(count * volume(one.shape), rel=1e-9)


def test_copies_that_touch_in_any_order_and_some_that_touch_none():
    """Blocks side by side, the first in the middle of the row; one stands on the plate that all are added to."""
    blocks = [prism(rectangle(10, 10, at=(10 * k, 0)), 5, prefix=f"b{k}") for k in (2, 0, 3, 1)]
    made = put_on(blocks[0], blocks[1:], "add")
    assert volume(made.shape) == pytest.approx(40 * 10 * 5) and len(made.names) == 6
    plate = prism(rectangle(120, 120, at=(-20, -20)), 3, z=-3, prefix="p")
    alone = prism(rectangle(10, 10, at=(60, 0)), 5, prefix="b9")
    made = put_on(plate, [*blocks, alone], "add")
    assert volume(made.shape) == pytest.approx(120 * 120 * 3 + 5 * 500)
