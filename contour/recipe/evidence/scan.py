"""A scan as evidence."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from contour.recipe.formula import LengthUnit
from contour.recipe.strict import Strict
from contour.recipe.values import Blob, FacetSet

__all__ = ["LeftAlone", "ScanEvidence"]


class LeftAlone(Strict):
    """A defect that somebody has looked at and leaves as it is; its place in the raw scan's frame, mm."""

    kind: str = Field(max_length=40)
    point: tuple[float, float, float]


class ScanEvidence(Strict):
    """A scan file as it came: its bytes by hash, and the unit the person gave it.

    A reference (a mating part, say) is shown and can be worked on, but the fit is not measured against it. `zone` limits
    the fit to facets painted by hand.
    """

    id: str
    kind: Literal["scan"] = "scan"
    name: str = Field(max_length=200)
    blob: Blob
    format: Literal["stl", "obj", "ply", "3mf", "wrl"]
    unit: LengthUnit
    role: Literal["part", "reference"] = "part"
    zone: FacetSet | None = None
    leave: tuple[LeftAlone, ...] = Field(default=(), max_length=2000)
