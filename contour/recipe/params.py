"""The parameter tree: every value, reference and file in a step's parameters, by place, with what its field declares.

A place is written ``body``, ``bodies[1]``, ``pairs[0].face``, ``sizes[width]``: fields by a dot, members of lists and of
dictionaries in brackets. Validated parameters are walked by their models' annotations; parameters as they are kept (plain
JSON, perhaps of a kind that nobody knows any more) by the shape of what is in them.
"""

from __future__ import annotations

import re
import types
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, Literal, TypeVar, Union, get_args, get_origin

from pydantic import BaseModel

from contour.recipe.formula import Dimension
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference.model import PARTS, PartRef, Points, Ref, ReferenceKind, ScanSpot
from contour.recipe.values import Blob, Measure, Value

__all__ = [
    "Declared",
    "Leaf",
    "PlainLeaf",
    "blobs_in",
    "declarations",
    "declared_at",
    "dimension_at",
    "formula_name_of",
    "get_at",
    "mapped",
    "may_hold",
    "plain_leaves",
    "put_at",
    "reference_at",
    "refs_in",
    "values_in",
    "walk",
]

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Declared:
    """What a field says of what it holds, however deep in lists, dictionaries and unions: the dimension of its values, the kind
    of its references, the models nested in it, the options to choose from, and the other plain types."""

    dimension: Dimension | None = None
    reference: ReferenceKind | None = None
    models: tuple[type[BaseModel], ...] = ()
    options: tuple[str, ...] = ()
    plain: frozenset[type] = frozenset()
    optional: bool = False
    several: Literal["", "list", "dict"] = ""

    def also(self, other: Declared) -> Declared:
        return Declared(
            self.dimension or other.dimension,
            self.reference or other.reference,
            tuple(dict.fromkeys((*self.models, *other.models))),
            (*self.options, *other.options),
            self.plain | other.plain,
            self.optional or other.optional,
            self.several or other.several,
        )


def _of(annotation: Any) -> Declared:
    """What an annotation declares."""
    if annotation is None or annotation is type(None):
        return Declared(optional=True)
    origin = get_origin(annotation)
    if origin is Annotated:
        inner, *marks = get_args(annotation)
        found = _of(inner)
        for mark in marks:
            found = _marked(mark).also(found)
        return found
    if origin is Literal:
        return Declared(options=tuple(str(a) for a in get_args(annotation)))
    if origin in (Union, types.UnionType):
        found = Declared()
        for part in get_args(annotation):
            found = found.also(_of(part))
        return found
    if origin in (list, tuple, dict):
        found = Declared(several="dict" if origin is dict else "list")
        for part in get_args(annotation)[1 if origin is dict else 0 :]:
            if part is not Ellipsis:
                inner = _of(part)
                found = found.also(Declared(inner.dimension, inner.reference, inner.models, (), inner.plain))
        return found
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return Declared(models=(annotation,))
    return Declared(plain=frozenset({annotation})) if isinstance(annotation, type) else Declared()


def _marked(mark: Any) -> Declared:
    if isinstance(mark, Measure):
        return Declared(dimension=mark.dimension)
    if isinstance(mark, Points):
        return Declared(reference=mark.kind)
    return Declared()


@cache
def declarations(model: type[BaseModel]) -> Mapping[str, Declared]:
    """What each field of a model declares, in their order."""
    out = {}
    for name, field in model.model_fields.items():
        found = _of(field.annotation)
        for mark in field.metadata:
            found = _marked(mark).also(found)
        out[name] = found
    return out


@dataclass(frozen=True, slots=True)
class Leaf:
    """A value, reference, spot or file of validated parameters, where it stands, and what its field declares."""

    place: str
    value: Value | Ref | PartRef | ScanSpot | Blob
    declared: Declared


_LEAVES = (Value, Ref, PartRef, ScanSpot, Blob)


@cache
def may_hold(model: type[BaseModel]) -> Mapping[str, Declared]:
    """The fields of a model under which a leaf can stand, by what they declare: an outline that was taken over has hundreds of places and no leaf."""
    out: dict[str, Declared] = {}
    for name, declared in declarations(model).items():
        kinds = (*declared.models, *declared.plain)
        untold = not (kinds or declared.options) or declared.plain & {Any, object}
        if (
            untold
            or any(issubclass(k, _LEAVES) for k in kinds)
            or any(m is model or may_hold(m) for m in declared.models)
        ):
            out[name] = declared
    return out


def walk(params: BaseModel) -> Iterator[Leaf]:
    """Every leaf of validated parameters, in the order of their fields."""
    for name, declared in may_hold(type(params)).items():
        yield from _walked(getattr(params, name), name, declared)


def _walked(value: Any, place: str, declared: Declared) -> Iterator[Leaf]:
    if isinstance(value, _LEAVES):
        yield Leaf(place, value, declared)
    elif isinstance(value, BaseModel):
        for name, inner in may_hold(type(value)).items():
            yield from _walked(getattr(value, name), f"{place}.{name}", inner)
    elif isinstance(value, Mapping):
        for key, inner in value.items():
            yield from _walked(inner, f"{place}[{key}]", declared)
    elif isinstance(value, list | tuple):
        for i, inner in enumerate(value):
            if isinstance(inner, int | float):
                return  # figures: nothing to find, however long the list
            yield from _walked(inner, f"{place}[{i}]", declared)


def refs_in(params: BaseModel) -> dict[str, Ref | PartRef]:
    """Every reference by its place."""
    return {leaf.place: leaf.value for leaf in walk(params) if isinstance(leaf.value, Ref | PartRef)}


