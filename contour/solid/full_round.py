"""A face between two others made one round that all three are tangent to: rims of ribs, edges of discs, floors of grooves.

The section of the three is the same everywhere along a direction, or about an axis, so that it is settled in a plane: the circle that touches three lines.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopoDS import TopoDS_Face

from contour.geometry.frames import PlaneFrame, plane_frame
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import square_to, triple
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Point2, Profile, Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.edge_blends import length_of
from contour.solid.edge_frame import edge_frame
from contour.solid.extrude import extrude
from contour.solid.face_geometry import face_surface, middle_of, pnt
from contour.solid.halves import beyond_plane, reach_of
from contour.solid.mouths import place_on
from contour.solid.pieces import pieces
from contour.solid.revolve import axis_in_plane, revolve
from contour.solid.shape import NamedShape, edges, faces
from contour.solid.topology.edges import borders_of
from contour.solid.topology.labels import face_label

__all__ = ["FullRound", "full_round"]

Array = NDArray[np.float64]
_SAME = 1e-7
_ON_MM = 1e-4


@dataclass(frozen=True, slots=True)
class FullRound:
    """The body, and its new round's radius, mm."""

    body: NamedShape
    radius: float


@dataclass(frozen=True, slots=True, eq=False)
class _Section:
    """The three faces in a plane: a place on each line and its direction out of the material, (3, 2) each · along: the direction that the section runs
    along, or the axis that it turns about."""

    frame: PlaneFrame
    at: Array
    out: Array
    along: Array
    turning: bool


def full_round(
    body: NamedShape,
    middle: str,
    sides: tuple[str, str] | None,
    *,
    prefix: str,
    labels: Mapping[str, str] | None = None,
) -> FullRound:
    """A face replaced by a round that is tangent to it and to the faces on both its sides. sides: their names; none: those with the longest borders to it.

    The round is called ``prefix.side[one]+prefix.side[other]``. Raises ContourError (wrong-kind) where the three have no common direction or axis,
    (bad-params) for sides that do not lie beside it or are too short, (body-broken).
    """
    own = dict(zip(body.names, faces(body.shape), strict=True))
    beside = _beside(body, middle)
    if sides is None:
        if len(beside) < 2:
            raise _wrong("only one face lies beside it", face_label(middle, labels), place_on(own[middle]))
        first, second = sorted(beside, key=lambda n: -beside[n])[:2]
    else:
        first, second = sides
        for name in sides:
            if name not in beside:
                raise ContourError(
                    "bad-params",
                    "a side does not lie beside the face",
                    where=Where(param="sides", entity=face_label(name, labels), point=triple(place_on(own[name]))),
                    got=face_label(name, labels),
                    need=f"two faces that share an edge with {face_label(middle, labels)}",
                    remedy="choose its neighbours, or none to have them found",
                )
    three = (first, middle, second)
    section = _section([own[n] for n in three], [face_label(n, labels) for n in three])
    # Tangent to all three: as far within each line as the radius is; of a groove it lies without, which comes out as a negative one.
    a = np.column_stack([section.out, np.ones(3)])
    if abs(np.linalg.det(a)) < 1e-9:
        raise _wrong(
            "the two sides and the face between them meet no circle", face_label(middle, labels), place_on(own[middle])
        )
    *centre, radius = np.linalg.solve(a, (section.out * section.at).sum(axis=1))
    touches = np.array(centre) + radius * section.out
    _require_long(section, touches, [own[n] for n in three], three, labels)
    corners = _corners(section, touches, np.array(centre), abs(float(radius)))
    tools = [_tool(section, c, own[middle], abs(float(radius)), prefix) for c in corners]
    outer = bool(radius > 0)
    if not section.turning:
        tools = [_ended(body, middle, (first, second), t, outer, prefix, labels) for t in tools]
    for tool in tools:
        changing = _changing(tool, body, outer=outer)
        for part, _away in pieces(changing):
            # What else lies in its way, beyond an end, is not meant.
            if _gap(part, own[middle]) < _ON_MM:
                body = combine(body, part, "subtract" if outer else "add", what="the round")
    return FullRound(body, abs(float(radius)))


