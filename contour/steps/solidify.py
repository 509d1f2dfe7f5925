"""Faces to solid: a modelled mesh turned into a solid in one go."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.products.body import BodyFigures, BodyProduct
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import Length

__all__ = ["KIND", "Params"]

_TOLD = 20  # open places that are told one by one


class Params(BaseModel):
    """For meshes exported from a model: every face is found with its exact surface, trimmed by its neighbours and sewn to them."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef = Field(title="Mesh", description="a mesh that was modelled, not scanned")
    tolerance: Length | None = Field(
        default=None, description="how far vertices may lie off their surface; by the file's own rounding when empty"
    )


class SolidifyFacts(BodyFigures):
    """closed: the faces close a solid without a gap · valid: the kernel finds nothing wrong · planes … freeform: faces by kind · flat_facets: facets
    that no surface explains, left as flat faces · gaps: places where the mesh is open · tolerance mm."""

    of: Literal["solidify"] = "solidify"
    closed: bool
    valid: bool
    planes: int
    cylinders: int
    cones: int
    spheres: int
    tori: int
    freeform: int
    flat_facets: int
    gaps: int
    tolerance: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.shape import write_shape
    from contour.solid.solidify import solidify

    scan: ScanProduct = inputs.products["scan"]
    tolerance = inputs.values.get("tolerance")
    if tolerance is not None and not 1e-6 <= tolerance <= 1:
        raise ContourError(
            "bad-params",
            "vertices cannot be allowed to lie so far off",
            where=Where(param="tolerance"),
            got=f"{tolerance:g} mm",
            need="0.000001 to 1 mm",
            remedy="leave it empty: the file's own rounding is taken",
        )
    made = solidify(scan.scan, tolerance_mm=tolerance, prefix=f"{inputs.step[:8]}.face")
    problems = [
        Problem(
            code="open-end",
            message=f"the mesh is open here, along {place.width:.3g} mm",
            where=Where(param="scan", point=place.place),
            remedy="fill the hole in the mesh first, then this closes as well",
        )
        for place in made.open[:_TOLD]
    ]
    if not made.open and not (made.closed and made.valid):
        problems.append(
            Problem(
                code="body-broken",
                message="the faces do not close a valid solid",
                where=Where(param="scan"),
                remedy="use it for reference, or mend the mesh and look at its regions first",
            )
        )
    kinds = made.kinds
    facts = SolidifyFacts(
        closed=made.closed,
        valid=made.valid,
        planes=kinds.get("plane", 0),
        cylinders=kinds.get("cylinder", 0),
        cones=kinds.get("cone", 0),
        spheres=kinds.get("sphere", 0),
        tori=kinds.get("torus", 0),
        freeform=kinds.get("freeform", 0),
        flat_facets=made.flat,
        gaps=len(made.open),
        tolerance=made.tolerance,
    )
    return Outcome({OWN: BodyProduct(write_shape(made.body.shape), made.body.names)}, facts, problems=tuple(problems))


KIND: StepKind[Params] = StepKind(
    id="solidify",
    title="Faces to solid",
    help="A modelled mesh turned into a solid in one go",
    version=9,
    makes="body",
    params=Params,
    key_value="tolerance",
    run=_run,
    facts=SolidifyFacts,
    measures={"volume": "volume", "area": "area"},
)
