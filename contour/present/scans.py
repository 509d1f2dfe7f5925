"""What steps that change a scan have in common: the mesh in, the changed scan and its facts out."""

from __future__ import annotations

from typing import Any

import numpy as np

from contour.mesh.facets import Mesh
from contour.mesh.prepare import PreparedScan, mesh_of, prepare_mesh
from contour.products.scan import ScanFacts, ScanFigures, ScanProduct
from contour.recipe.problem import ContourError, Problem
from contour.recipe.registry import Inputs, Outcome

__all__ = ["changed_scan", "positive", "scan_of"]


def scan_of(inputs: Inputs) -> tuple[PreparedScan, Mesh]:
    """The scan a step works on, and its mesh."""
    product: ScanProduct = inputs.products["scan"]
    return product.scan, mesh_of(product.scan)


def changed_scan(
    id: str,
    scan: PreparedScan,
    mesh: Mesh,
    *,
    count: int,
    moved: float = 0.0,
    problems: tuple[Problem, ...] = (),
    told: type[ScanFigures] = ScanFacts,
    **more: Any,
) -> Outcome:
    """The outcome of a mend of the scan with that id. `count` places changed; 0 is said as a problem that stops nothing: the step does nothing.

    moved, mm. told, more: what else the step tells, where it tells more than that.
    """
    if count == 0:
        problems = (
            *problems,
            Problem(
                code="unchanged", message="there was nothing to do for this step", remedy="switch it off or delete it"
            ),
        )
    made = prepare_mesh(mesh, pose=np.array(scan.pose), raw_facets=scan.raw_facets)
    facts = told(changed=count, moved=moved, facets=len(made.facets), facets_before=len(scan.facets), **more)
    return Outcome({id: ScanProduct(made)}, facts, problems)


def positive(value: float, place: str, what: str) -> float:
    """Raises ContourError (bad-params) for nothing or less. A value of any unit."""
    if value <= 0:
        from contour.recipe.problem import Where

        raise ContourError(
            "bad-params",
            f"{what} must be more than nothing",
            where=Where(param=place),
            got=f"{value:g}",
            need="more than 0",
            remedy="type a larger value",
        )
    return value