def values_in(params: BaseModel) -> dict[str, Value]:
    """Every typed value by its place."""
    return {leaf.place: leaf.value for leaf in walk(params) if isinstance(leaf.value, Value)}


def blobs_in(value: Any) -> Iterator[Blob]:
    """Every kept file that validated models, or what holds them, name."""
    declared = Declared()
    yield from (leaf.value for leaf in _walked(value, "", declared) if isinstance(leaf.value, Blob))


def _parts(place: str) -> list[str]:
    return [p for p in re.split(r"[.\[\]]+", place) if p]


def declared_at(model: type[BaseModel], place: str) -> Declared:
    """What the field at a place declares; raises ContourError (bad-params) for a place that the model has not."""
    models: tuple[type[BaseModel], ...] = (model,)
    found: Declared | None = None
    for part in _parts(re.sub(r"\[[^\]]*\]", "", place)):
        found = next((declarations(m)[part] for m in models if part in m.model_fields), None)
        if found is None:
            break
        models = found.models
    if found is None:
        raise ContourError(
            "bad-params",
            "the step has no such parameter",
            where=Where(param=place[:200]),
            need=", ".join(model.model_fields),
            got=place[:60],
            remedy="name one of its parameters",
        )
    return found


def dimension_at(model: type[BaseModel], place: str) -> Dimension:
    """The dimension of the values at a place; raises ContourError (bad-params) for a place that holds no value."""
    found = declared_at(model, place).dimension
    if found is None:
        raise ContourError(
            "bad-params",
            "there is no value at this place of the step",
            where=Where(param=place[:200]),
            got=place[:60],
            need="a place that holds a value",
            remedy="name one of the step's values",
        )
    return found


def reference_at(model: type[BaseModel], place: str) -> ReferenceKind:
    """The kind of the references at a place; raises ContourError (bad-params) for a place that holds none."""
    found = declared_at(model, place).reference
    if found is None:
        raise ContourError(
            "bad-params",
            "nothing is pointed to at this place",
            where=Where(param=place[:200]),
            got=place[:60],
            need="a place that points to something",
            remedy="name one of the step's references",
        )
    return found


def get_at(plain: Any, place: str) -> Any:
    """What stands at a place of plain parameters; raises KeyError, IndexError for a place that is not there."""
    for part in _parts(place):
        plain = plain[int(part)] if isinstance(plain, list) else plain[part]
    return plain


def put_at(plain: Any, place: str, new: Any) -> None:
    """Set what stands at a place of plain parameters; raises KeyError, IndexError for a place that is not there."""
    *way, last = _parts(place)
    for part in way:
        plain = plain[int(part)] if isinstance(plain, list) else plain[part]
    if isinstance(plain, list):
        plain[int(last)] = new
    else:
        plain[last] = new


@dataclass(frozen=True, slots=True)
class PlainLeaf:
    """In plain parameters: `what` is a value (has a text), a reference by id, or one to a part of something.

    of: id of what a part is part of · called: the part's lasting name.
    """

    place: str
    what: Literal["value", "ref", "part"]
    said: Mapping[str, Any]
    of: str = ""
    called: str = ""


def _part(value: Mapping[str, Any]) -> tuple[str, str] | None:
    """Id of the whole and name of the part, where that is what it says."""
    for model in PARTS.values():
        of, called = value.get(model.whole), value.get(model.said)
        if isinstance(of, str) and isinstance(called, str):
            return of, called
    return None


def _what(value: Mapping[str, Any]) -> Literal["value", "ref", "part"] | None:
    if isinstance(value.get("text"), str):
        return "value"
    if _part(value) is not None:
        return "part"
    return "ref" if isinstance(value.get("id"), str) else None


def plain_leaves(value: Any, place: str = "") -> Iterator[PlainLeaf]:
    """Every value and reference of plain parameters, whatever kind of step they are for."""
    if isinstance(value, dict):
        what = _what(value)
        if what is not None:
            yield PlainLeaf(place, what, value, *(_part(value) or ()))
        if what in (None, "ref"):  # what has an id may hold more
            for name, inner in value.items():
                yield from plain_leaves(inner, f"{place}.{name}" if place else name)
    elif isinstance(value, list) and value and isinstance(value[0], dict):
        for i, inner in enumerate(value):
            yield from plain_leaves(inner, f"{place}[{i}]")


def mapped(value: T, change: Callable[[str], str]) -> T:
    """Plain parameters with every formula changed."""
    if isinstance(value, dict):
        if _what(value) == "value":
            return {**value, "text": change(value["text"])}  # type: ignore[return-value]
        return {k: mapped(v, change) for k, v in value.items()}  # type: ignore[return-value]
    if isinstance(value, list) and value and isinstance(value[0], dict):
        return [mapped(v, change) for v in value]  # type: ignore[return-value]
    return value


def formula_name_of(place: str, fields: Mapping[str, Any]) -> str:
    """What formulas call the value at a place: members of a dictionary by their own name (``sketch_1.width``), unless a field of
    the step has that name; others by the way to them.

    >>> formula_name_of("sizes[width]", {"sizes": 0}), formula_name_of("pairs[0].offset", {"pairs": 0})
    ('width', 'pairs_0_offset')
    """
    parts = _parts(place)
    last = parts[-1]
    if place.endswith(f"[{last}]") and not last.isdigit() and last not in fields:
        return last
    return "_".join(parts)