def _changing(tool: NamedShape, body: NamedShape, *, outer: bool) -> NamedShape:
    """What a tool takes from a body, or what it fills beside it."""
    try:
        return combine(tool, body, "intersect" if outer else "subtract", what="the round")
    except ContourError as error:
        if error.problem.code != "unchanged":
            raise
        return tool  # it lies in the body, or beside it, as a whole


def _gap(part: NamedShape, face: TopoDS_Face) -> float:
    return float(BRepExtrema_DistShapeShape(part.shape, face).Value())


def _wrong(message: str, label: str, at: Array) -> ContourError:
    return ContourError(
        "wrong-kind",
        message,
        where=Where(param="face", entity=label, point=triple(at)),
        got=label,
        need="a face between two others, all three flat along one direction, or round about one axis",
        remedy="lay the faces on one axis or direction first, choose another face, or round its edges with fillets",
    )


def _beside(body: NamedShape, name: str) -> dict[str, float]:
    """Neighbours of a face, with how long they share a border with it, mm."""
    place = body.names.index(name)
    out: dict[str, float] = {}
    for edge, pair in zip(edges(body.shape), borders_of(body).edges, strict=True):
        if place in pair and len(pair) == 2:
            other = body.names[pair[0] if pair[1] == place else pair[1]]
            out[other] = out.get(other, 0.0) + length_of(edge)
    return out


def _section(three: Sequence[TopoDS_Face], labels: Sequence[str]) -> _Section:
    found = [face_surface(f) for f in three]
    surfaces = [s for s in found if s is not None and s.kind in ("plane", "cylinder", "cone")]
    if len(surfaces) < 3:
        k = next(k for k, s in enumerate(found) if s is None or s.kind not in ("plane", "cylinder", "cone"))
        raise _wrong("a face is neither flat, a cylinder nor a cone", labels[k], place_on(three[k]))
    turned = next((s for s in surfaces if s.kind != "plane"), None)
    if turned is None:
        n = [s.along for s in surfaces]
        along = np.cross(n[0], n[1])
        if np.linalg.norm(along) < _SAME or abs(along @ n[2]) > _SAME * np.linalg.norm(along):
            raise _wrong("the three faces have no direction in common", labels[1], place_on(three[1]))
        along = along / np.linalg.norm(along)
        frame = plane_frame(surfaces[1].at, along)
        at = frame.to_plane(np.array([s.at for s in surfaces]))
        return _Section(frame, at, np.array([[v @ frame.u, v @ frame.v] for v in n]), along, turning=False)
    across = square_to(turned.along)[0]
    frame = plane_frame(turned.at, np.cross(across, turned.along), across)
    rows = []
    for s, label, face in zip(surfaces, labels, three, strict=True):
        row = _about(s, frame)
        if row is None:
            raise _wrong("the three faces have no axis in common", f"{label}{_apart(s, frame)}", place_on(face))
        rows.append(row)
    return _Section(frame, np.array([r[0] for r in rows]), np.array([r[1] for r in rows]), turned.along, turning=True)


def _apart(s: Surface, frame: PlaneFrame) -> str:
    """How far a face's axis is from that of the first round one, as it is said: fitted ones are off by a hair."""
    off = s.at - frame.origin
    aside = 0.0 if s.kind == "plane" else float(np.linalg.norm(off - (off @ frame.v) * frame.v))
    tilt = float(np.degrees(np.arccos(min(abs(float(s.along @ frame.v)), 1.0))))
    return f", {aside:.4f} mm aside and {tilt:.3f} deg tilted"


def _about(s: Surface, frame: PlaneFrame) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """A face's line in a half plane of the axis (away from it, along it), and its way out; none for one of another axis."""
    axis = frame.v
    turn = float(s.along @ axis)
    off = s.at - frame.origin
    height = float(off @ axis)
    if abs(turn) < 1 - _SAME**2 - 1e-12:
        return None
    if s.kind == "plane":
        return (0.0, height), (0.0, float(np.sign(turn)))
    if np.linalg.norm(off - height * axis) > 1e-6:
        return None
    lean = s.half_angle * np.sign(turn) if s.kind == "cone" else 0.0
    return (s.radius, height), (float(s.outward * np.cos(lean)), float(-s.outward * np.sin(lean)))


