"""Degrees of freedom, counted by hand: unknowns less what is said, rigid motions included."""

from __future__ import annotations

from typing import Any

import pytest

from tests.sketch.drawn.kit import arc, circle, line, point, solution

A, B, C, D = point(0, 0), point(20, 1), point(21, 12), point(-1, 11)
FOUR = {"a": A, "b": B, "c": C, "d": D}
BOX = {**FOUR, "k": line("a", "b"), "l": line("b", "c"), "m": line("c", "d"), "n": line("d", "a")}
TWO = {**FOUR, "k": line("a", "b"), "m": line("d", "c")}
RING = {"m": point(0, 0), "r": circle("m", 5)}
RINGS = {**RING, "n": point(20, 1), "s": circle("n", 7)}
BOW = {"m": point(0, 0), "a": point(5, 0), "b": point(0, 5), "k": arc("m", "a", "b")}
ROUND = {**BOW, "c": point(-9, 6), "l": line("b", "c")}
SLOT = {
    "m": point(0, 0),
    "n": point(20, 1),
    "a": point(0, -5),
    "b": point(20, -4),
    "c": point(21, 5),
    "d": point(-1, 5),
    "k": line("a", "b"),
    "l": line("c", "d"),
    "e": arc("n", "b", "c"),
    "f": arc("m", "d", "a"),
}
SMOOTH = "tangent k e; tangent e l; tangent l f; tangent f k"
OVAL = {"m": point(0, 0), "p": point(8, 0), "o": {"kind": "ellipse", "centre": "m", "major": "p", "minor": 3.0}}
WAVE = {"a": A, "b": point(5, 4), "c": point(12, 3), "s": {"kind": "spline", "through": ["a", "b", "c"]}}
TRIANGLE = {"a": A, "b": B, "c": C, "k": line("a", "b"), "l": line("b", "c"), "m": line("c", "a")}

# (entities, constraints, sizes, degrees of freedom)
BY_HAND: list[tuple[dict[str, Any], str, str, int]] = [
    ({"a": A}, "", "", 2),
    ({"a": A}, "fixed a", "", 0),
    ({"a": A, "b": B}, "coincident a b", "", 2),
    ({"a": A, "b": B}, "horizontal a b", "", 3),
    ({"a": A, "b": B}, "", "distance a b = 20", 3),
    ({"a": A, "b": B}, "", "horizontal-distance a b = 20; vertical-distance a b = 1", 2),
    ({"a": A, "b": B, "k": line("a", "b")}, "horizontal k", "length k = 20", 2),
    ({"a": A, "b": B, "k": line("a", "b")}, "horizontal k; fixed a", "length k = 20", 0),
    (FOUR, "", "", 8),
    (FOUR, "collinear a b c d", "", 6),
    (FOUR, "midpoint c a b", "", 6),
    (BOX, "", "", 8),
    (BOX, "horizontal k; horizontal m; vertical l; vertical n", "", 4),
    (BOX, "horizontal k; horizontal m; vertical l; vertical n", "length k = 20; length l = 10", 2),
    (BOX, "horizontal k; horizontal m; vertical l; vertical n; fixed a", "length k = 20; length l = 10", 0),
    (BOX, "horizontal k; horizontal m; vertical l; vertical n; equal k l", "", 3),
    (BOX, "parallel k m; parallel l n", "", 6),
    (BOX, "parallel k m; parallel l n; perpendicular k l", "", 5),
    (BOX, "equal k l m n", "", 5),
    (BOX, "perpendicular k l; perpendicular l m; perpendicular m n", "", 5),
    (TWO, "parallel k m", "distance k m = 11", 6),
    (TWO, "collinear k m", "", 6),
    (TWO, "", "angle k m = 30", 7),
    (TWO, "equal k m", "", 7),
    (TWO, "symmetric k m a", "", 4),
    ({**TWO, "x": point(-5, 5), "y": point(30, 6), "z": line("x", "y")}, "symmetric k m z", "", 8),
    ({**FOUR, "z": line("a", "b")}, "symmetric c d z", "", 6),
    ({**FOUR, "z": line("a", "b")}, "on-curve c z; on-curve d z", "", 6),
    ({**FOUR, "z": line("a", "b")}, "", "distance c z = 11; distance d z = 11", 6),
    (TRIANGLE, "", "length k = 20; length l = 11; length m = 22", 3),
    (TRIANGLE, "equal k l m", "length k = 20", 3),
    (TRIANGLE, "", "angle k l = 85; angle l m = 130", 4),
    (RING, "", "", 3),
    (RING, "", "radius r = 5", 2),
    (RING, "fixed r", "", 0),
    (RINGS, "equal r s", "", 5),
    (RINGS, "concentric r s", "", 4),
    (RINGS, "tangent r s", "", 5),
    (RINGS, "", "distance r s = 20; diameter r = 10; diameter s = 14", 3),
    ({**RINGS, "a": point(0, 6), "b": point(20, 9), "k": line("a", "b")}, "tangent k r; tangent k s", "", 8),
    ({**RING, "a": point(3, 4)}, "on-curve a r", "", 4),
    (BOW, "", "", 5),
    (BOW, "", "radius k = 5; arc-length k = 8", 3),
    (BOW, "fixed k", "", 0),
    ({**BOW, "p": point(4, 4)}, "midpoint p k", "", 5),
    (ROUND, "tangent k l", "", 6),
    (ROUND, "tangent k l", "radius k = 5; length l = 9", 4),
    (SLOT, SMOOTH, "", 6),
    (SLOT, f"{SMOOTH}; equal e f", "", 5),
    (SLOT, f"{SMOOTH}; equal e f; horizontal k; fixed m", "distance m n = 20; radius e = 5", 0),
    (OVAL, "", "", 5),
    ({**OVAL, "q": point(0, 4)}, "on-curve q o; horizontal m p", "distance m p = 8", 4),
    ({**OVAL, "a": point(-9, 4), "b": point(9, 4), "k": line("a", "b")}, "tangent k o", "", 8),
    (WAVE, "", "", 6),
    ({**WAVE, "q": point(6, 5)}, "on-curve q s", "", 7),
    ({**WAVE, "z": point(-6, -3), "k": line("z", "a")}, "tangent k s", "", 7),
]


@pytest.mark.parametrize(("entities", "constraints", "sizes", "dof"), BY_HAND)
def test_freedom_is_what_the_hand_counts(entities: dict[str, Any], constraints: str, sizes: str, dof: int) -> None:
    found = solution(entities, constraints, sizes)
    assert (found.solved, found.dof, found.conflicts) == (True, dof, ())
    assert (sum(found.free.values()) == 0) == (dof == 0)


def test_there_are_fifty_of_them() -> None:
    assert len(BY_HAND) >= 50


def test_what_can_still_move_is_told_by_entity() -> None:
    square = "horizontal k; horizontal m; vertical l; vertical n; fixed a"
    found = solution(BOX, square, "length l = 10")
    assert found.free == {"a": 0, "b": 1, "c": 1, "d": 0, "k": 1, "l": 1, "m": 1, "n": 0}
