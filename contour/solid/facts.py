"""What a person, and a lasting reference, may want to know of each face of a body."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Face

from contour.solid.face_geometry import array, face_kind, face_surface
from contour.solid.mass import face_mass
from contour.solid.part_place import place_of_face
from contour.solid.same_parts import told_of_parts
from contour.solid.shape import NamedShape, edge_faces, faces, owners_of, shape_map

__all__ = ["face_facts"]


_GRID = 9
_STEPS = 12


def _rounded(values: Any, digits: int = 4) -> list[float]:
    return [round(float(v), digits) for v in values]


def face_spot(face: TopoDS_Face, *, centre: gp_Pnt | None = None) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """A place on a face in its middle, and the unit normal out of the material there. Both (3,), mm. centre: its centre of mass, where that is known."""
    if centre is None:
        _, centre = face_mass(face)
    adaptor = BRepAdaptor_Surface(face)
    kind = adaptor.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        tool = ShapeAnalysis_Surface(adaptor.Surface().Surface().Transformed(adaptor.Trsf()))
        uv = tool.ValueOfUV(centre, 1e-4)
        u, v = uv.X(), uv.Y()
    elif kind == GeomAbs_SurfaceType.GeomAbs_BSplineSurface:
        u, v = _nearest(adaptor, array(centre))
    else:
        # The centre of a round face lies off it: take the place on the surface in the middle of its own extent.
        u = (adaptor.FirstUParameter() + adaptor.LastUParameter()) / 2
        v = (adaptor.FirstVParameter() + adaptor.LastVParameter()) / 2
    p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    adaptor.D1(u, v, p, du, dv)
    n = np.cross([du.X(), du.Y(), du.Z()], [dv.X(), dv.Y(), dv.Z()])
    side = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
    return np.array([p.X(), p.Y(), p.Z()]), side * n / max(float(np.linalg.norm(n)), 1e-300)


def _nearest(surface: BRepAdaptor_Surface, p: NDArray[np.float64]) -> tuple[float, float]:
    """Parameters of the place on a freeform surface nearest to p (3,): from the best of a grid by Gauss-Newton steps. The kernel's own search takes ten
    milliseconds at a thread's flank."""
    low = np.array([surface.FirstUParameter(), surface.FirstVParameter()])
    high = np.array([surface.LastUParameter(), surface.LastVParameter()])

    def off(at: NDArray[np.float64]) -> NDArray[np.float64]:
        return array(surface.Value(float(at[0]), float(at[1]))) - p

    grid = [low + (high - low) * (i, j) / (_GRID - 1) for i in range(_GRID) for j in range(_GRID)]
    at = min(grid, key=lambda spot: float(np.sum(off(spot) ** 2)))
    for _ in range(_STEPS):
        q, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        surface.D1(float(at[0]), float(at[1]), q, du, dv)
        step = np.linalg.lstsq(np.column_stack([array(du), array(dv)]), p - array(q), rcond=None)[0]
        now = np.clip(at + step, low, high)
        if float(np.sum(off(now) ** 2)) >= float(np.sum(off(at) ** 2)):
            break
        at = now
    return float(at[0]), float(at[1])


def face_facts(named: NamedShape) -> list[dict[str, Any]]:
    """Per face: name, kind, places in the list of its neighbours (`beside`), area (mm²), a place on it, and for planes
    the outward normal, for cylinders, cones and tori a point of the axis and the axis, for cylinders the diameter, for spheres
    the centre (mm)."""
    listed = faces(named.shape)
    lookup = shape_map(named.shape, TopAbs_ShapeEnum.TopAbs_FACE)
    around = edge_faces(named.shape)
    beside: list[set[int]] = [set() for _ in listed]
    for i in range(1, around.Size() + 1):
        owners = {lookup.FindIndex(f) - 1 for f in owners_of(around, i)}
        for k in owners:
            beside[k] |= owners - {k}
    return [
        {"name": name, "kind": face_kind(face), "beside": sorted(beside[k]), **_facts_by_itself(face)}
        for k, (face, name) in enumerate(zip(listed, named.names, strict=True))
    ]


@told_of_parts
def _facts_by_itself(face: TopoDS_Face) -> dict[str, Any]:
    size, centre = face_mass(face)
    spot, _ = face_spot(face, centre=centre)
    row: dict[str, Any] = {"area": round(size, 4), "centre": _rounded(spot)}
    g = face_surface(face)
    if g is None:
        return row
    if g.kind in ("plane", "cylinder"):
        row["axis"] = _rounded(g.axis, 7)
    if g.kind == "cylinder":
        row["origin"] = _rounded(g.at + ((array(centre) - g.at) @ g.along) * g.along)
        row["diameter"], row["inside"] = round(2 * g.radius, 5), g.outward < 0
    elif g.kind != "plane":
        place = place_of_face(face)
        row["origin"] = _rounded(place.origin)
        if place.shape == "axis":
            row["axis"] = _rounded(place.direction, 7)
    return row
