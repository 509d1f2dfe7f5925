"""Copies of a body, each with names of its own, as one shape or joined."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from OCP.BRepExtrema import BRepExtrema_DistShapeShape

from contour.geometry.rigid import placement
from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError, Where
from contour.solid.boolean import Operation, combine, common_volume
from contour.solid.extent import bounds
from contour.solid.path import Path
from contour.solid.placed import placed
from contour.solid.shape import NamedShape
from contour.solid.topology.names import together

__all__ = ["along_path", "apart", "copied", "joined", "put_on"]

Array = NDArray[np.float64]
_TOUCH_MM = 1e-6


def copied(body: NamedShape, matrix: Array, *, name: str) -> NamedShape:
    """The body placed elsewhere or mirrored, its faces called ``name[as they were]``. matrix (4, 4), rigid or a reflection, mm. Raises ContourError (body-broken)."""
    made = placed(body, matrix)
    return NamedShape(made.shape, tuple(f"{name}[{n}]" for n in made.names))


def apart(copies: Sequence[NamedShape]) -> bool:
    """Whether no two of them share material: by their boxes, else by what they share."""
    boxes = [bounds(c.shape) for c in copies]
    for k, a in enumerate(boxes):
        for m in range(k + 1, len(boxes)):
            b = boxes[m]
            near = bool((np.maximum(a[0], b[0]) <= np.minimum(a[1], b[1]) + 1e-6).all())
            if near and common_volume(copies[k], copies[m]) > 1e-9:
                return False
    return True


def _touch(a: NamedShape, b: NamedShape) -> bool:
    (low_a, high_a), (low_b, high_b) = bounds(a.shape), bounds(b.shape)
    if (np.maximum(low_a, low_b) > np.minimum(high_a, high_b) + _TOUCH_MM).any():
        return False
    return bool(BRepExtrema_DistShapeShape(a.shape, b.shape).Value() < _TOUCH_MM)


def _along_contacts(body: NamedShape, copies: Sequence[NamedShape]) -> list[NamedShape] | None:
    """The body, then the copies from one that touches it to the next, those that touch nothing last; None where no two copies touch."""
    every = [body, *copies]
    pairs = [(a, b) for a in range(len(every)) for b in range(a + 1, len(every)) if _touch(every[a], every[b])]
    if all(a == 0 for a, _ in pairs):
        return None
    order: list[int] = []
    ahead = [0]
    while ahead:
        k = ahead.pop()
        if k not in order:
            order.append(k)
            ahead += [m for pair in reversed(pairs) if k in pair for m in pair if m not in order]
    return [every[k] for k in (*order, *(k for k in range(len(every)) if k not in order))]


def _grown_together(parts: Sequence[NamedShape]) -> NamedShape:
    """Bodies that each touch the next one as one: neighbours first, then these, and so on. Sectors of a ring grow into halves, and a bore that halves close is
    one face more surely than one that lacks a thin slice. Raises ContourError (body-broken)."""
    rest = list(parts)
    while len(rest) > 1:
        pairs = zip(rest[::2], rest[1::2], strict=False)
        rest = [combine(a, b, "add", what="a copy") for a, b in pairs] + rest[len(rest) // 2 * 2 :]
    return rest[0]


def joined(copies: Sequence[NamedShape]) -> NamedShape:
    """Copies as one body: side by side where they are apart. Raises ContourError (self-crossing) where they run into each other."""
    if not apart(copies):
        raise ContourError(
            "self-crossing",
            "copies run into each other",
            where=Where(param="operation"),
            got="material in the same place",
            need="copies apart from each other",
            remedy="move them further apart, or add them to the body",
        )
    return together(copies)


def put_on(body: NamedShape, copies: Sequence[NamedShape], operation: Operation) -> NamedShape:
    """The body with all copies added or taken away, or what it shares with any of them: at once where they stand clear of each other, else one after the
    other. Copies that touch are no tool that the kernel takes: it finds only some of the faces that they share.

    Raises ContourError (unchanged, body-broken).
    """
    row = _along_contacts(body, copies)
    if row is None and apart(copies):
        return combine(body, together(copies), operation, what="the copies")
    if row is not None and operation == "add":
        try:
            return _grown_together(row)
        except ContourError:
            copies = row[1:]  # some of them touch only what lies elsewhere in the row
    if operation == "intersect":
        first, *rest = copies
        for copy in rest:
            first = combine(first, copy, "add", what="a copy")
        return combine(body, first, "intersect", what="the copies")
    for copy in copies:
        body = combine(body, copy, operation, what="a copy")
    return body


def along_path(path: Path, count: int, pitch: float | None, *, turning: bool) -> list[Array]:
    """Placements (4, 4) from the path's beginning on, so many mm apart along it, or evenly from end to end; turned as the path turns, or not.

    Raises ContourError (bad-params) where the path is too short.
    """
    places, ways = path.places()
    run = np.concatenate([[0.0], np.cumsum([np.linalg.norm(b - a) for a, b in pairwise(places)])])
    gap = run[-1] / max(count if path.closed else count - 1, 1) if pitch is None else pitch
    if gap * (count - 1) > run[-1] + 1e-6:
        raise ContourError(
            "bad-params",
            "the path is too short for so many",
            where=Where(param="gap"),
            got=f"{run[-1]:.3f} mm long",
            need=f"{gap * (count - 1):.3f} mm",
            remedy="type fewer, or nearer to each other",
        )
    at = np.interp(gap * np.arange(count), run, np.arange(len(run)))
    out = []
    turn = np.eye(3)
    before = unit(ways[0])
    last = 0
    for s in at:
        k = min(int(s), len(run) - 2)
        share = float(s) - k
        spot = places[k] + share * (places[k + 1] - places[k])
        # Turned piece by piece, so that it never rolls about the path.
        for way in (*ways[last + 1 : k + 1], unit(ways[k] + share * (ways[k + 1] - ways[k]))):
            turn, before = _bend(before, unit(way)) @ turn, unit(way)
        last = k
        r = turn if turning else np.eye(3)
        out.append(placement(r, spot - r @ places[0]))
    return out


def _bend(a: Array, b: Array) -> Array:
    """The shortest turn of one unit direction onto another, (3, 3)."""
    axis, cos = np.cross(a, b), float(a @ b)
    if np.linalg.norm(axis) < 1e-12:
        return np.eye(3)
    k = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + k + k @ k / (1 + cos))
