"""A kept drawing against measured places: how far off it is, and what its sizes come to when it is adjusted to them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.intent.rounding import rounding_of, said
from contour.recipe.formula import LENGTH_UNITS, LengthUnit, Lookup, Mark, names_in
from contour.recipe.values import Value
from contour.sketch.drawn.adjust import Adjusted, adjusted
from contour.sketch.drawn.alike import Alike, Measured, alike_of, asked_of
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.nearness import belonging, off
from contour.sketch.drawn.solution import solved
from contour.sketch.drawn.text import Drawing
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["SECTION", "FittedDrawing", "FittedRow", "Source", "Strayed", "fitted", "strayed"]

Array = NDArray[np.float64]
_NEAR = 0.04  # of the drawing's size: what lies further off is something else


@dataclass(frozen=True, slots=True)
class Source:
    """What places were measured in. changes: marks of values that it may change · relative_u, u_mm, u_deg: standard uncertainties that all its places
    share, of lengths by their size, of every length, of angles."""

    mark: Mark
    words: str
    changes: tuple[Mark, ...]
    relative_u: float = 0.0
    u_mm: float = 0.0
    u_deg: float = 0.0

    def widened(self, value: float, u: float | None, *, angle: bool) -> float | None:
        if u is None:
            return None
        return math.hypot(u, self.u_deg) if angle else math.hypot(u, self.u_mm, self.relative_u * value)


SECTION = Source("scan", "the section", ("assumed", "scan", "photo"))


@dataclass(frozen=True, slots=True)
class FittedRow:
    """A size by name: before, value, u in mm or degrees · held: why it keeps its value, in words; "" where it is adjusted · round: a round value
    that the places do not speak against, as one would type it."""

    name: str
    before: float
    value: float
    u: float | None
    held: str = ""
    round: str | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Strayed:
    """places, feet (n, 2), off (n,): of places that belong to something, mm, + outside or to the left · entity (n,): which, by its place in names ·
    names: what bounds something · alone: which of these no place lies near."""

    places: Array
    feet: Array
    off: Array
    entity: NDArray[np.int64]
    names: tuple[str, ...]
    alone: tuple[str, ...]


@dataclass(frozen=True, slots=True, eq=False)
class FittedDrawing:
    """kept: the drawing where it fits best, adjusted sizes marked as from the scan · alike: what the places do not tell apart."""

    kept: KeptDrawing
    rows: tuple[FittedRow, ...]
    found: Adjusted
    alike: tuple[Alike, ...] = ()


def strayed(drawing: Drawing, chains: Sequence[Array]) -> Strayed:
    """How far measured places (n, 2), mm, are from what is drawn; those next to a corner belong to it too, and are measured to the nearest place."""
    points = np.vstack([np.asarray(c, float).reshape(-1, 2) for c in chains]) if chains else np.zeros((0, 2))
    u = Unknowns(drawing)
    b = belonging(drawing, points, _NEAR * u.extent())
    own = np.flatnonzero(b.owner >= 0)
    gap = np.linalg.norm(points[own] - b.foot[own], axis=1)
    x = np.array(u.start)
    side = np.zeros(len(own))
    for k, name in enumerate(b.names):
        rows = np.flatnonzero(b.owner[own] == k)
        if len(rows):
            side[rows] = np.sign(off(u, x, name, points[own[rows]])[0])
    counts = np.bincount(b.owner[own], minlength=len(b.names))
    alone = tuple(n for n, c in zip(b.names, counts, strict=True) if c == 0)
    return Strayed(points[own], b.foot[own], gap * side, b.owner[own], b.names, alone)


def fitted(
    kept: KeptDrawing,
    chains: Sequence[Array],
    *,
    lookup: Lookup | None = None,
    unit: LengthUnit = "mm",
    source: Source = SECTION,
) -> FittedDrawing:
    """Everything that is only assumed, or was told by the like of this source before, adjusted to measured places at once.

    Values from elsewhere (a caliper, a drawing, a standard …) are kept, as are formulas that name others, and what these name. Raises ContourError as
    :func:`contour.sketch.drawn.adjust.adjusted` does.
    """
    drawing = drawing_of(kept)
    why = _held(kept, source)
    asked = asked_of(drawing)
    wide = drawing.model_copy(update={"dimensions": (*drawing.dimensions, *asked)})
    found = adjusted(wide, chains, held=why.keys(), lookup=lookup)
    count = len(drawing.dimensions)
    told_of = [Measured(s.value, s.u) if s.u else None for s in found.sizes[count:]]
    alike = alike_of(found.drawing, asked, told_of)
    angles = [d.kind == "angle" for d in drawing.dimensions]
    sizes = [
        replace(s, u=source.widened(s.value, s.u, angle=a)) for s, a in zip(found.sizes[:count], angles, strict=True)
    ]
    found = replace(
        found, drawing=found.drawing.model_copy(update={"dimensions": drawing.dimensions}), sizes=tuple(sizes)
    )
    told = [(s.value, s.u) for d, s in zip(drawing.dimensions, found.sizes, strict=True) if s.u and d.kind != "angle"]
    rounding = rounding_of(told)
    rows, lengths, turns = [], dict(kept.lengths), dict(kept.angles)
    for k, (size, s) in enumerate(zip(kept.sizes, found.sizes, strict=True)):
        near = rounding.near(s.value, s.u) if s.u and size.kind != "angle" and k not in why else None
        rows.append(
            FittedRow(
                size.name, s.before, s.value, s.u, why.get(k, ""), None if near is None else said(near, rounding.system)
            )
        )
        if k in why or size.reference:
            continue
        own = turns if size.kind == "angle" else lengths
        sure = "" if s.u is None else f", ± {s.u:.2g} {'deg' if size.kind == 'angle' else 'mm'}"
        note = f"fitted to {source.words}{sure}"
        own[size.name] = Value(text=_typed(s.value, size.kind == "angle", unit), mark=source.mark, note=note)
    settled = solved(
        found.drawing.model_copy(
            update={"dimensions": drawing_of(kept.model_copy(update={"lengths": lengths, "angles": turns})).dimensions}
        ),
        lookup,
    )
    moved = settled.drawing if settled.solved else found.drawing
    now = kept.model_copy(update={"entities": dict(moved.entities), "lengths": lengths, "angles": turns})
    return FittedDrawing(now, tuple(rows), found, tuple(alike))


def _typed(value: float, angle: bool, unit: LengthUnit) -> str:
    if angle:
        return f"{value:.6g} deg"
    return f"{value / LENGTH_UNITS[unit]:.7g} {unit}"


def _held(kept: KeptDrawing, source: Source) -> dict[int, str]:
    """Places of sizes that keep their value, and why."""
    place = {s.name: k for k, s in enumerate(kept.sizes)}
    out: dict[int, str] = {}
    for k, s in enumerate(kept.sizes):
        value = (kept.angles if s.kind == "angle" else kept.lengths).get(s.name)
        if s.reference or value is None:
            continue
        if value.mark not in source.changes:
            out[k] = f"by {value.mark}"
        names = names_in(value.text)
        if names:
            out[k] = "a formula"
            out |= {place[n]: "named by a formula" for n in names if n in place and place[n] not in out}
    return out
