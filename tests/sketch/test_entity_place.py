"""Axes and points of sketch pieces, against what their drawing says in closed form."""

from __future__ import annotations

import numpy as np
import pytest

from contour.geometry.frames import PlaneFrame
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity, Sketch
from contour.sketch.entity_place import place_of_entity


def drawn(seed: int) -> Sketch:
    """A line, an arc, a whole circle, an ellipse and a free curve on a plane thrown at random."""
    rng = np.random.default_rng(seed)
    axes, _ = np.linalg.qr(rng.normal(size=(3, 3)))
    if np.linalg.det(axes) < 0:
        axes[:, 2] *= -1
    frame = PlaneFrame(rng.uniform(-50, 50, 3), axes[:, 0], axes[:, 1], axes[:, 2])
    return Sketch(
        frame,
        (
            Entity("l", "line", (1.0, 2.0), (7.0, 10.0)),
            Entity("a", "arc", (5.0, 0.0), (0.0, 5.0), mid=(5 * np.sqrt(0.5), 5 * np.sqrt(0.5))),
            Entity("c", "arc", (13.0, 4.0), (13.0, 4.0), mid=(7.0, 4.0)),
            Entity("o", "ellipse", (9.0, 0.0), (9.0, 0.0), mid=(1.0, 0.0), ellipse=(5.0, 0.0, 4.0, 2.0, 0.0)),
            Entity("f", "free", (0.0, 0.0), (4.0, 0.0), points=((0.0, 0.0), (3.0, 0.0), (3.5, 0.0), (4.0, 0.0))),
        ),
    )


def at(sketch: Sketch, u: float, v: float) -> np.ndarray:
    f = sketch.frame
    return f.origin + u * f.u + v * f.v


@pytest.mark.parametrize("seed", range(5))
def test_a_line_is_its_axis_abreast_of_its_middle(seed):
    sketch = drawn(seed)
    place = place_of_entity(sketch, "l")
    assert place.shape == "axis" and np.allclose(place.at, at(sketch, 4, 6))
    assert np.allclose(place.along, 0.6 * sketch.frame.u + 0.8 * sketch.frame.v)
    assert place.reach == pytest.approx(5)
    assert np.allclose(place_of_entity(sketch, "l", as_point=True).at, at(sketch, 4, 6))


@pytest.mark.parametrize(("name", "centre", "radius"), [("a", (0, 0), 5.0), ("c", (10, 4), 3.0), ("o", (5, 0), 0.0)])
def test_what_is_round_stands_for_its_centre_and_the_axis_square_to_the_sketch(name, centre, radius):
    sketch = drawn(3)
    axis, point = place_of_entity(sketch, name), place_of_entity(sketch, name, as_point=True)
    assert (axis.shape, point.shape) == ("axis", "point")
    assert np.allclose(axis.at, at(sketch, *centre)) and np.allclose(point.at, axis.at)
    assert np.allclose(axis.along, sketch.frame.normal) and axis.radius == pytest.approx(radius)


def test_a_free_curve_has_a_middle_by_its_length_but_no_axis():
    sketch = drawn(1)
    assert np.allclose(place_of_entity(sketch, "f", as_point=True).at, at(sketch, 2, 0))
    with pytest.raises(ContourError) as caught:
        place_of_entity(sketch, "f")
    assert caught.value.problem.code == "wrong-kind" and caught.value.problem.where.entity == "f"


def test_a_piece_that_is_gone_is_said():
    with pytest.raises(ContourError) as caught:
        place_of_entity(drawn(0), "nothing")
    assert caught.value.problem.code == "ref-lost" and caught.value.problem.remedy
