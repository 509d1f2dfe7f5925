"""A flat file read for a drawing, as somebody chose: its unit, layers, and whether its pieces are taken or lie under it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from contour.exchange.flat.flat_file import read_flat
from contour.exchange.flat.shapes import FlatDrawing, Layer, LeftOut, scaled
from contour.recipe.formula import LENGTH_UNITS, LengthUnit
from contour.recipe.problem import ContourError, Problem, Where
from contour.sketch.drawn.filed import drawn_from
from contour.sketch.drawn.text import Entity
from contour.sketch.drawn.under import UnderSheet, under_of

__all__ = ["Choice", "SheetRead", "read_sheet", "require_unit"]

# Layers by which a written drawing tells what bounds nothing.
_ASIDE = frozenset({"construction", "brought in"})
_LIKELY_MM = (5.0, 3000.0)  # what a part reaches over
_MOST_TOLD = 500


@dataclass(frozen=True, slots=True)
class Choice:
    """unit: none: as the file says · layers: none: all that are switched on · blocks: what they show becomes pieces too · under: pieces lie under
    the drawing as well, and none is taken · to_zero: its lower left corner comes to the drawing's zero."""

    unit: LengthUnit | None = None
    layers: frozenset[str] | None = None
    blocks: bool = False
    under: bool = False
    to_zero: bool = False


@dataclass(frozen=True, slots=True)
class SheetRead:
    """unit_mm: of one unit of the file, none where it says nothing and nobody chose · likely: the unit it is taken for then · size: how far it
    reaches, its own units · aside: what lies under the drawing, as it stands in the file · entities: in mm, none where there are more than a drawing can have: refused then says so · pieces: how many of
    them are no corners."""

    unit_mm: float | None
    said: bool
    likely: LengthUnit
    size: tuple[float, float]
    layers: tuple[Layer, ...]
    entities: dict[str, Entity]
    pieces: int
    under: UnderSheet | None
    left_out: tuple[LeftOut, ...]
    aside: tuple[LeftOut, ...]
    refused: Problem | None


def read_sheet(path: Path, choice: Choice, name: str | None = None) -> SheetRead:
    """name: of the file, where its path does not say it. Raises ContourError (see `read_flat`)."""
    name = name or path.name
    found = read_flat(path, blocks=choice.blocks, name=name)
    layers = tuple(found.layers())
    wanted = choice.layers
    shown = found.only(lambda n: n in wanted if wanted is not None else n not in found.hidden)
    low, high = shown.bounds() or ((0.0, 0.0), (0.0, 0.0))
    size = (high[0] - low[0], high[1] - low[1])
    factor = LENGTH_UNITS[choice.unit] if choice.unit else found.unit_mm
    k = factor or LENGTH_UNITS[_likely(size)]
    moved = (-k * low[0], -k * low[1]) if choice.to_zero else (0.0, 0.0)
    placed = scaled(shown, k, moved)
    refused: Problem | None = None
    entities: dict[str, Entity] = {}
    pieces, left = 0, list(placed.left_out)
    if not choice.under:
        try:
            drawn = drawn_from(placed, construction=_ASIDE)
            entities, pieces = drawn.entities, drawn.pieces
            left += drawn.left_out
        except ContourError as error:
            refused = error.at(file=name).problem
    under, no_room = under_of(placed, name, all_of_it=choice.under)
    left += no_room
    if wanted is None:
        left += _switched_off(found)
    return SheetRead(
        factor,
        found.unit_mm is not None,
        _likely(size),
        size,
        layers,
        entities,
        pieces,
        under,
        _told(left),
        _told(placed.aside),
        refused,
    )


def require_unit(read: SheetRead, name: str) -> None:
    """Raises ContourError (unit-unknown) where neither the file nor anybody says what its numbers are."""
    if read.unit_mm is None:
        width, height = read.size
        raise ContourError(
            "unit-unknown",
            "the file does not say what unit it is in",
            where=Where(file=name, param="--unit"),
            got=f"{width:.6g} × {height:.6g} of something",
            need="mm, cm, m or inch",
            remedy=f"say which: for a part of that size it is likely {read.likely}",
        )


def _likely(size: tuple[float, float]) -> LengthUnit:
    reach = max(size)
    units: tuple[LengthUnit, ...] = ("mm", "inch", "cm", "m")
    return next((u for u in units if _LIKELY_MM[0] <= reach * LENGTH_UNITS[u] <= _LIKELY_MM[1]), "mm")


def _switched_off(found: FlatDrawing) -> list[LeftOut]:
    count = Counter((p.layer, type(p.shape).__name__.lower()) for p in found.pieces if p.layer in found.hidden)
    return [
        LeftOut(kind, layer, "its layer is switched off in the file", None, n) for (layer, kind), n in count.items()
    ]


def _told(left: Sequence[LeftOut]) -> tuple[LeftOut, ...]:
    """The first ones each with its place, the many others counted."""
    rest = Counter((o.kind, o.layer, o.why) for o in left[_MOST_TOLD:] for _ in range(min(o.count, 100_000)))
    others = [LeftOut(kind, layer, why, None, n) for (kind, layer, why), n in rest.items()]
    return (*left[:_MOST_TOLD], *others)
