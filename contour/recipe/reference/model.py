"""What a reference looks like in a recipe, and what a kind of reference declares of itself."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, GetJsonSchemaHandler
from pydantic_core import CoreSchema

__all__ = ["FaceRef", "Points", "Ref", "ReferenceKind", "ScanSpot"]


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


class ScanSpot(BaseModel):
    """A point on a facet of the scan: its number in the file and the weights of its three corners."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    facet: int = Field(ge=0)
    weights: tuple[float, float, float] = (1 / 3, 1 / 3, 1 / 3)


@dataclass(frozen=True, slots=True)
class ReferenceKind:
    """What a field that points somewhere takes; resolving, offers, labels, repair and picking follow from it.

    label: in a sentence, with its article · accepts: kinds of product that it may point to · shapes: of surface, that a
    region must have to serve (empty: any) · faces: whether a face of a body serves as well · layer: what the view offers
    to pick for it · needs: what serves, in words, for a problem.
    """

    id: str
    label: str
    accepts: tuple[str, ...]
    layer: str
    shapes: tuple[str, ...] = ()
    faces: bool = False
    needs: str = ""

    def serves(self, makes: str, surface: str | None = None) -> bool:
        """Whether a product of kind `makes` (of a region: with this kind of surface, none when unknown) can be pointed to."""
        return makes in self.accepts and (
            makes != "region" or not self.shapes or surface is None or surface in self.shapes
        )


@dataclass(frozen=True, slots=True)
class Points:
    """On a field's annotation: what kind of reference it holds. Also told in the JSON Schema, as ``ref``."""

    kind: ReferenceKind

    def __get_pydantic_json_schema__(self, core: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {**handler(core), "ref": self.kind.id}
