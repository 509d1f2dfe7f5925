"""Mirror symmetry of a part's surfaces: each has its image, and how much of the area does.

Candidate planes lie halfway between surfaces that could be each other's image; the one that most area agrees to is kept, and those
that stand square on it and hold by themselves.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from contour.construct.place import Array
from contour.geometry.vectors import unit
from contour.intent.features import FAR, LEAST_MM, Feature, Proposal, direction_u, radius_u
from contour.intent.relation import Relation

__all__ = ["mirrors"]

_LEAST_SHARE = 0.8
_MOST_CANDIDATES = 400


def _image(point: Array, n: Array, d: float) -> Array:
    return point - 2 * (float(point @ n) - d) * n


def _size_alike(a: Feature, b: Feature) -> bool:
    s, t = a.surface, b.surface
    if s.kind != t.kind or s.outward != t.outward or not 0.8 < a.area / max(b.area, 1e-9) < 1.25:
        return False
    if s.kind == "plane":
        return True
    if s.kind == "cone":
        return abs(s.half_angle - t.half_angle) < math.radians(0.3)
    return abs(s.radius - t.radius) <= FAR * math.hypot(radius_u(a), radius_u(b))


def _off(a: Feature, b: Feature, n: Array, d: float) -> float | None:
    """How far b lies from a's image, in units of what both are known to; None when it is another surface altogether."""
    if not _size_alike(a, b):
        return None
    at = _image(np.array(a.middle), n, d)
    # Middles are facets somewhere amidst a face: they tell faces apart, not where they are.
    if np.linalg.norm(at - np.array(b.middle)) > 1.0 + 0.6 * math.sqrt(max(a.area, b.area)):
        return None
    origin = _image(np.array(a.surface.origin), n, d)
    gap = origin - np.array(b.surface.origin)
    u = math.sqrt(a.u.position**2 + b.u.position**2 + (2 * LEAST_MM) ** 2)
    if a.surface.kind == "sphere":
        away = float(np.linalg.norm(gap)) / u
        return away if away <= 2 * FAR else None
    axis = np.array(a.surface.axis) - 2 * float(np.array(a.surface.axis) @ n) * n
    other = np.array(b.surface.axis)
    turn = math.acos(min(abs(float(axis @ other)), 1.0)) / math.hypot(direction_u(a), direction_u(b))
    if a.surface.kind == "plane":
        if float(axis @ other) < 0.9:
            return None
        reach = np.array(b.middle) - at
        lean = float(np.linalg.norm(reach)) * min(direction_u(a), direction_u(b))
        away = abs(float((at - np.array(b.middle)) @ other)) / math.hypot(u, lean)
    else:
        along = float(gap @ other)
        away = float(np.linalg.norm(gap - along * other)) / math.hypot(u, abs(along) * direction_u(b))
    worst = max(turn, away)
    return worst if worst <= 2 * FAR else None


def _candidates(rows: Sequence[Feature]) -> list[tuple[Array, float]]:
    """Planes halfway between two surfaces that look like each other's image, largest first."""
    out: list[tuple[float, Array, float]] = []
    for a, b in itertools.combinations(rows, 2):
        if not _size_alike(a, b):
            continue
        na, nb = np.array(a.surface.axis), np.array(b.surface.axis)
        if a.surface.kind == "plane":
            if float(na @ nb) > 0.9:
                continue
            n = unit(na - nb)
            # The plane through which b is a's image: points of both as far from it.
            d = (
                0.5 * (float(np.array(a.middle) @ na) - float(np.array(b.middle) @ nb)) / max(float(na @ n), 1e-9)
                if abs(float(na @ nb)) > 0.999
                else 0.5 * float((np.array(a.middle) + np.array(b.middle)) @ n)
            )
        else:
            gap = np.array(b.surface.origin) - np.array(a.surface.origin)
            if a.surface.kind != "sphere" and abs(float(na @ nb)) > 0.99:
                gap = gap - float(gap @ na) * na
            if np.linalg.norm(gap) < 1.0:
                continue
            n = unit(gap)
            d = 0.5 * float((np.array(a.surface.origin) + np.array(b.surface.origin)) @ n)
        out.append((a.area + b.area, n, d))
    out.sort(key=lambda c: -c[0])
    return [(n, d) for _, n, d in out[:_MOST_CANDIDATES]]


def _pairing(rows: Sequence[Feature], n: Array, d: float) -> tuple[list[tuple[int, int]], float, float]:
    """(pairs of places in rows, a surface that is its own image with itself; share of the area; worst away)."""
    pairs: list[tuple[int, int]] = []
    taken: set[int] = set()
    matched, worst = 0.0, 0.0
    for i, a in enumerate(rows):
        if i in taken:
            continue
        best: tuple[float, int] | None = None
        for j in range(i, len(rows)):
            if j in taken:
                continue
            off = _off(a, rows[j], n, d)
            if off is not None and (best is None or off < best[0]):
                best = (off, j)
        if best is None:
            continue
        j = best[1]
        pairs.append((i, j))
        taken |= {i, j}
        matched += a.area + (rows[j].area if j != i else 0.0)
        worst = max(worst, best[0])
    return pairs, matched / max(sum(f.area for f in rows), 1e-9), worst


def mirrors(features: Sequence[Feature]) -> list[Proposal]:
    """Symmetry planes of the functional surfaces; at least two pairs must lie on both sides."""
    rows = sorted((f for f in features if not f.blend and direction_u(f) < math.radians(0.5)), key=lambda f: -f.area)[
        :60
    ]
    found: list[tuple[float, Array, float, list[tuple[int, int]], float]] = []
    for n, d in _candidates(rows):
        if any(
            abs(float(n @ m)) > 0.999 and abs(d - math.copysign(1.0, float(n @ m)) * e) < 0.5 for _, m, e, _, _ in found
        ):
            continue
        pairs, share, worst = _pairing(rows, n, d)
        across = sum(i != j for i, j in pairs)
        if share >= _LEAST_SHARE and across >= 2:
            found.append((share, n, d, pairs, worst))
    out = []
    for share, _, _, pairs, worst in sorted(found, key=lambda f: -f[0])[:3]:
        crossing = [(rows[i].id, rows[j].id) for i, j in pairs if i != j]
        ids = tuple(k for pair in crossing for k in pair)
        text = f"{len(crossing)} pairs of faces are each other's mirror image, {100 * share:.0f} % of the area agrees"
        out.append(Proposal("mirror", ids, text, worst, Relation("mirror", ids), share=share))
    return out
