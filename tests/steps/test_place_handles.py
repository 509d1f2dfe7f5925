"""Handles of planes and points: what moves by so much when the value grows by so much is what the handle shows."""

import numpy as np
import pytest

from contour.construct.place import Place
from tests.steps.helpers import cylinder_region, plane_region, run

REF, OTHER = {"id": "s0"}, {"id": "s1"}
SLOPED = plane_region((1.0, 2.0, 3.0), (0.0, 0.6, 0.8))
BORE = cylinder_region((10.0, 0.0, 0.0), (0.0, 0.0, 1.0), 3.0)
SIDE = plane_region((4.0, 0.0, 0.0), (1.0, 0.0, 0.0))


def plane(**values: str):
    params = {"plane": REF, **{k: {"text": v} for k, v in values.items()}}
    return run("plane", params, {"plane": SLOPED})


def about(angle: str):
    params = {"by": "about axis", "plane": REF, "axis": OTHER, "angle": {"text": angle}}
    return run("plane", params, {"plane": SIDE, "axis": BORE})


def grips(made) -> dict:
    return {h.place: h for h in made.handles}


def turned(v: np.ndarray, axis: np.ndarray, deg: float) -> np.ndarray:
    """Rodrigues' rotation."""
    a = np.radians(deg)
    return v * np.cos(a) + np.cross(axis, v) * np.sin(a) + axis * (axis @ v) * (1 - np.cos(a))


@pytest.mark.parametrize("turn", ["0 deg", "25 deg"])
def test_a_plane_is_pulled_along_the_way_it_moves(turn):
    before, after = plane(offset="2 mm", turn_u=turn), plane(offset="5 mm", turn_u=turn)
    grip = grips(before)["offset"]
    way = after.product.at - before.product.at
    assert np.cross(way, grip.direction) == pytest.approx([0, 0, 0], abs=1e-9)
    height = float((after.product.at - np.array(grip.origin)) @ np.array(grip.direction))
    assert height == pytest.approx(5) and grip.kind == "length"


@pytest.mark.parametrize("name", ["turn_u", "turn_v"])
def test_a_plane_turns_about_its_knobs_axis(name):
    still, moved = plane(), plane(**{name: "20 deg"})
    grip = grips(still)[name]
    axis, zero = np.array(grip.direction), np.array(grip.zero)
    assert grip.kind == "angle" and abs(axis @ zero) < 1e-12 and np.linalg.norm(zero) == pytest.approx(1)
    assert turned(still.product.along, axis, 20) == pytest.approx(moved.product.along)
    assert np.array(grip.origin) == pytest.approx(still.product.at)
    # The knob lies in the plane, and stays in it.
    assert turned(zero, axis, 20) @ moved.product.along == pytest.approx(0, abs=1e-9)


def test_a_plane_about_an_axis_carries_its_knob_along():
    made = about("30 deg")
    grip = grips(made)["angle"]
    knob = turned(np.array(grip.zero), np.array(grip.direction), 30)
    assert knob @ made.product.along == pytest.approx(0, abs=1e-9)
    assert np.array(grip.direction) == pytest.approx(BORE.surface.axis)
    assert "angle" not in grips(plane())


def test_a_point_is_pulled_along_the_parts_axes():
    def at(**values: str) -> tuple[Place, dict]:
        made = run("point", {"by": "typed", **{k: {"text": v} for k, v in values.items()}}, {})
        return made.product, grips(made)

    _, grip = at(x="3 mm", y="-2 mm")
    moved, _ = at(x="8 mm", y="-2 mm")
    shown = np.array(grip["x"].origin) + 8 * np.array(grip["x"].direction)
    assert shown == pytest.approx(moved.at)
    assert {h.kind for h in grip.values()} == {"length"} and len(grip) == 3
