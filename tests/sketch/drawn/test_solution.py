"""Solutions measured with geometry of their own: plain distances and angles of what comes out."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.simulate.drawings import perturbed, random_drawing
from contour.sketch.drawn.solution import Drag, Solution, moved_since, solved
from contour.sketch.drawn.splines import curve_of
from contour.sketch.drawn.text import Circle, Drawing, Ellipse, Spline, read_drawing
from tests.sketch.drawn.kit import arc, circle, drawing, line, point, solution
from tests.sketch.drawn.test_freedom_by_hand import BOX, OVAL, RINGS, SLOT, SMOOTH, TRIANGLE, WAVE


def at(found: Solution | Drawing, name: str) -> np.ndarray:
    return np.array((found.drawing if isinstance(found, Solution) else found).point(name))


def apart(found: Solution | Drawing, a: str, b: str) -> float:
    return float(np.linalg.norm(at(found, a) - at(found, b)))


def off_line(found: Solution, p: str, a: str, b: str) -> float:
    d = at(found, b) - at(found, a)
    w = at(found, p) - at(found, a)
    return float(abs(d[0] * w[1] - d[1] * w[0]) / np.linalg.norm(d))


def test_a_box_gets_its_sizes_and_stays_where_it_was_drawn() -> None:
    square = "horizontal k; horizontal m; vertical l; vertical n"
    found = solution(BOX, square, "length k = 25 mm; length l = 1/2 inch")
    a, b, c, d = (at(found, n) for n in "abcd")
    assert b - a == pytest.approx([25.0, 0.0], abs=1e-9)
    assert c - b == pytest.approx([0.0, 12.7], abs=1e-9)
    assert d - c == pytest.approx([-25.0, 0.0], abs=1e-9)
    assert np.mean([a, b, c, d], axis=0) == pytest.approx([10.0, 6.0], abs=1e-9)  # the drawn middle
    assert found.sizes == pytest.approx((25.0, 12.7))


def test_a_slot_is_tangent_all_round() -> None:
    found = solution(SLOT, f"{SMOOTH}; equal e f; horizontal k; fixed m", "distance m n = 24; diameter e = 12")
    for p, m in (("a", "m"), ("d", "m"), ("b", "n"), ("c", "n")):
        assert apart(found, p, m) == pytest.approx(6.0, abs=1e-9)
    for m in "mn":
        assert off_line(found, m, "a", "b") == pytest.approx(6.0, abs=1e-9)
        assert off_line(found, m, "c", "d") == pytest.approx(6.0, abs=1e-9)
    assert at(found, "m") == pytest.approx([0.0, 0.0], abs=1e-12)
    assert at(found, "n") == pytest.approx([24.0, 0.0], abs=1e-9)


def test_rings_touch_outside_or_inside_as_drawn() -> None:
    outside = solution(RINGS, "tangent r s", "radius r = 5; radius s = 7")
    assert apart(outside, "m", "n") == pytest.approx(12.0)
    inside = solution({**RINGS, "n": point(1, 1), "s": circle("n", 9)}, "tangent r s", "radius r = 5; radius s = 9")
    assert apart(inside, "m", "n") == pytest.approx(4.0)


def test_an_angle_goes_round_the_way_it_is_drawn() -> None:
    for up in (1, -1):
        entities = {
            "a": point(0, 0), "b": point(10, 0), "c": point(9, 3 * up), "k": line("a", "b"), "l": line("a", "c"),
        }  # fmt: skip
        found = solution(entities, "fixed k", "angle k l = 30; length l = 10")
        assert at(found, "c") == pytest.approx([10 * np.cos(np.pi / 6), 5.0 * up], abs=1e-9)


def test_the_turned_second_line_gives_the_corner_s_own_angle() -> None:
    sizes: list[dict[str, Any]] = [{"kind": "angle", "of": ["k", "l"], "value": 60, "supplement": True}]
    drawn = drawing(TRIANGLE).model_copy(update={"dimensions": ()})
    found = solved(Drawing.model_validate({**drawn.text(), "dimensions": sizes}))
    a, b, c = (at(found, n) for n in "abc")
    cosine = (a - b) @ (c - b) / np.linalg.norm(a - b) / np.linalg.norm(c - b)
    assert np.degrees(np.arccos(cosine)) == pytest.approx(60.0)
    assert found.sizes == pytest.approx((60.0,))


def test_an_arc_has_the_length_that_is_asked() -> None:
    bow = {"m": point(0, 0), "a": point(5, 0), "b": point(-4, -3), "k": arc("m", "a", "b")}
    found = solution(bow, "fixed m; horizontal m a", "radius k = 6; arc-length k = 24 mm")
    assert at(found, "a") == pytest.approx([6.0, 0.0], abs=1e-9)
    assert at(found, "b") == pytest.approx([6 * np.cos(4), 6 * np.sin(4)], abs=1e-9)
    assert found.sizes == pytest.approx((6.0, 24.0))


def test_mirrored_points_are_mirrored() -> None:
    entities = {"a": point(0, 0), "b": point(3, 10), "z": line("a", "b"), "p": point(-4, 6), "q": point(7, 3)}
    found = solution(entities, "symmetric p q z; fixed z")
    d = np.array([3.0, 10.0]) / np.sqrt(109)
    p, q = at(found, "p"), at(found, "q")
    assert 2 * (p @ d) * d - p == pytest.approx(q, abs=1e-9)


def test_a_line_touches_an_ellipse() -> None:
    found = solution({**OVAL, "a": point(-9, 4), "b": point(9, 5), "k": line("a", "b")}, "tangent k o; fixed o")
    e = found.drawing.entities["o"]
    assert isinstance(e, Ellipse)
    d = at(found, "b") - at(found, "a")
    n = np.array([-d[1], d[0]]) / np.linalg.norm(d)
    # x n + y m = c touches x²/a² + y²/b² = 1 where c² = a² n² + b² m².
    assert (n @ at(found, "a")) ** 2 == pytest.approx(64 * n[0] ** 2 + e.minor**2 * n[1] ** 2)


def test_a_spline_of_two_points_is_a_line_that_touches() -> None:
    through = {"a": point(-9, 4), "b": point(9, 5), "s": {"kind": "spline", "through": ["a", "b"]}}
    found = solution({**OVAL, **through}, "tangent s o; fixed o")
    n = np.array([at(found, "a")[1] - at(found, "b")[1], at(found, "b")[0] - at(found, "a")[0]])
    n = n / np.linalg.norm(n)
    assert found.solved
    assert (n @ at(found, "a")) ** 2 == pytest.approx(64 * n[0] ** 2 + 9 * n[1] ** 2, rel=1e-6)


def test_a_spline_leaves_its_line_smoothly_and_keeps_its_parameters() -> None:
    drawn = {**WAVE, "z": point(-6, -3), "k": line("z", "a")}
    found = solution(drawn, "tangent k s; horizontal k")
    s = found.drawing.entities["s"]
    assert isinstance(s, Spline) and len(s.at) == 3
    curve = curve_of(found.drawing, s)
    points = np.array([at(found, p) for p in curve.points])
    slope = curve.weights(0.0, 1) @ points
    assert slope[1] == pytest.approx(0.0, abs=1e-8) and slope[0] > 0
    assert [curve.basis(t) @ points for t in s.at] == pytest.approx(points)
    again = solved(found.drawing)
    assert all(apart(again, p, p) == 0 and at(again, p) == pytest.approx(at(found, p)) for p in "abcz")


def test_curvature_goes_on_from_an_arc() -> None:
    entities = {
        "m": point(0, 0), "a": point(5, 0), "b": point(0, 5), "k": arc("m", "a", "b"),
        "c": point(-3, 5.2), "d": point(-6, 4), "e": point(-9, 4),
        "s": {"kind": "spline", "control": ["b", "c", "d", "e"]},
    }  # fmt: skip
    found = solution(entities, "curvature-continuous k s; fixed k")
    s = found.drawing.entities["s"]
    assert isinstance(s, Spline)
    curve = curve_of(found.drawing, s)
    points = np.array([at(found, p) for p in curve.points])
    first, second = curve.weights(0.0, 1) @ points, curve.weights(0.0, 2) @ points
    bend = (first[0] * second[1] - first[1] * second[0]) / np.linalg.norm(first) ** 3
    assert bend == pytest.approx(0.2, rel=1e-6)
    assert first / np.linalg.norm(first) == pytest.approx([-1.0, 0.0], abs=1e-8)


@pytest.mark.parametrize("seed", range(25))
def test_shaken_drawings_come_back(seed: int) -> None:
    rng = np.random.default_rng(1000 + seed)
    truth = random_drawing(rng, 4 * int(rng.integers(1, 6)), int(rng.integers(0, 4)))
    drawn = perturbed(rng, truth, 0.05, each=True)
    found = solved(drawn)
    assert found.solved and not found.conflicts
    for k, d in enumerate(truth.dimensions):
        assert found.sizes[k] == pytest.approx(d["value"], abs=1e-6)
    for c in truth.constraints:
        if c["kind"] in ("horizontal", "vertical"):
            e = truth.entities[c["of"][0]]
            gap = at(found, e["to"]) - at(found, e["from"])
            assert abs(gap[1 if c["kind"] == "horizontal" else 0]) < 1e-6
        elif c["kind"] == "equal":
            r = [e.radius for n in c["of"] if isinstance(e := found.drawing.entities[n], Circle)]
            assert r[0] == pytest.approx(r[1])
    points = [n for n, e in truth.entities.items() if "at" in e]
    shaken = max(np.linalg.norm(at(drawn, n) - truth.at(n)) for n in points)
    assert max(np.linalg.norm(at(found, n) - at(drawn, n)) for n in points) < 2 * shaken


def test_two_lengths_of_one_line_contradict_and_nothing_drawn_is_lost() -> None:
    drawn = drawing(BOX, "horizontal k; vertical l", "length k = 20; length l = 10; length k = 30")
    found = solved(drawn)
    assert not found.solved and found.conflicts == (("d:0", "d:2"),)
    assert found.drawing == drawn
    assert found.residual > 1


def test_each_contradiction_is_named() -> None:
    found = solution(
        {**BOX, "x": point(40, 0), "y": point(50, 0), "z": line("x", "y")},
        "horizontal k; vertical k; fixed z",
        "length k = 20; length z = 12; length l = 10",
    )
    named = {frozenset(c) for c in found.conflicts}
    assert named == {frozenset({"c:0", "c:1", "d:0"}), frozenset({"c:2", "d:1"})}


@pytest.mark.parametrize("seed", range(8))
def test_conflicting_sets_are_minimal(seed: int) -> None:
    rng = np.random.default_rng(seed)
    truth = random_drawing(rng, 8, 2)
    name, e = next((n, e) for n, e in truth.entities.items() if e["kind"] == "line")
    long = float(np.linalg.norm(truth.at(e["from"]) - truth.at(e["to"])))
    truth.size("length", long, name)
    truth.size("length", 1.4 * long, name)
    drawn = truth.drawing()
    found = solved(drawn)
    assert found.conflicts
    for conflict in found.conflicts:
        assert not solved(only(drawn, conflict)).solved
        for left in conflict:
            assert solved(only(drawn, [n for n in conflict if n != left])).solved


def only(drawn: Drawing, names: Any) -> Drawing:
    return drawn.model_copy(
        update={
            "constraints": tuple(c for k, c in enumerate(drawn.constraints) if f"c:{k}" in names),
            "dimensions": tuple(d for k, d in enumerate(drawn.dimensions) if f"d:{k}" in names),
        }
    )


def test_what_is_said_twice_is_redundant_and_no_contradiction() -> None:
    found = solution(BOX, "horizontal k; horizontal m; vertical l; vertical n; parallel k m; perpendicular k l", "")
    assert found.solved and found.redundant == ("c:4", "c:5")
    twice = solution(BOX, "horizontal k", "length k = 20; length k = 2 cm")
    assert twice.solved and twice.redundant == ("d:1",)


def test_lines_of_no_length_grow_to_what_is_asked() -> None:
    found = solution({"a": point(3, 3), "b": point(3, 3), "k": line("a", "b")}, "horizontal k", "length k = 8")
    assert found.solved and apart(found, "a", "b") == pytest.approx(8.0)


def test_what_is_fixed_stays_where_it_is_drawn_however_the_rest_is_found() -> None:
    """A line of no length has to be shaken before it can grow."""
    entities = {"a": point(3, 3), "b": point(3, 3), "c": point(9, 4), "k": line("a", "b")}
    found = solution(entities, "fixed a c", "length k = 8")
    assert found.solved
    assert at(found, "a") == pytest.approx([3.0, 3.0], abs=1e-12)
    assert at(found, "c") == pytest.approx([9.0, 4.0], abs=1e-12)
    assert apart(found, "a", "b") == pytest.approx(8.0)


def test_a_side_longer_than_the_others_together_cannot_be() -> None:
    found = solution(TRIANGLE, "", "length k = 30; length l = 10; length m = 12")
    assert not found.solved and found.conflicts == (("d:0", "d:1", "d:2"),)


def test_a_circle_of_less_than_nothing_is_no_solution() -> None:
    """The inner one would have to have a radius of -3: the numbers hold, the drawing does not."""
    rings = {"m": point(0, 0), "n": point(5, 0), "r": circle("m", 9), "s": circle("n", 4)}
    drawn = drawing(rings, "tangent r s", "radius r = 2; distance m n = 5")
    found = solved(drawn)
    assert not found.solved and found.drawing == drawn


def test_a_large_change_turns_nothing_over() -> None:
    square = "horizontal k; horizontal m; vertical l; vertical n; fixed a"
    found = solution(BOX, square, "length k = 400; length l = 0.5")
    assert [tuple(np.round(at(found, n), 9)) for n in "abcd"] == [(0, 0), (400, 0), (400, 0.5), (0, 0.5)]


def test_a_point_under_the_hand_takes_along_what_must_follow() -> None:
    square = "horizontal k; horizontal m; vertical l; vertical n; fixed a"
    drawn = solution(BOX, square, "length k = 20").drawing
    held = Drag(drawn, "c")
    for y in (14.0, 20.0):
        moved = held.to((23.0, y))
        assert moved is not None
        assert at(moved, "c") == pytest.approx([20.0, y], abs=1e-3)
        assert at(moved, "d") == pytest.approx([0.0, y], abs=1e-3)
        assert at(moved, "b") == pytest.approx([20.0, 0.0], abs=1e-9)
    with pytest.raises(ContourError, match="no point called k"):
        Drag(drawn, "k")


def test_formulas_name_other_sizes() -> None:
    sizes = [
        {"kind": "length", "of": ["k"], "value": "30 mm", "name": "wide"},
        {"kind": "length", "of": ["l"], "value": "wide / 2 + 1 mm", "name": "high"},
        {"kind": "distance", "of": ["a", "c"], "reference": True},
    ]
    square = drawing(BOX, "horizontal k; horizontal m; vertical l; vertical n")
    found = solved(Drawing.model_validate({**square.text(), "dimensions": sizes}))
    assert found.sizes == pytest.approx((30.0, 16.0, 34.0))


def ring_of_formulas() -> Drawing:
    sizes = [
        {"kind": "length", "of": ["k"], "value": "q + 1 mm", "name": "p"},
        {"kind": "length", "of": ["l"], "value": "p * 2", "name": "q"},
    ]
    return Drawing.model_validate({**drawing(BOX).text(), "dimensions": sizes})


@pytest.mark.parametrize(
    ("drawn", "code", "where"),
    [
        (ring_of_formulas, "value-cycle", "d:1"),
        (lambda: drawing(BOX, "", "length k = nobody + 1"), "unknown-name", "d:0"),
        (lambda: drawing(BOX, "", "length k = 20; length l = 3 deg"), "mixed-dimensions", "d:1"),
        (lambda: drawing(BOX, "", "length k = -4"), "bad-params", "d:0"),
        (lambda: drawing(RINGS, "", "radius r = 0"), "bad-params", "d:0"),
        (lambda: drawing(BOX, "", "radius k = 3"), "wrong-kind", "d:0"),
        (lambda: drawing(BOX, "horizontal k; parallel k a"), "wrong-kind", "c:1"),
        (lambda: drawing(BOX, "tangent k l"), "wrong-kind", "c:0"),
        (lambda: drawing(BOX, "equal k k"), "bad-params", "c:0"),
        (lambda: drawing(RINGS, "on-curve m n"), "wrong-kind", "c:0"),
        (lambda: drawing(RINGS, "equal m r"), "wrong-kind", "c:0"),
        (lambda: drawing(RINGS, "angle r s"), "wrong-kind", "c:0"),
    ],
)
def test_what_cannot_be_understood_says_where(drawn: Any, code: str, where: str) -> None:
    with pytest.raises(ContourError) as error:
        solved(drawn())
    assert (error.value.problem.code, error.value.problem.where.entity) == (code, where)
    assert error.value.problem.remedy


def test_two_thousand_entities_are_answered() -> None:
    side = 22
    entities: dict[str, Any] = {
        f"p{i}.{k}": point(10 * i + 0.2 * (k % 3), 10 * k) for i in range(side) for k in range(side)
    }
    for i in range(side):
        for k, (name, _) in enumerate(pairwise(range(side))):
            entities[f"h{i}.{k}"] = line(f"p{name}.{i}", f"p{name + 1}.{i}")
            entities[f"v{i}.{k}"] = line(f"p{i}.{name}", f"p{i}.{name + 1}")
    level = "; ".join(f"{'horizontal' if n[0] == 'h' else 'vertical'} {n}" for n in entities if n[0] in "hv")
    found = solution(entities, level, "length h0.0 = 12")
    # Every row shares one height, every column one place; one distance between two columns is given.
    assert len(entities) > 1400 and found.solved and found.dof == 2 * side - 1


def test_every_dimension_reads_what_is_drawn() -> None:
    """By plain geometry: nothing is asked, so nothing moves."""
    entities = {
        "a": point(0, 0), "b": point(8, 6), "c": point(-2, 11), "d": point(6, 17), "m": point(20, 0), "p": point(20, 5),
        "q": point(15, 0), "k": line("a", "b"), "l": line("c", "d"), "r": circle("m", 3), "e": arc("m", "p", "q"),
    }  # fmt: skip
    asked = [
        ("distance", "a b", 10.0),
        ("distance", "c k", 10.0),
        ("distance", "k l", 10.0),
        ("distance", "a r", 20.0),
        ("horizontal-distance", "c b", 10.0),
        ("vertical-distance", "k", 6.0),
        ("length", "l", 10.0),
        ("angle", "k l", 0.0),
        ("radius", "r", 3.0),
        ("diameter", "e", 10.0),
        ("arc-length", "e", 2.5 * np.pi),
    ]
    sizes = [{"kind": kind, "of": of.split(), "reference": True} for kind, of, _ in asked]
    found = solved(Drawing.model_validate({**drawing(entities).text(), "dimensions": sizes}))
    assert found.sizes == pytest.approx([value for _, _, value in asked], abs=1e-9)
    assert found.drawing.entities["d"] == drawing(entities).entities["d"]


@pytest.mark.parametrize(
    ("moves", "first", "second"), [("both", -5.0, 25.0), ("first", -10.0, 20.0), ("second", 0.0, 30.0)]
)
def test_the_side_of_a_size_that_is_to_give_way_does(moves, first, second):
    drawing = read_drawing(
        {
            "entities": {
                "a": {"kind": "point", "at": [0, 0]},
                "b": {"kind": "point", "at": [20, 0]},
                "l": {"kind": "line", "from": "a", "to": "b"},
            },
            "constraints": [{"kind": "horizontal", "of": ["l"]}],
            "dimensions": [{"kind": "length", "of": ["l"], "value": "30 mm", "moves": moves}],
        }
    )
    found = solved(drawing)
    assert found.solved
    assert found.drawing.point("a")[0] == pytest.approx(first, abs=1e-2)
    assert found.drawing.point("b")[0] == pytest.approx(second, abs=1e-2)


def test_what_is_to_stay_gives_way_where_nothing_else_can():
    drawing = read_drawing(
        {
            "entities": {"a": {"kind": "point", "at": [0, 0]}, "b": {"kind": "point", "at": [20, 0]}},
            "constraints": [{"kind": "fixed", "of": ["a"]}],
            "dimensions": [{"kind": "distance", "of": ["a", "b"], "value": 30, "moves": "first"}],
        }
    )
    found = solved(drawing)
    assert found.solved and found.drawing.point("b") == pytest.approx((30, 0), abs=1e-6)


def test_what_has_moved_is_told_with_what_is_drawn_by_it():
    before = read_drawing(
        {
            "entities": {
                **{n: {"kind": "point", "at": [x, 0]} for n, x in (("a", 0), ("b", 5), ("c", 9), ("d", 12))},
                "l": {"kind": "line", "from": "a", "to": "b"},
                "m": {"kind": "line", "from": "c", "to": "d"},
                "k": {"kind": "circle", "centre": "d", "radius": 2},
            }
        }
    )
    after = Drag(before, "b").to((5, 3))
    assert after is not None and moved_since(before, after) == ["b", "l"]
    grown = before.model_copy(update={"entities": {**before.entities, "k": Circle(centre="d", radius=3)}})
    assert moved_since(before, grown) == ["k"] and moved_since(before, before) == []
