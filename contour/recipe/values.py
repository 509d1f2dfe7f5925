"""What a step's parameters are made of: values with provenance, references by id, sets of facets."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

from contour.recipe.formula import Dimension, LengthUnit, Lookup, Mark, Quantity, evaluate
from contour.recipe.problem import ContourError, Where

__all__ = [
    "ACCEPTS",
    "Angle",
    "AxisRef",
    "Blob",
    "BodyRef",
    "FaceRef",
    "FacetSet",
    "FileBlob",
    "Length",
    "Mark",
    "Number",
    "PlaceRef",
    "PlaneRef",
    "PointRef",
    "Ref",
    "RegionRef",
    "ScanRef",
    "SketchRef",
    "SurfaceRef",
    "Value",
    "blobs_in",
    "dimension_of",
    "facets_from_bytes",
    "facets_to_bytes",
    "ref_kind",
    "refs_in",
    "values_in",
]


class Value(BaseModel):
    """A typed quantity and where it comes from. `text` is kept as typed; it is resolved on every build."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    text: str = Field(max_length=400)
    mark: Mark = "assumed"
    note: str = Field(default="", max_length=300, description="what it was chosen from, in plain words")

    def resolve(self, dimension: Dimension, unit: LengthUnit, lookup: Lookup | None = None) -> Quantity:
        """mm, degrees or a number, marked by its weakest leaf.

        Raises ContourError (bad-formula, mixed-dimensions, unknown-name).
        """
        return evaluate(self.text, dimension=dimension, unit=unit, lookup=lookup, mark=self.mark)


class Ref(BaseModel):
    """Points to an earlier step or a piece of evidence by its id."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str


class FaceRef(BaseModel):
    """Points to a face of a body by the face's lasting name.

    `kind` and `beside` (names of its neighbours) are what stays the same when sizes change: they tell fragments
    apart when the name alone does not. `place` is where the face was when it was picked; it is shown when the
    reference is lost and never used to settle it.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    body: str
    name: str = Field(max_length=2000)
    kind: str = ""
    beside: tuple[str, ...] = Field(default=(), max_length=400)
    place: tuple[float, float, float] | None = None


class Blob(str):
    """A kept file by the SHA-256 of its bytes, 64 hex digits. A type of its own, so that whoever takes parameters from outside
    finds every file they name, whatever the field is called (:func:`blobs_in`)."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema(pattern=r"^[0-9a-f]{64}$"))


class FacetSet(BaseModel):
    """Facets picked by hand: raw facet numbers (sorted uint32, little endian) kept as a blob under its hash."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    blob: Blob
    count: int = Field(ge=1)


class FileBlob(BaseModel):
    """A file that a step needs, kept under its hash."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    blob: Blob
    name: str = Field(max_length=200)


Length = Annotated[Value, Field(json_schema_extra={"dimension": "length"})]
Angle = Annotated[Value, Field(json_schema_extra={"dimension": "angle"})]
Number = Annotated[Value, Field(json_schema_extra={"dimension": "number"})]
ScanRef = Annotated[Ref, Field(json_schema_extra={"ref": "scan"})]
RegionRef = Annotated[Ref, Field(json_schema_extra={"ref": "region"})]
SketchRef = Annotated[Ref, Field(json_schema_extra={"ref": "sketch"})]
BodyRef = Annotated[Ref, Field(json_schema_extra={"ref": "body"})]
# What has a plane, an axis, a middle: a construction step, a region, or a face of a body.
PlaneRef = Annotated[Ref | FaceRef, Field(json_schema_extra={"ref": "plane"})]
AxisRef = Annotated[Ref | FaceRef, Field(json_schema_extra={"ref": "axis"})]
PointRef = Annotated[Ref | FaceRef, Field(json_schema_extra={"ref": "point"})]
PlaceRef = Annotated[Ref | FaceRef, Field(json_schema_extra={"ref": "place"})]
SurfaceRef = Annotated[Ref, Field(json_schema_extra={"ref": "surface"})]
RefKind = Literal["scan", "region", "sketch", "body", "plane", "axis", "point", "surface", "place"]
# What kinds of steps a reference that is neither a scan nor a body may point to.
ACCEPTS: dict[str, tuple[str, ...]] = {
    "region": ("region",),
    "sketch": ("sketch",),
    "plane": ("plane", "region", "sketch"),
    "axis": ("axis", "region"),
    "point": ("point", "region"),
    "surface": ("region", "plane"),
    "place": ("plane", "axis", "point", "region", "sketch"),
}


def _walk(value: Any, place: str) -> Iterator[tuple[str, Any]]:
    if isinstance(value, Value | Ref | FaceRef | FacetSet):
        yield place, value
    elif isinstance(value, BaseModel):
        for name in type(value).model_fields:
            yield from _walk(getattr(value, name), f"{place}.{name}" if place else name)
    elif isinstance(value, list | tuple):
        for i, item in enumerate(value):
            if not isinstance(item, Value | Ref | FaceRef | BaseModel):
                return  # figures and names: nothing to find, however long the list
            yield from _walk(item, f"{place}[{i}]")


def refs_in(params: BaseModel) -> dict[str, Ref | FaceRef]:
    """Every reference in a step's parameters by its place: ``body``, ``bodies[1]``, ``pairs[0].face``."""
    return {place: v for place, v in _walk(params, "") if isinstance(v, Ref | FaceRef)}


