"""What measured places do not tell apart is offered to be one; what they do tell apart, or what is one already, is not."""

from __future__ import annotations

import numpy as np
import pytest

from contour.sketch.drawn.alike import Measured, alike_of, asked_of
from contour.sketch.drawn.fitted import fitted
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.text import Circle, Constraint, Drawing, Entity, Line, Point


def rings(*rows: tuple[float, float, float], axis: bool = False) -> dict[str, Entity]:
    out: dict[str, Entity] = {}
    for k, (x, y, r) in enumerate(rows):
        out[f"m{k}"] = Point(at=(x, y))
        out[f"c{k}"] = Circle(centre=f"m{k}", radius=r)
    if axis:
        out |= {"a": Point(at=(20, -5)), "b": Point(at=(20, 40)), "axis": Line(start="a", end="b", construction=True)}
    return out


def circles(*rows: tuple[float, float, float], noise: float = 0.02, seed: int = 1) -> list[np.ndarray]:
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 2 * np.pi, 240, endpoint=False)
    return [
        np.column_stack([x + r * np.cos(t), y + r * np.sin(t)]) + rng.normal(0, noise, (240, 2)) for x, y, r in rows
    ]


TRUTH = ((5, 10, 4.0), (35, 10, 4.0), (20, 30, 4.2))


def test_radii_that_are_one_are_found_among_those_that_are_not():
    drawn = KeptDrawing(entities=rings((5.1, 10, 4.1), (35, 10.1, 3.9), (20, 30, 4.1)))
    (found,) = [a for a in fitted(drawn, circles(*TRUTH)).alike if a.kind == "equal"]
    assert set(found.of) == {"c0", "c1"}
    assert found.off < 3 * found.u < 0.05


def test_rings_on_either_side_of_a_centre_line_may_mirror_one_another():
    entities = rings((5.1, 10, 4.1), (35, 10.1, 3.9), (20, 30, 4.1), axis=True)
    held = [Constraint(kind="fixed", of=("a", "b"))]
    found = fitted(KeptDrawing(entities=entities, constraints=held), circles(*TRUTH)).alike
    assert [a.of for a in found if a.kind == "symmetric"] == [("c0", "c1", "axis")]
    # Half a millimetre lower it is no mirror image.
    lower = fitted(KeptDrawing(entities=entities, constraints=held), circles((5, 10, 4), (35, 9.5, 4), (20, 30, 4.2)))
    assert not [a for a in lower.alike if a.kind == "symmetric"]


def test_what_is_one_already_is_not_offered():
    entities = rings((5.1, 10, 4.1), (35, 10.1, 3.9), (20, 30, 4.1))
    equal = [Constraint(kind="equal", of=("c0", "c1"))]
    assert not fitted(KeptDrawing(entities=entities, constraints=equal), circles(*TRUTH)).alike


@pytest.mark.parametrize("seed", range(6))
def test_different_sizes_are_told_apart_in_noise(seed):
    rows = ((0, 0, 4.0), (20, 0, 4.06), (40, 0, 4.12))
    found = fitted(KeptDrawing(entities=rings(*rows)), circles(*rows, seed=seed))
    assert not found.alike


def test_groups_agree_with_their_common_mean_and_not_only_from_one_to_the_next():
    drawing = Drawing(entities=rings(*((20.0 * k, 0.0, 4 + 0.02 * k) for k in range(6))))
    asked = asked_of(drawing)
    told = [Measured(4 + 0.02 * k, 0.005) for k in range(6)]
    groups = [a.of for a in alike_of(drawing, asked, told)]
    assert groups == [("c0", "c1"), ("c2", "c3"), ("c4", "c5")]
    assert alike_of(drawing, asked, [None] * 6) == []
    assert alike_of(drawing, asked, [Measured(4 + 0.02 * k, 0.5) for k in range(6)]) == []


def test_lines_count_too_and_construction_lines_do_not():
    points = {"p": Point(at=(0, 0)), "q": Point(at=(30, 0)), "r": Point(at=(0, 9)), "s": Point(at=(30.01, 9))}
    lines = {
        "l": Line(start="p", end="q"),
        "k": Line(start="r", end="s"),
        "x": Line(start="p", end="r", construction=True),
    }
    drawing = Drawing(entities={**points, **lines})
    asked = asked_of(drawing)
    assert [(d.kind, d.of) for d in asked] == [("length", ("l",)), ("length", ("k",))]
    (found,) = alike_of(drawing, asked, [Measured(30, 0.01), Measured(30.01, 0.01)])
    assert (found.kind, found.of, found.off) == ("equal", ("l", "k"), pytest.approx(0.01))
