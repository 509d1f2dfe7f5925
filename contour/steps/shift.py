"""Move faces: faces of a body moved along their normals, by a distance, to a size, or until they lie on something; a bore or shaft in its diameter."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.surfaces import SurfaceKind, distances
from contour.geometry.vectors import triple
from contour.present.edges import body_of, loaded
from contour.present.places import point_at, spot_at
from contour.present.targets import target_at
from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import FaceRef, OneFace, PointRef, ScanRef, ScanSpot, SurfaceRef
from contour.recipe.registry import Handle, Inputs, Outcome, Start, StepKind
from contour.recipe.values import Length, Value
from contour.solid.contacts import ball

if TYPE_CHECKING:
    from contour.geometry.surfaces import Surface
    from contour.solid.shape import NamedShape

__all__ = ["KIND", "Params"]

_TILT = np.sin(np.radians(0.5))
_KINDS: tuple[SurfaceKind, ...] = ("plane", "cylinder", "cone", "sphere", "torus")


class Params(BaseModel):
    """Positive goes out of the material. Faces that are tangent to a moved one follow it and stay tangent."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    faces: list[OneFace] = Field(min_length=1, max_length=200, description="faces of one body, but no freeform ones")
    by: Literal["distance", "size", "until"] = Field(
        title="How far",
        default="distance",
        description="a distance, the size that the material is to have there, or until a place",
        json_schema_extra={"titles": {"distance": "by a distance", "size": "to a size", "until": "ends at"}},
    )
    distance: Length = Field(
        default=Value(text="1 mm"),
        description="out of the material; negative goes into it",
        json_schema_extra={"when": {"by": ["distance"]}},
    )
    size: Length | None = Field(
        default=None,
        description="to the parallel face behind; of a round face its diameter, of a ring that of its tube",
        json_schema_extra={"when": {"by": ["size"]}},
    )
    until_region: SurfaceRef | None = Field(
        title="Ends at surface",
        default=None,
        description="a region or construction plane that it comes to lie on",
        json_schema_extra={"when": {"by": ["until"]}},
    )
    until_face: FaceRef | None = Field(
        title="Ends at face", default=None, description="or a face", json_schema_extra={"when": {"by": ["until"]}}
    )
    until_point: PointRef | None = Field(
        title="Ends at point",
        default=None,
        description="or a point, a corner or the centre of an edge",
        json_schema_extra={"when": {"by": ["until"]}},
    )
    until_point_spot: ScanSpot | None = Field(default=None, title="Ends at spot", description="or a spot on the scan")
    scan: ScanRef | None = Field(default=None, description="the scan that the spot lies on")


class ShiftFacts(BodyFigures):
    """moved: of each face, mm, + out of the material · added: mm³, below 0 where material was taken away."""

    of: Literal["shift"] = "shift"
    moved: tuple[float, ...]
    added: float


def _reads(params: Params) -> frozenset[str]:
    used = {f"faces[{i}]" for i in range(len(params.faces))}
    if params.by == "until":
        used |= {"until_region", "until_face", "until_point"} | ({"scan"} if params.until_point_spot else set())
    return frozenset(used)


def _way(params: Params, inputs: Inputs, body: NamedShape, k: int, own: Surface) -> float:
    """mm that one face moves."""
    from contour.solid.shifted import across

    if params.by == "distance":
        return inputs.values["distance"]
    if params.by == "size":
        wanted = inputs.values.get("size", 0.0)
        if wanted <= 0:
            raise ContourError(
                "bad-params",
                "the size is missing",
                where=Where(param="size"),
                got=f"{wanted:g} mm",
                need="more than 0 mm",
                remedy="type the size it is to have",
            )
        if own.kind == "plane":
            return wanted - across(body, k)
        if own.kind == "cone":
            raise ContourError(
                "wrong-kind",
                "a cone has no one diameter",
                where=Where(param="by"),
                got="a size",
                need="a distance, or what it is to end at",
                remedy="move it by a distance",
            )
        return (wanted / 2 - ball(own)) * own.outward
    spot = params.until_point_spot
    if spot is not None or "until_point" in inputs.products:
        at = (point_at(inputs, "until_point") if spot is None else spot_at(inputs, spot)).at
        return float(distances(own, at[None])[0])
    return _onto(target_at(inputs, "until_region", "until_face", _KINDS, or_point=True), own)


