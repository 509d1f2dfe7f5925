"""What a job rests on, one file per kind of evidence."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from contour.recipe.evidence.picture import Picture
from contour.recipe.evidence.reading import Reading
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.evidence.solid import SolidEvidence

__all__ = ["Evidence"]

Evidence = Annotated[ScanEvidence | SolidEvidence | Reading | Picture, Field(discriminator="kind")]
