"""Pairs of solids that booleans find hard, each solid with its own equation: the truth about a place needs no kernel."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.geometry.vectors import square_to, unit
from contour.solid.primitives import block, cone, sphere
from contour.solid.shape import NamedShape, faces

__all__ = ["KINDS", "Pair", "PairKind", "Plain", "random_pair"]

Array = NDArray[np.float64]
PairKind = Literal["coincident", "tangent", "grazing", "equal cylinders", "nested", "edge on a wall", "measured twice"]
KINDS: tuple[PairKind, ...] = get_args(PairKind)
Meets = Literal["volume", "within", "face", "thinly", "not"]


@dataclass(frozen=True, slots=True, eq=False)
class Plain:
    """A block, cylinder or sphere. depth: of places (n, 3), how far within it they lie, mm, below 0 outside · volume: mm³ · box: (2, 3)."""

    shape: NamedShape
    depth: Callable[[Array], Array]
    volume: float


@dataclass(frozen=True, slots=True, eq=False)
class Pair:
    """meets: they share material, or the second lies within the first, or they share a piece of a face alone, or a line or point alone, or nothing."""

    kind: PairKind
    a: Plain
    b: Plain
    meets: Meets


def _block(
    frame: PlaneFrame, x: tuple[float, float], y: tuple[float, float], z: tuple[float, float], name: str
) -> Plain:
    low, high = np.array([x[0], y[0], z[0]]), np.array([x[1], y[1], z[1]])
    axes = np.array([frame.u, frame.v, frame.normal])

    def depth(p: Array) -> Array:
        local = (p - frame.origin) @ axes.T
        return np.asarray(np.minimum(local - low, high - local).min(axis=1))

    return Plain(block(frame, x, y, z, prefix=name), depth, float(np.prod(high - low)))


def _bar(at: Array, way: Array, heights: tuple[float, float], radius: float, name: str) -> Plain:
    def depth(p: Array) -> Array:
        along = (p - at) @ way
        across = np.linalg.norm(p - at - along[:, None] * way, axis=1)
        return np.asarray(np.minimum.reduce([along - heights[0], heights[1] - along, radius - across]))

    shape = cone(at, way, heights, (radius, radius), prefix=name)
    return Plain(shape, depth, float(np.pi * radius**2 * (heights[1] - heights[0])))


def _ball(at: Array, radius: float, name: str) -> Plain:
    shape = sphere(at, radius, prefix=name)
    return Plain(shape, lambda p: radius - np.linalg.norm(p - at, axis=1), float(4 / 3 * np.pi * radius**3))


def _anywhere(rng: np.random.Generator) -> PlaneFrame:
    """Square to the world in one half of the cases."""
    if rng.random() < 0.5:
        return plane_frame(np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    n = unit(rng.normal(size=3))
    return plane_frame(rng.uniform(-50, 50, 3), n, square_to(n)[0])


def _size(rng: np.random.Generator) -> float:
    return float(rng.uniform(6, 40))


def _within(rng: np.random.Generator, span: tuple[float, float], share: float = 0.5) -> tuple[float, float]:
    """A stretch inside another one, ends kept clear."""
    long = span[1] - span[0]
    size = float(rng.uniform(0.2, share)) * long
    begin = float(rng.uniform(span[0] + 0.1 * long, span[1] - 0.1 * long - size))
    return begin, begin + size


def _coincident(rng: np.random.Generator) -> Pair:
    f = _anywhere(rng)
    x, y, z = ((0.0, _size(rng)) for _ in range(3))
    a = _block(f, x, y, z, "a")
    which = int(rng.integers(5))
    on = f.origin + x[1] / 2 * f.u + y[1] / 2 * f.v
    if which == 0:  # beside it, with a face that lies within the other's
        return Pair(
            "coincident", a, _block(f, _within(rng, x), _within(rng, y), (z[1], z[1] + _size(rng)), "b"), "face"
        )
    if which == 1:  # both faces alike
        return Pair("coincident", a, _block(f, x, y, (z[1], z[1] + _size(rng)), "b"), "face")
    if which == 2:  # into it, with sides that lie in each other
        return Pair("coincident", a, _block(f, (0.0, x[1] / 2), y, (z[1] / 3, z[1] + 5.0), "b"), "volume")
    radius = 0.4 * min(x[1], y[1])
    if which == 3:  # a bar that stands on it
        return Pair("coincident", a, _bar(on, f.normal, (z[1], z[1] + _size(rng)), radius, "b"), "face")
    return Pair("coincident", a, _bar(on, f.normal, (0.0, z[1] * float(rng.choice([0.5, 1.0]))), radius, "b"), "within")


def _against(rng: np.random.Generator, gap: float, kind: PairKind) -> Pair:
    """A bar or ball that touches a face, a bar, or a bore's wall, `gap` mm from it (below 0: into it)."""
    f = _anywhere(rng)
    x, y, z = ((0.0, _size(rng)) for _ in range(3))
    r = float(rng.uniform(1, 8))
    which = int(rng.integers(4))
    meets: Meets = "thinly" if gap == 0 else "volume" if gap < 0 else "not"
    over = f.origin + (z[1] + r + gap) * f.normal
    if which == 0:
        a = _block(f, x, y, z, "a")
        at = over + x[1] / 2 * f.u
        return Pair(kind, a, _bar(at, f.v, _within(rng, y, 0.7), r, "b"), meets)
    if which == 1:
        a = _block(f, x, y, z, "a")
        return Pair(kind, a, _ball(over + 0.5 * (x[1] * f.u + y[1] * f.v), r, "b"), meets)
    big = float(rng.uniform(5, 15))
    a = _bar(f.origin, f.normal, z, big, "a")
    if which == 2:
        at = f.origin + (big + r + gap) * f.u
        return Pair(kind, a, _bar(at, f.normal, _within(rng, z, 0.7), r, "b"), meets)
    small = 0.6 * big
    at = f.origin + (big - small - gap) * f.u  # within it, its wall against the other's
    return Pair(kind, a, _bar(at, f.normal, (z[0] - 3.0, z[1] + 3.0), small, "b"), "volume")