def _require_long(
    section: _Section,
    touches: Array,
    three: Sequence[TopoDS_Face],
    names: Sequence[str],
    labels: Mapping[str, str] | None,
) -> None:
    """Raises ContourError (bad-params) where the round would leave one of the faces before it touches it."""
    spots = section.frame.to_space(touches)
    if not section.turning:
        height = float((place_on(three[1]) - section.frame.origin) @ section.along)
        spots = spots + height * section.along
    for spot, face, name in zip(spots, three, names, strict=True):
        away = float(BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(pnt(spot)).Vertex(), face).Value())
        if away > _ON_MM:
            raise ContourError(
                "bad-params",
                "a face is too short for the round",
                where=Where(param="face", entity=face_label(name, labels), point=triple(spot)),
                got=f"it would touch {face_label(name, labels)} {away:.3f} mm beyond its border",
                need="faces that reach as far as the round",
                remedy="choose other sides, or round the edges with fillets",
            )


def _corners(section: _Section, touches: Array, centre: Array, radius: float) -> list[Profile]:
    """What lies in both corners, between the lines and the circle."""
    out = []
    for k, which in ((0, "one"), (2, "other")):
        a, b = section.out[k], section.out[1]
        corner = np.linalg.solve(np.array([a, b]), [a @ section.at[k], b @ section.at[1]])
        half = centre + radius * (corner - centre) / np.linalg.norm(corner - centre)
        t, m, c = _spot(touches[k]), _spot(touches[1]), _spot(corner)
        lines = Entity(f"{which}-a", "line", m, c), Entity(f"{which}-b", "line", c, t)
        out += find_profiles(Sketch(section.frame, (*lines, Entity(which, "arc", t, m, mid=_spot(half)))))
    return out


def _tool(section: _Section, corner: Profile, middle: TopoDS_Face, radius: float, prefix: str) -> NamedShape:
    if section.turning:
        axis = axis_in_plane(section.frame, section.frame.origin, section.frame.v)
        return revolve([corner], section.frame, axis, start_deg=0.0, end_deg=360.0, prefix=prefix)
    low, high = reach_of(middle, section.frame.origin, section.along)
    beyond = 4 * radius + 1
    return extrude([corner], section.frame, start_mm=low - beyond, end_mm=high + beyond, prefix=prefix)


def _spot(p: Array) -> Point2:
    return (float(p[0]), float(p[1]))


def _ended(
    body: NamedShape,
    middle: str,
    sides: tuple[str, str],
    tool: NamedShape,
    outer: bool,
    prefix: str,
    labels: Mapping[str, str] | None,
) -> NamedShape:
    """The tool as far as the face goes: on past ends where there is nothing for it to change, up to the others."""
    own, place = faces(body.shape), body.names.index(middle)
    for edge, pair in zip(edges(body.shape), borders_of(body).edges, strict=True):
        if place not in pair or len(pair) != 2:
            continue
        k = pair[0] if pair[1] == place else pair[1]
        other, name = own[k], body.names[k]
        if name in sides or edge_frame(body.shape, edge).outer == outer:
            continue
        s = face_surface(other)
        if s is None or s.kind != "plane":
            raise ContourError(
                "wrong-kind",
                "it ends at a face that is not flat",
                where=Where(param="face", entity=face_label(name, labels), point=middle_of(edge)),
                got=face_label(name, labels),
                need="flat ends",
                remedy="round it before what it ends at is made",
            )
        way = -s.along if outer else s.along
        size = 2 * float(np.ptp(reach_of(body.shape, np.array(middle_of(edge)), s.along))) + 1e3
        block = beyond_plane(s.at, way, size, np.array(middle_of(edge)), f"{prefix}.end[{name}]")
        tool = combine(tool, block, "subtract", what="what lies beyond its end")
    return tool
