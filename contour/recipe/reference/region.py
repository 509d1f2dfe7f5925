"""A region: facets that one surface explains."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "RegionRef"]

KIND = ReferenceKind("region", "a region", accepts=("region",), layer="facets")
RegionRef = Annotated[Ref, Points(KIND)]