def _equal(rng: np.random.Generator) -> Pair:
    f = _anywhere(rng)
    r, reach = float(rng.uniform(2, 10)), float(rng.uniform(25, 50))
    a = _bar(f.origin, f.normal, (-reach, reach), r, "a")
    which = int(rng.integers(4))
    if which == 0:  # crossing at an angle
        tilt = float(rng.uniform(np.radians(35), np.pi / 2))
        way = np.cos(tilt) * f.normal + np.sin(tilt) * f.u
        return Pair("equal cylinders", a, _bar(f.origin, way, (-reach, reach), r, "b"), "volume")
    if which == 1:  # a tee
        return Pair("equal cylinders", a, _bar(f.origin, f.u, (0.0, reach), r, "b"), "volume")
    if which == 2:  # one in the other's line
        begin = float(rng.choice([0.0, reach, -reach / 3]))
        meets: Meets = "face" if begin == reach else "volume"
        return Pair("equal cylinders", a, _bar(f.origin, f.normal, (begin, 1.7 * reach), r, "b"), meets)
    at = f.origin + float(rng.uniform(0.3, 1.7)) * r * f.u
    return Pair("equal cylinders", a, _bar(at, f.normal, (-reach, reach / 2), r, "b"), "volume")


def _nested(rng: np.random.Generator) -> Pair:
    f = _anywhere(rng)
    x, y, z = ((0.0, 10 + _size(rng)) for _ in range(3))
    a = _block(f, x, y, z, "a")
    which = int(rng.integers(3))
    if which == 0:
        return Pair("nested", a, _block(f, _within(rng, x), _within(rng, y), _within(rng, z), "b"), "within")
    at = f.origin + 0.5 * (x[1] * f.u + y[1] * f.v + z[1] * f.normal)
    r = 0.3 * min(x[1], y[1], z[1])
    if which == 1:
        return Pair("nested", a, _ball(at, r, "b"), "within")
    return Pair("nested", a, _bar(at, f.u, (-r, r), r, "b"), "within")


