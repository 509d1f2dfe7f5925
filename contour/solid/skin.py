"""Solids whose walls run through rows of places: swept with a twist, along a helix, between sections.

Every wall is a tensor product B-spline through its grid of places: of degree five along the outline (straight pieces stay straight), of
degree five or three across it, with the same knots for all walls, so that neighbours share their borders exactly.
Reference: Piegl and Tiller, The NURBS Book, 1997, 9.2.5 and 10.3.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.Geom import Geom_BSplineSurface
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Pln
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Wire
from scipy.interpolate import BSpline, make_interp_spline

from contour.recipe.problem import ContourError, Where
from contour.solid.face_geometry import array, direction, middle_of, pnt
from contour.solid.gate import SolidFacts, require_solid
from contour.solid.shape import NamedShape, edges, faces, shape_map
from contour.solid.shells import shells, within
from contour.solid.splines import kernel_spline
from contour.solid.topology.names import names_by_face

__all__ = ["CURVED", "Wall", "across", "capped_skin", "closed_by", "places_along", "skin", "wall_border", "wall_face"]

Array = NDArray[np.float64]
CURVED = 33  # places along a piece that is not straight, twice as many of a whole round: met to 1e-9 of its radius
_SEW_MM = 1e-5
_DENSE = 12  # with more sections than these they follow something smooth closely


@dataclass(frozen=True, slots=True, eq=False)
class Wall:
    """places: (k, m, 3), mm: k along the outline (two of a straight piece), m from the first section to the last · at: (m,) rising parameters of the
    sections; neighbours that share a border have the same · leaves, arrives: (k, 3) or none,
    how the wall leaves the first section and comes to the last, mm for each unit of the sections' parameter."""

    name: str
    places: Array
    at: Array
    leaves: Array | None = None
    arrives: Array | None = None


def skin(walls: Sequence[Wall], caps: Sequence[tuple[str, TopoDS_Face]], *, doing: str) -> NamedShape:
    """The solid within walls and caps; walls that are flat are planes.

    Raises ContourError (body-broken) where they do not close around anything.
    """
    return closed_by([(w.name, wall_face(w)) for w in walls] + list(caps), doing=doing)[0]


def closed_by(given: Sequence[tuple[str, TopoDS_Face]], *, doing: str) -> tuple[NamedShape, SolidFacts]:
    """The solid within faces that meet each other along their borders, each with its name, and what is known of it. Raises ContourError (body-broken)
    where they do not close."""
    sewing = BRepBuilderAPI_Sewing(_SEW_MM)
    for _, face in given:
        sewing.Add(face)
    sewing.Perform()
    joined = shells(sewing.SewedShape())
    if not joined:
        raise ContourError(
            "body-broken",
            f"{doing} gives no closed solid",
            got="walls that do not join",
            need="walls that close",
            remedy="change a value a little, or simplify the sketch",
        )
    solid = within(joined)
    facts = require_solid(solid, doing=doing, pieces=1)
    known = [
        (TopoDS.Face(sewing.ModifiedSubShape(f)) if sewing.IsModifiedSubShape(f) else f, name) for name, f in given
    ]
    if len(faces(solid)) != len(given):
        kept = shape_map(solid, TopAbs_ShapeEnum.TopAbs_FACE)
        lost = [f for f, _ in known if not kept.Contains(f)]
        raise ContourError(
            "body-broken",
            f"{doing} loses a wall",
            where=Where(point=middle_of(edges(lost[0])[0]) if lost else None),
            got="fewer faces than walls",
            need="a face for every wall",
            remedy="change a value a little, or simplify the sketch",
        )
    return NamedShape(solid, names_by_face(solid, known)), facts


def capped_skin(rings: Sequence[Sequence[Wall]], caps: tuple[str, str], *, doing: str) -> NamedShape:
    """The solid within rings of walls, the outer one first and each in its order round, closed by flat faces at both ends that have these names.

    Raises ContourError (body-broken).
    """
    ends = [(name, _cap(rings, end)) for name, end in zip(caps, (0, -1), strict=True)]
    return skin([w for ring in rings for w in ring], ends, doing=doing)


def _cap(rings: Sequence[Sequence[Wall]], end: int) -> TopoDS_Face:
    """The flat face within the borders of walls at one end."""
    reach = (min(w.at[0] for w in rings[0]), max(w.at[-1] for w in rings[0]))
    # Of a stretch between others only those that reach the end.
    wires = [wall_border([w for w in ring if w.at[end] == reach[end]], end) for ring in rings]
    flat = _plane_through(np.concatenate([w.places[:, end] for w in rings[0] if w.at[end] == reach[end]]))
    maker = BRepBuilderAPI_MakeFace(flat, wires[0], True)
    for wire in wires[1:]:
        maker.Add(wire)
    fixed = ShapeFix_Face(maker.Face())
    fixed.FixOrientation()
    return TopoDS.Face(fixed.Face())


