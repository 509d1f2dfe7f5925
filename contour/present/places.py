"""What a step's references stand for in space: the plane, axis or point of a construction step, region, sketch or face."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.construct.place import Place, Shape
from contour.geometry.frames import PlaneFrame, plane_frame
from contour.mesh.prepare import PreparedScan
from contour.products import product_kind
from contour.products.body import BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import REFERENCES, ScanSpot
from contour.recipe.registry import Inputs
from contour.sketch.entity_place import place_of_entity

__all__ = [
    "axis_at",
    "place_at",
    "place_facts",
    "place_of_product",
    "plane_at",
    "point_at",
    "section_frame",
    "spot_at",
    "spot_on",
]


def spot_on(scan: PreparedScan, spot: ScanSpot) -> Place:
    """Where the spot lies now, as sure as the scan's noise. Raises ContourError (ref-lost)."""
    found = scan.facets_of_source(np.array([spot.facet]))
    if len(found) == 0:
        raise ContourError(
            "ref-lost",
            "the picked facet is not in the scan any more",
            got=f"facet {spot.facet}",
            need="a facet that is there",
            remedy="pick the point again",
        )
    w = np.array(spot.weights) / max(sum(spot.weights), 1e-12)
    p = w @ scan.vertices[scan.facets[found[0]]]
    return Place("point", (float(p[0]), float(p[1]), float(p[2])), u=scan.noise_mm)


def _part_place(inputs: Inputs, place: str, shape: Shape | None) -> Place:
    if inputs.parts[place].part == "entity":
        try:
            return place_of_entity(inputs.products[place], inputs.face(place), as_point=shape == "point")
        except ContourError as error:
            raise error.at(param=place) from None
    from contour.solid.part_place import place_of_edge, place_of_face, place_of_vertex
    from contour.solid.shape import NamedShape, faces, read_shape
    from contour.solid.topology.edges import corner_named, edges_named

    body: BodyProduct = inputs.products[place]
    named = NamedShape(read_shape(body.brep), body.names)
    try:
        name, part = inputs.face(place), inputs.parts[place].part
        if part == "vertex":
            return place_of_vertex(corner_named(named, name))
        if part == "edge":
            return place_of_edge(edges_named(named, [name])[0], as_point=shape == "point")
        return place_of_face(faces(named.shape)[body.names.index(name)])
    except ContourError as error:
        raise error.at(param=place) from None


def place_at(inputs: Inputs, place: str, shape: Shape | None = None) -> Place:
    """What a reference stands for, whatever it is; of what stands for several (a round edge for its axis and its centre), what
    has the wanted shape. Raises ContourError (bad-params, wrong-kind, ref-lost, ref-ambiguous)."""
    if place not in inputs.products:
        raise ContourError(
            "bad-params",
            f"nothing is chosen for '{place.replace('_', ' ')}'",
            where=Where(param=place),
            got="nothing",
            need="one thing",
            remedy="choose something above this step, or pick a face",
        )
    if place in inputs.parts:
        return _part_place(inputs, place, shape)
    try:
        return place_of_product(inputs.products[place])
    except ContourError as error:
        raise error.at(param=place) from None


def place_of_product(product: Any) -> Place:
    """What a step's product stands for. Raises ContourError (wrong-kind)."""
    place = product_kind(product).place
    if place is None:
        raise ContourError(
            "wrong-kind",
            "this has no place in space",
            got=product.kind,
            need="something with a place",
            remedy="choose a plane, axis, point, region, sketch or part of a body",
        )
    return place(product)


def _wanted(inputs: Inputs, place: str, shape: Shape) -> Place:
    found, wanted = place_at(inputs, place, shape), REFERENCES[shape]
    if found.shape != shape:
        raise ContourError(
            "wrong-kind",
            f"{place.replace('_', ' ')} has to be {wanted.label}",
            where=Where(param=place),
            got=found.shape,
            need=wanted.needs,
            remedy="choose another one",
        )
    return found


def plane_at(inputs: Inputs, place: str) -> Place:
    """What stands at a place of the step, as a plane. Raises ContourError as :func:`place_at` does."""
    return _wanted(inputs, place, "plane")


def axis_at(inputs: Inputs, place: str) -> Place:
    """What stands at a place of the step, as an axis. Raises ContourError as :func:`place_at` does."""
    return _wanted(inputs, place, "axis")


def point_at(inputs: Inputs, place: str) -> Place:
    """What stands at a place of the step, as a point. Raises ContourError as :func:`place_at` does."""
    return _wanted(inputs, place, "point")


def place_facts(made: Place) -> dict[str, Any]:
    """What is told of a place, as :class:`contour.products.place.PlaceFacts` takes it: three numbers each, mm."""
    facts: dict[str, Any] = {"shape": made.shape, "origin": made.origin, "reach": made.reach, "u": made.u or None}
    facts |= dict(zip("xyz", made.origin, strict=True))
    if made.shape != "point":
        facts |= {"direction": made.direction, "u_tilt": float(np.degrees(made.u_tilt)) or None}
    return facts


def spot_at(inputs: Inputs, spot: ScanSpot) -> Place:
    """A spot on the scan that the step's ``scan`` is. Raises ContourError (bad-params, ref-lost)."""
    if "scan" not in inputs.products:
        raise ContourError(
            "bad-params",
            "the spot's scan is not given",
            where=Where(param="scan"),
            got="nothing",
            need="the scan that the spot lies on",
            remedy="choose the scan",
        )
    return spot_on(inputs.products["scan"].scan, spot)


def section_frame(
    plane: Place, offset_mm: float, origin: NDArray[np.float64], u_axis: NDArray[np.float64]
) -> PlaneFrame:
    """Axes of the section plane: `origin` dropped onto it, u along `u_axis`. origin, u_axis (3,), mm."""
    normal = plane.along
    on_plane = plane.at + offset_mm * normal
    dropped = origin + ((on_plane - origin) @ normal) * normal
    return plane_frame(dropped, normal, u_axis)
