"""Names of edges and corners: an edge is the pair of the faces it lies between, a corner the set of the faces that meet in it.

Several edges between the same two faces are told apart by the faces at their ends, which only they have. Where that does not
do it either (both rims of a hole right through a shaft), they are counted along a direction that the two faces have by
themselves: the axis of the first round one, else the line that two planes share, else across an axis. What is left keeps
the same name with ``?`` and stays ambiguous on purpose.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Vertex

from contour.recipe.problem import ContourError
from contour.solid.face_geometry import array
from contour.solid.same_parts import told_of_parts
from contour.solid.shape import NamedShape, edge_faces, edges, faces, owners_of, remembered, shape_map

__all__ = ["Borders", "borders_of", "corner_named", "corner_names", "edge_names", "edges_named"]

Array = NDArray[np.float64]
_APART_MM = 1e-3  # middles nearer along a direction than this have no order
_ALONG = 1e-6  # sine of the angle below which two directions are one
_ROUND = {
    GeomAbs_SurfaceType.GeomAbs_Cylinder: "Cylinder",
    GeomAbs_SurfaceType.GeomAbs_Cone: "Cone",
    GeomAbs_SurfaceType.GeomAbs_Torus: "Torus",
}


@dataclass(frozen=True, slots=True)
class Borders:
    """Which faces every edge and corner of a shape belongs to, by place: faces (none for a pole's edge), and corners of edges."""

    edges: tuple[tuple[int, ...], ...]
    corners: tuple[tuple[int, ...], ...]
    ends: tuple[tuple[int, ...], ...]


@remembered(4)
def borders_of(named: NamedShape) -> Borders:
    """Places of edges in ``edges(shape)``, of faces in ``faces(shape)``, of corners in the kernel's own order of them."""
    shape = named.shape
    face_map = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    corner_map = shape_map(shape, TopAbs_ShapeEnum.TopAbs_VERTEX)
    around = edge_faces(shape)
    listed, ends = [], []
    for edge in edges(shape):
        owners = owners_of(around, around.FindIndex(edge))
        pole = BRep_Tool.Degenerated_s(edge)
        listed.append(() if pole else tuple(sorted(face_map.FindIndex(f) - 1 for f in owners)))
        both = {corner_map.FindIndex(v) - 1 for v in (TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge))}
        ends.append(tuple(sorted(k for k in both if k >= 0)))
    # From the faces to their corners: the other way round the kernel has lists, which are slow to walk.
    corners: list[list[int]] = [[] for _ in range(corner_map.Size())]
    for place, face in enumerate(faces(shape)):
        own = shape_map(face, TopAbs_ShapeEnum.TopAbs_VERTEX)
        for i in range(1, own.Size() + 1):
            corners[corner_map.FindIndex(own.FindKey(i)) - 1].append(place)
    return Borders(tuple(listed), tuple(map(tuple, corners)), tuple(ends))


def _direction_of(face: TopoDS_Face) -> tuple[str, Array] | None:
    """("axis" or "normal", direction) of a face that has one by itself."""
    surface = BRepAdaptor_Surface(face, False)
    kind = surface.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        return "normal", array(surface.Plane().Position().Direction())
    if kind in _ROUND:
        return "axis", array(getattr(surface, _ROUND[kind])().Position().Direction())
    return None


def _directions(pair: Sequence[TopoDS_Face]) -> list[Array]:
    """Directions that two faces have by themselves, the one that says most first."""
    known = [d for d in map(_direction_of, pair) if d is not None]
    out = [d for what, d in known if what == "axis"]
    if len(known) == 2:
        across = np.cross(known[0][1], known[1][1])
        if float(np.linalg.norm(across)) > _ALONG:
            out.append(across / np.linalg.norm(across))
    return out


@told_of_parts
def _middle(edge: TopoDS_Edge) -> Array:
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    # Of a closed curve one place says little: the mean of several is its middle whatever it begins at.
    spots = [array(curve.Value(first + (last - first) * t)) for t in (np.arange(8) + 0.5) / 8]
    return np.asarray(np.mean(spots, axis=0))


