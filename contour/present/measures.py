"""Lasting measurements: what each kind of them reads, and what it comes to."""

from __future__ import annotations

from itertools import pairwise
from typing import Any, Literal, Protocol

import numpy as np

from contour.check.between import between
from contour.check.thickness import wall_thickness
from contour.construct.place import Place
from contour.fit.helix import helix_of_facets, pitch_of_outline
from contour.geometry.vectors import triple
from contour.mesh.topology import signed_volume
from contour.present.edges import loaded
from contour.present.places import axis_at, place_at, spot_at, spot_on
from contour.products.body import BodyProduct
from contour.products.measurement import Measured, MeasurementFacts
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanSpot
from contour.recipe.registry import Inputs
from contour.sketch.chosen import chosen_profiles
from contour.sketch.entities import Sketch, entity_points

__all__ = ["Asked", "measured"]


class Asked(Protocol):
    """What of a measurement's parameters is no reference: spots on the scan in the place of places, and one piece of a sketch."""

    @property
    def what(self) -> Measured: ...
    @property
    def first_spot(self) -> ScanSpot | None: ...
    @property
    def second_spot(self) -> ScanSpot | None: ...
    @property
    def piece(self) -> str: ...


def _missing(param: str, what: str, remedy: str) -> ContourError:
    return ContourError(
        "bad-params",
        what,
        where=Where(param=param),
        got="nothing",
        need="what this measurement is taken from",
        remedy=remedy,
    )


def _one(params: Asked, inputs: Inputs, name: Literal["first", "second"]) -> Place:
    spot = params.first_spot if name == "first" else params.second_spot
    if spot is not None:
        return spot_at(inputs, spot)
    return place_at(inputs, name)


def _between(params: Asked, inputs: Inputs) -> dict[str, Any]:
    found = between(_one(params, inputs, "first"), _one(params, inputs, "second"))
    d = np.subtract(found.end, found.start)
    facts: dict[str, Any] = {"said": found.note, "start": found.start}
    if found.distance is not None:
        facts |= {
            "end": found.end,
            "distance": found.distance,
            "u": found.u,
            "dx": float(d[0]),
            "dy": float(d[1]),
            "dz": float(d[2]),
        }
    if found.angle is not None:
        facts |= {"angle": found.angle, "u_angle": found.u_angle}
    return facts


def _size(params: Asked, inputs: Inputs) -> dict[str, Any]:
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
            "start": triple(at),
            "end": triple(to),
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
            need="a cylinder, sphere, torus or arc",
            remedy="choose a surface or an arc with a radius",
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
        "start": triple(start),
        "end": triple(start + radius * way),
    }


def _thickness(params: Asked, inputs: Inputs) -> dict[str, Any]:
    if "face" in inputs.products:
        from contour.solid.measure import face_wall

        body: BodyProduct = inputs.products["face"]
        value, start, end = face_wall(body.brep, body.names.index(inputs.face("face")))
        return {"said": "behind the middle of the face", "thickness": value, "start": triple(start), "end": triple(end)}
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
        "start": found.start,
        "end": found.end,
    }


def _length(params: Asked, inputs: Inputs) -> dict[str, Any]:
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
        return {"said": said, "length": total, "start": triple(paths[0][0]), "end": triple(paths[-1][-1])}
    if "edge" in inputs.products:
        from contour.solid.measure import edge_length

        length, start, end = edge_length(loaded(inputs, "edge"), inputs.face("edge"))
        return {"said": "of the edge", "length": length, "start": triple(start), "end": triple(end)}
    if "face" not in inputs.products or "other_face" not in inputs.products:
        raise _missing("edge", "no edge is chosen", "pick an edge, both faces beside it, or choose a sketch")
    from contour.solid.measure import edge_between

    body: BodyProduct = inputs.products["face"]
    a, b = body.names.index(inputs.face("face")), body.names.index(inputs.face("other_face"))
    length, start, end, count = edge_between(body.brep, a, b)
    return {
        "said": f"of {count} edge{'s' if count > 1 else ''} between the faces",
        "length": length,
        "start": triple(start),
        "end": triple(end),
    }


def _area(params: Asked, inputs: Inputs) -> dict[str, Any]:
    if "region" in inputs.products:
        if "scan" not in inputs.products:
            raise _missing("scan", "the region's scan is not given", "choose the scan")
        scan = inputs.products["scan"].scan
        ids = scan.facets_of_source(inputs.products["region"].source_facets)
        return {
            "said": "of the region's facets",
            "area": float(scan.areas[ids].sum()),
            "start": inputs.products["region"].middle,
        }
    if "face" in inputs.products:
        from contour.solid.measure import face_area

        body: BodyProduct = inputs.products["face"]
        value, at = face_area(body.brep, body.names.index(inputs.face("face")))
        return {"said": "of the face", "area": value, "start": triple(at)}
    if "sketch" in inputs.products:
        sketch: Sketch = inputs.products["sketch"]
        profiles = chosen_profiles(sketch)
        at = sketch.frame.to_space(np.array([profiles[0].outer.entities[0].start]))[0]
        return {
            "said": f"of {len(profiles)} profiles, islands left out",
            "area": sum(p.area for p in profiles),
            "start": triple(at),
        }
    if "body" in inputs.products:
        from contour.solid.mass import area
        from contour.solid.shape import read_shape

        return {"said": "of all faces of the body", "area": area(read_shape(inputs.products["body"].brep))}
    if "scan" in inputs.products:
        return {"said": "of all facets of the scan", "area": float(inputs.products["scan"].scan.areas.sum())}
    raise _missing("region", "nothing is chosen", "choose a region, a face, a sketch, a body or a scan")


def _volume(params: Asked, inputs: Inputs) -> dict[str, Any]:
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


def _pitch(params: Asked, inputs: Inputs) -> dict[str, Any]:
    axis = axis_at(inputs, "axis")
    if "sketch" in inputs.products:
        sketch: Sketch = inputs.products["sketch"]
        if not sketch.entities:
            raise _missing("sketch", "nothing is drawn in the sketch yet", "draw its outline, or choose another sketch")
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
            "start": axis.origin,
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
        "start": inputs.products["region"].middle,
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


def measured(params: Asked, inputs: Inputs) -> MeasurementFacts:
    """The figures of a measurement: mm, mm², mm³, degrees. Raises ContourError (bad-params, ref-lost, wrong-kind, open-end …).

    What was measured on the scan is as good as the scan; on a body it follows from what the body was made of.
    """
    facts = _WAYS[params.what](params, inputs)
    on_body = any(isinstance(inputs.products[p], BodyProduct) for p in inputs.products if p != "axis")
    return MeasurementFacts(measured=params.what, mark="assumed" if on_body else "scan", **facts)
