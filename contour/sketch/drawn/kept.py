"""A drawing as a step keeps it: sizes apart from their values, so that those are values of the step like any other."""

from __future__ import annotations

import re
from collections.abc import Mapping

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from contour.recipe.formula import Mark
from contour.recipe.values import Angle, Length, Value
from contour.sketch.drawn.linked import Link
from contour.sketch.drawn.text import (
    MOST_ENTITIES,
    Constraint,
    Dimension,
    DimensionKind,
    Drawing,
    Entity,
    Side,
    require_references,
)
from contour.sketch.drawn.under import UnderPicture, UnderSheet
from contour.sketch.taken import TakenLoop

__all__ = ["KeptDrawing", "NamedLoop", "Size", "drawing_of", "kept_of"]

_ID = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,23}")
_NAME = r"^[a-z][a-z0-9_]{0,39}$"


class Size(BaseModel):
    """A dimension by the name that formulas call its value by. reference: it reads what is drawn and drives nothing; the value it had is kept ·
    supplement: an angle is that of the turned second line · moves: which of the two it is between gives way."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: DimensionKind
    of: tuple[str, ...] = Field(min_length=1, max_length=2)
    name: str = Field(pattern=_NAME)
    reference: bool = False
    supplement: bool = False
    moves: Side = "both"


class NamedLoop(BaseModel):
    """A profile's lasting name, and the pieces it had when it was last seen."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str = Field(max_length=60)
    of: tuple[str, ...] = Field(max_length=2000)


class KeptDrawing(BaseModel):
    """Entities by id, what is asked of them, and the values of sizes by name: lengths and angles apart."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    entities: dict[str, Entity] = Field(
        default_factory=dict, max_length=MOST_ENTITIES, description="points, lines, curves by id"
    )
    constraints: list[Constraint] = Field(default_factory=list, max_length=MOST_ENTITIES)
    sizes: list[Size] = Field(
        default_factory=list, max_length=2000, description="dimensions, by the name of their value"
    )
    lengths: dict[str, Length] = Field(default_factory=dict, max_length=2000, description="of sizes, by name")
    angles: dict[str, Angle] = Field(default_factory=dict, max_length=2000, description="of sizes, by name")
    taken: list[TakenLoop] = Field(
        default_factory=list, max_length=500, description="loops of the scan's section that pieces were taken over from"
    )
    links: list[Link] = Field(
        default_factory=list, max_length=500, description="edges, faces, cuts, silhouettes and sketches brought in"
    )
    under: list[UnderSheet] = Field(
        default_factory=list, max_length=20, description="words and blocks of files that lie under it"
    )
    pictures: list[UnderPicture] = Field(
        default_factory=list, max_length=20, description="photos and drawings of the job that lie under it"
    )
    made: int = Field(default=0, ge=0, description="ids ever given: none is given twice")
    named: list[NamedLoop] = Field(
        default_factory=list, max_length=2000, description="names that profiles have been given"
    )

    @field_validator("entities")
    @classmethod
    def _plain_ids(cls, entities: dict[str, Entity]) -> dict[str, Entity]:
        wrong = next((name for name in entities if not _ID.fullmatch(name)), None)
        if wrong is not None:
            raise ValueError(f"'{wrong[:40]}' is no id: a letter, then letters, figures and _")
        return entities

    @model_validator(mode="after")
    def _each_size_has_its_value(self) -> KeptDrawing:
        names = [s.name for s in self.sizes]
        twice = next((n for n in names if names.count(n) > 1), None) if len(set(names)) < len(names) else None
        if twice:
            raise ValueError(f"two sizes are called {twice}: give one of them another name")
        for s in self.sizes:
            own = self.angles if s.kind == "angle" else self.lengths
            if s.name not in own and not s.reference:
                raise ValueError(f"the size {s.name} has no value: type one, or make it a reference size")
        return self


Values = Mapping[str, float]
NO_MARKS: Mapping[str, Mark] = {}
NO_NAMES: Mapping[str, str] = {}


def drawing_of(kept: KeptDrawing, values: Values | None = None) -> Drawing:
    """The drawing to solve. values: what sizes have come to, mm or degrees; none: their formulas as they are typed.

    Raises ContourError (ref-lost, bad-params) at the entity, constraint ("c:0") or size ("d:0").
    """
    dimensions = []
    for s in kept.sizes:
        typed = (kept.angles if s.kind == "angle" else kept.lengths).get(s.name)
        value = None if typed is None else typed.text if values is None else values.get(s.name)
        dimensions.append(
            Dimension(
                kind=s.kind,
                of=s.of,
                value=value,
                reference=s.reference,
                name=s.name,
                supplement=s.supplement,
                moves=s.moves,
            )
        )
    drawing = Drawing(entities=kept.entities, constraints=tuple(kept.constraints), dimensions=tuple(dimensions))
    require_references(drawing)
    return drawing


def kept_of(
    drawing: Drawing, before: KeptDrawing, marks: Mapping[str, Mark] = NO_MARKS, renamed: Mapping[str, str] = NO_NAMES
) -> KeptDrawing:
    """A changed drawing as it is kept: values that were there stay as they were typed, marks and notes too, under another name too (renamed: new names with
    those before); new ones are as marked by name, else assumed."""
    sizes: list[Size] = []
    lengths: dict[str, Value] = {}
    angles: dict[str, Value] = {}
    taken = {d.name for d in drawing.dimensions if d.name}
    for d in drawing.dimensions:
        name = d.name or next(n for k in range(1, 10_000) if (n := f"d{k}") not in taken)
        taken.add(name)
        sizes.append(
            Size(kind=d.kind, of=d.of, name=name, reference=d.reference, supplement=d.supplement, moves=d.moves)
        )
        own, old = (angles, before.angles) if d.kind == "angle" else (lengths, before.lengths)
        was = old.get(renamed.get(name, name))
        text = was.text if d.value is None and was is not None else "" if d.value is None else _typed(d)
        if text:
            own[name] = (
                was if was is not None and was.text == text else Value(text=text, mark=marks.get(name, "assumed"))
            )
    return before.model_copy(
        update={
            "entities": dict(drawing.entities),
            "constraints": list(drawing.constraints),
            "sizes": sizes,
            "lengths": lengths,
            "angles": angles,
        }
    )


def _typed(d: Dimension) -> str:
    if isinstance(d.value, str):
        return d.value
    return f"{d.value:.10g} {'deg' if d.kind == 'angle' else 'mm'}"
