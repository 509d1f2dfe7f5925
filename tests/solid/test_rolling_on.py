"""Faces moved where rounds roll on them: against the same part made afresh with the other sizes, and against closed forms."""

from __future__ import annotations

import math

import pytest
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from contour.recipe.problem import ContourError
from contour.solid.contacts import ball
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.moved_faces import moves_as_one
from contour.solid.resurface import resurface
from contour.solid.shape import NamedShape, edges, faces


def named(shape):
    return NamedShape(shape, tuple(f"f{k}" for k in range(len(faces(shape)))))


def axis(x=0.0, y=0.0, z=0.0):
    return gp_Ax2(gp_Pnt(x, y, z), gp_Dir(0, 0, 1))


def filleted(shape, radius, wanted):
    maker = BRepFilletAPI_MakeFillet(shape)
    for edge in edges(shape):
        if wanted(edge):
            maker.Add(radius, edge)
    return maker.Shape()


def middle(edge):
    c = BRepAdaptor_Curve(edge)
    p = c.Value((c.FirstParameter() + c.LastParameter()) / 2)
    return p.X(), p.Y(), p.Z()


def pin_on_plate(thick=10.0, r=8.0, high=20.0, fillet=3.0):
    """A pin standing on a plate, with a fillet around its foot."""
    plate = BRepPrimAPI_MakeBox(gp_Pnt(-20, -20, 0), 40, 40, thick).Shape()
    pin = BRepPrimAPI_MakeCylinder(axis(z=thick), r, high - thick).Shape()
    return filleted(
        BRepAlgoAPI_Fuse(plate, pin).Shape(),
        fillet,
        lambda e: abs(middle(e)[2] - thick) < 1e-6 and abs(math.hypot(*middle(e)[:2]) - r) < 1e-6,
    )


def rounded_plate(w=50.0, d=40.0, h=12.0, corner=9.0, fillet=3.0):
    """Upright corners rounded, then the edge around the top: cylinders and tori that run on into each other."""
    box = BRepPrimAPI_MakeBox(w, d, h).Shape()
    upright = filleted(box, corner, lambda e: abs(middle(e)[2] - h / 2) < 1e-6)
    return filleted(upright, fillet, lambda e: abs(middle(e)[2] - h) < 1e-6)


def place(shape, kind, holds=lambda _: True):
    """The first face of a kind whose surface fits."""
    return next(k for k, f in enumerate(faces(shape)) if (s := face_surface(f)) and s.kind == kind and holds(s))


def same_as(made, wanted, rel=1e-8):
    facts = check_solid(made.shape)
    assert facts.closed and facts.valid and facts.solids == 1
    assert volume(made.shape) == pytest.approx(volume(wanted), rel=rel)


def facing_up(z):
    return lambda s: s.along[2] > 0.99 and abs(s.at[2] - z) < 1e-6


@pytest.mark.parametrize("d", [-2.0, -0.3, 0.4, 3.0])
def test_the_plate_grows_under_the_fillet_of_its_pin(d):
    part = pin_on_plate()
    made = resurface(named(part), {place(part, "plane", facing_up(10.0)): d})
    same_as(made, pin_on_plate(thick=10.0 + d))


@pytest.mark.parametrize("d", [-2.0, 0.4, 3.0])
def test_the_pin_grows_and_its_fillet_goes_along(d):
    part = pin_on_plate()
    made = resurface(named(part), {place(part, "cylinder"): d})
    same_as(made, pin_on_plate(r=8.0 + d))


@pytest.mark.parametrize("d", [-1.0, 0.5, 2.0])
def test_the_fillet_itself_gets_another_radius(d):
    """Into the material is a larger one: it is hollow."""
    part = pin_on_plate()
    made = resurface(named(part), {place(part, "torus"): -d})
    same_as(made, pin_on_plate(fillet=3.0 + d))


@pytest.mark.parametrize(
    ("kind", "holds", "d", "sizes"),
    [
        ("plane", facing_up(12.0), 1.5, {"h": 13.5}),
        ("plane", facing_up(12.0), -4.0, {"h": 8.0}),
        ("plane", lambda s: s.along[0] > 0.99, 2.0, {"w": 52.0}),
        ("plane", lambda s: s.along[1] > 0.99, -3.0, {"d": 37.0}),
        ("torus", lambda _: True, 0.5, {"fillet": 3.5}),
        ("cylinder", lambda s: abs(s.along[2]) < 0.01, -1.0, {"fillet": 2.0}),
    ],
)
def test_a_plate_with_a_fillet_all_around(kind, holds, d, sizes):
    part = rounded_plate()
    made = resurface(named(part), {place(part, kind, holds): d})
    same_as(made, rounded_plate(**sizes))


def test_one_upright_corner_gets_another_radius():
    """The torus above it goes along; the other three corners stay."""
    part = rounded_plate()
    corner = place(part, "cylinder", lambda s: abs(s.along[2]) > 0.99)
    made = resurface(named(part), {corner: 2.0})
    rest = volume(rounded_plate())
    assert volume(made.shape) == pytest.approx(rest + (volume(rounded_plate(corner=11.0)) - rest) / 4, rel=1e-8)


