"""Faces given a thickness: plates and skins as long and wide as the faces that they lie on.

The kernel offsets the faces together and closes them along their borders, square to the faces. Nothing is passed on before places in and around it lie on
the right side.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape, TopoDS_Shell

from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.solid.boolean import combine
from contour.solid.face_geometry import face_surface, middle_of, pnt
from contour.solid.gate import require_solid
from contour.solid.mouths import place_on
from contour.solid.shape import NamedShape, edges, faces, listed
from contour.solid.topology.edges import borders_of, edge_names
from contour.solid.topology.labels import face_label
from contour.solid.walls import in_walls, require_as_wanted

__all__ = ["thickened"]

Array = NDArray[np.float64]
_ON_MM = 1e-5


def thickened(
    body: NamedShape,
    chosen: Sequence[str],
    out_mm: float,
    in_mm: float,
    *,
    prefix: str,
    labels: Mapping[str, str] | None = None,
) -> NamedShape:
    """A solid on faces of a body that hang together, so thick out of its material and into it, mm; none of either is fine.

    Faces are called ``prefix.under[face]`` and ``prefix.over[face]`` as they lie inwards or outwards, ``prefix.rim[edge]`` along borders.
    Raises ContourError (bad-params) without any thickness, and for faces apart from each other, (body-broken) with the face that is too tightly bent for it, or the place.
    """
    if out_mm < 0 or in_mm < 0 or out_mm + in_mm < 1e-3:
        raise ContourError(
            "bad-params",
            "there is no thickness",
            where=Where(param="thickness"),
            got=f"{out_mm + in_mm:g} mm",
            need="at least 0.001 mm",
            remedy="type a thickness",
        )
    own = [(n, f) for n, f in zip(body.names, faces(body.shape), strict=True) if n in chosen]
    groups = _groups(own)
    if len(groups) > 1:
        raise ContourError(
            "bad-params",
            "the faces do not hang together",
            where=Where(param="faces", point=triple(place_on(groups[1][0][1]))),
            got=f"{len(groups)} groups of faces",
            need="faces that share edges",
            remedy="thicken each group in a step of its own",
        )
    _require_room(own, out_mm, in_mm, labels)
    made = [_offset(body, own, way * mm, prefix) for way, mm in ((1.0, out_mm), (-1.0, in_mm)) if mm > 0]
    return made[0] if len(made) == 1 else combine(made[0], made[1], "add", what="the other side")


def _require_room(
    own: Sequence[tuple[str, TopoDS_Face]], out_mm: float, in_mm: float, labels: Mapping[str, str] | None
) -> None:
    """Raises ContourError (body-broken) for a face that has no parallel one so far away."""
    for name, face in own:
        s = face_surface(face)
        if s is None or s.kind not in ("cylinder", "sphere", "torus"):
            continue
        size, mm = (s.minor if s.kind == "torus" else s.radius), in_mm if s.outward > 0 else out_mm
        if mm >= size - 1e-6:
            raise ContourError(
                "body-broken",
                "a face is bent too tightly for this thickness",
                where=Where(param="thickness", entity=face_label(name, labels), point=triple(place_on(face))),
                got=f"a radius of {size:g} mm at {face_label(name, labels)}, {mm:g} mm towards its middle",
                need=f"less than {size:g} mm there",
                remedy="type less, let it lie on the other side, or leave this face out",
            )


def _offset(body: NamedShape, own: Sequence[tuple[str, TopoDS_Face]], mm: float, prefix: str) -> NamedShape:
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    for _, face in own:
        builder.Add(shell, face)
    maker = BRepOffset_MakeOffset()
    skin, join = BRepOffset_Mode.BRepOffset_Skin, GeomAbs_JoinType.GeomAbs_Intersection
    maker.Initialize(shell, mm, 1e-6, skin, False, False, join, True, False)
    try:
        maker.MakeOffsetShape()
        done = maker.IsDone()
    except Exception:  # the kernel throws whatever it met: what matters is that there is no result
        done = False
    if not done or maker.Shape().IsNull():
        raise ContourError(
            "body-broken",
            "the kernel cannot thicken these faces together",
            where=Where(param="faces", point=triple(place_on(own[0][1]))),
            got="no result from the kernel",
            need="faces whose parallel ones meet as they do",
            remedy="type another thickness, or thicken fewer faces at once",
        )
    shape = maker.Shape()
    require_solid(shape, doing="thickening")
    made = NamedShape(shape, _named(body, own, shape, maker, mm, prefix))
    walls, way = {n: abs(mm) for n, _ in own}, float(np.sign(mm))
    remedy = "type another thickness, or thicken fewer faces at once"

    def wanted(places: Array) -> Iterator[int]:
        return (in_walls(p, own, walls, way=way) for p in places)

    require_as_wanted(shape, wanted, what="the thickness comes out", remedy=remedy)
    return made


def _named(
    body: NamedShape,
    own: Sequence[tuple[str, TopoDS_Face]],
    shape: TopoDS_Shape,
    maker: BRepOffset_MakeOffset,
    mm: float,
    prefix: str,
) -> tuple[str, ...]:
    made = faces(shape)
    out = [""] * len(made)
    here, there = ("under", "over") if mm > 0 else ("over", "under")
    for name, face in own:
        heirs = listed(maker.Generated(face))
        for k, f in enumerate(made):
            if f.IsSame(face):
                out[k] = f"{prefix}.{here}[{name}]"
            elif any(f.IsSame(h) for h in heirs):
                out[k] = f"{prefix}.{there}[{name}]"
    borders = _borders(body, own)
    for k, f in enumerate(made):
        if not out[k]:
            away, name = min((_apart(f, p), n) for n, p in borders)
            out[k] = f"{prefix}.rim[{name}]" if away < _ON_MM else f"{prefix}.rim"
    return tuple(n if out.count(n) == 1 else f"{n}?" for n in out)


def _apart(face: TopoDS_Face, p: Array) -> float:
    return float(BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(pnt(p)).Vertex(), face).Value())


def _borders(body: NamedShape, own: Sequence[tuple[str, TopoDS_Face]]) -> list[tuple[str, Array]]:
    """Edges that only one of the faces has, by name, with a place on each."""
    borders, chosen = borders_of(body), {body.names.index(n) for n, _ in own}
    listed = faces(body.shape)
    out = []
    for name, edge, pair in zip(edge_names(body), edges(body.shape), borders.edges, strict=True):
        inside = [k for k in pair if k in chosen]
        if name and len(inside) == 1 and not BRep_Tool.IsClosed_s(edge, listed[inside[0]]):
            out.append((name, np.array(middle_of(edge))))
    return out


def _groups(own: Sequence[tuple[str, TopoDS_Face]]) -> list[list[tuple[str, TopoDS_Face]]]:
    """Faces that hang together by edges."""
    left, out = list(own), []
    while left:
        group = [left.pop(0)]
        for _, face in group:
            at = [e for e in edges(face) if not BRep_Tool.Degenerated_s(e)]
            near = [row for row in left if any(e.IsSame(d) for d in edges(row[1]) for e in at)]
            group += near
            left = [row for row in left if not any(row is n for n in near)]
        out.append(group)
    return out
