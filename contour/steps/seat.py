"""Seat: faces of a body moved onto regions of the scan, all at once, each along its own normal or radius."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.regions import region_of
from contour.products.body import BodyFigures, BodyProduct
from contour.products.region import RegionProduct
from contour.products.scan import ScanProduct
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import BodyRef, FaceRef, RegionRef, ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Angle, Value

if TYPE_CHECKING:
    from contour.check.pairing import Lay
    from contour.geometry.surfaces import Surface
    from contour.mesh.prepare import PreparedScan

__all__ = ["KIND", "Pair", "Params"]

_FEW_FACETS = 12
_LIES_ON = 0.5  # times what noise leaves: a face this near its region lies on it, whether it can be moved or not


class Pair(BaseModel):
    """A face and what it should lie on: a region step, or the region that grows from seed facets (raw numbers)."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    face: FaceRef
    region: RegionRef | None = None
    seeds: list[int] = Field(default_factory=list, max_length=200)


class Params(BaseModel):
    """Planes move along their normal, cylinders, cones and spheres in radius about their own axis or middle; what was tangent stays tangent."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    body: BodyRef
    pairs: list[Pair] = Field(min_length=1, max_length=500)
    tilt: Angle = Field(default=Value(text="3 deg"), description="how far a region may be tilted to its face")


def _refusal(
    code: Any, message: str, place: str, remedy: str, got: str | None = None, need: str | None = None
) -> ContourError:
    return ContourError(code, message, where=Where(param=place), got=got, need=need, remedy=remedy)


class SeatRow(BaseModel):
    """How one pair came out. stands: it lies on its region within the scan's noise, and what is around it keeps it from being moved the rest of the
    way, for which there is a reason as for a refusal · before, after: rms distances, mm · offset, shift: mm · tilt: degrees."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    pair: int
    face: str
    status: Literal["seated", "stands", "refused"]
    kind: str | None = None
    offset: float | None = None
    tilt: float | None = None
    shift: float | None = None
    facets: int | None = None
    before: float | None = None
    after: float | None = None
    reason: str | None = None
    code: str | None = None


class SeatFacts(BodyFigures):
    """pairs: how each came out · unseated: names of the faces that were not moved."""

    of: Literal["seat"] = "seat"
    pairs: tuple[SeatRow, ...]
    seated: int
    standing: int
    refused: int
    unseated: tuple[str, ...]


def _lay(
    i: int, pair: Pair, inputs: Inputs, scan: PreparedScan, face: Surface | None, limit_deg: float, rolls: Any
) -> tuple[Lay, int]:
    """How the pair's region lies to its face, and its facet count; raises ContourError with the reason of a refusal."""
    from contour.check.pairing import SEATED, lay_of, region_points

    if face is None or face.kind not in SEATED:
        raise _refusal(
            "wrong-kind",
            "only planes, cylinders, cones and spheres are seated",
            f"pairs[{i}].face",
            "leave this face out",
        )
    place = f"pairs[{i}].region"
    if place in inputs.products:
        product: RegionProduct = inputs.products[place]
        surface, facets = product.surface, scan.facets_of_source(product.source_facets)
    elif pair.seeds:
        grown = region_of(scan, pair.seeds, [], face.kind, None)
        surface, facets = grown.surface, grown.facets
    else:
        raise _refusal("bad-params", "the face has no region yet", place, "pick the region it should lie on")
    if surface.kind != face.kind:
        raise _refusal(
            "wrong-kind",
            f"a {face.kind} face cannot lie on a {surface.kind}",
            place,
            f"choose a {face.kind} region",
            got=surface.kind,
            need=face.kind,
        )
    if len(facets) < _FEW_FACETS:
        raise _refusal(
            "too-few-facets",
            "the region is too small to seat a face on",
            place,
            "choose a larger region",
            got=f"{len(facets)} facets",
            need=f"at least {_FEW_FACETS}",
        )
    lay = lay_of(face, surface, region_points(scan, facets), rolls=rolls)
    if lay.tilt_deg > limit_deg:
        raise _refusal(
            "too-tilted",
            "the region is tilted too much to its face",
            place,
            "choose another region, or raise the tilt limit",
            got=f"{lay.tilt_deg:.2f} deg",
            need=f"at most {limit_deg:g} deg",
        )
    turned = face.kind == "plane" and float(face.along @ surface.along) < 0
    if turned or (face.kind != "plane" and surface.outward != face.outward):
        raise _refusal("wrong-kind", "the region faces the other way", place, "choose the region on the same side")
    return lay, len(facets)


