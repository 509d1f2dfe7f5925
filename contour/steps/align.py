"""Align: a scan put on its part's own axes. Everything that follows is in these axes."""

from __future__ import annotations

from functools import partial
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.check.exact_distance import signed_distances
from contour.fit.region import Region
from contour.geometry.rigid import moved, placement
from contour.mesh.prepare import PreparedScan, placed
from contour.present.regions import region_of
from contour.products.scan import ScanProduct
from contour.recipe.facts import Facts, Triple
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Angle, FileBlob, Length, Value
from contour.register.datum import (
    Direction,
    box_corner,
    datum_frame,
    meeting_point,
    principal_frame,
    reflected_frame,
    typed_motion,
)

__all__ = ["KIND", "Params", "Pick"]

_DATUM: dict[str, Any] = {"when": {"by": ["datum"]}}
_TYPED: dict[str, Any] = {"fold": "Typed turn and shift"}
_NOTHING = Value(text="0 mm")
_NO_TURN = Value(text="0 deg")


class Pick(BaseModel):
    """A surface found around facets picked on the scan (numbers in the file)."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    seeds: list[int] = Field(min_length=1, max_length=200)
    surface: Literal["auto", "plane", "cylinder"] = "auto"


class Params(BaseModel):
    """The typed turn and shift come last, about the new axes: to round what was found, or all by themselves."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    by: Literal["datum", "principal", "symmetry", "solid", "move"] = Field(
        title="Method",
        default="datum",
        description="what the axes come from",
        json_schema_extra={
            "titles": {
                "datum": "picked surfaces",
                "principal": "longest extents",
                "symmetry": "symmetry",
                "solid": "a solid",
                "move": "typed",
            }
        },
    )
    primary: Pick | None = Field(
        default=None,
        description="plane (or hole) whose normal (or axis) is the first direction",
        json_schema_extra=_DATUM,
    )
    up: Direction = Field(
        title="Primary points to", default="+z", description="where the primary points", json_schema_extra=_DATUM
    )
    secondary: list[Pick] = Field(
        default_factory=list,
        max_length=2,
        description="a plane, a hole, or two holes for the line between them",
        json_schema_extra=_DATUM,
    )
    along: Direction = Field(
        title="Secondary points along",
        default="+x",
        description="where the secondary points",
        json_schema_extra={"when": {"by": ["datum", "symmetry"]}},
    )
    origin: Literal["surfaces", "centre", "corner", "keep"] = Field(
        default="surfaces",
        description="where the picked surfaces meet, the middle or least corner of the scan's box, or as it is",
        json_schema_extra={
            **_DATUM,
            "titles": {
                "surfaces": "where they meet",
                "centre": "middle of the box",
                "corner": "least corner",
                "keep": "as it is",
            },
        },
    )
    also: list[Pick] = Field(
        title="More surfaces for the origin",
        default_factory=list,
        max_length=3,
        description="more surfaces that give the origin",
        json_schema_extra=_DATUM,
    )
    solid: FileBlob | None = Field(
        default=None, description="STEP file to lie on", json_schema_extra={"when": {"by": ["solid"]}}
    )
    turn_x: Angle = Field(default=_NO_TURN, description="turned about x afterwards", json_schema_extra=_TYPED)
    turn_y: Angle = Field(default=_NO_TURN, description="turned about y afterwards", json_schema_extra=_TYPED)
    turn_z: Angle = Field(default=_NO_TURN, description="turned about z afterwards", json_schema_extra=_TYPED)
    shift_x: Length = Field(default=_NOTHING, description="shifted along x afterwards", json_schema_extra=_TYPED)
    shift_y: Length = Field(default=_NOTHING, description="shifted along y afterwards", json_schema_extra=_TYPED)
    shift_z: Length = Field(default=_NOTHING, description="shifted along z afterwards", json_schema_extra=_TYPED)


class AlignFacts(Facts):
    """matrix: T_part_scan · moved: the farthest vertex, mm · low, high: of the box there, mm. By picked surfaces: tilt of what is left
    (degrees), offset of the origin from those it hangs on (mm), and of each surface its rms (mm), kind and facets. By symmetry: as a plane of
    symmetry tells. By a solid: rms and 95 % of the distances (mm), the share of the scan that lies on it, and that of the next best
    placement."""

    of: Literal["align"] = "align"
    matrix: tuple[tuple[float, float, float, float], ...]
    moved: float
    low: Triple
    high: Triple
    tilt: float | None = None
    offset: float | None = None
    rms: tuple[float, ...] = ()
    kinds: tuple[str, ...] = ()
    facets_used: tuple[int, ...] = ()
    agree: float | None = None
    near: float | None = None
    planes: int | None = None
    rms_fit: float | None = None
    p95: float | None = None
    inside_share: float | None = None
    share: float | None = None
    second: float | None = None


def _found(scan: PreparedScan, pick: Pick, place: str) -> Region:
    try:
        return region_of(scan, pick.seeds, [], pick.surface, None, ("plane", "cylinder"))
    except ContourError as error:
        raise error.at(param=place) from None


