"""Curve: through points in space, smooth or in straight pieces; a path for a sweep."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.places import point_at
from contour.products.curve import CurveProduct
from contour.recipe.facts import Facts, Triple
from contour.recipe.reference import PointRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import Length, Value

__all__ = ["KIND", "Params"]

_STRAIGHT: dict[str, Any] = {"when": {"between": ["straight"]}}


class Params(BaseModel):
    """It goes through the points in the order in which they are listed."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    points: list[PointRef] = Field(
        default_factory=list,
        max_length=200,
        title="Through",
        description="corners, middles of edges, ends of sketched pieces, construction points: in their order",
    )
    between: Literal["smooth", "straight"] = Field(
        default="smooth",
        title="Between them",
        description="one smooth curve, or straight pieces",
        json_schema_extra={"titles": {"smooth": "smooth", "straight": "straight"}},
    )
    radius: Length = Field(
        default=Value(text="0 mm", mark="intent"),
        title="Corner radius",
        description="that corners between straight pieces are rounded with",
        json_schema_extra=_STRAIGHT,
    )
    closed: bool = Field(default=False, title="Back to the first")


class CurveFacts(Facts):
    """length: along it, mm · tightest: the least radius that it bends with, mm; none of one without bends, nothing of sharp corners · drawn: places along
    it, mm."""

    of: Literal["curve"] = "curve"
    points: int
    pieces: int
    length: float
    tightest: float | None = None
    drawn: tuple[Triple, ...]


def _run(params: Params, inputs: Inputs) -> Outcome:
    import numpy as np

    from contour.construct.space_curve import drawn, smooth_through, straight_through
    from contour.geometry.vectors import triple
    from contour.recipe.problem import ContourError, Where
    from contour.solid.path import Path, pieces_in_space

    through = np.array([point_at(inputs, f"points[{i}]").at for i in range(len(params.points))]).reshape(-1, 3)
    if inputs.values["radius"] < 0:
        raise ContourError(
            "bad-params",
            "a radius is not negative",
            where=Where(param="radius"),
            got=f"{inputs.values['radius']:g} mm",
            need="0 mm or more",
            remedy="type it without its sign",
        )
    if params.between == "smooth":
        pieces = smooth_through(through, closed=params.closed)
    else:
        pieces = straight_through(through, closed=params.closed, radius=inputs.values["radius"])
    path = Path(tuple(pieces_in_space(pieces)), params.closed, "points")
    tightest, _ = path.tightest()
    facts = CurveFacts(
        points=len(through),
        pieces=len(pieces),
        length=path.length(),
        tightest=tightest if np.isfinite(tightest) else None,
        drawn=tuple(triple(np.round(p, 4)) for p in drawn(pieces)),
    )
    return Outcome({OWN: CurveProduct(pieces, params.closed)}, facts)


KIND: StepKind[Params] = StepKind(
    id="curve",
    title="Curve",
    help="A curve through points in space, to sweep something along",
    version=1,
    makes="curve",
    params=Params,
    key_value="between",
    run=_run,
    facts=CurveFacts,
    measures={"length": "length", "tightest": "length"},
)
