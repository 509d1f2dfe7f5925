"""Solids that run through sections: straight from one to the next, or smoothly, leaving their ends as is wanted and led by guides."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError, Where
from contour.solid.guides import led
from contour.solid.path import Path
from contour.solid.sections import Column, Outline, Section, columns_of, wall_direction
from contour.solid.shape import NamedShape
from contour.solid.skin import CURVED, Wall, capped_skin

__all__ = ["End", "Leaving", "loft"]

Array = NDArray[np.float64]
Leaving = Literal["free", "square", "tangent"]


@dataclass(frozen=True, slots=True)
class End:
    """How walls leave a section: as they come, square to it, or as the faces behind it go on; weight: how far that reaches in, 1 is even."""

    leaving: Leaving = "free"
    weight: float = 1.0


def loft(
    sections: Sequence[Section],
    *,
    straight: bool = False,
    first: End = End(),
    last: End = End(),
    guides: Sequence[Path] = (),
    prefix: str,
) -> NamedShape:
    """The solid through two or more sections in their order.

    Walls are named ``prefix.side[entity:entity]`` after the pieces they run between, of more than two straight ones with ``:number`` of the stretch; ends
    ``prefix.start[profile]`` and ``prefix.end[profile]``. Raises ContourError (bad-params, wrong-kind, body-broken).
    """
    _require_sections(sections)
    groups = list(zip(*(_paired(sections[0], s) for s in sections), strict=True))
    at = _parameters(groups[0])
    free = End()
    ends = tuple(
        (free if straight else end, _ahead(sections, k)) for k, end in zip((0, -1), (first, last), strict=True)
    )
    rings: list[list[Wall]] = []
    for outlines in groups:
        walls = _ring(*columns_of(outlines), at, (ends[0], ends[1]), prefix)
        if straight:
            walls = [stretch for wall in walls for stretch in _stretches(wall)]
        # Guides meet the outer outline; openings run on as they would without them.
        rings.append(led(walls, guides) if guides and not rings else walls)
    names = (f"{prefix}.start[{sections[0].name}]", f"{prefix}.end[{sections[-1].name}]")
    return capped_skin(rings, names, doing="running through the sections")


def _require_sections(sections: Sequence[Section]) -> None:
    if len(sections) < 2:
        raise ContourError(
            "bad-params",
            "it takes two sections or more",
            where=Where(param="sections"),
            got=len(sections),
            need="at least 2",
            remedy="choose another sketch, or a face it begins or ends at",
        )
    counts = [len(s.outlines) for s in sections]
    if len(set(counts)) > 1:
        raise ContourError(
            "bad-params",
            "the sections have unlike numbers of openings",
            where=Where(param="sections"),
            got=", ".join(str(c - 1) for c in counts),
            need="as many in each",
            remedy="draw the openings in all sections, or cut them afterwards",
        )
    for a, b in pairwise(sections):
        away = b.outlines[0].middle() - a.outlines[0].middle()
        size = float(np.linalg.norm(away))
        if size < 1e-4:
            at = a.outlines[0].middle()
            raise ContourError(
                "bad-params",
                "two sections lie on each other",
                where=Where(param="sections", point=(float(at[0]), float(at[1]), float(at[2]))),
                got=f"{size:.4f} mm from middle to middle",
                need="sections apart from each other",
                remedy="put one of them on another plane, or leave it away",
            )


def _paired(first: Section, other: Section) -> list[Outline]:
    """The outlines of a section in the order of those they answer in the first one: openings by the nearest middle."""
    left = list(other.outlines[1:])
    out = [other.outlines[0]]
    shift = other.outlines[0].middle() - first.outlines[0].middle()
    for o in first.outlines[1:]:
        k = int(np.argmin([np.linalg.norm(p.middle() - shift - o.middle()) for p in left]))
        out.append(left.pop(k))
    return out


def _parameters(outlines: Sequence[Outline]) -> Array:
    """From 0 to 1, by the way from middle to middle and how far outlines go in or out between them."""
    grid = np.arange(16) / 16
    spread = [np.linalg.norm(o.at(grid) - o.middle(), axis=1).mean() for o in outlines]
    steps = [
        float(np.hypot(np.linalg.norm(b.middle() - a.middle()), t - s))
        for (a, b), (s, t) in zip(pairwise(outlines), pairwise(spread), strict=True)
    ]
    run = np.cumsum([0.0, *steps])
    return np.asarray(run / run[-1])


def _ahead(sections: Sequence[Section], end: int) -> Array:
    """The normal of an end's plane, towards the other sections at the first and away from them at the last, times the length of it all: (3,)."""
    middles = [s.outlines[0].middle() for s in sections]
    way = (middles[1] - middles[0]) if end == 0 else (middles[-1] - middles[-2])
    n = sections[end].frame.normal
    length = float(np.linalg.norm(np.diff(middles, axis=0), axis=1).sum())
    return np.asarray(n * (1.0 if n @ way >= 0 else -1.0) * length)


