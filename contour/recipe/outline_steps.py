"""Outline steps of recipes before version 9, as the sketches that they are now: pieces are entities that share their corners, under the ids they had.

Plain arithmetic on plain documents: what earlier versions said does not change with the modules that drew it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Any

__all__ = ["sketch_of_outline"]

_KEPT = ("scan", "source", "plane", "axis", "offset", "tolerance", "origin", "u_axis", "pose")
_AS_READ = [[1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]]
_SAME = 1e-9  # mm: ends of a piece that goes all the way round
_CORNER = 1e-6  # mm: ends of pieces that meet
_FREE_POINTS = 3000  # of all free pieces together


def sketch_of_outline(params: dict[str, Any]) -> dict[str, Any]:
    """Parameters of a sketch step from those of an outline step."""
    loops = [dict(loop) for loop in params.get("loops") or [] if isinstance(loop, dict)]
    drawn = [(loop, [p for p in loop.get("pieces", []) if p.get("taken", True)]) for loop in loops]
    sheet = _Sheet([p for _, pieces in drawn for p in pieces], _ids(loops))
    named = []
    for loop, pieces in drawn:
        corners: list[tuple[Sequence[float], str]] = []
        for piece in pieces:
            sheet.draw(piece, corners, full=bool(loop.get("full")))
        if pieces and loop.get("name"):
            named.append({"name": loop["name"], "of": [p["id"] for p in pieces]})
    # An outline that did not say where the raw scan lay meant the scan as it was read.
    kept = {"pose": _AS_READ} | {k: params[k] for k in _KEPT if params.get(k) is not None}
    return {**kept, "entities": sheet.entities, "taken": loops, "made": sheet.made, "named": named}


def _ids(loops: Iterable[dict[str, Any]]) -> int:
    """The highest number of a piece's id."""
    ids = [str(p.get("id", "")) for loop in loops for p in loop.get("pieces", [])]
    return max((int(i[1:]) for i in ids if i[1:].isdigit()), default=0)


class _Sheet:
    def __init__(self, pieces: Sequence[dict[str, Any]], made: int) -> None:
        self.entities: dict[str, dict[str, Any]] = {}
        self.made = made
        free = sum(p.get("kind") in ("free", "ellipse") and not p.get("ellipse") for p in pieces)
        self._most = min(max(_FREE_POINTS // max(free, 1), 4), 120)

    def _point(self, at: Sequence[float]) -> str:
        self.made += 1
        self.entities[f"p{self.made}"] = {"kind": "point", "at": [float(at[0]), float(at[1])]}
        return f"p{self.made}"

    def draw(self, piece: dict[str, Any], corners: list[tuple[Sequence[float], str]], *, full: bool) -> None:
        """corners: places of the loop that have a point already; more are added."""

        def corner(at: Sequence[float]) -> str:
            near = next((name for q, name in corners if math.dist(q, at) < _CORNER), None)
            if near is None:
                near = self._point(at)
                corners.append((at, near))
            return near

        a, b = piece["start"], piece["end"]
        whole = math.dist(a, b) < _SAME
        if piece["kind"] == "line":
            entity: dict[str, Any] = {"kind": "line", "from": corner(a), "to": corner(b)}
        elif piece.get("ellipse"):
            x, y, major, minor, turn = piece["ellipse"]
            tip = self._point((x + major * math.cos(turn), y + major * math.sin(turn)))
            entity = {"kind": "ellipse", "centre": self._point((x, y)), "major": tip, "minor": minor}
            if not (whole or full):
                first, last = _counter_clockwise(piece, (x, y))
                entity |= {"from": corner(first), "to": corner(last)}
        elif piece["kind"] == "arc":
            m, radius = _circle(a, piece["mid"], b, whole=whole)
            entity = {"kind": "circle", "centre": self._point(m), "radius": radius}
            if not (whole or full):
                first, last = _counter_clockwise(piece, m)
                entity = {"kind": "arc", "centre": entity["centre"], "from": corner(first), "to": corner(last)}
        else:
            inner = [self._point(p) for p in _thinned(piece.get("points") or [a, b], self._most)[1:-1]]
            start = corner(a)
            entity = {"kind": "spline", "through": [start, *inner, start if whole else corner(b)]}
        self.entities[piece["id"]] = entity


def _thinned(points: Sequence[Sequence[float]], most: int) -> list[Sequence[float]]:
    count = min(len(points), most)
    return [points[round(k * (len(points) - 1) / max(count - 1, 1))] for k in range(count)]


def _circle(
    a: Sequence[float], m: Sequence[float], b: Sequence[float], *, whole: bool
) -> tuple[tuple[float, float], float]:
    """Centre and radius through three places; of a whole circle the middle lies across from its ends."""
    if whole:
        return ((a[0] + m[0]) / 2, (a[1] + m[1]) / 2), math.dist(a, m) / 2
    ux, uy, vx, vy = m[0] - a[0], m[1] - a[1], b[0] - a[0], b[1] - a[1]
    twice = 2 * (ux * vy - uy * vx)
    uu, vv = ux * ux + uy * uy, vx * vx + vy * vy
    dx, dy = (vy * uu - uy * vv) / twice, (ux * vv - vx * uu) / twice
    return (a[0] + dx, a[1] + dy), math.hypot(dx, dy)


def _counter_clockwise(piece: dict[str, Any], centre: tuple[float, float]) -> tuple[Sequence[float], Sequence[float]]:
    """The ends of a round piece, in the order in which it runs counter-clockwise about its centre."""
    a, m, b = (math.atan2(p[1] - centre[1], p[0] - centre[0]) for p in (piece["start"], piece["mid"], piece["end"]))
    ahead = (m - a) % math.tau < (b - a) % math.tau
    return (piece["start"], piece["end"]) if ahead else (piece["end"], piece["start"])
