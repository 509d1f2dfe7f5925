"""Loft against closed forms: frustums, cones, what an even slope encloses, tubes; from faces of bodies, guides, names, and refusals."""

from __future__ import annotations

import math

import numpy as np
import pytest
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.gp import gp_Pnt, gp_Vec

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity, Sketch
from contour.solid.face_geometry import face_kind
from contour.solid.gate import check_solid
from contour.solid.shape import faces
from contour.solid.tessellate import tessellate
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, run, shape_of, sketch, volume_of

NEW = "newstep0"
SMALL, LARGE = rectangle(10, 6, at=(-5, -3)), rectangle(20, 12, "k", at=(-10, -6))
UPRIGHT = plane_frame(np.zeros(3), np.array([0, -1.0, 0]), np.array([1.0, 0, 0]))


def loft(*sections, products=None, names=None, guides=(), **more):
    """Sections as (entities, height); faces in `products` by their places with their names in `names`."""
    values = {k: {"text": v} if k.endswith("weight") else v for k, v in more.items()}
    params = {"sections": [{"id": f"s{k}"} for k in range(len(sections))], **values}
    params["guides"] = [{"id": f"g{k}"} for k in range(len(guides))]
    given = {f"sections[{k}]": s if isinstance(s, Sketch) else sketch(*s) for k, s in enumerate(sections)}
    given |= {f"guides[{k}]": g for k, g in enumerate(guides)} | (products or {})
    params |= {place: {"body": place, "name": name} for place, name in (names or {}).items()}
    return run("loft", params, given, **(names or {}))


def frustum(a: float, b: float, height: float) -> float:
    return height / 3 * (a + b + math.sqrt(a * b))


def good(outcome, id=NEW):
    made = shape_of(outcome, id)
    found = check_solid(made.shape)
    assert found.closed and found.valid
    return made


def test_a_frustum_has_flat_walls_named_by_both_outlines():
    outcome = loft((SMALL, 0), (LARGE, 20))
    made = good(outcome)
    assert volume_of(outcome, NEW) == pytest.approx(frustum(60, 240, 20), rel=1e-9)
    assert {face_kind(f) for f in faces(made.shape)} == {"plane"}
    assert set(made.names) == {f"{NEW}.side[e{k}:k{k}]" for k in (1, 2, 3, 4)} | {
        f"{NEW}.start[p1]",
        f"{NEW}.end[p-k1]",
    }


def test_circles_make_a_cone_and_a_tube_keeps_its_opening():
    area = lambda r: math.pi * r * r  # noqa: E731
    assert volume_of(loft(([circle(0, 0, 5)], 0), ([circle(0, 0, 9)], 20)), NEW) == pytest.approx(
        frustum(area(5), area(9), 20), rel=1e-6
    )
    tube = loft(([circle(0, 0, 5), circle(1, 0, 2, "i")], 0), ([circle(0, 0, 9), circle(1, 0, 3, "j")], 20))
    assert volume_of(tube, NEW) == pytest.approx(
        frustum(area(5), area(9), 20) - frustum(area(2), area(3), 20), rel=1e-6
    )
    assert f"{NEW}.side[i:j]" in good(tube).names


@pytest.mark.parametrize("turned", [False, True])
def test_a_square_answers_to_a_circle(turned):
    """Every cut is known at its ends; between them the volume lies between those of the hulls within and around."""
    square, ring = (rectangle(10, 10, at=(-5, -5)), 0), ([circle(0, 0, 5 * math.sqrt(2))], 20)
    outcome = loft(*((ring, (square[0], 40)) if turned else (square, ring)))
    assert 20 * 100 < volume_of(outcome, NEW) < 20 * math.pi * 50
    assert len(good(outcome).names) == 6


def test_straight_through_three():
    outcome = loft((SMALL, 0), (LARGE, 20), (SMALL, 40), course="straight")
    assert volume_of(outcome, NEW) == pytest.approx(2 * frustum(60, 240, 20), rel=1e-9)
    assert len(good(outcome).names) == 10


def test_smooth_through_three_follows_the_parabola_of_its_corners():
    """Corners at x = 5, 10, 5 over even steps: x(t) = 5 + 20 t (1 - t); so do their halves in y."""
    outcome = loft((SMALL, 0), (LARGE, 20), (SMALL, 40))
    t = np.linspace(0, 1, 20001)
    grow = 1 + 4 * t * (1 - t)
    assert volume_of(outcome, NEW) == pytest.approx(float(np.trapezoid(60 * grow**2, 40 * t)), rel=1e-6)
    good(outcome)


