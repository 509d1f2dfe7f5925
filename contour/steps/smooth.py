"""Smooth: a scan's noise taken out without shrinking it or rounding its edges."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.mesh.facets import Mesh
from contour.mesh.reshape import smoothed
from contour.present.scans import changed_scan, positive, scan_of
from contour.products.scan import ScanFigures
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length, Number, Value

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """No vertex moves farther than `most`, by default three times the scan's noise."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    rounds: Number = Field(default=Value(text="10"), title="Passes", description="how thoroughly, 1 to 100")
    most: Length | None = Field(title="Largest movement", default=None, description="how far a vertex may move")


class SmoothFacts(ScanFigures):
    """noise_before: of the scan as it came to this step, mm."""

    of: Literal["smooth"] = "smooth"
    noise_before: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan, mesh = scan_of(inputs)
    rounds = inputs.values["rounds"]
    if not 1 <= rounds <= 100:
        raise ContourError(
            "bad-params",
            "1 to 100 rounds",
            where=Where(param="rounds"),
            got=f"{rounds:g}",
            need="1 to 100",
            remedy="type a number of rounds between",
        )
    most = positive(inputs.values.get("most", 3 * scan.noise_mm or 0.05 * scan.edge_mm), "most", "the movement")
    points = smoothed(scan, rounds=int(rounds), most_mm=most)
    gap = np.linalg.norm(points - mesh.vertices, axis=1)
    return changed_scan(
        params.scan.id,
        scan,
        Mesh(points, mesh.facets, mesh.source),
        count=int((gap > 1e-6).sum()),
        moved=float(gap.max()),
        told=SmoothFacts,
        noise_before=scan.noise_mm,
    )


KIND: StepKind[Params] = StepKind(
    id="smooth",
    title="Smooth",
    help="Noise taken out, edges and size kept",
    version=1,
    makes="scan",
    params=Params,
    key_value="most",
    run=_run,
    facts=SmoothFacts,
)
