"""What an accepted proposal demands of surfaces, as equations that are zero when it holds.

Surfaces are the nine numbers of :mod:`contour.fit.primitives`. Directions have no sign here: a relation holds for a normal and its
opposite alike. Equations may say the same thing twice; the solver minds only what they leave open.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from contour.geometry.surface_rows import CONE, PLANE, SPHERE, TORUS
from contour.geometry.vectors import square_to, unit
from contour.recipe.problem import ContourError

__all__ = ["FEWEST", "KINDS", "Relation", "RelationKind", "Sense", "sense_of", "start_of", "unmet"]

Array = NDArray[np.float64]
RelationKind = Literal[
    "size",
    "distance",
    "angle",
    "parallel",
    "perpendicular",
    "coplanar",
    "coaxial",
    "equal-size",
    "equal-distance",
    "bolt-circle",
    "row",
    "draft",
    "mirror",
    "through",
]
KINDS: tuple[str, ...] = get_args(RelationKind)
FEWEST = {
    "size": 1,
    "distance": 2,
    "angle": 2,
    "parallel": 2,
    "perpendicular": 2,
    "coplanar": 2,
    "coaxial": 2,
    "equal-size": 2,
    "equal-distance": 4,
    "bolt-circle": 3,
    "row": 3,
    "draft": 2,
    "mirror": 2,
    "through": 2,
}


@dataclass(frozen=True, slots=True)
class Relation:
    """members: places in the list of surfaces (distance: two; equal-distance, mirror: pairs one after the other; draft: the face that the
    others lean against first) · value: mm or radians where one is demanded (size: the radius; bolt-circle: its radius; row: its pitch) ·
    slots: which place of the circle or row each member has · count: places on a full circle."""

    kind: RelationKind
    members: tuple[int, ...]
    value: float | None = None
    slots: tuple[int, ...] = ()
    count: int = 0


def _radius(code: int, p: Array) -> float:
    """What a size speaks of: a tube's own radius, a cone's where its point lies."""
    if code == TORUS:
        return float(p[7])
    return float(p[6] / math.cos(p[7])) if code == CONE else float(p[6])


def _gap(a: Array, b: Array) -> float:
    """Signed distance from plane a to plane b, halfway between their middles."""
    return float((b[:3] - a[:3]) @ unit(a[3:6] + math.copysign(1.0, float(a[3:6] @ b[3:6])) * b[3:6]))


def _mirrored(p: Array, n: Array, d: float) -> Array:
    q = p.copy()
    q[:3] = p[:3] - 2 * (p[:3] @ n - d) * n
    q[3:6] = p[3:6] - 2 * (p[3:6] @ n) * n
    return q


def _alike(code: int, p: Array, q: Array) -> Array:
    """Zero when both are one surface."""
    if code == SPHERE:
        return np.append(p[:3] - q[:3], p[6] - q[6])
    turn = np.cross(p[3:6], q[3:6])
    if code == PLANE:
        return np.append(turn, (p[:3] - q[:3]) @ q[3:6])
    off = p[:3] - q[:3]
    rest = [*turn, *(off - (off @ q[3:6]) * q[3:6])]
    if code == TORUS:
        return np.array([*rest, off @ q[3:6], p[6] - q[6], p[7] - q[7]])
    if code == CONE:
        return np.array([*rest, abs(p[7]) - abs(q[7])])
    return np.array([*rest, p[6] - q[6]])


@dataclass(frozen=True, slots=True)
class Sense:
    """What must not flip while surfaces move: the side a distance or angle is on, and what directions across an axis are
    counted from."""

    side: float
    helper: Array


def sense_of(r: Relation, s: Sequence[Array]) -> Sense:
    """Which way round each member stands now, so that a refit keeps it; s: parameters (n,) of each."""
    a, b = s[r.members[0]], s[r.members[min(1, len(r.members) - 1)]]
    side = float((b[:3] - a[:3]) @ a[3:6]) if r.kind == "distance" else float(a[3:6] @ b[3:6])
    return Sense(1.0 if side >= 0 else -1.0, square_to(a[3:6])[0])


def _pattern(r: Relation, s: Sequence[Array], helper: Array) -> tuple[Array, Array, Array]:
    """Axis of a circle or row, and two directions across it, from the first member."""
    axis = s[r.members[0]][3:6]
    a = unit(helper - (helper @ axis) * axis)
    return axis, a, np.cross(axis, a)


def start_of(r: Relation, codes: Sequence[int], s: Sequence[Array], sense: Sense) -> Array:
    """First values of what a relation leaves open beside the surfaces. Raises ContourError (degenerate, wrong-kind)."""
    if len(r.members) < FEWEST[r.kind]:
        raise ContourError(
            "degenerate",
            f"'{r.kind}' needs more members",
            got=len(r.members),
            need=str(FEWEST[r.kind]),
            remedy="choose more regions for it, or leave the relation out",
        )
    if r.kind in ("size", "equal-size") and any(codes[m] == PLANE for m in r.members):
        raise ContourError(
            "wrong-kind",
            "a plane has no size",
            got="a plane",
            need="cylinders, cones, spheres or tori",
            remedy="leave the plane out",
        )
    if r.kind in ("distance", "equal-distance", "coplanar") and any(codes[m] != PLANE for m in r.members):
        raise ContourError(
            "wrong-kind",
            f"'{r.kind}' speaks of planes",
            got="something curved",
            need="planes",
            remedy="leave out what is no plane",
        )
    if r.kind in ("bolt-circle", "row"):
        if len(r.slots) != len(r.members):
            raise ContourError(
                "degenerate",
                "each member of a pattern needs its place in it",
                got=f"{len(r.slots)} places for {len(r.members)} members",
                need="one place each",
                remedy="propose the pattern again",
            )
        _, a, b = _pattern(r, s, sense.helper)
        flat = np.array([[s[m][:3] @ a, s[m][:3] @ b] for m in r.members])
        k = np.array(r.slots, float)
        if r.kind == "row":
            rows = np.column_stack([np.ones(len(k)), k])
            fit = np.linalg.lstsq(rows, flat, rcond=None)[0]
            return np.array([*fit[0], *fit[1]])  # where it begins, and one step
        if r.count < 3:
            raise ContourError(
                "degenerate",
                "a circle needs at least three places",
                got=r.count,
                need="3 or more",
                remedy="choose at least three",
            )
        turn = 2 * np.pi * k / r.count
        # x = cx + R cos(t0 + turn): linear in the centre and in R cos t0, R sin t0. Slots count the way the axis turns.
        c, d = np.cos(turn), np.sin(turn)
        one, nil = np.ones_like(c), np.zeros_like(c)
        rows = np.vstack([np.column_stack([one, nil, c, -d]), np.column_stack([nil, one, d, c])])
        return np.linalg.lstsq(rows, np.concatenate([flat[:, 0], flat[:, 1]]), rcond=None)[0]
    if r.kind == "mirror":
        pairs = [(i, j) for i, j in zip(r.members[::2], r.members[1::2], strict=True) if i != j]
        pairs = pairs or [(r.members[0], r.members[1])]
        i, j = max(pairs, key=lambda q: float(np.linalg.norm(s[q[1]][:3] - s[q[0]][:3])))
        n = unit(s[j][:3] - s[i][:3])
        between = s[i][3:6] - s[j][3:6]
        if codes[i] == PLANE and np.linalg.norm(between) > 0.2:
            n = unit(between)
        return np.array([*n, float((s[i][:3] + s[j][:3]) @ n / 2)])
    return np.zeros(0)


def _pattern_unmet(r: Relation, s: Sequence[Array], aux: Array, helper: Array) -> Array:
    axis, a, b = _pattern(r, s, helper)
    out: list[float] = []
    for m, k in zip(r.members, r.slots, strict=True):
        out += [*np.cross(s[m][3:6], axis)]
        if r.kind == "row":
            x, y = aux[0] + k * aux[2], aux[1] + k * aux[3]
        else:
            t = 2 * math.pi * k / r.count
            x = aux[0] + aux[2] * math.cos(t) - aux[3] * math.sin(t)
            y = aux[1] + aux[2] * math.sin(t) + aux[3] * math.cos(t)
        out += [float(s[m][:3] @ a) - x, float(s[m][:3] @ b) - y]
    if r.value is not None:
        out.append(math.hypot(aux[2], aux[3]) - r.value)
    return np.array(out)


def unmet(r: Relation, codes: Sequence[int], s: Sequence[Array], aux: Array, sense: Sense) -> Array:
    """What is left of each equation: mm, or sines of angles.

    s: parameters (n,) of each member; aux (k,), the relation's own unknowns.
    """
    m = r.members
    first = s[m[0]]
    ways: dict[str, Callable[[], Array]] = {
        "size": lambda: np.array([_radius(codes[k], s[k]) - (r.value or 0.0) for k in m]),
        "equal-size": lambda: np.array([_radius(codes[k], s[k]) - _radius(codes[m[0]], first) for k in m[1:]]),
        "parallel": lambda: np.concatenate([np.cross(s[k][3:6], first[3:6]) for k in m[1:]]),
        "perpendicular": lambda: np.array([float(s[k][3:6] @ first[3:6]) for k in m[1:]]),
        "angle": lambda: np.array([sense.side * float(first[3:6] @ s[m[1]][3:6]) - math.cos(r.value or 0.0)]),
        "coplanar": lambda: np.concatenate([_alike(PLANE, s[k], first) for k in m[1:]]),
        "coaxial": lambda: np.concatenate([_same_axis(codes[k], s[k], first) for k in m[1:]]),
        "distance": lambda: np.array(
            [*np.cross(s[m[1]][3:6], first[3:6]), sense.side * _gap(first, s[m[1]]) - (r.value or 0.0)]
        ),
        "equal-distance": lambda: np.array(
            [abs(_gap(s[a], s[b])) - abs(_gap(first, s[m[1]])) for a, b in zip(m[2::2], m[3::2], strict=True)]
        ),
        "draft": lambda: _leans(r, s),
        "bolt-circle": lambda: _pattern_unmet(r, s, aux, sense.helper),
        "row": lambda: _pattern_unmet(r, s, aux, sense.helper),
        "mirror": lambda: _mirror_unmet(r, codes, s, aux),
        "through": lambda: _missed(codes[m[0]], first, s[m[1]]),
    }
    return ways[r.kind]()


def _missed(code: int, p: Array, point: Array) -> Array:
    """How far a point lies off a plane, off an axis, or from a centre."""
    off = point[:3] - p[:3]
    if code == PLANE:
        return np.array([float(off @ p[3:6])])
    return off if code in (SPHERE, TORUS) else np.asarray(off - (off @ p[3:6]) * p[3:6])


def _leans(r: Relation, s: Sequence[Array]) -> Array:
    pull = s[r.members[0]][3:6]
    lean = [math.asin(min(abs(float(s[k][3:6] @ pull)), 1.0)) for k in r.members[1:]]
    wanted = lean[0] if r.value is None else r.value
    return np.array([x - wanted for x in (lean[1:] if r.value is None else lean)])


def _same_axis(code: int, p: Array, q: Array) -> Array:
    off = p[:3] - q[:3]
    across = off - (off @ q[3:6]) * q[3:6]
    return across if code == SPHERE else np.array([*np.cross(p[3:6], q[3:6]), *across])


def _mirror_unmet(r: Relation, codes: Sequence[int], s: Sequence[Array], aux: Array) -> Array:
    n = unit(aux[:3])
    out = []
    for a, b in zip(r.members[::2], r.members[1::2], strict=True):
        out.append(_alike(codes[b], _mirrored(s[a], n, float(aux[3])), s[b]))
    return np.concatenate([*out, [float(aux[:3] @ aux[:3]) - 1.0]])