def test_square_to_its_sections_it_follows_the_even_cubic():
    outcome = loft(([circle(0, 0, 5)], 0), ([circle(0, 0, 9)], 20), leaves="square", arrives="square")
    t = np.linspace(0, 1, 20001)
    radius = 5 + 4 * (3 * t**2 - 2 * t**3)
    assert volume_of(outcome, NEW) == pytest.approx(float(np.trapezoid(math.pi * radius**2, 20 * t)), rel=1e-6)
    later = loft(
        ([circle(0, 0, 5)], 0), ([circle(0, 0, 9)], 20), leaves="square", leaves_weight="0.3", arrives="square"
    )
    assert volume_of(later, NEW) > volume_of(outcome, NEW)


def _normals(shape, name: str, v: float) -> np.ndarray:
    """Unit normals along a wall at a share of its way."""
    surface = BRepAdaptor_Surface(faces(shape.shape)[shape.names.index(name)])
    out = []
    for share in (0.1, 0.5, 0.9):
        p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        u = surface.FirstUParameter() + share * (surface.LastUParameter() - surface.FirstUParameter())
        surface.D1(u, surface.FirstVParameter() + v * (surface.LastVParameter() - surface.FirstVParameter()), p, du, dv)
        n = du.Crossed(dv)
        out.append(np.array([n.X(), n.Y(), n.Z()]) / n.Magnitude())
    return np.array(out)


def test_a_missing_stretch_between_two_faces_is_one_step():
    """Two bars of unlike size, 30 mm apart: the stretch goes on from the walls of both and joins them to one body."""
    low, high = prism(SMALL, 10, prefix="low"), prism(LARGE, 10, z=40, prefix="high")
    products = {"from_face": body(low), "to_face": body(high)}
    names = {"from_face": "low.end[p1]", "to_face": "high.start[p-k1]"}
    alone = loft(products=products, names=names, leaves="tangent", arrives="tangent")
    made = good(alone)
    t = np.linspace(0, 1, 20001)
    grow = 1 + 3 * t**2 - 2 * t**3
    between = float(np.trapezoid(60 * grow**2, 30 * t))
    assert volume_of(alone, NEW) == pytest.approx(between, rel=1e-6)
    for name in (n for n in made.names if ".side[" in n):
        assert np.abs(_normals(made, name, 0.0)[:, 2]).max() < 1e-9
        assert np.abs(_normals(made, name, 1.0)[:, 2]).max() < 1e-9
    joined = loft(
        products=products | {"bodies[0]": body(low), "bodies[1]": body(high)},
        names=names,
        leaves="tangent",
        arrives="tangent",
        operation="add",
        bodies=[{"id": "low"}, {"id": "high"}],
    )
    assert volume_of(joined, "low") == pytest.approx(600 + 2400 + between, rel=1e-6)
    assert joined.gone == ("high",) and check_solid(shape_of(joined, "low").shape).solids == 1


def test_behind_sloping_walls_it_goes_on_as_they_slope():
    """A frustum's top: its walls lean in by 5 over 20 and 3 over 20, and so does the loft where it leaves it."""
    frustum_body = shape_of(loft((LARGE, 0), (SMALL, 20)), NEW)
    top = next(n for n in frustum_body.names if ".end[" in n)
    tip = sketch(rectangle(2, 1, "m", at=(-1, -0.5)), 40)
    made = good(loft(tip, products={"from_face": body(frustum_body)}, names={"from_face": top}, leaves="tangent"))
    slopes = {5 / math.hypot(5, 20), 3 / math.hypot(3, 20)}
    for name in (n for n in made.names if ".side[" in n):
        out = np.abs(_normals(made, name, 0.0)[:, 2])
        assert min(abs(out[1] - s) for s in slopes) < 1e-6 and np.ptp(out) < 1e-6


def line(a, b) -> Sketch:
    return Sketch(UPRIGHT, (Entity("g1", "line", a, b),))


def bow(x: float, out: float, height: float, tag: str = "g1") -> Sketch:
    """From (x, 0) to (x, height) in the upright plane, bulging by `out`."""
    return Sketch(UPRIGHT, (Entity(tag, "arc", (x, 0), (x, height), mid=(x + out, height / 2)),))


