"""A step that adds material to a body or takes some away, as another one does it again."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "FeatureRef"]

KIND = ReferenceKind(
    "feature",
    "a step that works on a body",
    accepts=("body",),
    layer="steps",
    needs="a step that adds to a body or takes from it",
    again=True,
)
FeatureRef = Annotated[Ref, Points(KIND)]
