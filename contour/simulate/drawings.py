"""Random drawings that can be solved: outlines with rounded corners, holes and slots, with constraints and sizes that hold in them."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.sketch.drawn.text import Drawing, read_drawing

__all__ = ["RandomDrawing", "perturbed", "random_drawing"]

Array = NDArray[np.float64]


@dataclass
class RandomDrawing:
    """A text form under way, and the entities of each loop in order."""

    entities: dict[str, dict[str, Any]] = field(default_factory=dict)
    constraints: list[dict[str, Any]] = field(default_factory=list)
    dimensions: list[dict[str, Any]] = field(default_factory=list)

    def point(self, at: Array) -> str:
        name = f"p{len(self.entities)}"
        self.entities[name] = {"kind": "point", "at": [float(at[0]), float(at[1])]}
        return name

    def at(self, name: str) -> Array:
        return np.array(self.entities[name]["at"])

    def add(self, kind: str, **fields: Any) -> str:
        name = f"{kind[0]}{len(self.entities)}"
        self.entities[name] = {"kind": kind, **fields}
        return name

    def ask(self, kind: str, *of: str) -> None:
        self.constraints.append({"kind": kind, "of": list(of)})

    def size(self, kind: str, value: float, *of: str) -> None:
        self.dimensions.append({"kind": kind, "of": list(of), "value": float(value)})

    def drawing(self) -> Drawing:
        return read_drawing({"entities": self.entities, "constraints": self.constraints, "dimensions": self.dimensions})


def _corners(rng: np.random.Generator, count: int, square: bool) -> Array:
    """(count, 2) of a simple counter-clockwise outline about the origin, some 80 mm across."""
    if not square:
        steps = rng.uniform(0.6, 1.4, count)
        angle = np.cumsum(steps) * 2 * np.pi / steps.sum()
        return (rng.uniform(28, 44, count)[:, None]) * np.column_stack([np.cos(angle), np.sin(angle)])
    stairs = max(count // 4, 1)  # a staircase up one side and down the other: all horizontal and vertical
    rise = np.cumsum(rng.uniform(8, 16, stairs))
    right = 30 + rng.uniform(6, 12) * rng.permutation(stairs)
    left = -30 - rng.uniform(6, 12) * rng.permutation(stairs)
    up = [(x, y) for k, x in enumerate(right) for y in ((0.0 if k == 0 else rise[k - 1]), rise[k])]
    down = [(x, y) for k, x in reversed(list(enumerate(left))) for y in (rise[k], (0.0 if k == 0 else rise[k - 1]))]
    return np.array([*up, *down])


def random_drawing(rng: np.random.Generator, corners: int = 8, holes: int = 3) -> RandomDrawing:
    """An outline of so many corners (a multiple of four where it is a square one) with holes in it. All that is asked of it holds."""
    d = RandomDrawing()
    square = bool(rng.random() < 0.5)
    at = _corners(rng, corners, square)
    n = len(at)
    before, after = at - np.roll(at, 1, axis=0), np.roll(at, -1, axis=0) - at
    long_before, long_after = np.linalg.norm(before, axis=1), np.linalg.norm(after, axis=1)
    first, last = [], []  # where each corner's neighbours begin and end
    arcs = []
    for k in range(n):
        a, b = before[k] / long_before[k], after[k] / long_after[k]
        turn = float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))
        reach = 0.3 * min(long_before[k], long_after[k])
        if rng.random() < 0.4 and np.radians(35) < abs(turn) < np.radians(140):
            radius = reach / np.tan(abs(turn) / 2)
            radius = min(radius, 8.0)
            reach = radius * np.tan(abs(turn) / 2)
            p, q = d.point(at[k] - reach * a), d.point(at[k] + reach * b)
            side = np.sign(turn) * np.array([-a[1], a[0]])
            m = d.point(d.at(p) + radius * side)
            ends = {"from": p, "to": q} if turn > 0 else {"from": q, "to": p}
            arcs.append((k, d.add("arc", centre=m, **ends), radius))
            first.append(p)
            last.append(q)
        else:
            name = d.point(at[k])
            first.append(name)
            last.append(name)
    lines = [d.add("line", **{"from": last[k], "to": first[(k + 1) % n]}) for k in range(n)]
    for k, arc, radius in arcs:
        d.ask("tangent", lines[k - 1], arc)
        d.ask("tangent", arc, lines[k])
        if rng.random() < 0.7:
            d.size("radius", radius, arc)
    for k, line in enumerate(lines):
        along = after[k] / long_after[k]
        length = float(np.linalg.norm(d.at(first[(k + 1) % n]) - d.at(last[k])))
        if square:
            d.ask("horizontal" if abs(along[1]) < 1e-9 else "vertical", line)
        elif k and rng.random() < 0.6:
            a = after[k - 1] / long_after[k - 1]
            turn = np.degrees(np.arctan2(a[0] * along[1] - a[1] * along[0], a @ along))
            d.size("angle", abs(float(turn)), lines[k - 1], line)
        if k < n - 2 and rng.random() < 0.7:
            d.size("length", length, line)
    _holes(rng, d, lines, last[0], holes)
    return d


def _holes(rng: np.random.Generator, d: RandomDrawing, lines: list[str], corner: str, count: int) -> None:
    radius, rings = float(rng.uniform(2, 4)), list[str]()
    for _ in range(count):
        m = d.point(rng.uniform(-14, 14, 2) + np.array([0.0, 6.0]))
        rings.append(d.add("circle", centre=m, radius=radius))
        away = d.at(m) - d.at(corner)
        d.size("horizontal-distance", abs(away[0]), corner, m)
        if rng.random() < 0.5:
            d.size("vertical-distance", abs(away[1]), corner, m)
        else:
            d.size("distance", float(np.linalg.norm(away)), corner, m)
    for other in rings[1:]:
        d.ask("equal", rings[0], other)
    if rings:
        d.size("diameter", 2 * radius, rings[0])
        if rng.random() < 0.5:
            mark = d.point(d.at(d.entities[rings[0]]["centre"]) + radius * np.array([0.6, 0.8]))
            d.ask("on-curve", mark, rings[0])
    if len(rings) > 1:
        a, b = (d.entities[r]["centre"] for r in rings[:2])
        middle = d.point(0.5 * (d.at(a) + d.at(b)))
        d.ask("midpoint", middle, a, b)


def perturbed(rng: np.random.Generator, truth: RandomDrawing, share: float, *, each: bool = False) -> Drawing:
    """The drawing with every coordinate moved by up to a share of its size, and every radius by up to a share of itself.

    each: a share of the shortest piece that has the point, in place of the whole size."""
    xy = np.array([e["at"] for e in truth.entities.values() if e["kind"] == "point"])
    size = float((xy.max(axis=0) - xy.min(axis=0)).max())
    own: dict[str, float] = {}
    for e in truth.entities.values() if each else ():
        points = [e[k] for k in ("centre", "from", "to") if k in e]
        long = min((np.linalg.norm(truth.at(a) - truth.at(b)) for a in points for b in points if a != b), default=size)
        for p in points:
            own[p] = min(own.get(p, size), float(long))
    moved = RandomDrawing({}, truth.constraints, truth.dimensions)
    for name, e in truth.entities.items():
        if e["kind"] == "point":
            e = {**e, "at": (np.array(e["at"]) + rng.uniform(-share, share, 2) * own.get(name, size)).tolist()}
        elif "radius" in e:
            e = {**e, "radius": e["radius"] * (1 + rng.uniform(-share, share))}
        moved.entities[name] = e
    return moved.drawing()