def test_guides_are_met_and_sections_stay():
    tube = ([circle(0, 0, 5)], 0), ([circle(0, 0, 5, "c2")], 20)
    plain = volume_of(loft(*tube), NEW)
    outcome = loft(*tube, guides=[bow(5, 2, 20), bow(-5, -2, 20)])
    made = good(outcome)
    mesh = tessellate(made.shape, chord_mm=0.01)
    middle = mesh.vertices[np.abs(mesh.vertices[:, 2] - 10) < 0.4]
    assert middle[:, 0].max() == pytest.approx(7, abs=0.02) and middle[:, 0].min() == pytest.approx(-7, abs=0.02)
    ends = mesh.vertices[(mesh.vertices[:, 2] < 1e-9) | (mesh.vertices[:, 2] > 20 - 1e-9)]
    assert np.linalg.norm(ends[:, :2], axis=1).max() == pytest.approx(5, abs=1e-6)
    assert volume_of(outcome, NEW) > plain * 1.1


def test_one_guide_leads_it_all():
    """Both ends lie where they were; between them the whole section is moved as the guide goes: Cavalieri."""
    outcome = loft(([circle(0, 0, 5)], 0), ([circle(0, 0, 5, "c2")], 20), guides=[bow(5, 3, 20)])
    assert volume_of(outcome, NEW) == pytest.approx(25 * math.pi * 20, rel=1e-6)
    mesh = tessellate(good(outcome).shape, chord_mm=0.01)
    assert mesh.vertices[:, 0].max() == pytest.approx(8, abs=0.01)


@pytest.mark.parametrize(
    ("sections", "more", "code", "param"),
    [
        ([(SMALL, 0)], {}, "bad-params", "sections"),
        ([(SMALL, 0), (LARGE, 0)], {}, "bad-params", "sections"),
        ([(SMALL, 0), ([*LARGE, circle(0, 0, 2)], 9)], {}, "bad-params", "sections"),
        ([(SMALL, 0), ([*SMALL, circle(30, 0, 2)], 9)], {}, "bad-params", "sections[1]"),
        ([(SMALL, 0), (SMALL[:3], 9)], {}, "open-end", "sections[1]"),
        ([(SMALL, 0), (LARGE, 9)], {"leaves": "tangent"}, "bad-params", "leaves"),
        ([(SMALL, 0), (LARGE, 9)], {"guides": [bow(30, 1, 9)]}, "bad-params", "guides[0]"),
        (
            [([circle(0, 0, 5)], 0), ([circle(0, 0, 5)], 9)],
            {"guides": [line((5, 0), (-5, 9))]},
            "bad-params",
            "guides[0]",
        ),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(sections, more, code, param):
    with pytest.raises(ContourError) as refused:
        loft(*sections, **more)
    assert (refused.value.problem.code, refused.value.problem.where.param) == (code, param)
    assert refused.value.problem.remedy


def test_a_curved_face_is_no_section():
    bar = prism([circle(0, 0, 5)], 10, prefix="bar")
    with pytest.raises(ContourError) as refused:
        loft((SMALL, 30), products={"from_face": body(bar)}, names={"from_face": "bar.side[c1]"})
    assert (refused.value.problem.code, refused.value.problem.where.param) == ("wrong-kind", "from_face")


def test_a_circle_in_two_arcs_is_a_circle():
    """Its joints are no corners: against a square there are four walls, as with a whole one."""
    arcs = [Entity("a", "arc", (7, 0), (-7, 0), mid=(0, 7)), Entity("b", "arc", (-7, 0), (7, 0), mid=(0, -7))]
    square = (rectangle(10, 10, at=(-5, -5)), 0)
    two, whole = loft(square, (arcs, 20)), loft(square, ([circle(0, 0, 7)], 20))
    assert len(good(two).names) == 6
    assert volume_of(two, NEW) == pytest.approx(volume_of(whole, NEW), rel=1e-4)


def test_an_opening_runs_on_where_a_guide_leads_the_outer_wall():
    """A tube whose outer wall bulges by 2 mm to both sides: the bore stays what it was."""
    tube = ([circle(0, 0, 5), circle(0, 0, 2, "i")], 0), ([circle(0, 0, 5, "c2"), circle(0, 0, 2, "j")], 20)
    guides = [bow(5, 2, 20), bow(-5, -2, 20)]
    full = volume_of(loft(([circle(0, 0, 5)], 0), ([circle(0, 0, 5, "c2")], 20), guides=guides), NEW)
    outcome = loft(*tube, guides=guides)
    good(outcome)
    assert volume_of(outcome, NEW) == pytest.approx(full - 4 * math.pi * 20, rel=1e-6)