def _run(params: Params, inputs: Inputs) -> Outcome:
    import numpy as np

    from contour.solid.face_geometry import face_kind, face_surface
    from contour.solid.move_what_can import move_what_can
    from contour.solid.moved_faces import moves_as_one, rolling_faces
    from contour.solid.shape import NamedShape, faces, read_shape, write_shape

    product: ScanProduct = inputs.products["scan"]
    before: BodyProduct = inputs.products["body"]
    body = NamedShape(read_shape(before.brep), before.names)
    rows: list[dict[str, Any]] = [{"pair": i, "face": p.face.name} for i, p in enumerate(params.pairs)]
    problems: list[Problem] = []
    moves: dict[int, float] = {}
    row_of: dict[int, dict[str, Any]] = {}

    def refuse(row: dict[str, Any], error: ContourError, status: str = "refused") -> None:
        row |= {"status": status, "reason": error.problem.message, "code": error.problem.code}
        if status == "stands":
            return
        where = error.problem.where
        if not (where.param or "").startswith("pairs["):
            where = where.model_copy(update={"param": f"pairs[{row['pair']}].face"})
        problems.append(error.problem.model_copy(update={"where": where}))

    place_of: dict[int, int] = {}
    for row, place in zip(rows, range(len(rows)), strict=True):
        try:
            row["face"] = inputs.face(f"pairs[{place}].face")
            k = body.names.index(row["face"])
            if k in place_of.values():
                raise _refusal(
                    "bad-params", "this face is in the list twice", f"pairs[{place}].face", "take one of them out"
                )
            place_of[place] = k
        except ContourError as error:
            refuse(row, error)
    rolling = rolling_faces(body.shape)
    made = body
    # Rounds come second: what they lie on best depends on where their neighbours have gone.
    for wanted in (False, True):
        shapes = faces(made.shape)
        for place, k in place_of.items():
            if (k in rolling) is not wanted:
                continue
            row, own = rows[place], faces(body.shape)[k]
            try:
                now = face_surface(shapes[k])
                lay, count = _lay(
                    place, params.pairs[place], inputs, product.scan, now, inputs.values["tilt"], rolling.get(k)
                )
            except ContourError as error:
                refuse(row, error)
                continue
            row |= {
                "kind": face_kind(own),
                "offset": lay.offset,
                "tilt": lay.tilt_deg,
                "shift": lay.shift_mm,
                "facets": count,
                "before": lay.before,
                "after": lay.after,
                "status": "seated",
            }
            moves[k], row_of[k] = lay.offset, row
        # A surface in two faces, or a fillet around a corner, moves as one: by what all its facets say.
        moves = moves_as_one(body.shape, moves, {k: row_of[k]["facets"] for k in moves})
        for k, d in moves.items():
            row = row_of[k]
            row["after"] = float(np.hypot(row["after"], d - row["offset"]))
            row["offset"] = d
        made, refused = move_what_can(body, moves)
        for k, why in refused.items():
            lies_on = abs(moves[k]) <= _LIES_ON * row_of[k]["after"]
            row_of[k]["after"] = row_of[k]["before"]
            refuse(row_of[k], why, "stands" if lies_on else "refused")
            del moves[k]
    left = [n for k, n in enumerate(body.names) if k not in moves]
    came_out = Counter(r["status"] for r in rows)
    facts = SeatFacts(
        pairs=tuple(SeatRow(**r) for r in rows),
        seated=came_out["seated"],
        standing=came_out["stands"],
        refused=came_out["refused"],
        unseated=tuple(left),
    )
    return Outcome({params.body.id: BodyProduct(write_shape(made.shape), made.names)}, facts, problems=tuple(problems))


KIND: StepKind[Params] = StepKind(
    id="seat",
    title="Seat",
    help="Faces of a body moved onto the scan",
    version=5,
    makes="body",
    params=Params,
    key_value="tilt",
    run=_run,
    facts=SeatFacts,
    measures={"seated": "number", "volume": "volume", "area": "area"},
)
