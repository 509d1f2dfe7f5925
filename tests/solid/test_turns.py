"""How turns of a profile meet, by profiles of which it is known, and profiles let into the round face that they stand on."""

from __future__ import annotations

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.entities import Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.primitives import cone
from contour.solid.revolve import axis_in_plane
from contour.solid.turns import contact_of, let_in

UP = np.array([0.0, 1.0, 0.0])
FRAME = plane_frame(np.zeros(3), np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
AXIS = axis_in_plane(FRAME, np.zeros(3), UP)
SIDE = np.array([1.0, 0.0, 0.0])


def profiles(*corners):
    return find_profiles(Sketch(FRAME, tuple(entities_of(np.array(corners)))))


def contact(corners, pitch, taper_mm=0.0, turns=3.0):
    return contact_of(profiles(*corners), FRAME, AXIS, SIDE, (taper_mm, pitch), turns)


SQUARE = [(10, 0), (11, 0), (11, 2), (10, 2)]
TOOTH = [(10, 0), (11, 1), (10, 2)]


@pytest.mark.parametrize("sense", [1, -1])
def test_walls_corners_and_neither(sense):
    # Either way along the axis: which of the two is the next one's changes with it.
    walls = contact(SQUARE, 2 * sense)
    assert walls.kind == "faces" and walls.pairs == ((("e3", "e1") if sense > 0 else ("e1", "e3")),)
    assert contact(TOOTH, 2 * sense).kind == "edges"
    assert contact(SQUARE, 2.01 * sense).kind == contact(TOOTH, 2.01 * sense).kind == "apart"
    assert contact(SQUARE, 0.5, turns=1.0).kind == "apart"  # a single turn meets nothing


def test_a_taper_moves_walls_past_each_other():
    with pytest.raises(ContourError, match="part of a wall"):
        contact(SQUARE, 2, taper_mm=0.3)
    assert contact(TOOTH, 2, taper_mm=0.3).kind == "apart"
    assert contact(TOOTH, 1.0, taper_mm=1.2).kind == "apart"  # so steep that turns lie within each other


@pytest.mark.parametrize("seed", range(6))
def test_what_lies_in_the_next_turn_is_found_where_it_does(seed):
    outline = star_outline(np.random.default_rng(seed)) + [12.0, 0.0]
    high = float(np.ptp(outline[:, 1]))
    assert contact(outline, high * 1.01).kind == "apart"
    with pytest.raises(ContourError) as refused:
        contact(outline, 0.05 * high)
    x, y, z = refused.value.problem.where.point
    assert 6 < x < 18 and abs(y) <= high and z == pytest.approx(0)


@pytest.mark.parametrize(
    ("radius", "adds", "moved"), [(10.0, True, 1), (10.5, True, 0), (11.0, False, 1), (11.0, True, 0), (10.0, False, 0)]
)
def test_only_what_lies_on_a_round_face_about_the_axis_is_let_in(radius, adds, moved):
    """Added, at its foot, where the shaft's material is; taken away, at its top, where the air is; a crest as high as a collar stays."""
    shaft = cone(np.array([0, -5.0, 0]), UP, (0.0, 20.0), (radius, radius), prefix="shaft")
    (of,) = profiles((10, 0), (11, 0.5), (11, 1.5), (10, 2))
    made = let_in(of, FRAME, AXIS, SIDE, [shaft], rise=5.0, adds=adds)
    grown = made.outer.polygon.area - of.outer.polygon.area
    assert (grown > 1e-3) == bool(moved)
    # Its flanks run on straight: every corner that was is on the border still, and nothing is named anew.
    assert {e.id for e in made.outer.entities} == {"e1", "e2", "e3", "e4"}
    assert made.outer.polygon.buffer(1e-9).covers(of.outer.polygon)
    aside = cone(np.array([0.1, -5.0, 0]), UP, (0.0, 20.0), (radius, radius), prefix="aside")
    assert let_in(of, FRAME, AXIS, SIDE, [aside], rise=5.0, adds=adds) == of


def test_nothing_is_let_into_a_face_that_is_shorter_than_the_way_or_has_a_hole():
    """Where there is no face under it, there would be more of it than was drawn."""
    (of,) = profiles((10, 0), (11, 0.5), (11, 1.5), (10, 2))
    shaft = cone(np.array([0, -5.0, 0]), UP, (0.0, 20.0), (10.0, 10.0), prefix="shaft")
    assert let_in(of, FRAME, AXIS, SIDE, [shaft], rise=12.0, adds=True) != of
    assert let_in(of, FRAME, AXIS, SIDE, [shaft], rise=14.0, adds=True) == of
    assert let_in(of, FRAME, AXIS, SIDE, [shaft], rise=-6.0, adds=True) == of
    drill = cone(np.array([0, 4.0, 0]), np.array([1.0, 0, 0]), (0.0, 20.0), (1.0, 1.0), prefix="drill")
    assert let_in(of, FRAME, AXIS, SIDE, [combine(shaft, drill, "subtract")], rise=12.0, adds=True) == of


def test_in_a_bore_material_lies_outwards():
    bush = cone(np.array([0, -5.0, 0]), UP, (0.0, 20.0), (20.0, 20.0), prefix="bush")
    bush = combine(bush, cone(np.array([0, -6.0, 0]), UP, (0.0, 22.0), (11.0, 11.0), prefix="bore"), "subtract")
    (of,) = profiles((10, 0.5), (11, 0), (11, 2), (10, 1.5))
    assert let_in(of, FRAME, AXIS, SIDE, [bush], rise=5.0, adds=True) != of
    assert let_in(of, FRAME, AXIS, SIDE, [bush], rise=5.0, adds=False) == of


def test_flat_flanks_get_a_step_of_their_own():
    shaft = cone(np.array([0, -5.0, 0]), UP, (0.0, 20.0), (10.0, 10.0), prefix="shaft")
    (of,) = profiles((10, 0), (10.1, -2), (11, 1), (10.1, 4), (10, 2))
    made = let_in(of, FRAME, AXIS, SIDE, [shaft], rise=5.0, adds=True)
    assert {e.id for e in made.outer.entities} - {e.id for e in of.outer.entities} == {"e5-in", "e5-out"}
    assert made.outer.polygon.area == pytest.approx(of.outer.polygon.area + 2 * 0.1)
