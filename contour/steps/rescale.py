"""Rescale: a scan brought to the size that readings say it has."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.facets import Mesh
from contour.present.scans import changed_scan, scan_of
from contour.products.scan import ScanFigures
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Number, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """About the scan's own origin. For a scanner's scale error, not for a wrong unit: that is said of the file."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    factor: Annotated[Number, Field(description="what every length is multiplied by")] = Value(text="1")


class RescaleFacts(ScanFigures):
    """factor: what lengths were multiplied by."""

    of: Literal["rescale"] = "rescale"
    factor: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    factor = inputs.values["factor"]
    if not 0.9 <= factor <= 1.1:
        raise ContourError(
            "bad-params",
            "no scanner is that far out of scale",
            where=Where(param="factor"),
            got=f"{factor:g}",
            need="0.9 to 1.1",
            remedy="check the unit the scan was read in",
        )
    # The pose maps raw points; it stays rigid, so that placements below keep their meaning, and the scale is said apart.
    origin = scan.pose[:3, 3]
    moved = origin + (mesh.vertices - origin) * factor
    count = 0 if factor == 1 else len(mesh.vertices)
    largest = float(abs(moved - mesh.vertices).max()) if count else 0.0
    return changed_scan(
        params.scan.id,
        scan,
        Mesh(moved, mesh.facets, mesh.source),
        count=count,
        moved=largest,
        told=RescaleFacts,
        factor=factor,
    )


KIND: StepKind[Params] = StepKind(
    id="rescale",
    title="Rescale",
    help="A scan brought to the size readings say",
    version=1,
    makes="scan",
    params=Params,
    key_value="factor",
    run=_run,
    facts=RescaleFacts,
)
