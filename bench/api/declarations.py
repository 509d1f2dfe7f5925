"""What the core declares of itself, once for everybody: kinds of steps with their fields, kinds of references, units, marks and
problem codes. A page repeats none of it."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, get_args

from django.http import HttpRequest
from ninja import Router, Schema

from bench.api.answers import status_of
from contour.metrology.standards.materials import MATERIALS
from contour.recipe.fields import FieldSpec, fields_of
from contour.recipe.formula import LENGTH_UNITS, Dimension, Mark
from contour.recipe.problem import Code
from contour.recipe.reference import REFERENCES
from contour.steps import KINDS

router = Router(tags=["declarations"])


class StartOut(Schema):
    """A selection that begins a kind of step: see ``contour.recipe.registry.Start``."""

    takes: str
    into: str
    shapes: list[str]
    least: int
    most: int
    second: str
    title: str
    seldom: bool
    also: dict[str, Any]


class KindOut(Schema):
    """A kind of step: its fields are all that a form needs. measures: facts that formulas may use, with their dimension. again: a
    step of it can be done again elsewhere."""

    id: str
    title: str
    help: str
    makes: str
    again: bool
    key_value: str
    measures: dict[str, str]
    fields: list[FieldSpec]
    starts: list[StartOut]


class ReferenceOut(Schema):
    """A kind of reference: see contour.recipe.reference.model.ReferenceKind."""

    id: str
    label: str
    accepts: list[str]
    shapes: list[str]
    parts: list[str]
    layer: str
    needs: str


class DeclarationsOut(Schema):
    """units: mm per unit of length. problems: HTTP status by code. materials: their densities, g/cm³."""

    kinds: dict[str, KindOut]
    references: dict[str, ReferenceOut]
    units: dict[str, float]
    dimensions: list[str]
    marks: list[str]
    problems: dict[str, int]
    materials: dict[str, float]


@router.get("", response=DeclarationsOut)
def declarations(request: HttpRequest) -> DeclarationsOut:
    return DeclarationsOut(
        kinds={
            k.id: KindOut(
                id=k.id,
                title=k.title,
                help=k.help,
                makes=k.makes,
                again=bool(k.carries),
                key_value=k.key_value,
                measures=dict(k.measures),
                fields=list(fields_of(k.params, k.key_value)),
                starts=[StartOut(**asdict(s)) for s in k.starts],
            )
            for k in KINDS.values()
        },
        references={
            r.id: ReferenceOut(
                id=r.id,
                label=r.label,
                accepts=list(r.accepts),
                shapes=list(r.shapes),
                parts=list(r.parts),
                layer=r.layer,
                needs=r.needs,
            )
            for r in REFERENCES.values()
        },
        units=dict(LENGTH_UNITS),
        materials={m.name: m.density for m in MATERIALS},
        dimensions=list(get_args(Dimension)),
        marks=list(get_args(Mark)),
        problems={code: status_of(code) for code in sorted(get_args(Code))},
    )
