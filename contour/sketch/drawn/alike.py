"""What measured places do not tell apart: radii and lengths that may be one, rings that may mirror one another."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np

from contour.sketch.drawn.text import Arc, Circle, Dimension, Drawing, Line

__all__ = ["Alike", "Measured", "alike_of", "asked_of"]

_FAR = 3.0  # standard uncertainties
_MOST = 60  # of a kind
_SAME = 1e-7  # mm: what differs by less is held to be one already
_KNOWN = 0.02  # of a size: what is known less is like everything
_SHARE = 0.1  # of a size: what differs by more is told apart by eye, however little is known of it


@dataclass(frozen=True, slots=True)
class Alike:
    """equal: entities of one radius or length · symmetric: two rings, then the line between them. off, u: mm, the largest difference and what is
    known of it."""

    kind: Literal["equal", "symmetric"]
    of: tuple[str, ...]
    off: float
    u: float


@dataclass(frozen=True, slots=True)
class Measured:
    """value, u: mm, of what a dimension reads."""

    value: float
    u: float


def asked_of(drawing: Drawing) -> list[Dimension]:
    """What has to be known for it: radii, lengths, and how far rings lie from construction lines. They only read."""
    rings, lines, axes = _parts(drawing)
    out = [Dimension(kind="radius", of=(n,), reference=True) for n in rings]
    out += [Dimension(kind="length", of=(n,), reference=True) for n in lines]
    for axis in axes:
        for n in rings:
            e = drawing.entities[n]
            if isinstance(e, Circle):
                out.append(Dimension(kind="distance", of=(e.centre, axis), reference=True))
    return out


def alike_of(drawing: Drawing, asked: Sequence[Dimension], told: Sequence[Measured | None]) -> list[Alike]:
    """asked: see `asked_of`; told: what each reads, none where nothing tells it. Groups that are one already are not offered."""
    known: dict[tuple[str, tuple[str, ...]], Measured] = {
        (d.kind, d.of): m for d, m in zip(asked, told, strict=True) if m is not None and m.u <= _KNOWN * m.value
    }
    rings, lines, axes = _parts(drawing)
    out: list[Alike] = []
    for kind, names in (("radius", rings), ("length", lines)):
        out += _groups([(n, m) for n in names if (m := known.get((kind, (n,)))) is not None])  # type: ignore[arg-type]
    for axis in axes:
        for a, b in combinations([n for n in rings if isinstance(drawing.entities[n], Circle)], 2):
            found = _mirrored(drawing, known, a, b, axis)
            if found is not None:
                out.append(found)
    return out


def _parts(drawing: Drawing) -> tuple[list[str], list[str], list[str]]:
    """Rings, lines that bound something, construction lines."""
    own = {n: e for n, e in drawing.entities.items() if not e.linked}
    rings = [n for n, e in own.items() if isinstance(e, Circle | Arc) and not e.construction]
    lines = [n for n, e in own.items() if isinstance(e, Line) and not e.construction]
    axes = [n for n, e in drawing.entities.items() if isinstance(e, Line) and e.construction]
    return rings[:_MOST], lines[:_MOST], axes[:6]


def _groups(rows: Sequence[tuple[str, Measured]]) -> list[Alike]:
    """From the smallest on, each as large as all of its members agree with their common mean."""
    out: list[Alike] = []
    left = sorted(rows, key=lambda row: row[1].value)
    while left:
        group = [left.pop(0)]
        while left and _agree([m for _, m in (*group, left[0])]):
            group.append(left.pop(0))
        values = [m.value for _, m in group]
        off = max(values) - min(values)
        if len(group) > 1 and off > _SAME:
            out.append(Alike("equal", tuple(n for n, _ in group), off, math.hypot(*sorted(m.u for _, m in group)[-2:])))
    return out


def _agree(several: Sequence[Measured]) -> bool:
    values, u = np.array([m.value for m in several]), np.array([max(m.u, 1e-9) for m in several])
    if np.ptp(values) > _SHARE * values.max():
        return False
    weights = 1 / u**2
    mean = float(values @ weights / weights.sum())
    return bool((np.abs(values - mean) <= _FAR * np.hypot(u, 1 / math.sqrt(weights.sum()))).all())


def _mirrored(
    drawing: Drawing, known: dict[tuple[str, tuple[str, ...]], Measured], a: str, b: str, axis: str
) -> Alike | None:
    first, second, line = (drawing.entities[n] for n in (a, b, axis))
    assert isinstance(first, Circle) and isinstance(second, Circle) and isinstance(line, Line)
    ends = [np.array(drawing.point(p)) for p in (line.start, line.end)]
    way = (ends[1] - ends[0]) / max(float(np.linalg.norm(ends[1] - ends[0])), 1e-12)
    over = np.array([-way[1], way[0]])
    p, q = (np.array(drawing.point(e.centre)) - ends[0] for e in (first, second))
    far = [known.get(("distance", (e.centre, axis))) for e in (first, second)]
    size = [known.get(("radius", (n,))) for n in (a, b)]
    if any(m is None for m in (*far, *size)) or float(p @ over) * float(q @ over) >= 0:
        return None
    u = math.hypot(far[0].u, far[1].u)  # type: ignore[union-attr]
    off = max(abs(float((p + q) @ over)), abs(float((p - q) @ way)))
    if off <= _SAME or off > _FAR * u or not _agree([m for m in size if m is not None]):
        return None
    return Alike("symmetric", (a, b, axis), off, u)
