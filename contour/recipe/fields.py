"""A step kind's parameters as a finished tree of fields: what a form shows, in which order, under which condition.

Whoever shows a form reads this alone; nobody interprets a JSON Schema.
"""

from __future__ import annotations

from functools import cache
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict
from pydantic.fields import FieldInfo

from contour.recipe.formula import Dimension
from contour.recipe.params import Declared, declarations
from contour.recipe.reference.model import PARTS, FaceRef, PartRef, Ref, ScanSpot
from contour.recipe.values import FacetSet, FileBlob, Value

__all__ = ["FieldSpec", "FieldType", "fields_of"]

FieldType = Literal[
    "value",
    "choice",
    "switch",
    "count",
    "words",
    "ref",
    "refs",
    "face",
    "spot",
    "facets",
    "file",
    "group",
    "rows",
    "other",
]


class FieldSpec(BaseModel):
    """One field. dimension: of a value · options: of a choice, with titles where a value does not read well · reference: kind of what a ref or refs points to · ids: whole things serve ·
    parts: kinds of parts that serve · fallback: what stands there when nothing is said · when: shown only while the fields named
    have one of the values given · fold: title of the fold it is put away in · main: shown, and edited, in the step's row ·
    fields: of a group, or of each of several rows."""

    model_config = ConfigDict(frozen=True)

    name: str
    label: str
    help: str = ""
    type: FieldType
    dimension: Dimension | None = None
    options: tuple[str, ...] = ()
    option_titles: dict[str, str] = {}
    reference: str | None = None
    ids: bool = False
    parts: tuple[str, ...] = ()
    optional: bool = False
    needed: bool = False
    fallback: Any = None
    when: dict[str, list[Any]] = {}
    fold: str = ""
    main: bool = False
    fields: tuple[FieldSpec, ...] = ()


_MODELS: tuple[tuple[type[BaseModel], FieldType], ...] = (
    (FacetSet, "facets"),
    (FileBlob, "file"),
    (ScanSpot, "spot"),
    (FaceRef, "face"),
)


def _type_of(declared: Declared) -> FieldType:
    if Value in declared.models:
        return "value" if not declared.several else "rows"
    if declared.reference is not None:
        return "refs" if declared.several else "ref"
    for model, known in _MODELS:
        if model in declared.models and not declared.several:
            return known
    if declared.models:
        return "rows" if declared.several else "group"
    if declared.several:
        return "other"
    if declared.options:
        return "choice"
    for plain, known in ((bool, "switch"), (str, "words"), (int, "count")):
        if plain in declared.plain:
            return known
    return "other"


def _said(name: str) -> str:
    return name.replace("_", " ").capitalize()


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    return list(value) if isinstance(value, tuple) else value


def _field(name: str, field: FieldInfo, declared: Declared, main: str) -> FieldSpec:
    hints = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
    default = None if field.is_required() else field.get_default(call_default_factory=True, validated_data={})
    kind = _type_of(declared)
    inner = (
        [m for m in declared.models if not issubclass(m, Ref | PartRef | Value)] if kind in ("group", "rows") else []
    )
    return FieldSpec(
        name=name,
        label=field.title or _said(name),
        help=field.description or "",
        type=kind,
        dimension=declared.dimension,
        options=declared.options,
        option_titles={str(k): str(v) for k, v in dict(hints.get("titles", {})).items()},  # type: ignore[arg-type]
        reference=declared.reference.id if declared.reference else None,
        ids=Ref in declared.models,
        parts=tuple(part for part, model in PARTS.items() if model in declared.models),
        optional=declared.optional,
        needed=field.is_required(),
        fallback=_plain(default),
        when=dict(hints.get("when", {})),  # type: ignore[arg-type]
        fold=str(hints.get("fold", "")),
        main=name == main,
        fields=tuple(spec for model in inner for spec in fields_of(model)),
    )


def fields_of(model: type[BaseModel], main: str = "") -> tuple[FieldSpec, ...]:
    """The fields of a model in their order. `main` names the one that is shown in the step's row."""
    return _fields_of(model, main)


@cache
def _fields_of(model: type[BaseModel], main: str) -> tuple[FieldSpec, ...]:
    declared = declarations(model)
    return tuple(_field(name, field, declared[name], main) for name, field in model.model_fields.items())