def _by_datum(params: Params, scan: PreparedScan) -> tuple[NDArray[np.float64], dict[str, Any]]:
    if params.primary is None:
        raise ContourError(
            "bad-params",
            "the primary surface is not picked yet",
            where=Where(param="primary"),
            got="nothing",
            need="a plane, cylinder or cone",
            remedy="click a plane on the scan",
        )
    primary = _found(scan, params.primary, "primary")
    second = [_found(scan, p, f"secondary[{i}]") for i, p in enumerate(params.secondary)]
    third = [_found(scan, p, f"also[{i}]") for i, p in enumerate(params.also)]
    regions = [primary, *second, *third]
    middle = scan.vertices.mean(axis=0)
    origin, gap = np.zeros(3), 0.0
    if params.origin == "surfaces":
        # Two bores give a direction; the first of them is where the part's zero is.
        holding = [primary, *second[:1], *third]
        origin, off, held = meeting_point([r.surface for r in holding], middle)
        # A secondary that only turns the part is nowhere near the origin, and need not be.
        asked = held | (np.arange(len(holding)) > len(holding) - 1 - len(third))
        gap = float(off[asked].max())
    matrix, left = datum_frame(
        primary.surface,
        [r.surface for r in second],
        also=[r.surface for r in third],
        up=params.up,
        along=params.along,
        origin=origin,
    )
    if params.origin in ("centre", "corner"):
        matrix = box_corner(matrix, scan.vertices, centre=params.origin == "centre")
    elif params.origin == "keep":
        matrix = placement(matrix[:3, :3], middle - matrix[:3, :3] @ middle)
    facts = {
        "tilt": left.tilt_deg,
        "offset": gap,
        "rms": [r.rms for r in regions],
        "kinds": [r.surface.kind for r in regions],
        "facets_used": [len(r.facets) for r in regions],
    }
    return matrix, facts


def _skin(scan: PreparedScan) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Points and weights whose sums are the skin's integrals: the middles of sides are exact up to squares, so that
    uneven facets do not turn the axes."""
    corners = scan.vertices[scan.facets]
    middles = (corners + np.roll(corners, -1, axis=1)) / 2
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    return middles.reshape(-1, 3), np.repeat(areas / 3, 3)


def _by_symmetry(params: Params, scan: PreparedScan) -> tuple[NDArray[np.float64], dict[str, Any]]:
    from contour.register.symmetry import symmetry_planes

    found = symmetry_planes(scan.vertices, scan.facets, scan.across, noise_mm=scan.noise_mm)
    best = found[0]
    matrix = reflected_frame(np.array(best.point), np.array(best.normal), params.along, *_skin(scan))
    return matrix, {"agree": best.agree, "near": best.near, "planes": len(found)}


def _by_solid(params: Params, scan: PreparedScan, inputs: Inputs) -> tuple[NDArray[np.float64], dict[str, Any]]:
    import tempfile
    from pathlib import Path

    from contour.check.exact_arrays import exact_arrays
    from contour.register.best_fit import best_fit
    from contour.solid.from_file import read_shape_file

    if params.solid is None:
        raise ContourError(
            "bad-params",
            "no solid is chosen",
            where=Where(param="solid"),
            got="nothing",
            need="a STEP file",
            remedy="choose a STEP file",
        )
    with tempfile.TemporaryDirectory(prefix="contour-") as folder:
        path = Path(folder) / "solid.step"
        path.write_bytes(inputs.blob(params.solid.blob))
        solid = exact_arrays(read_shape_file(path))
    try:
        fit = best_fit(scan.vertices, scan.facets, solid, partial(signed_distances, solid), noise_mm=scan.noise_mm)
    except ContourError as error:
        raise error.at(param="solid") from None
    return fit.matrix, {
        "rms_fit": fit.rms,
        "p95": fit.p95,
        "inside_share": fit.inside_share,
        "share": fit.share,
        "second": fit.second,
    }


def _run(params: Params, inputs: Inputs) -> Outcome:
    product: ScanProduct = inputs.products["scan"]
    scan = product.scan
    matrix = np.eye(4)
    facts: dict[str, Any] = {}
    if params.by == "datum":
        matrix, facts = _by_datum(params, scan)
    elif params.by == "principal":
        matrix = principal_frame(*_skin(scan))
    elif params.by == "symmetry":
        matrix, facts = _by_symmetry(params, scan)
    elif params.by == "solid":
        matrix, facts = _by_solid(params, scan, inputs)
    v = inputs.values
    matrix = typed_motion([v["turn_x"], v["turn_y"], v["turn_z"]], [v["shift_x"], v["shift_y"], v["shift_z"]]) @ matrix
    far = float(np.linalg.norm(moved(matrix, scan.vertices) - scan.vertices, axis=1).max())
    made = placed(scan, matrix)
    low, high = made.vertices.min(axis=0), made.vertices.max(axis=0)
    return Outcome(
        {params.scan.id: ScanProduct(made)},
        AlignFacts(**facts, matrix=matrix.tolist(), moved=far, low=low.tolist(), high=high.tolist()),
    )


KIND: StepKind[Params] = StepKind(
    id="align",
    title="Align",
    help="The scan put on its part's own axes",
    version=3,
    makes="scan",
    params=Params,
    key_value="by",
    run=_run,
    facts=AlignFacts,
    places=True,
)
