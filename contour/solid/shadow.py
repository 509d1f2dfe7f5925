"""The silhouette of a body along a direction: the border of its shadow, in exact pieces of its edges and of the outlines of its round faces.

Which curves lie on the border is read off a fine mesh's shadow; where they lie comes from the curves alone.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepLib import BRepLib
from OCP.gp import gp_Ax2
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape
from OCP.TopoDS import TopoDS_Face
from shapely.geometry import Polygon

from contour.geometry.curves import Curve, Line, Oval
from contour.geometry.frames import PlaneFrame
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import square_to, triple
from contour.recipe.problem import ContourError
from contour.sketch.drawn.linked import DENSE, LinkedPiece, seen, traced
from contour.sketch.drawn.traces import Trace, crossings, foot
from contour.solid.face_geometry import array, direction, face_surface, pnt, v_range
from contour.solid.linked import edge_piece, edge_pieces, numbered
from contour.solid.shape import NamedShape, edges, faces
from contour.solid.tessellate import tessellate

__all__ = ["silhouette_pieces"]

Array = NDArray[np.float64]
_FINE = 5e-4  # of the body's size: chord error of the mesh whose shadow is thrown
_NEAR = 4.0  # chord errors within which a border lies on a curve
_MET = 1e-6  # mm between curves that meet
_ROUNDS = 30
_OUTLINE = "outline"


def silhouette_pieces(named: NamedShape, frame: PlaneFrame) -> list[LinkedPiece]:
    """The border of the shadow along the plane's normal, holes that one can look through included, on the plane, mm.

    Raises ContourError (degenerate) where some of the border lies on no edge and no outline.
    """
    chord, rings = _shadow(named, frame)
    curves = [p for p in (*edge_pieces(named, frame), *_outlines(named, frame)) if p.kind != "point"]
    traces = [(curves[k], t) for k, t in traced(curves)]
    lines = [shapely.linestrings(t.place(np.linspace(0, 1, 4 * len(t.shown)))) for _, t in traces]
    out: list[LinkedPiece] = []
    tips = np.array([p for _, t in traces if not t.closed for p in t.place(np.array([0.0, 1.0]))]).reshape(-1, 2)
    for bare in rings:
        ring = _with_tips(bare, tips, _NEAR * chord)
        runs = _runs(ring, lines, _NEAR * chord)
        before = [on for _, on in (runs[-1], *runs[:-1])]
        corners = [
            _corner(traces[a][1], traces[b][1], ring[k], _NEAR * chord) for a, (k, b) in zip(before, runs, strict=True)
        ]
        for first, last, (k, on) in zip(corners, [*corners[1:], corners[0]], runs, strict=True):
            piece, trace = traces[on]
            inside = (ring[k] + ring[(k + 1) % len(ring)]) / 2
            if len(runs) == 1:
                out.append(piece)
            elif np.linalg.norm(last - first) > _MET:
                out.append(_part(piece, trace, first, inside, last))
    return numbered(out)


def _with_tips(ring: Array, tips: Array, near: float) -> Array:
    """A ring (n, 2) with a corner wherever a curve ends next to one of its sides: sides of two curves in one line are one side of a shadow."""
    after = np.roll(ring, -1, axis=0)
    way = after - ring
    long = np.linalg.norm(way, axis=1)
    side, tip = shapely.STRtree(shapely.points(tips)).query(
        shapely.linestrings(np.stack([ring, after], axis=1)), predicate="dwithin", distance=near
    )
    along = ((tips[tip] - ring[side]) * way[side]).sum(axis=1) / long[side]
    inner = (along > near) & (along < long[side] - near)
    at = np.concatenate([np.arange(len(ring), dtype=float), side[inner] + along[inner] / long[side[inner]]])
    at = np.unique(np.round(at, 9))
    k = np.floor(at).astype(int)
    return np.asarray(ring[k] + (at - k)[:, None] * way[k])


def _shadow(named: NamedShape, frame: PlaneFrame) -> tuple[float, list[Array]]:
    """Chord error (mm) of the mesh, and the closed border (n, 2) of its shadow, ring by ring."""
    coarse = tessellate(named.shape, chord_mm=1.0)
    chord = _FINE * float(np.ptp(coarse.vertices, axis=0).max())
    mesh = tessellate(named.shape, chord_mm=chord, angle_rad=0.15)
    flat = frame.to_plane(mesh.vertices)
    triangles = flat[mesh.triangles]
    a, b = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    triangles = triangles[
        a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0] > 1e-9 * chord
    ]  # a closed body throws its front's shadow
    whole = shapely.union_all(shapely.polygons(triangles), grid_size=chord * 1e-2)
    whole = whole.buffer(chord / 4, join_style="mitre").buffer(-chord / 4, join_style="mitre")  # seams of the mesh
    parts = [g for g in getattr(whole, "geoms", [whole]) if isinstance(g, Polygon)]
    least = (4 * chord) ** 2
    rings = [r for p in parts for r in (p.exterior, *p.interiors) if Polygon(r).area > least]
    return chord, [np.array(r.simplify(chord * 0.05).coords)[:-1] for r in rings]


def _outlines(named: NamedShape, frame: PlaneFrame) -> list[LinkedPiece]:
    """Where round faces turn away from the plane's normal: exact on cylinders, cones and balls, by the kernel on all others."""
    out, others = [], False
    for face, name in zip(faces(named.shape), named.names, strict=True):
        surface = face_surface(face)
        if surface is None or surface.kind == "torus":
            others = True
        else:
            out += [seen(c, frame, f"{_OUTLINE} {name}", (name,)) for c in _turning(surface, face, frame.normal)]
        if surface is not None and surface.kind == "torus":
            out += [seen(c, frame, f"{_OUTLINE} {name}", (name,)) for c in _rims(surface, frame.normal)]
    seams = [e for e in edges(named.shape) if not BRep_Tool.Degenerated_s(e)]
    return [*out, *(_kernels(named, frame) if others else []), *(edge_piece(e, frame, _OUTLINE) for e in seams)]