def _onto(target: Surface, own: Surface) -> float:
    if target.kind != own.kind:
        raise ContourError(
            "wrong-kind",
            f"a {own.kind} cannot come to lie on a {target.kind}",
            where=Where(param="until_region"),
            got=target.kind,
            need=own.kind,
            remedy="choose a surface of the same kind, or a point",
        )
    tilt = 0.0 if own.kind == "sphere" else float(np.linalg.norm(np.cross(target.along, own.along)))
    tilt = max(tilt, abs(np.sin(target.half_angle - own.half_angle)))
    if tilt > _TILT:
        raise ContourError(
            "too-tilted",
            "what it should end at is tilted to the face",
            where=Where(param="until_region"),
            got=f"{np.degrees(np.arcsin(min(tilt, 1.0))):.2f} deg",
            need="at most 0.5 deg",
            remedy="choose a point there, or another surface",
        )
    if own.kind == "plane":
        return float((target.at - own.at) @ own.along)
    if own.kind == "cone":
        there = own.radius + float((target.at - own.at) @ own.along) * np.tan(own.half_angle)
        return float((target.radius - there) * np.cos(own.half_angle) * own.outward)
    return (ball(target) - ball(own)) * own.outward


def _run(params: Params, inputs: Inputs) -> Outcome:
    from contour.solid.face_geometry import face_surface
    from contour.solid.mass import volume
    from contour.solid.moved_faces import MOVABLE
    from contour.solid.shape import faces, write_shape
    from contour.solid.shifted import face_middle, shifted

    places = [f"faces[{i}]" for i in range(len(params.faces))]
    id = body_of(zip(places, params.faces, strict=True))
    body = loaded(inputs, "faces[0]")
    shapes = faces(body.shape)
    moves: dict[int, float] = {}
    for place in places:
        k = body.names.index(inputs.face(place))
        own = face_surface(shapes[k])
        if own is None or own.kind not in MOVABLE:
            raise ContourError(
                "wrong-kind",
                "a freeform face cannot be moved",
                where=Where(param=place),
                got="a freeform face",
                need="a plane, a cylinder, a cone, a sphere or a torus",
                remedy="take this face out of the list",
            )
        try:
            moves[k] = _way(params, inputs, body, k, own)
        except ContourError as error:
            raise error if error.problem.where.param else error.at(param=place) from None
    if max(abs(d) for d in moves.values()) < 1e-6:
        raise ContourError(
            "unchanged",
            "the faces are where they should come to",
            where=Where(param=params.by if params.by != "until" else "until_region"),
            got="0 mm",
            need="some way to go",
            remedy="type another value, or take the step out",
        )
    made = shifted(body, moves, prefix=inputs.step[:8])
    first = next(iter(moves))
    own = face_surface(shapes[first])
    handles: tuple[Handle, ...] = ()
    if params.by == "distance" and own is not None and own.kind == "plane":
        handles = (Handle("distance", triple(face_middle(shapes[first])), triple(own.along)),)
    facts = ShiftFacts(moved=tuple(moves.values()), added=volume(made.shape) - volume(body.shape))
    return Outcome({id: BodyProduct(write_shape(made.shape), made.names)}, facts, handles=handles)


KIND: StepKind[Params] = StepKind(
    id="shift",
    title="Move faces",
    help="Faces of a body moved along their normals",
    version=3,
    makes="body",
    params=Params,
    key_value="distance",
    run=_run,
    facts=ShiftFacts,
    measures={"volume": "volume", "area": "area", "added": "volume"},
    reads=_reads,
    starts=(Start("face", "faces", _KINDS),),
)
