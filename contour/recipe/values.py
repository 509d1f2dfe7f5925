"""What a step's parameters are made of beside references: values with provenance, kept files, sets of facets."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from contour.recipe.formula import Dimension, LengthUnit, Lookup, Mark, Quantity, evaluate
from contour.recipe.problem import ContourError, Where

__all__ = [
    "Angle",
    "Blob",
    "FacetSet",
    "FileBlob",
    "Length",
    "Mark",
    "Measure",
    "Number",
    "Value",
    "facets_from_bytes",
    "facets_to_bytes",
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


@dataclass(frozen=True, slots=True)
class Measure:
    """On a field's annotation: the dimension of the values it holds. Also told in the JSON Schema."""

    dimension: Dimension

    def __get_pydantic_json_schema__(self, core: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {**handler(core), "dimension": self.dimension}


Length = Annotated[Value, Measure("length")]
Angle = Annotated[Value, Measure("angle")]
Number = Annotated[Value, Measure("number")]


def facets_to_bytes(source_facets: NDArray[np.int64]) -> bytes:
    """Raw facet numbers as they are kept under their hash: sorted, unique, uint32, little endian. Ids (k,)."""
    return np.unique(source_facets).astype("<u4").tobytes()


def facets_from_bytes(data: bytes) -> NDArray[np.int64]:
    """Back again; raises ContourError (ref-lost) when the bytes are something else. Ids (k,) int64."""
    if len(data) % 4:
        raise ContourError(
            "ref-lost",
            "the picked facets cannot be read",
            got=f"{len(data)} bytes",
            need="whole numbers of 4 bytes",
            where=Where(param="picked"),
            remedy="pick them again",
        )
    return np.frombuffer(data, "<u4").astype(np.int64)
