"""What a drawing brings in of a body: its edges, its faces' borders, the cut by the plane, exact and by lasting names."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.GCPnts import GCPnts_UniformAbscissa
from OCP.gp import gp_Pln
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from contour.geometry.frames import PlaneFrame
from contour.sketch.drawn.linked import DENSE, LinkedPiece, freely, seen
from contour.solid.face_geometry import array, direction, edge_curve, pnt
from contour.solid.shape import NamedShape, edges, faces
from contour.solid.topology.edges import borders_of, edge_names
from contour.solid.topology.rows import is_border

__all__ = ["cut_pieces", "edge_piece", "edge_pieces", "numbered"]

Array = NDArray[np.float64]


def edge_piece(edge: TopoDS_Edge, frame: PlaneFrame, key: str, faces: Sequence[str] = ()) -> LinkedPiece:
    """An edge seen square to the plane."""
    known = edge_curve(edge)
    return seen(known, frame, key, faces) if known else freely(_along(edge), frame, key, faces)


def _along(edge: TopoDS_Edge) -> Array:
    """DENSE places (n, 3) evenly along an edge, mm."""
    curve = BRepAdaptor_Curve(edge)
    even = GCPnts_UniformAbscissa(curve, DENSE)
    count = even.NbPoints() if even.IsDone() else 0
    at = [even.Parameter(k + 1) for k in range(count)]
    if count != DENSE:
        at = list(np.linspace(curve.FirstParameter(), curve.LastParameter(), DENSE))
    return np.array([array(curve.Value(t)) for t in at])


def edge_pieces(named: NamedShape, frame: PlaneFrame) -> list[LinkedPiece]:
    """All edges of a body by their names, with the faces on both sides; no seams and no poles."""
    borders = borders_of(named)
    names = edge_names(named)
    own = faces(named.shape)
    out = []
    for k, edge in enumerate(edges(named.shape)):
        beside = borders.edges[k]
        if BRep_Tool.Degenerated_s(edge) or (len(beside) == 1 and not is_border(edge, [own[beside[0]]])):
            continue
        out.append(edge_piece(edge, frame, names[k], [named.names[f] for f in beside]))
    return numbered(out)


def numbered(pieces: Sequence[LinkedPiece]) -> list[LinkedPiece]:
    """Pieces of one name told apart by a number, in the order in which they lie on the plane."""
    by_name: dict[str, list[LinkedPiece]] = {}
    for p in pieces:
        by_name.setdefault(p.key, []).append(p)
    return [
        p if len(alike) == 1 else p.model_copy(update={"key": f"{p.key}#{k + 1}"})
        for alike in by_name.values()
        for k, p in enumerate(sorted(alike, key=_place))
    ]


def _place(p: LinkedPiece) -> tuple[float, ...]:
    return tuple(round(float(x), 6) for x in np.mean(p.points, axis=0))


def cut_pieces(named: NamedShape, frame: PlaneFrame) -> list[LinkedPiece]:
    """Where the plane cuts a body, by the faces that are cut; where a face lies in the plane, its edges by their own names."""
    section = BRepAlgoAPI_Section(named.shape, gp_Pln(pnt(frame.origin), direction(frame.normal)), False)
    section.Approximation(False)
    section.Build()
    if not section.IsDone():
        return []
    own = list(zip(faces(named.shape), named.names, strict=True))
    flat = {p.key: p for p in edge_pieces(named, frame)}
    in_plane = _edges_in_plane(named, frame)
    out: dict[str, LinkedPiece] = {}
    more = []
    for edge in edges(section.Shape()):
        face = TopoDS_Face()
        name = next((n for f, n in own if f.IsSame(face)), None) if section.HasAncestorFaceOn1(edge, face) else None
        if name is not None:
            more.append(edge_piece(edge, frame, name, (name,)))
            continue
        middle = _along(edge)[DENSE // 2]
        near = min(in_plane, key=lambda n: float(np.linalg.norm(in_plane[n] - middle, axis=1).min()), default=None)
        if near is not None and near in flat:
            out[near] = flat[near]
    return [*out.values(), *numbered(more)]


def _edges_in_plane(named: NamedShape, frame: PlaneFrame) -> dict[str, Array]:
    """Places along edges that lie in the plane, by name."""
    places = {}
    for edge, name in zip(edges(named.shape), edge_names(named), strict=True):
        if BRep_Tool.Degenerated_s(edge):
            continue
        along = _along(edge)
        if float(np.abs((along - frame.origin) @ frame.normal).max()) < 1e-6:
            places[name] = along
    return places
