"""What a reference looks like in a recipe, and what a kind of reference declares of itself.

Whole things (scans, regions, sketches, bodies …) are pointed to by the id of the step or evidence that made them; parts of them
(a face, an edge, an entity) by the id of the whole and the part's lasting name.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, ClassVar, Protocol

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, GetJsonSchemaHandler
from pydantic_core import CoreSchema

from contour.recipe.reference.aliases import present_name

__all__ = [
    "PARTS",
    "Candidate",
    "ChainRef",
    "EdgeRef",
    "EntityRef",
    "FaceRef",
    "OldName",
    "PartRef",
    "PartResolver",
    "Points",
    "ProfileRef",
    "Ref",
    "ReferenceKind",
    "ScanSpot",
    "VertexRef",
]

# A name as earlier versions wrote it is read as what it is called now, and so is rewritten with the step's next edit.
OldName = AfterValidator(present_name)
Name = Annotated[str, Field(max_length=4000), OldName]
Names = Annotated[tuple[Name, ...], Field(max_length=400)]
Spot = tuple[float, float, float]


class Ref(BaseModel):
    """Points to an earlier step or a piece of evidence by its id."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str


class PartRef(BaseModel):
    """Points to a part of something by the part's lasting name.

    part: kind of the part · whole: what it is part of, which is also the field that has its id · said: the field that has
    the name. `place` is where it was when it was picked, mm; it is shown when the reference is lost and never used to settle it.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    part: ClassVar[str]
    whole: ClassVar[str]
    said: ClassVar[str]

    place: Spot | None = None

    @property
    def owner(self) -> str:
        """Id of what it is part of."""
        return str(getattr(self, self.whole))

    @property
    def called(self) -> str:
        """The part's lasting name, as it was when it was picked."""
        return str(getattr(self, self.said))

    def instead(self, other: Candidate) -> PartRef:
        """The same reference, meaning another part of the same whole."""
        told = {
            k: other.said[k] for k in ("kind", "beside", "ends") if k in type(self).model_fields and k in other.said
        }
        return type(self).model_validate(
            {self.whole: self.owner, self.said: other.name, "place": other.said.get("centre"), **told}
        )


class FaceRef(PartRef):
    """A face of a body. `kind` and `beside` (names of its neighbours) are what stays the same when sizes change: they tell
    fragments apart when the name alone does not."""

    part: ClassVar[str] = "face"
    whole: ClassVar[str] = "body"
    said: ClassVar[str] = "name"

    body: str
    name: Name
    kind: str = ""
    beside: Names = ()


class EdgeRef(PartRef):
    """An edge of a body, by its faces. `kind` is its curve; `ends` are the faces at its ends."""

    part: ClassVar[str] = "edge"
    whole: ClassVar[str] = "body"
    said: ClassVar[str] = "edge"

    body: str
    edge: Name
    kind: str = ""
    ends: Names = ()


class ChainRef(PartRef):
    """Edges of a body that run on into one another without a bend, by one of them."""

    part: ClassVar[str] = "chain"
    whole: ClassVar[str] = "body"
    said: ClassVar[str] = "chain"

    body: str
    chain: Name
    kind: str = ""
    ends: Names = ()


class VertexRef(PartRef):
    """A corner of a body, by the faces that meet in it."""

    part: ClassVar[str] = "vertex"
    whole: ClassVar[str] = "body"
    said: ClassVar[str] = "vertex"

    body: str
    vertex: Name


class ProfileRef(PartRef):
    """A closed profile of a sketch, by the name of its outer loop."""

    part: ClassVar[str] = "profile"
    whole: ClassVar[str] = "sketch"
    said: ClassVar[str] = "profile"

    sketch: str
    profile: Annotated[str, Field(max_length=100)]


class EntityRef(PartRef):
    """A line, arc or curve of a sketch, by its permanent id."""

    part: ClassVar[str] = "entity"
    whole: ClassVar[str] = "sketch"
    said: ClassVar[str] = "entity"

    sketch: str
    entity: Annotated[str, Field(max_length=100)]


PARTS: dict[str, type[PartRef]] = {m.part: m for m in (FaceRef, EdgeRef, ChainRef, VertexRef, ProfileRef, EntityRef)}


class ScanSpot(BaseModel):
    """A point on a facet of the scan: its number in the file and the weights of its three corners."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    facet: int = Field(ge=0)
    weights: tuple[float, float, float] = (1 / 3, 1 / 3, 1 / 3)


@dataclass(frozen=True, slots=True)
class Candidate:
    """A part that may be meant where a reference does not resolve. `kin`: descends from what was meant · `said`: what is
    known of it (kind, place, size)."""

    name: str
    kin: bool
    said: Mapping[str, Any] = field(default_factory=dict)


class PartResolver(Protocol):
    """How parts of one kind are found in a kept product, by whoever knows such products: see ``ProductKind.parts``."""

    def present(self, ref: Any, folder: Path) -> tuple[str, ...]:
        """Present names of what the reference means: one, or several where it means several. Raises ContourError
        (ref-lost) when nothing descends from it, (ref-ambiguous) when it cannot be told which is meant."""

    def candidates(self, ref: Any, folder: Path, most: int = 6) -> list[Candidate]:
        """What to offer for its repair, the likeliest first."""

    def label(self, name: str, steps: Mapping[str, str] | None = None) -> str:
        """A part's name as a person reads it; `steps` maps the first eight characters of steps' ids to their names."""


@dataclass(frozen=True, slots=True)
class ReferenceKind:
    """What a field that points somewhere takes; resolving, offers, labels, repair and picking follow from it.

    label: in a sentence, with its article · accepts: kinds of product that it may point to · shapes: of surface, that a
    region must have to serve (empty: any) · parts: kinds of parts that serve as well · layer: what the view offers
    to pick for it · needs: what serves, in words, for a problem · again: it points to the step itself, and what that was done with is
    what it gives.
    """

    id: str
    label: str
    accepts: tuple[str, ...]
    layer: str
    shapes: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    needs: str = ""
    again: bool = False

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
