"""Acts done one after the other, and the drawing solved after them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal, get_args

from pydantic import Field

from contour.recipe.formula import LengthUnit, Lookup, Mark, Quantity, committed, evaluate
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.asking import Asking, Pull, ask
from contour.sketch.drawn.acts.copies import Copying, copy
from contour.sketch.drawn.acts.corners import Corner, break_corner
from contour.sketch.drawn.acts.cutting import Cutting, cut
from contour.sketch.drawn.acts.fewer import Fewer, fewer
from contour.sketch.drawn.acts.filing import Filing, file_in
from contour.sketch.drawn.acts.flush import LieFlush, lie_flush
from contour.sketch.drawn.acts.linking import Linking, bring_in
from contour.sketch.drawn.acts.pen import Pen
from contour.sketch.drawn.acts.redrawing import Redraw, redraw
from contour.sketch.drawn.acts.shapes import Shape, draw
from contour.sketch.drawn.acts.taking import Taking, take
from contour.sketch.drawn.dimensions import dimension_values
from contour.sketch.drawn.kept import KeptDrawing, NamedLoop, drawing_of, kept_of
from contour.sketch.drawn.linked import Link
from contour.sketch.drawn.profiles import Profiles, profiles_of, region_names
from contour.sketch.drawn.solution import Drag, Solution, solved
from contour.sketch.drawn.text import Dimension, Drawing
from contour.sketch.drawn.under import UnderSheet
from contour.sketch.entities import LoopName
from contour.sketch.taken import TakenLoop

__all__ = ["AnyAct", "Done", "Worked", "done", "worked"]

AnyAct = Annotated[
    Shape | Asking | Cutting | Copying | Corner | Taking | Filing | Linking | LieFlush | Redraw | Fewer,
    Field(discriminator="act"),
]


_FAMILIES: tuple[tuple[Any, Callable[[Pen, Any], None]], ...] = (
    (Shape, draw),
    (Asking, ask),
    (Cutting, cut),
    (Copying, copy),
    (Corner, break_corner),
    (Taking, take),
    (Filing, file_in),
)
_DOES = {kind: does for family, does in _FAMILIES for kind in get_args(get_args(family)[0])} | {
    Linking: bring_in,
    LieFlush: lie_flush,
    Redraw: redraw,
    Fewer: fewer,
}


@dataclass(frozen=True, slots=True)
class Done:
    """made: ids ever given, to go on with · taken: loops that pieces were taken from · links: what was brought in · under: sheets under it · marks: of new values, by name · renamed: new names of sizes with those they had · chosen: what the last act made or changed."""

    drawing: Drawing
    made: int
    taken: tuple[TakenLoop, ...]
    links: tuple[Link, ...]
    under: tuple[UnderSheet, ...]
    marks: Mapping[str, Mark]
    renamed: Mapping[str, str]
    chosen: tuple[str, ...]


def done(
    drawing: Drawing,
    acts: Sequence[AnyAct],
    *,
    made: int,
    taken: Sequence[TakenLoop] = (),
    links: Sequence[Link] = (),
    under: Sequence[UnderSheet] = (),
    lookup: Lookup | None = None,
    unit: LengthUnit = "mm",
) -> Done:
    """The drawing after acts, not solved yet; formulas have the unit beside bare numbers. Raises ContourError of the first that cannot be done."""
    pen = Pen(drawing, made, lambda text, dimension: _number(pen, text, dimension, lookup, unit), taken, links, under)
    for act in acts:
        _DOES[type(act)](pen, act)
    pen.dimensions = [
        d.model_copy(update={"value": _committed(pen, d, lookup, unit)}) if isinstance(d.value, str) else d
        for d in pen.dimensions
    ]
    return Done(
        pen.drawing(),
        pen.made,
        tuple(pen.taken),
        _still_drawn(pen),
        tuple(pen.under),
        dict(pen.marks),
        dict(pen.renamed),
        tuple(n for n in pen.chosen if n in pen.entities),
    )


def _still_drawn(pen: Pen) -> tuple[Link, ...]:
    """Links without what was taken out of the drawing; none that nothing is left of."""
    left = (
        link.model_copy(update={"pieces": {k: n for k, n in link.pieces.items() if n in pen.entities}})
        for link in pen.links
    )
    return tuple(link for link in left if link.pieces)


@dataclass(frozen=True, slots=True)
class Worked:
    """kept: as a step keeps it, where it has settled · chosen: what the last act made or changed."""

    kept: KeptDrawing
    solution: Solution
    profiles: Profiles
    chosen: tuple[str, ...]


def worked(
    kept: KeptDrawing, acts: Sequence[AnyAct], *, lookup: Lookup | None = None, unit: LengthUnit = "mm"
) -> Worked:
    """Acts done on a kept drawing, and where it settles then; where it cannot, everything stays where it is drawn.

    Raises ContourError of the first act that cannot be done, or of what cannot be understood.
    """
    after = done(
        drawing_of(kept),
        acts,
        made=kept.made,
        taken=kept.taken,
        links=kept.links,
        under=kept.under,
        lookup=lookup,
        unit=unit,
    )
    drawing = after.drawing
    if acts and isinstance(acts[-1], Pull):
        # What is under the hand goes where the hand goes; the rest follows.
        followed = Drag(drawing_of(kept), acts[-1].point, lookup).to(acts[-1].to)
        drawing = followed or drawing_of(kept)
    solution = solved(drawing, lookup)
    profiles = profiles_of(solution.drawing)
    given = [LoopName(n.name, n.of) for n in kept.named]
    names = region_names(profiles.regions, given)
    now = kept_of(solution.drawing, kept, after.marks, after.renamed).model_copy(
        update={
            "made": after.made,
            "taken": list(after.taken),
            "links": list(after.links),
            "under": list(after.under),
            "named": [
                NamedLoop(name=name, of=tuple(p.id for p in r.outer))
                for name, r in zip(names, profiles.regions, strict=True)
            ],
        }
    )
    return Worked(now, solution, profiles, after.chosen)


def _committed(pen: Pen, d: Dimension, lookup: Lookup | None, unit: LengthUnit) -> str:
    dimension: Literal["angle", "length"] = "angle" if d.kind == "angle" else "length"
    return committed(str(d.value), dimension=dimension, unit=unit, lookup=_names(pen.drawing(), lookup))


def _names(drawing: Drawing, lookup: Lookup | None) -> Lookup:
    """Formulas of what is drawn may name the sizes that are there."""

    def look(name: str) -> Quantity:
        if any(d.name == name for d in drawing.dimensions):
            for d, value in zip(drawing.dimensions, dimension_values(drawing, lookup), strict=True):
                if d.name == name and value is not None:
                    return Quantity(value, 0 if d.kind == "angle" else 1, 1 if d.kind == "angle" else 0)
        if lookup is None:
            raise KeyError(name)
        return lookup(name)

    return look


def _number(pen: Pen, text: str, dimension: str, lookup: Lookup | None, unit: LengthUnit) -> float:
    value = evaluate(
        text, dimension="angle" if dimension == "angle" else "length", unit=unit, lookup=_names(pen.drawing(), lookup)
    ).value
    if not abs(value) <= 1e6:
        raise ContourError(
            "bad-params",
            "this is beyond any drawing",
            got=f"{value:g}",
            need="no more than 1,000,000",
            remedy="type a smaller value",
        )
    return value