def _counted(group: Sequence[TopoDS_Edge], pair: Sequence[TopoDS_Face]) -> list[int] | None:
    """Rank of each edge along a direction of its faces; none when no direction orders them clearly."""
    middles = np.array([_middle(e) for e in group])
    for way in _directions(pair):
        heights = middles @ way
        if np.diff(np.sort(heights)).min() > _APART_MM:
            return [int(r) for r in np.argsort(np.argsort(heights))]
    return None


def _told_apart(
    name: str,
    group: list[int],
    names: Sequence[str],
    borders: Borders,
    parts: tuple[Sequence[TopoDS_Edge], Sequence[TopoDS_Face]],
) -> list[str]:
    """names: of the faces · parts: edges and faces of the whole shape."""
    pair = borders.edges[group[0]]
    ends = [{names[f] for v in borders.ends[i] for f in borders.corners[v] if f not in pair} for i in group]
    common = set.intersection(*ends)
    own = ["&".join(sorted(e - common)) for e in ends]
    listed, shape_faces = parts
    out = []
    for i, key in zip(group, own, strict=True):
        text = f"{name}@({key})" if key else f"{name}@"
        if own.count(key) > 1:
            same = [k for k, o in zip(group, own, strict=True) if o == key]
            ordered = sorted(pair, key=lambda f: names[f])
            ranks = _counted([listed[k] for k in same], [shape_faces[f] for f in ordered])
            text += "?" if ranks is None else f"#{ranks[same.index(i)] + 1}/{len(same)}"
        out.append(text)
    return out


def edge_names(named: NamedShape) -> list[str]:
    """Name of each edge of ``edges(shape)``: the sorted names of its faces, one for a seam; nothing for a pole.

    >>> # "a.end[p1]|a.side[e2]", and where there are several: "a.end[p1]|a.side[e2]@(a.side[e1])"
    """
    return list(_edge_names(named))


@remembered(4)
def _edge_names(named: NamedShape) -> tuple[str, ...]:
    borders = borders_of(named)
    base = ["|".join(sorted({named.names[f] for f in pair})) for pair in borders.edges]
    groups: dict[str, list[int]] = {}
    for i, name in enumerate(base):
        groups.setdefault(name, []).append(i)
    parts = edges(named.shape), faces(named.shape)
    for name, group in groups.items():
        if name and len(group) > 1:
            for i, told in zip(group, _told_apart(name, group, named.names, borders, parts), strict=True):
                base[i] = told
    return tuple(base)


def corner_names(named: NamedShape) -> list[str]:
    """Name of each corner, in the kernel's order of them: the sorted names of its faces. Corners between the same faces share
    it, with ``?``; one within a single face (where a round closes upon itself) has none."""
    borders = borders_of(named)
    base = ["|".join(sorted({named.names[f] for f in met})) if len(met) > 1 else "" for met in borders.corners]
    return [f"{n}?" if n and base.count(n) > 1 else n for n in base]


def corner_named(named: NamedShape, name: str) -> TopoDS_Vertex:
    """The corner of that name. Raises ContourError (ref-lost) for a name that none has."""
    names = corner_names(named)
    if name not in names:
        raise ContourError(
            "ref-lost", "the corner is no longer there", got=name, need="a corner", remedy="choose the corner again"
        )
    corners = shape_map(named.shape, TopAbs_ShapeEnum.TopAbs_VERTEX)
    return TopoDS.Vertex(corners.FindKey(names.index(name) + 1))


def edges_named(named: NamedShape, names: Sequence[str]) -> list[TopoDS_Edge]:
    """The edges of those names. Raises ContourError (ref-lost) for a name that no edge has."""
    known = dict(zip(edge_names(named), edges(named.shape), strict=True))
    lost = [n for n in names if n not in known]
    if lost:
        raise ContourError(
            "ref-lost", "the edge is no longer there", got=lost[0], need="an edge", remedy="choose the edge again"
        )
    return [TopoDS.Edge(known[n]) for n in names]