def _ring(
    outlines: Sequence[Outline],
    columns: Sequence[Column],
    at: Array,
    ends: tuple[tuple[End, Array], tuple[End, Array]],
    prefix: str,
) -> list[Wall]:
    """Walls round one of the outlines, each from the first section to the last."""
    tangent = any(end.leaving == "tangent" for end, _ in ends)
    counts = [2 if c.straight and not tangent else CURVED for c in columns]
    leaves, arrives = (_slopes(outlines[k], k, columns, counts, *end) for k, end in zip((0, -1), ends, strict=True))
    walls = []
    for i, (column, count) in enumerate(zip(columns, counts, strict=True)):
        rows = [o.at(np.linspace(*span, count)) for o, span in zip(outlines, column.spans, strict=True)]
        name = f"{prefix}.side[{column.names[0]}:{column.names[1]}]"
        walls.append(Wall(name, np.stack(rows, axis=1), at, leaves[i], arrives[i]))
    return walls


def _stretches(wall: Wall) -> list[Wall]:
    """A wall that goes straight from section to section, in as many walls."""
    if len(wall.at) == 2:
        return [wall]
    name = wall.name.removesuffix("]")
    pairs = range(len(wall.at) - 1)
    return [Wall(f"{name}:{k + 1}]", wall.places[:, k : k + 2], wall.at[k : k + 2]) for k in pairs]


def _slopes(
    outline: Outline, which: int, columns: Sequence[Column], counts: Sequence[int], end: End, ahead: Array
) -> list[Array] | list[None]:
    """How the walls leave a section, (k, 3) each, mm on the whole way; neighbours alike where they meet."""
    if end.leaving == "free":
        return [None] * len(columns)
    length, way = float(np.linalg.norm(ahead)) * end.weight, unit(ahead)
    if end.leaving == "square":
        return [np.tile(way * length, (n, 1)) for n in counts]
    out, normals = [], []
    known = outline.shares()
    for column, count in zip(columns, counts, strict=True):
        a, b = column.spans[which]
        k = outline.within((a + b) / 2)
        turns = np.floor((a + b) / 2)
        own = np.clip((np.linspace(a, b, count) - turns - known[k]) / (known[k + 1] - known[k]), 0, 1)
        out.append(np.array([wall_direction(outline, k, float(s), way) for s in own]))
        alongs = [outline.pieces[k].at(float(s))[1] for s in (own[0], own[-1])]
        normals.append([np.cross(d, t) for d, t in zip((out[-1][0], out[-1][-1]), alongs, strict=True)])
    fade = [(1 - np.linspace(0, 1, n)) ** 2 for n in counts]
    fixes = [np.zeros_like(d) for d in out]
    for i in range(len(columns)):
        j = (i + 1) % len(columns)
        # Where two walls meet at an angle, their common edge is the one way that lies in both.
        common = np.cross(normals[i][1], normals[j][0])
        joint = unit(common) if np.linalg.norm(common) > 1e-6 else unit(out[i][-1] + out[j][0])
        joint = joint if joint @ way > 0 else -joint
        fixes[i] += fade[i][::-1, None] * (joint - out[i][-1])
        fixes[j] += fade[j][:, None] * (joint - out[j][0])
    return [(d + f) * length for d, f in zip(out, fixes, strict=True)]