def wall_border(walls: Sequence[Wall], end: int) -> TopoDS_Wire:
    """The border that walls in their order round have at their first section (0) or their last (-1)."""
    border = BRepBuilderAPI_MakeWire()
    for wall in walls:
        surface = _surface(wall)
        _, _, v0, v1 = surface.Bounds()
        border.Add(BRepBuilderAPI_MakeEdge(surface.VIso(v0 if end == 0 else v1)).Edge())
    return border.Wire()


def places_along(edge: TopoDS_Edge, count: int | None = None) -> Array:
    """Places (k, 3) along an edge, evenly in its own parameter: its ends of a straight one, if no `count` is given; mm."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    if count is None:
        straight = curve.GetType() == GeomAbs_CurveType.GeomAbs_Line
        count = 2 if straight else CURVED if not curve.IsClosed() else 2 * CURVED - 1
    return np.array([array(curve.Value(t)) for t in np.linspace(first, last, count)])


def across(wall: Wall) -> BSpline:
    """Its rows of places as curves from section to section: of the parameter, (3 k,) each."""
    flat = (None if d is None else d.reshape(-1) for d in (wall.leaves, wall.arrives))
    return _through(wall.at, wall.places.transpose(1, 0, 2).reshape(len(wall.at), -1), *flat)


def _through(at: Array, values: Array, leaves: Array | None, arrives: Array | None) -> BSpline:
    """A curve in n dimensions through values (m, n) at parameters (m,), with slopes (n,) at its ends where they are given."""
    if leaves is None and arrives is None:
        return make_interp_spline(at, values, k=5 if len(at) > _DENSE else min(3, len(at) - 1))
    if len(at) == 2 and (leaves is None or arrives is None):
        # Of one slope alone a parabola is enough; raised to a cubic by the slope that it has at the other end.
        chord = (values[1] - values[0]) / (at[1] - at[0])
        leaves = 2 * chord - arrives if leaves is None and arrives is not None else leaves
        arrives = 2 * chord - leaves if arrives is None and leaves is not None else arrives
    ends = [None if d is None else [(1, d)] for d in (leaves, arrives)]
    free = [[(2, np.zeros(values.shape[1]))] if e is None else e for e in ends]
    return make_interp_spline(at, values, k=3, bc_type=(free[0], free[1]))


def wall_face(wall: Wall) -> TopoDS_Face:
    """The face through its places; a plane where they lie in one."""
    surface = _surface(wall)
    # Slopes at its ends bow a wall whose places all lie in a plane.
    flat = _plane_through(across(wall).c.reshape(-1, 3))
    if flat is None:
        return BRepBuilderAPI_MakeFace(surface, 1e-7).Face()
    u0, u1, v0, v1 = surface.Bounds()
    border = BRepBuilderAPI_MakeWire()
    for curve in (surface.VIso(v0), surface.UIso(u1), surface.VIso(v1), surface.UIso(u0)):
        border.Add(BRepBuilderAPI_MakeEdge(curve).Edge())
    made = BRepBuilderAPI_MakeFace(flat, border.Wire(), True)
    return made.Face() if border.IsDone() and made.IsDone() else BRepBuilderAPI_MakeFace(surface, 1e-7).Face()


def _plane_through(places: Array) -> gp_Pln | None:
    """The plane that all places (n, 3) lie in."""
    middle = places.mean(axis=0)
    _, reach, axes = np.linalg.svd(places - middle, full_matrices=False)
    if reach[2] > 1e-10 * max(reach[0], 1.0) or reach[1] < 1e-6 * reach[0]:
        return None
    return gp_Pln(pnt(middle), direction(axes[2]))


def _surface(wall: Wall) -> Geom_BSplineSurface:
    k = len(wall.places)
    over = across(wall)
    n = len(over.c)
    rows = over.c.reshape(n, k, 3).transpose(1, 0, 2).reshape(k, -1)
    along = make_interp_spline(np.linspace(0, 1, k), rows, k=1 if k == 2 else 5)
    poles = along.c.reshape(len(along.c), n, 3)
    return kernel_spline(poles, (along.t, over.t), (along.k, over.k))
