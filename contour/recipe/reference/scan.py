"""A scan of the job, as it is just above the step."""

from __future__ import annotations

from typing import Annotated

from contour.recipe.reference.model import Points, Ref, ReferenceKind

__all__ = ["KIND", "ScanRef"]

KIND = ReferenceKind("scan", "a scan", accepts=("scan",), layer="scans")
ScanRef = Annotated[Ref, Points(KIND)]