def _edge_on_wall(rng: np.random.Generator) -> Pair:
    """A block two or one of whose edges lie on a bar's wall: a web that begins where the boss is as wide as it, or behind, so that its sides leave the boss
    a second time."""
    f = _anywhere(rng)
    r, z = float(rng.uniform(4, 20)), (0.0, _size(rng))
    turn = float(rng.uniform(0, 2 * np.pi))
    web = plane_frame(f.origin, f.normal, np.cos(turn) * f.u + np.sin(turn) * f.v)
    begin = float(rng.choice([0.0, rng.uniform(-0.9, 0.9)])) * r
    half = float(np.sqrt(r * r - begin * begin))
    sides = (-half, half) if rng.random() < 0.5 else (-float(rng.uniform(0.1, 0.8)) * half, half)
    a = _bar(f.origin, f.normal, z, r, "a")
    heights = _within(rng, z) if rng.random() < 0.7 else (z[0], z[1])
    return Pair("edge on a wall", a, _block(web, (begin, r + _size(rng)), sides, heights, "b"), "volume")


def _tube(at: Array, way: Array, heights: tuple[float, float], radii: tuple[float, float], name: str) -> Plain:
    """radii: of the bore and outside."""
    bore, outside = (_bar(at, way, heights, r, name) for r in radii)
    whole, hollow = outside.shape.shape, bore.shape.shape
    shape = BRepAlgoAPI_Cut(whole, hollow).Shape()
    named = NamedShape(shape, tuple(f"{name}.{k}" for k in range(len(faces(shape)))))
    return Plain(
        named,
        # Its ends are the outer bar's, beside which those of the bore say nothing.
        lambda p: np.minimum(outside.depth(p), np.linalg.norm(_across(p - at, way), axis=1) - radii[0]),
        outside.volume - bore.volume,
    )


def _across(p: Array, way: Array) -> Array:
    return np.asarray(p - (p @ way)[:, None] * way)


def _twice(rng: np.random.Generator) -> Pair:
    """One boss as two measurements have it: axes that miss each other, lean, and radii that differ by next to nothing, each by some power of ten."""
    f = _anywhere(rng)
    r, z = float(rng.uniform(4, 20)), (0.0, _size(rng))

    def off(least: float, most: float) -> float:
        return 0.0 if rng.random() < 0.2 else float(10 ** rng.uniform(least, most)) * float(rng.choice([-1, 1]))

    way = unit(f.normal + off(-9, -4) * f.u + off(-9, -4) * f.v)
    at = f.origin + off(-9, -3) * f.u + off(-9, -3) * f.v
    heights = (z[1] * float(rng.uniform(0.1, 0.8)), z[1] + _size(rng))
    bored = rng.random() < 0.5
    if not bored:
        return Pair(
            "measured twice",
            _bar(f.origin, f.normal, z, r, "a"),
            _bar(at, way, heights, r + off(-9, -3), "b"),
            "volume",
        )
    a = _tube(f.origin, f.normal, z, (0.5 * r, r), "a")
    return Pair("measured twice", a, _tube(at, way, heights, (0.5 * r + off(-9, -3), r + off(-9, -3)), "b"), "volume")


def random_pair(kind: PairKind, seed: int) -> Pair:
    """The same pair for the same kind and seed, mm."""
    rng = np.random.default_rng([KINDS.index(kind), seed])
    if kind == "coincident":
        return _coincident(rng)
    if kind == "tangent":
        return _against(rng, 0.0, kind)
    if kind == "grazing":
        gap = float(10 ** rng.uniform(-5, -2)) * float(rng.choice([-1, 1]))
        return _against(rng, gap, kind)
    if kind == "edge on a wall":
        return _edge_on_wall(rng)
    if kind == "measured twice":
        return _twice(rng)
    return _equal(rng) if kind == "equal cylinders" else _nested(rng)