def _turning(s: Surface, face: TopoDS_Face, normal: Array) -> list[Curve]:
    """Lines or the circle along which a face's normal is square to a direction; as long as the face is, or longer."""
    origin, axis = np.array(s.origin), np.array(s.axis)
    if s.kind == "sphere":
        x, y = square_to(normal)
        return [Oval(s.origin, triple(x), triple(y), s.radius, s.radius)]
    if s.kind == "plane":
        return []
    x = normal - (normal @ axis) * axis
    if np.linalg.norm(x) < 1e-9:
        return []
    x = x / np.linalg.norm(x)
    y = np.cross(axis, x)
    # cos(phi) times what the normal leans along x is what the cone leans along its axis.
    lean = float(np.tan(s.half_angle) * (normal @ axis) / (normal @ x))
    if abs(lean) >= 1:
        return []
    reach = _heights(face, origin, axis)
    slope = float(np.tan(s.half_angle))
    out: list[Curve] = []
    for side in (1.0, -1.0):
        way = lean * x + side * np.sqrt(1 - lean * lean) * y
        tips = [origin + h * axis + (s.radius + h * slope) * way for h in reach]
        out.append(Line(triple(tips[0]), triple(tips[1])))
    return out


def _heights(face: TopoDS_Face, origin: Array, axis: Array) -> list[float]:
    """Where a cylinder's or cone's face begins and ends along its axis, from its origin, mm."""
    surface = BRepAdaptor_Surface(face)
    u = surface.FirstUParameter()
    return [float((array(surface.Value(u, v)) - origin) @ axis) for v in v_range(face)]


def _rims(s: Surface, normal: Array) -> list[Curve]:
    """Of a torus seen along its axis."""
    axis = np.array(s.axis)
    if abs(float(axis @ normal)) < 1 - 1e-12:
        return []
    x, y = square_to(axis)
    return [Oval(s.origin, triple(x), triple(y), r, r) for r in (s.radius + s.minor, s.radius - s.minor) if r > 0]


