"""A solid from a file as evidence."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from contour.recipe.formula import LengthUnit
from contour.recipe.strict import Strict
from contour.recipe.values import Blob

__all__ = ["SolidEvidence"]


class SolidEvidence(Strict):
    """A STEP or IGES file as it came. `unit`: what a person says its figures are in, none: what the file says. `earlier`: the
    versions of the file that this one has taken the place of, oldest first: what they had in common keeps its names."""

    id: str
    kind: Literal["solid"] = "solid"
    name: str = Field(max_length=200)
    blob: Blob
    format: Literal["step", "iges"]
    unit: LengthUnit | None = None
    earlier: tuple[Blob, ...] = Field(default=(), max_length=200)