def values_in(params: BaseModel) -> dict[str, Value]:
    """Every typed value in a step's parameters by its place."""
    return {place: v for place, v in _walk(params, "") if isinstance(v, Value)}


def blobs_in(value: Any) -> Iterator[Blob]:
    """Every kept file that validated models, and what they hold, name."""
    if isinstance(value, Blob):
        yield value
    elif isinstance(value, BaseModel):
        for name in type(value).model_fields:
            yield from blobs_in(getattr(value, name))
    elif isinstance(value, dict):
        for inner in value.values():
            yield from blobs_in(inner)
    elif isinstance(value, list | tuple) and not (value and isinstance(value[0], int | float)):
        for inner in value:
            yield from blobs_in(inner)


@cache
def _schema(params: type[BaseModel]) -> dict[str, Any]:
    return params.model_json_schema()


def _hint(params: type[BaseModel], place: str, hint: str) -> str | None:
    """A hint that a field's annotation carries, found along a place such as ``pairs[0].region``."""
    schema = _schema(params)
    node: dict[str, Any] = schema
    found: str | None = None
    for part in place.split("."):
        name = part.split("[")[0]
        if name not in node.get("properties", {}):
            return None
        node = node["properties"][name]
        options = [node, *node.get("anyOf", [])]
        options += [o["items"] for o in options if isinstance(o.get("items"), dict)]
        found = next((str(o[hint]) for o in options if hint in o), None)
        target = next((o["$ref"] for o in options if "$ref" in o), None)
        if target is not None:
            node = schema["$defs"][target.rsplit("/", 1)[1]]
    return found


def dimension_of(params: type[BaseModel], place: str) -> Dimension:
    """The dimension that a value's field declares; raises ContourError (bad-params) for a place that holds no value."""
    found = _hint(params, place, "dimension")
    if found not in ("length", "angle", "number"):
        raise ContourError("bad-params", "there is no value at this place of the step", where=Where(param=place[:200]))
    return found  # type: ignore[return-value]


def ref_kind(params: type[BaseModel], place: str) -> RefKind:
    """What a reference's field asks for."""
    found = _hint(params, place, "ref")
    if found not in ("scan", "body", *ACCEPTS):
        raise KeyError(f"{place} has no 'ref' hint")
    return found  # type: ignore[return-value]


def facets_to_bytes(source_facets: NDArray[np.int64]) -> bytes:
    """Raw facet numbers as they are kept under their hash: sorted, unique, uint32, little endian."""
    return np.unique(source_facets).astype("<u4").tobytes()


def facets_from_bytes(data: bytes) -> NDArray[np.int64]:
    """Back again; raises ContourError (ref-lost) when the bytes are something else."""
    if len(data) % 4:
        raise ContourError(
            "ref-lost", "the picked facets cannot be read", got=f"{len(data)} bytes", remedy="pick them again"
        )
    return np.frombuffer(data, "<u4").astype(np.int64)
