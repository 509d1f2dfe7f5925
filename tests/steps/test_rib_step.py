"""Rib against closed forms: what lies between a line and the body, whichever way it is drawn, and refusals with their place."""

import numpy as np
import pytest
from scipy.integrate import quad
from shapely.geometry import LineString, Polygon
from shapely.ops import split

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity, Sketch
from contour.solid.boolean import combine
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import faces
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, sketch, volume_of

L_SHAPE = [(0, 0), (40, 0), (40, 5), (5, 5), (5, 40), (0, 40)]
DEEP = 20.0


def lines(*points: tuple[float, float], closed: bool = False) -> list[Entity]:
    ends = zip(points, [*points[1:], *points[: 1 if closed else 0]], strict=False)
    return [Entity(f"e{i}", "line", a, b) for i, (a, b) in enumerate(ends)]


ANGLE = prism(lines(*L_SHAPE, closed=True), DEEP, prefix="old")


def rib(drawn: list[Entity], on=ANGLE, thickness: str = "4 mm", z: float = DEEP / 2, **more):
    params = {"sketch": {"id": "s"}, "body": {"id": "b"}, "thickness": {"text": thickness}, **more}
    return run("rib", params, {"body": body(on), "sketch": sketch(drawn, z)})


def refused(*given, **more) -> ContourError:
    with pytest.raises(ContourError) as raised:
        rib(*given, **more)
    return raised.value


@pytest.mark.parametrize(
    "drawn",
    [
        [(20, 5), (5, 20)],  # from face to face
        [(17, 8), (8, 17)],  # short of both
        [(5, 20), (20, 5)],  # the other way round
        [(23, 2), (14, 11), (2, 23)],  # from within, in two pieces
    ],
)
def test_it_fills_the_corner_however_far_the_line_is_drawn(drawn):
    made = rib(lines(*drawn))
    assert volume_of(made, "b") - volume(ANGLE.shape) == pytest.approx(4 * 15 * 15 / 2, rel=1e-9)
    assert made.facts.added == pytest.approx(450, rel=1e-9)
    shape = shape_of(made, "b")
    facts = check_solid(shape.shape)
    assert facts.closed and facts.valid and facts.solids == 1
    assert set(ANGLE.names) <= set(shape.names)
    assert {n.partition("[")[0] for n in shape.names if n.startswith("newstep0")} == {
        f"newstep0.{part}" for part in ("side", "start", "end")
    }


@pytest.mark.parametrize(("lies", "low"), [("middle", 8.0), ("over", 10.0), ("under", 6.0)])
def test_its_wall_lies_where_it_is_said_to(lies, low):
    made = shape_of(rib(lines((20, 5), (5, 20)), lies=lies), "b")
    heights = [
        face_surface(f).at[2]
        for f, n in zip(faces(made.shape), made.names, strict=True)
        if n.startswith(("newstep0.start", "newstep0.end"))
    ]
    assert sorted(heights) == pytest.approx([low, low + 4])


def test_random_lines_across_the_corner_against_plane_geometry():
    rng = np.random.default_rng(5)
    air = Polygon([(5, 5), (200, 5), (200, 200), (5, 200)])
    for _ in range(15):
        a, b = (rng.uniform(7, 38), 5.0), (5.0, rng.uniform(7, 38))
        middle = (a[0] * 0.5 + rng.uniform(0, 6), b[1] * 0.5 + rng.uniform(0, 6))
        corner = min(split(air, LineString([(a[0], 4.9), a, middle, b, (4.9, b[1])])).geoms, key=lambda g: g.area)
        made = rib(lines(a, middle, b), thickness="3 mm")
        assert made.facts.added == pytest.approx(3 * corner.area, rel=2e-2 if corner.area < 1 else 1e-2)
        assert volume_of(made, "b") == pytest.approx(volume(ANGLE.shape) + made.facts.added, rel=1e-9)


def test_a_round_line_gives_a_round_end():
    # A quarter of a circle about the far corner: the square of 15 less the quarter.
    half = 15 * np.sqrt(0.5)
    arc = [Entity("a", "arc", (20, 5), (5, 20), mid=(20 - half, 20 - half))]
    made = rib(arc)
    assert made.facts.added == pytest.approx(4 * (225 - np.pi * 225 / 4), rel=1e-6)
    assert "newstep0.side[a]" in shape_of(made, "b").names


def test_against_a_round_boss_it_follows_the_wall():
    """Every slice along the boss is a triangle that begins where the wall is there, under a line that runs on straight into it."""
    plate, radius, high, foot, thick = prism(rectangle(60, 60, at=(-30, -30)), 5, prefix="old"), 8.0, 12.0, 22.0, 6.0
    boss = prism([circle(0, 0, radius)], 30, prefix="boss")
    part = combine(plate, boss, "add")
    frame = plane_frame(np.array([0.0, 0, 5]), np.array([0.0, -1, 0]), np.array([1.0, 0, 0]))  # along x, up z
    drawn = Sketch(frame, (Entity("e", "line", (foot, 0), (radius, high)),))
    params = {"sketch": {"id": "s"}, "body": {"id": "b"}, "thickness": {"text": f"{thick} mm"}}
    made = run("rib", params, {"body": body(part), "sketch": drawn})

    def slice_at(y: float) -> float:
        return high * (foot - np.sqrt(radius**2 - y * y)) ** 2 / (2 * (foot - radius))

    assert made.facts.added == pytest.approx(quad(slice_at, -thick / 2, thick / 2)[0], rel=1e-6)
    shape = shape_of(made, "b")
    assert check_solid(shape.shape).valid and check_solid(shape.shape).solids == 1


def test_a_line_across_a_frame_needs_its_side_said():
    ring = prism([*rectangle(40, 30), *lines((4, 4), (4, 26), (36, 26), (36, 4), closed=True)], DEEP, prefix="old")
    across = lines((10, 4), (10, 26))
    error = refused(across, ring)
    assert (error.problem.code, error.problem.where.param) == ("wrong-ending", "side")
    # It is drawn upwards: its left is the narrow side, 6 mm wide.
    assert rib(across, ring, side="left").facts.added == pytest.approx(6 * 22 * 4, rel=1e-9)
    assert rib(across, ring, side="right").facts.added == pytest.approx(26 * 22 * 4, rel=1e-9)


@pytest.mark.parametrize(
    ("drawn", "more", "code"),
    [
        ([(60, 5), (60, 30)], {}, "open-end"),  # beside the body
        ([(20, 5), (5, 20)], {"side": "right"}, "open-end"),  # on the side away from the corner
        ([(20, 5), (5, 20)], {"thickness": "24 mm"}, "open-end"),  # thicker than the body is deep
        ([(20, 5), (5, 20)], {"thickness": "0 mm"}, "bad-params"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(drawn, more, code):
    error = refused(lines(*drawn), **more)
    assert error.problem.code == code and error.problem.remedy
    if code == "open-end":
        assert error.problem.where.point is not None


def test_a_closed_outline_is_no_line():
    assert refused(rectangle(10, 10)).problem.code == "open-end"
