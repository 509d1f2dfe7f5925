"""What a step's parameters are made of: values with provenance and references by id."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.recipe.formula import Dimension, LengthUnit, evaluate

__all__ = ["BodyRef", "Length", "Mark", "Ref", "RegionRef", "ScanRef", "SketchRef", "Value", "refs_in"]

Mark = Literal["scan", "caliper", "photo", "drawing", "solid", "standard", "intent", "assumed"]


class Value(BaseModel):
    """A typed quantity and where it comes from. `text` is kept as typed; it is resolved on every build."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    text: str = Field(max_length=200)
    mark: Mark = "assumed"

    def resolve(self, dimension: Dimension, unit: LengthUnit) -> float:
        """mm, degrees or a number; raises ContourError (bad-formula, mixed-dimensions)."""
        return evaluate(self.text, dimension=dimension, unit=unit)


class Ref(BaseModel):
    """Points to an earlier step or a piece of evidence by its id."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str


Length = Annotated[Value, Field(json_schema_extra={"dimension": "length"})]
ScanRef = Annotated[Ref, Field(json_schema_extra={"ref": "scan"})]
RegionRef = Annotated[Ref, Field(json_schema_extra={"ref": "region"})]
SketchRef = Annotated[Ref, Field(json_schema_extra={"ref": "sketch"})]
BodyRef = Annotated[Ref, Field(json_schema_extra={"ref": "body"})]


def refs_in(params: BaseModel) -> dict[str, Ref]:
    """Every reference of a step's parameters by field name (direct fields; lists as ``name[i]``)."""
    found: dict[str, Ref] = {}
    for name in type(params).model_fields:
        value = getattr(params, name)
        if isinstance(value, Ref):
            found[name] = value
        elif isinstance(value, list | tuple):
            found.update({f"{name}[{i}]": v for i, v in enumerate(value) if isinstance(v, Ref)})
    return found
