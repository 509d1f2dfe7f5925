"""What has an axis."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import EdgeRef, EntityRef, FaceRef, Points, Ref, ReferenceKind

__all__ = ["KIND", "AxisRef"]

KIND = ReferenceKind(
    "axis",
    "an axis",
    accepts=("axis", "region"),
    layer="surfaces",
    shapes=("cylinder", "cone", "torus"),
    parts=("face", "edge", "entity"),
    needs="a construction axis, a cylinder, cone or torus, a straight or round edge, or a line or arc of a sketch",
)
AxisRef = Annotated[Ref | FaceRef | EdgeRef | EntityRef, Points(KIND)]