def test_rounds_that_run_on_into_each_other_cannot_go_different_ways():
    part = rounded_plate()
    ring = place(part, "torus")
    straight = place(part, "cylinder", lambda s: abs(s.along[2]) < 0.01)
    with pytest.raises(ContourError, match="one radius"):
        resurface(named(part), {ring: 0.3, straight: 0.2})
    agreed = moves_as_one(part, {ring: 0.3, straight: 0.2}, {ring: 1.0, straight: 3.0})
    assert agreed == {ring: pytest.approx(0.225), straight: pytest.approx(0.225)}
    same_as(resurface(named(part), agreed), rounded_plate(fillet=3.225))


def ball_pin(r=6.0, high=20.0):
    """A pin whose end is half a ball."""
    pin = BRepPrimAPI_MakeCylinder(axis(), r, high).Shape()
    return BRepAlgoAPI_Fuse(pin, BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, high), r).Shape()).Shape()


@pytest.mark.parametrize("d", [-1.0, 0.25, 2.0])
def test_the_ball_on_the_end_of_a_pin_goes_along(d):
    whole = named(ball_pin())
    made = resurface(whole, {place(whole.shape, "cylinder"): d})
    r = 6.0 + d
    assert volume(made.shape) == pytest.approx(math.pi * r * r * 20 + 2 / 3 * math.pi * r**3, rel=1e-7)
    end = face_surface(faces(made.shape)[place(made.shape, "sphere")])
    assert ball(end) == pytest.approx(r, abs=1e-9) and end.at == pytest.approx([0, 0, 20], abs=1e-9)


@pytest.mark.parametrize("d", [-0.5, 0.4])
@pytest.mark.parametrize("top", [0.0, 4.0])
def test_a_cone_with_and_without_its_tip(top, d):
    """Its wall further out: the tip, or the end above it, and its foot follow."""
    part = named(BRepPrimAPI_MakeCone(axis(), 10.0, top, 20.0).Shape())
    wider = d / math.cos(math.atan2(10.0 - top, 20.0))
    made = resurface(part, {place(part.shape, "cone"): d})
    a = 10.0 + wider
    high, b = (20.0 * a / 10.0, 0.0) if top == 0.0 else (20.0, top + wider)
    assert volume(made.shape) == pytest.approx(math.pi / 3 * high * (a * a + a * b + b * b), rel=1e-8)
    assert check_solid(made.shape).valid


@pytest.mark.parametrize("d", [-0.4, 0.7])
def test_a_drilled_hole_keeps_the_tip_of_its_drill(d):
    """Wider by moving its wall: the cone at its bottom stays where it is, and goes on to the new wall."""
    block = BRepPrimAPI_MakeBox(gp_Pnt(-20, -20, -30), 40, 40, 30).Shape()
    bored = BRepAlgoAPI_Cut(block, BRepPrimAPI_MakeCylinder(axis(z=-15), 5.0, 15.0).Shape()).Shape()
    part = named(BRepAlgoAPI_Cut(bored, BRepPrimAPI_MakeCone(axis(z=-18), 0.0, 5.0, 3.0).Shape()).Shape())
    r = 5.0 - d
    made = resurface(part, {place(part.shape, "cylinder"): d})
    deep = 15.0 + (5.0 - r) * 3.0 / 5.0
    hole = math.pi * r * r * deep + math.pi * r * r * (18.0 - deep) / 3
    assert volume(made.shape) == pytest.approx(40 * 40 * 30 - hole, rel=1e-8)


@pytest.mark.parametrize("d", [-0.5, 1.5])
def test_a_whole_ball_and_a_whole_ring(d):
    made = resurface(named(BRepPrimAPI_MakeSphere(7.0).Shape()), {0: d})
    assert volume(made.shape) == pytest.approx(4 / 3 * math.pi * (7 + d) ** 3, rel=1e-8)
    ring = resurface(named(BRepPrimAPI_MakeTorus(20.0, 4.0).Shape()), {0: d})
    assert volume(ring.shape) == pytest.approx(2 * math.pi**2 * 20 * (4 + d) ** 2, rel=1e-8)


def test_two_bores_that_cross_get_other_diameters():
    """The curve where they meet runs all around, and begins anywhere."""
    block = BRepPrimAPI_MakeBox(gp_Pnt(-20, -20, -20), 40, 40, 40).Shape()
    level = gp_Ax2(gp_Pnt(-30, 0, 0), gp_Dir(1, 0, 0))

    def crossed(a, b):
        bored = BRepAlgoAPI_Cut(block, BRepPrimAPI_MakeCylinder(axis(z=-30), a, 60).Shape()).Shape()
        return BRepAlgoAPI_Cut(bored, BRepPrimAPI_MakeCylinder(level, b, 60).Shape()).Shape()

    part = crossed(9.0, 5.0)
    wide = place(part, "cylinder", lambda s: s.radius > 8)
    narrow = [k for k, f in enumerate(faces(part)) if (s := face_surface(f)).kind == "cylinder" and s.radius < 8]
    made = resurface(named(part), {wide: -0.5, narrow[0]: 0.3, narrow[1]: 0.3})
    # The kernel tells the curve by points: each of the two for itself.
    same_as(made, crossed(9.5, 4.7), rel=1e-6)
