"""What is kept of a body's faces, edges and corners beside its shape: ``topology.json``, read without the kernel."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face

from contour.geometry.curves import Line
from contour.solid.edge_frame import turn_between
from contour.solid.face_geometry import array, edge_curve
from contour.solid.facts import face_facts
from contour.solid.same_parts import told_of_parts
from contour.solid.shape import NamedShape, edges, faces, read_shape, shape_map
from contour.solid.topology.edges import borders_of, corner_names, edge_names

__all__ = ["edge_names_of", "is_border", "is_smooth", "rows_of", "topology_rows"]

_SMOOTH_DEG = 1.0  # edges and faces that turn by less run on into one another


def _rounded(p: Any, digits: int = 5) -> list[float]:
    return [round(float(x), digits) for x in p]


@told_of_parts
def _edge_row(edge: TopoDS_Edge) -> tuple[dict[str, Any], list[tuple[int, Any]]]:
    """kind, length, a place in its middle, for lines the direction, for circles centre, axis and radius (mm); and the unit
    tangents out of its ends, each with the number of the end (0 first, 1 last)."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    known = edge_curve(edge)
    row: dict[str, Any] = {
        "kind": known.kind if known else "curve",
        "length": round(float(GCPnts_AbscissaPoint.Length_s(curve)), 5),
    }
    row["centre"] = _rounded(array(curve.Value((first + last) / 2)))
    if isinstance(known, Line):
        row["axis"] = _rounded(known.direction, 7)
    elif known and known.kind == "circle":
        row["origin"], row["axis"], row["radius"] = (
            _rounded(known.centre),
            _rounded(known.axis, 7),
            round(known.long, 5),
        )
    tangents = []
    for end, t in enumerate((first, last)):
        p, d = gp_Pnt(), gp_Vec()
        curve.D1(t, p, d)
        size = d.Magnitude()
        if size > 1e-12:
            tangents.append((end, array(d) / size * (1 if end == 0 else -1)))
    return row, tangents


def is_border(edge: TopoDS_Edge, owners: list[Any]) -> bool:
    """Whether one face alone ends there: the border of an open body, not the seam of a round face."""
    return len(owners) == 1 and not BRep_Tool.IsClosed_s(edge, owners[0])


def is_smooth(edge: TopoDS_Edge, owners: list[Any]) -> bool:
    """Whether the two faces run into one another there without an edge to be felt."""
    return _runs_on(edge, *owners) if len(owners) == 2 else not is_border(edge, owners)


@told_of_parts
def _runs_on(edge: TopoDS_Edge, a: TopoDS_Face, b: TopoDS_Face) -> bool:
    limit = np.cos(np.radians(_SMOOTH_DEG))
    return all(turn_between((a, b), edge, at=at) > limit for at in (0.5, 0.25, 0.75))


def topology_rows(named: NamedShape) -> dict[str, list[dict[str, Any]]]:
    """faces as :func:`contour.solid.facts.face_facts` tells them · edges: name, kind, places of the faces on both sides and of
    those at its ends, length, centre, whether it is smooth, whether it is a border of an open body, and the edges that run on from it without a bend · vertices: name,
    faces, centre. In the kernel's order; mm."""
    shape = named.shape
    borders = borders_of(named)
    all_faces = faces(shape)
    corner_map = shape_map(shape, TopAbs_ShapeEnum.TopAbs_VERTEX)
    rows: list[dict[str, Any]] = []
    leaving: dict[int, list[tuple[int, Any]]] = {}  # corner -> edges that leave it, with their unit directions
    for i, (edge, name) in enumerate(zip(edges(shape), edge_names(named), strict=True)):
        sides = borders.edges[i]
        at_ends = sorted({f for v in borders.ends[i] for f in borders.corners[v]} - set(sides))
        row: dict[str, Any] = {"name": name, "faces": list(sides), "ends": at_ends, "next": []}
        rows.append(row)
        if BRep_Tool.Degenerated_s(edge):
            rows[-1] |= {"kind": "pole", "length": 0.0, "smooth": True, "border": False}
            continue
        more, tangents = _edge_row(edge)
        owners = [all_faces[f] for f in sides]
        row |= more | {"smooth": is_smooth(edge, owners), "border": is_border(edge, owners)}
        # As the curve runs, not as the edge is turned: the first corner of the forward edge is where its parameter begins.
        forward = TopoDS.Edge(edge.Oriented(TopAbs_Orientation.TopAbs_FORWARD))
        tips = (TopExp.FirstVertex_s(forward), TopExp.LastVertex_s(forward))
        for end, away in tangents:
            corner = corner_map.FindIndex(tips[end])
            if corner:
                leaving.setdefault(corner, []).append((i, away))
    _run_on(rows, leaving)
    vertices = []
    for k, name in enumerate(corner_names(named)):
        p = BRep_Tool.Pnt_s(TopoDS.Vertex(corner_map.FindKey(k + 1)))
        vertices.append({"name": name, "faces": list(borders.corners[k]), "centre": _rounded(array(p))})
    return {"faces": face_facts(named), "edges": rows, "vertices": vertices}


def _kept(folder: Path) -> NamedShape:
    shape, names = read_shape((folder / "shape.bin").read_bytes()), json.loads((folder / "names.json").read_text())
    return NamedShape(shape, tuple(names))


def rows_of(folder: Path) -> dict[str, list[dict[str, Any]]]:
    """The same of a body that is kept in a folder."""
    return topology_rows(_kept(folder))


def edge_names_of(folder: Path) -> list[str]:
    """Names of the edges of a body that is kept in a folder."""
    return edge_names(_kept(folder))


def _run_on(rows: list[dict[str, Any]], leaving: dict[int, list[tuple[int, Any]]]) -> None:
    """At each corner, the sharp edges that go on in the direction another one comes from."""
    limit = -np.cos(np.radians(_SMOOTH_DEG))
    for met in leaving.values():
        sharp = [(i, d) for i, d in met if not rows[i]["smooth"]]
        for i, a in sharp:
            on = [k for k, b in sharp if k != i and float(a @ b) < limit]
            if len(on) == 1 and on[0] not in rows[i]["next"]:
                rows[i]["next"].append(on[0])
