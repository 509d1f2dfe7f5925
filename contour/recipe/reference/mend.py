"""A step that changed a scan, for what the scan was before it."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "MendRef"]

KIND = ReferenceKind(
    "mend",
    "a step that changed the scan",
    accepts=("scan",),
    layer="steps",
    needs="a step above this one that changed the same scan",
    again=True,
)
MendRef = Annotated[Ref, Points(KIND)]
