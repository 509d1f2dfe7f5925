"""What a person, and a lasting reference, may want to know of each face of a body."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GProp import GProp_GProps
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_ShapeEnum

from contour.solid.exact_arrays import face_kinds
from contour.solid.resurface import face_geometry
from contour.solid.shape import NamedShape, edge_faces, faces, owners_of, shape_map

__all__ = ["face_facts"]


def _rounded(values: Any, digits: int = 4) -> list[float]:
    return [round(float(v), digits) for v in values]


def face_facts(named: NamedShape) -> list[dict[str, Any]]:
    """Per face: name, kind, places in the list of its neighbours (`beside`), area (mm²), a place on it, and for planes
    the outward normal, for cylinders a point of the axis, the axis and the diameter (mm)."""
    listed = faces(named.shape)
    lookup = shape_map(named.shape, TopAbs_ShapeEnum.TopAbs_FACE)
    around = edge_faces(named.shape)
    beside: list[set[int]] = [set() for _ in listed]
    for i in range(1, around.Size() + 1):
        owners = {lookup.FindIndex(f) - 1 for f in owners_of(around, i)}
        for k in owners:
            beside[k] |= owners - {k}
    out = []
    for k, (face, name, kind) in enumerate(zip(listed, named.names, face_kinds(named.shape), strict=True)):
        props = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, props)
        centre = props.CentreOfMass()
        row: dict[str, Any] = {"name": name, "kind": kind, "beside": sorted(beside[k]), "area": round(props.Mass(), 4)}
        spot = centre
        adaptor = BRepAdaptor_Surface(face)
        if adaptor.GetType() != GeomAbs_SurfaceType.GeomAbs_Plane:
            # The centre of a round face lies off it: take the place on the surface in the middle of its own extent.
            spot = adaptor.Value(
                (adaptor.FirstUParameter() + adaptor.LastUParameter()) / 2,
                (adaptor.FirstVParameter() + adaptor.LastVParameter()) / 2,
            )
            if kind == "freeform":
                tool = ShapeAnalysis_Surface(adaptor.Surface().Surface())
                uv = tool.ValueOfUV(centre, 1e-4)
                spot = tool.Value(uv.X(), uv.Y())
        row["centre"] = _rounded((spot.X(), spot.Y(), spot.Z()))
        g = face_geometry(face)
        if g.kind == "plane":
            row["axis"] = _rounded(g.axis, 7)
        elif g.kind == "cylinder":
            along = np.array([centre.X(), centre.Y(), centre.Z()]) - g.origin
            row["origin"] = _rounded(g.origin + (along @ g.axis) * g.axis)
            row["axis"] = _rounded(g.axis, 7)
            row["diameter"], row["inside"] = round(2 * g.radius, 5), g.outward < 0
        out.append(row)
    return out
