"""Measurement: a lasting one, on scan, regions, bodies and sketches; its figures can be used in formulas."""

from __future__ import annotations

from itertools import pairwise
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.check.between import between
from contour.check.thickness import wall_thickness
from contour.construct.place import Place, triple
from contour.fit.helix import helix_of_facets, pitch_of_outline
from contour.mesh.topology import signed_volume
from contour.present.edges import loaded
from contour.present.places import axis_at, place_at, spot_on
from contour.products.body import BodyProduct
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import (
    AxisRef,
    BodyRef,
    FaceRef,
    OneEdge,
    PlaceRef,
    RegionRef,
    ScanRef,
    ScanSpot,
    SketchRef,
)
from contour.recipe.registry import OWN, Inputs, Outcome, Start, StepKind
from contour.sketch.entities import Sketch, entity_points, find_profiles

__all__ = ["KIND", "Params"]


def _for(*what: str) -> dict[str, Any]:
    return {"when": {"what": list(what)}}


class Params(BaseModel):
    """`what` says what is measured; only the references it needs are looked at. A spot on the scan stands in for a place."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    what: Literal["between", "size", "thickness", "length", "area", "volume", "pitch"] = Field(
        title="What is measured",
        default="between",
        description="distance and angle between two places, size of a round, wall thickness and so on",
    )
    first: PlaceRef | None = Field(
        title="First place", default=None, description="one place", json_schema_extra=_for("between", "size")
    )
    second: PlaceRef | None = Field(
        title="Second place", default=None, description="the other place", json_schema_extra=_for("between")
    )
    first_spot: ScanSpot | None = Field(default=None, description="a spot on the scan in place of the first place")
    second_spot: ScanSpot | None = Field(default=None, description="a spot on the scan in place of the other place")
    scan: ScanRef | None = Field(
        default=None,
        description="the scan of the spots, or the one that is measured",
        json_schema_extra=_for("between", "thickness", "area", "volume", "pitch"),
    )
    face: FaceRef | None = Field(
        default=None,
        description="a face of a body: the wall behind it, its area, or one side of an edge",
        json_schema_extra=_for("thickness", "area", "length"),
    )
    edge: OneEdge | None = Field(default=None, description="an edge of a body", json_schema_extra=_for("length"))
    other_face: FaceRef | None = Field(
        default=None, description="the face on the other side of the edge", json_schema_extra=_for("length")
    )
    region: RegionRef | None = Field(
        default=None, description="the region whose facets are measured", json_schema_extra=_for("area", "pitch")
    )
    sketch: SketchRef | None = Field(
        default=None,
        description="a sketch whose pieces or profiles are measured",
        json_schema_extra=_for("length", "area", "pitch", "size"),
    )
    piece: str = Field(
        default="",
        max_length=20,
        description="one piece of the sketch, such as e3; empty: all",
        json_schema_extra=_for("length", "size"),
    )
    axis: AxisRef | None = Field(default=None, description="the axis it winds about", json_schema_extra=_for("pitch"))
    body: BodyRef | None = Field(
        default=None, description="the body that is measured", json_schema_extra=_for("volume", "area")
    )


def _reads(p: Params) -> frozenset[str]:
    own = {
        "between": {"first", "second"} | ({"scan"} if p.first_spot or p.second_spot else set()),
        "size": {"first", "sketch"},
        "thickness": {"scan", "face"},
        "length": {"edge", "face", "other_face", "sketch"},
        "area": {"region", "face", "sketch", "body", "scan"},
        "volume": {"body", "scan"},
        "pitch": {"region", "sketch", "axis", "scan"},
    }[p.what]
    return frozenset(n for n in own if getattr(p, n) is not None)


def _missing(param: str, what: str, remedy: str) -> ContourError:
    return ContourError(
        "bad-params",
        what,
        where=Where(param=param),
        got="nothing",
        need="what this measurement is taken from",
        remedy=remedy,
    )


def _one(params: Params, inputs: Inputs, name: Literal["first", "second"]) -> Place:
    spot = params.first_spot if name == "first" else params.second_spot
    if spot is not None:
        if "scan" not in inputs.products:
            raise _missing("scan", "the spot's scan is not given", "choose the scan")
        return spot_on(inputs.products["scan"].scan, spot)
    return place_at(inputs, name)


def _between(params: Params, inputs: Inputs) -> dict[str, Any]:
    found = between(_one(params, inputs, "first"), _one(params, inputs, "second"))
    d = np.subtract(found.end, found.start)
    facts: dict[str, Any] = {"said": found.note, "from": found.start}
    if found.distance is not None:
        facts |= {
            "to": found.end,
            "distance": found.distance,
            "u": found.u,
            "dx": float(d[0]),
            "dy": float(d[1]),
            "dz": float(d[2]),
        }
    if found.angle is not None:
        facts |= {"angle": found.angle, "u_angle": found.u_angle}
    return facts


def _size(params: Params, inputs: Inputs) -> dict[str, Any]:
    if "sketch" in inputs.products:
        sketch: Sketch = inputs.products["sketch"]
        found = [e for e in sketch.entities if e.kind == "arc" and params.piece in ("", e.id)]
        if not found:
            raise ContourError(
                "ref-lost",
                "the sketch has no such arc",
                where=Where(param="piece"),
                got=params.piece or "no arc",
                need="an arc of the sketch",
                remedy="name one of its arcs",
            )
        centre, radius = found[0].circle()
        at = sketch.frame.to_space(centre[None])[0]
        to = sketch.frame.to_space(np.array([found[0].start]))[0]
        return {
            "said": f"arc {found[0].id}",
            "radius": radius,
            "diameter": 2 * radius,
            "from": triple(at),
            "to": triple(to),
        }
    p = place_at(inputs, "first")
    product = inputs.products["first"]
    torus = isinstance(product, RegionProduct) and product.surface.kind == "torus"
    radius, u = (product.surface.minor, dict(product.u).get("minor")) if torus else (p.radius, p.u_radius or None)
    if radius <= 0:
        raise ContourError(
            "wrong-kind",
            "this has no radius",
            where=Where(param="first"),
            got=p.shape,
            need="a cylinder, ball, groove or arc",
            remedy="choose something round",
        )
    e = np.eye(3)[int(np.argmin(np.abs(p.along)))]
    way = np.cross(p.along, e) / np.linalg.norm(np.cross(p.along, e))
    start = p.at + (p.radius * way if torus else 0.0)
    return {
        "said": "of the fitted surface",
        "radius": radius,
        "diameter": 2 * radius,
        "u": u,
        "u_diameter": 2 * u if u else None,
        "from": triple(start),
        "to": triple(start + radius * way),
    }


def _thickness(params: Params, inputs: Inputs) -> dict[str, Any]:
    if "face" in inputs.products:
        from contour.solid.measure import face_wall

        body: BodyProduct = inputs.products["face"]
        value, start, end = face_wall(body.brep, body.names.index(inputs.face("face")))
        return {"said": "behind the middle of the face", "thickness": value, "from": triple(start), "to": triple(end)}
    if params.first_spot is None or "scan" not in inputs.products:
        raise _missing("first_spot", "no place on the scan is picked", "click the wall in the view")
    scan = inputs.products["scan"].scan
    spot = spot_on(scan, params.first_spot)
    facet = int(scan.facets_of_source(np.array([params.first_spot.facet]))[0])
    found = wall_thickness(scan, facet, spot.at)
    return {
        "said": f"along the normal; both sides lean {found.lean:.1f} deg to each other",
        "thickness": found.value,
        "u": found.u,
        "lean": found.lean,
        "from": found.start,
        "to": found.end,
    }


def _length(params: Params, inputs: Inputs) -> dict[str, Any]:
    if "sketch" in inputs.products:
        sketch: Sketch = inputs.products["sketch"]
        found = [e for e in sketch.entities if params.piece in ("", e.id)]
        if not found:
            raise ContourError(
                "ref-lost",
                "the sketch has no such piece",
                where=Where(param="piece"),
                got=params.piece,
                need=", ".join(e.id for e in sketch.entities),
                remedy="name one of its pieces",
            )
        paths = [sketch.frame.to_space(entity_points(e, step_deg=0.25)) for e in found]
        total = float(sum(np.linalg.norm(np.diff(p, axis=0), axis=1).sum() for p in paths))
        said = f"of piece {params.piece}" if params.piece else f"of {len(found)} pieces"
        return {"said": said, "length": total, "from": triple(paths[0][0]), "to": triple(paths[-1][-1])}
    if "edge" in inputs.products:
        from contour.solid.measure import edge_length

        length, start, end = edge_length(loaded(inputs, "edge"), inputs.face("edge"))
        return {"said": "of the edge", "length": length, "from": triple(start), "to": triple(end)}
    if "face" not in inputs.products or "other_face" not in inputs.products:
        raise _missing("edge", "no edge is chosen", "pick an edge, both faces beside it, or choose a sketch")
    from contour.solid.measure import edge_between

    body: BodyProduct = inputs.products["face"]
    a, b = body.names.index(inputs.face("face")), body.names.index(inputs.face("other_face"))
    length, start, end, count = edge_between(body.brep, a, b)
    return {
        "said": f"of {count} edge{'s' if count > 1 else ''} between the faces",
        "length": length,
        "from": triple(start),
        "to": triple(end),
    }


def _area(params: Params, inputs: Inputs) -> dict[str, Any]:
    if "region" in inputs.products:
        if "scan" not in inputs.products:
            raise _missing("scan", "the region's scan is not given", "choose the scan")
        scan = inputs.products["scan"].scan
        ids = scan.facets_of_source(inputs.products["region"].source_facets)
        return {
            "said": "of the region's facets",
            "area": float(scan.areas[ids].sum()),
            "from": inputs.products["region"].middle,
        }
    if "face" in inputs.products:
        from contour.solid.measure import face_area

        body: BodyProduct = inputs.products["face"]
        value, at = face_area(body.brep, body.names.index(inputs.face("face")))
        return {"said": "of the face", "area": value, "from": triple(at)}
    if "sketch" in inputs.products:
        sketch: Sketch = inputs.products["sketch"]
        profiles = find_profiles(sketch)
        at = sketch.frame.to_space(np.array([profiles[0].outer.entities[0].start]))[0]
        return {
            "said": f"of {len(profiles)} profiles, islands left out",
            "area": sum(p.area for p in profiles),
            "from": triple(at),
        }
    if "body" in inputs.products:
        from contour.solid.mass import area
        from contour.solid.shape import read_shape

        return {"said": "of all faces of the body", "area": area(read_shape(inputs.products["body"].brep))}
    if "scan" in inputs.products:
        return {"said": "of all facets of the scan", "area": float(inputs.products["scan"].scan.areas.sum())}
    raise _missing("region", "nothing is chosen", "choose a region, a face, a sketch, a body or a scan")


def _volume(params: Params, inputs: Inputs) -> dict[str, Any]:
    if "body" in inputs.products:
        from contour.solid.mass import volume
        from contour.solid.shape import read_shape

        return {"said": "of the body", "volume": volume(read_shape(inputs.products["body"].brep))}
    if "scan" not in inputs.products:
        raise _missing("body", "nothing is chosen", "choose a body or a closed scan")
    scan = inputs.products["scan"].scan
    borders = int((scan.across < 0).sum())
    if borders:
        facet = int(np.flatnonzero((scan.across < 0).any(axis=1))[0])
        raise ContourError(
            "open-end",
            "an open scan has no volume",
            where=Where(param="scan", point=triple(scan.centroids[facet])),
            got=f"{borders:,} open sides",
            need="a closed scan",
            remedy="fill its holes first, or measure a body",
        )
    return {"said": "inside the closed scan", "volume": float(signed_volume(scan.vertices, scan.facets))}


def _pitch(params: Params, inputs: Inputs) -> dict[str, Any]:
    axis = axis_at(inputs, "axis")
    if "sketch" in inputs.products:
        sketch: Sketch = inputs.products["sketch"]
        points = np.vstack([sketch.frame.to_space(entity_points(e, step_deg=2.0)) for e in sketch.entities])
        # Lines have points at their ends only: what lies between them is on the outline too.
        fine = [points[:1]]
        for e in sketch.entities:
            path = sketch.frame.to_space(entity_points(e, step_deg=2.0))
            fine += [p + np.linspace(0, 1, 12)[:, None] * (q - p) for p, q in pairwise(path)]
        points = np.vstack(fine)
        along = (points - axis.at) @ axis.along
        away = np.linalg.norm(points - axis.at - along[:, None] * axis.along, axis=1)
        pitch, u, turns = pitch_of_outline(along, away)
        return {
            "said": "as the outline repeats itself along the axis",
            "pitch": pitch,
            "u": u,
            "turns": turns,
            "from": axis.origin,
        }
    if "region" not in inputs.products or "scan" not in inputs.products:
        raise _missing(
            "region", "no helical region and no outline is chosen", "choose a thread's flank, or its outline"
        )
    scan = inputs.products["scan"].scan
    ids = np.sort(scan.facets_of_source(inputs.products["region"].source_facets))
    own = np.full(len(scan.facets) + 1, -1, np.int32)
    own[ids] = np.arange(len(ids))
    found = helix_of_facets(scan.centroids[ids], own[scan.across[ids] // 3], axis.at, axis.along)
    return {
        "said": f"{'right' if found.pitch > 0 else 'left'}-handed, about {2 * found.radius:.2f} mm across",
        "pitch": abs(found.pitch),
        "u": found.u,
        "turns": found.turns,
        "from": inputs.products["region"].middle,
    }


_WAYS = {
    "between": _between,
    "size": _size,
    "thickness": _thickness,
    "length": _length,
    "area": _area,
    "volume": _volume,
    "pitch": _pitch,
}
_ON_BODY = ("body", "edge", "face", "other_face")


def _run(params: Params, inputs: Inputs) -> Outcome:
    facts = _WAYS[params.what](params, inputs)
    places = [p for p in inputs.products if p != "axis"]
    on_body = any(isinstance(inputs.products[p], BodyProduct) for p in places)
    # What was measured on the scan is as good as the scan; on a body it follows from what the body was made of.
    return Outcome(
        {OWN: Place("point", facts.get("from", (0.0, 0.0, 0.0)))},
        {"measured": params.what, **facts, "mark": "assumed" if on_body else "scan"},
    )


KIND: StepKind[Params] = StepKind(
    id="measurement",
    title="Measurement",
    help="A lasting measurement",
    version=2,
    makes="measurement",
    params=Params,
    key_value="what",
    run=_run,
    reads=_reads,
    starts=(
        Start("edge", "edge", most=1, also={"what": "length"}),
        Start("edge", "first", least=2, most=2, second="second", also={"what": "between"}),
        Start("face", "first", least=2, most=2, second="second", also={"what": "between"}),
    ),
    measures={
        "distance": "length",
        "angle": "angle",
        "dx": "length",
        "dy": "length",
        "dz": "length",
        "radius": "length",
        "diameter": "length",
        "thickness": "length",
        "length": "length",
        "area": "area",
        "volume": "volume",
        "pitch": "length",
        "turns": "number",
    },
)