def _kernels(named: NamedShape, frame: PlaneFrame) -> list[LinkedPiece]:
    hidden = HLRBRep_Algo()
    hidden.Add(named.shape)
    hidden.Projector(HLRAlgo_Projector(gp_Ax2(pnt(frame.origin), direction(frame.normal), direction(frame.u))))
    hidden.Update()
    found = HLRBRep_HLRToShape(hidden).OutLineVCompound()
    if found is None or found.IsNull():
        return []
    BRepLib.BuildCurves3d_s(found)
    own = PlaneFrame(np.zeros(3), np.eye(3)[0], np.eye(3)[1], np.eye(3)[2])  # they come in the plane's own axes
    return [edge_piece(e, own, _OUTLINE) for e in edges(found) if not BRep_Tool.Degenerated_s(e)]


def _runs(ring: Array, lines: Sequence[object], near: float) -> list[tuple[int, int]]:
    """Stretches of a ring: the corner at which each begins, and the curve that it lies on."""
    middles = (ring + np.roll(ring, -1, axis=0)) / 2
    at_corner, off = (
        np.stack([shapely.distance(shapely.points(p), line) for line in lines], axis=1) for p in (ring, middles)
    )
    # A side of the mesh may lead from one curve to the next: its ends lie on one each.
    lost = int(at_corner.min(axis=1).argmax())
    if at_corner[lost].min() > near:
        x, y = ring[lost]
        raise ContourError(
            "degenerate",
            "the silhouette could not be told here",
            got=f"a border {at_corner[lost].min():.3g} mm from every edge, at {x:.2f}, {y:.2f} on the plane",
            need="borders along edges and outlines",
            remedy="bring in the edges one by one",
        )
    off = np.maximum(off, (at_corner + np.roll(at_corner, -1, axis=0)) / 2)
    on: list[int] = []
    for row in off:
        # Curves lie over each other, as both rims of a wall do: the one that it is on already goes on.
        on.append(on[-1] if on and row[on[-1]] < max(2 * row.min(), near / 8) else int(row.argmin()))
    while on[0] != on[-1] and off[len(on) - 1][on[0]] < max(2 * off[-1].min(), near / 8) and on[-1] != on[-2]:
        on[-1] = on[0]
    starts = [k for k in range(len(on)) if on[k] != on[k - 1]]
    return [(k, on[k]) for k in starts] or [(0, on[0])]


def _corner(a: Trace, b: Trace, near: Array, reach: float) -> Array:
    """Where two curves meet next to a place (2,): where one ends on the other, else where they cross; the middle between them where they only come
    close."""
    tips = [t.place(np.array([end]))[0] for t in (a, b) for end in (0.0, 1.0) if not t.closed]
    met = [p for p in tips if all(np.linalg.norm(_on(t, p) - p) < _MET for t in (a, b))]
    met += [a.place(np.array([t]))[0] for t in crossings([a, b], _MET)[0]]
    found = min(met, key=lambda p: float(np.linalg.norm(p - near)), default=None)
    if found is None or np.linalg.norm(found - near) > 25 * reach:
        found = near
        for _ in range(_ROUNDS):
            found = (_on(a, found) + _on(b, found)) / 2
    return np.asarray(found)


def _on(trace: Trace, p: Array) -> Array:
    return np.asarray(trace.place(np.array([foot(trace, p)]))[0])


def _part(piece: LinkedPiece, trace: Trace, first: Array, inside: Array, last: Array) -> LinkedPiece:
    """The piece from one place on it to another, by way of a third."""
    a, m, b = (foot(trace, p) for p in (first, inside, last))
    if trace.closed:
        m, b = a + (m - a) % 1.0, a + (b - a) % 1.0
        if m > b:  # the other way round
            a, b = b, a + 1.0
    elif a > b:
        a, b = b, a
    ends = trace.place(np.array([a, b]) % 1.0 if trace.closed else np.array([a, b]))

    def pair(p: Array) -> tuple[float, float]:
        return float(p[0]), float(p[1])

    match piece.kind:
        case "line":
            return piece.model_copy(update={"points": (pair(ends[0]), pair(ends[1]))})
        case "circle" | "arc":
            return piece.model_copy(update={"kind": "arc", "points": (piece.points[0], pair(ends[0]), pair(ends[1]))})
        case "ellipse":
            return piece.model_copy(update={"points": (*piece.points[:2], pair(ends[0]), pair(ends[1]))})
        case _:
            at = np.linspace(a, b, DENSE)
            along = trace.place(at % 1.0 if trace.closed else at)
            return piece.model_copy(update={"points": tuple(pair(p) for p in along)})
