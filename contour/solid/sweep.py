"""Profiles swept along a path in space."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from OCP.BRepBuilderAPI import BRepBuilderAPI_TransitionMode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.BRepTools import BRepTools
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape
from scipy.spatial.transform import Rotation

from contour.geometry.frames import PlaneFrame
from contour.geometry.rigid import moved, placement
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Profile, entity_points
from contour.solid.boolean import combine
from contour.solid.gate import require_solid
from contour.solid.path import Path, Piece
from contour.solid.placed import moved_face
from contour.solid.shape import NamedShape, edges, shape_map
from contour.solid.skin import Wall, places_along, skin
from contour.solid.topology.names import names_by_face, together
from contour.solid.wires import Keyed, profile_face

__all__ = ["carried", "sweep"]

Array = NDArray[np.float64]
_OFF_MM = 0.01  # a path may begin as far off the sketch's plane
_LEAST_DEG = 10.0
_EACH_TURN = 48
_STATIONS = (65, 1025)


def sweep(
    profiles: Sequence[Profile],
    frame: PlaneFrame,
    path: Path,
    *,
    fixed: bool = False,
    twist_deg: float = 0.0,
    prefix: str,
) -> NamedShape:
    """The solid that profiles sweep along a path which begins in their plane.

    fixed: they keep their direction, else they turn with the path · twist_deg: turned as much more, evenly along it. Faces are named
    ``prefix.side[entity:piece]``, and of an open path ``prefix.start[profile]`` and ``prefix.end[profile]``.
    Raises ContourError (too-tilted, self-crossing, bad-params, body-broken).
    """
    skinned = fixed or abs(twist_deg) > 1e-9
    if skinned:
        _require_open(frame, path, fixed=fixed, twist_deg=twist_deg)
    if path.closed and abs(path.begins[1] @ frame.normal) < abs(path.turned().begins[1] @ frame.normal):
        path = path.turned()
    _require_start(frame, path)
    _require_room(profiles, frame, path, fixed=fixed)
    one = _skinned if skinned else _piped
    made = [one(p, frame, path, fixed=fixed, twist_deg=twist_deg, prefix=prefix) for p in profiles]
    return made[0] if len(made) == 1 else together(made)


def _require_start(frame: PlaneFrame, path: Path) -> None:
    at, way = path.begins
    off = float((at - frame.origin) @ frame.normal)
    spot = (float(at[0]), float(at[1]), float(at[2]))
    if abs(off) > _OFF_MM:
        raise ContourError(
            "bad-params",
            "the path does not begin in the sketch's plane",
            where=Where(param=path.param, point=spot),
            got=f"{off:+.3f} mm off it",
            need=f"within {_OFF_MM:g} mm",
            remedy="put the sketch on a plane at an end of the path",
        )
    steep = float(np.degrees(np.arcsin(min(abs(float(way @ frame.normal)), 1.0))))
    if steep < _LEAST_DEG:
        raise ContourError(
            "too-tilted",
            "the path runs along the sketch's plane where it begins",
            where=Where(param=path.param, point=spot),
            got=f"{steep:.1f} deg to the plane",
            need=f"at least {_LEAST_DEG:g} deg",
            remedy="put the sketch on a plane across the path",
        )


def _require_open(frame: PlaneFrame, path: Path, *, fixed: bool, twist_deg: float) -> None:
    """What is not made by turning with the path alone cannot close, or go round a corner with a twist, or turn back on itself."""
    if path.closed:
        raise ContourError(
            "bad-params",
            "along a closed path a profile only turns with the path",
            where=Where(param="twist" if abs(twist_deg) > 1e-9 else "way"),
            got="a closed path",
            need="a path with two ends",
            remedy="take the twist off, or let the profile turn with the path",
        )
    if fixed:
        places, ways = path.places()
        sign = np.sign(ways[0] @ frame.normal)
        k = int(np.argmin(ways @ frame.normal * sign))
        steep = float(np.degrees(np.arcsin(np.clip(ways[k] @ frame.normal * sign, -1, 1))))
        if steep < 0.5:
            raise ContourError(
                "too-tilted",
                "the path runs along the profile's plane, which keeps its direction",
                where=Where(param=path.param, point=(float(places[k][0]), float(places[k][1]), float(places[k][2]))),
                got=f"{steep:.1f} deg to the plane",
                need="at least 0.5 deg",
                remedy="let the profile turn with the path",
            )
        return
    for name, at in path.corners():
        raise ContourError(
            "bad-params",
            "a twisted sweep goes round no corner",
            where=Where(param=path.param, entity=name, point=(float(at[0]), float(at[1]), float(at[2]))),
            got="a corner",
            need="a path without corners",
            remedy="round the corner, or take the twist off",
        )


def _require_room(profiles: Sequence[Profile], frame: PlaneFrame, path: Path, *, fixed: bool) -> None:
    """Raises ContourError (self-crossing) where the path bends tighter than the outline reaches out to the inside of the bend."""
    if fixed:
        return
    at, _ = path.begins
    spots = np.vstack([frame.to_space(entity_points(e)) for p in profiles for e in p.outer.entities])
    reach = float(np.linalg.norm(spots - at, axis=1).max())
    radius, where = path.tightest()
    if reach < radius * (1 - 1e-6):
        return
    inward = _inward(path, spots - at)
    if inward is None or inward >= radius * (1 - 1e-9):
        raise ContourError(
            "self-crossing",
            "the path bends tighter than the outline is wide",
            where=Where(param=path.param, point=(float(where[0]), float(where[1]), float(where[2]))),
            got=f"a bend of {radius:.3f} mm, an outline that reaches {reach if inward is None else inward:.3f} mm from the path",
            need="a bend wider than that",
            remedy="make the bend wider, or the outline narrower",
        )


def _inward(path: Path, spots: Array) -> float | None:
    """How far an outline reaches to the inside of the bends of a path that lies in a plane, mm; none where it does not.
    spots (n, 3): from the path's beginning."""
    _, ways = path.places()
    turns = np.cross(ways[:-1], ways[1:])
    bent = turns[np.linalg.norm(turns, axis=1) > 1e-9]
    if len(bent) == 0:
        return 0.0
    axes = bent / np.linalg.norm(bent, axis=1)[:, None]
    if float(np.abs(axes @ axes[0]).min()) < 1 - 1e-9:
        return None
    inner = spots @ np.cross(axes[0], ways[0])
    both = (axes @ axes[0] > 0).any(), (axes @ axes[0] < 0).any()
    return max(float(inner.max()) if both[0] else 0.0, float(-inner.min()) if both[1] else 0.0)


def _piped(
    profile: Profile, frame: PlaneFrame, path: Path, *, fixed: bool, twist_deg: float, prefix: str
) -> NamedShape:
    """By the kernel: walls of straight and round pieces are planes, cylinders and tori."""
    face, keyed = profile_face(profile, frame)
    outer, *islands = _loops(face, keyed)
    made = _pipe(outer[0], outer[1], path, prefix, profile.id)
    for wire, own in islands:
        made = combine(made, _pipe(wire, own, path, prefix, profile.id), "subtract", what="what lies within")
    return made


def _loops(face: TopoDS_Face, keyed: Keyed) -> list[tuple[TopoDS_Shape, Keyed]]:
    """Wires of a face, the outer one first, each with its own edges."""
    found = shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    wires = [found.FindKey(i) for i in range(1, found.Size() + 1)]
    outer = BRepTools.OuterWire_s(face)
    ordered = [outer, *(w for w in wires if not w.IsSame(outer))]
    return [(w, [(n, e) for n, e in keyed if any(e.IsSame(o) for o in edges(w))]) for w in ordered]


def _pipe(wire: TopoDS_Shape, keyed: Keyed, path: Path, prefix: str, profile: str) -> NamedShape:
    maker = BRepOffsetAPI_MakePipeShell(path.wire())
    maker.SetTransitionMode(BRepBuilderAPI_TransitionMode.BRepBuilderAPI_RightCorner)
    maker.Add(wire)
    try:
        maker.Build()
        done = maker.IsDone() and maker.MakeSolid()
    except Exception:  # the kernel's own errors have no common base in the binding
        done = False
    if not done:
        raise ContourError(
            "body-broken",
            "the kernel cannot sweep this outline along this path",
            where=Where(param=path.param),
            got="no result",
            need="a path that the outline can follow",
            remedy="make its bends wider or its corners blunter",
        )
    shape = maker.Shape()
    require_solid(shape, doing="sweeping", pieces=1)
    given: list[tuple[TopoDS_Shape, str]] = []
    for entity, edge in keyed:
        walls = list(maker.Generated(edge))
        along = [p.name for p in path.pieces]
        if len(walls) != len(along):
            along = [str(k + 1) for k in range(len(walls))]
        given += [(w, f"{prefix}.side[{entity}:{piece}]") for w, piece in zip(walls, along, strict=True)]
    if not path.closed:
        given += [(maker.FirstShape(), f"{prefix}.start[{profile}]"), (maker.LastShape(), f"{prefix}.end[{profile}]")]
    return NamedShape(shape, names_by_face(shape, given))


def carried(path: Path, *, fixed: bool, twist_deg: float) -> list[tuple[Piece, Array, list[Array]]]:
    """For every piece: shares of the whole way (m,), rising, and placements (4, 4) there of what lies at the path's beginning.

    Turning with the path it turns no more than the path does. Reference: Wang, Jüttler, Zheng and Liu 2008, double reflection.
    """
    whole = path.length()
    turn = np.eye(3)
    begin, way = path.begins
    run = 0.0
    out: list[tuple[Piece, Array, list[Array]]] = []
    for piece in path.pieces:
        length = piece.length()
        bends = float(np.abs(np.diff([piece.at(float(s))[1] for s in np.linspace(0, 1, 17)], axis=0)).sum())
        twisted = abs(twist_deg) * length / whole / 360
        straight = bends < 1e-9 and twisted < 1e-9
        count = 2 if straight else int(np.clip(np.ceil(_EACH_TURN * (bends / 6 + twisted)), *_STATIONS))
        share, stations = [], []
        places = [piece.at(float(s)) for s in np.linspace(0, 1, count)]
        gone = np.cumsum([0.0, *(float(np.linalg.norm(b[0] - a[0])) for a, b in pairwise(places))])
        before = begin if not out else places[0][0]
        for (at, now), far in zip(places, gone * length / gone[-1], strict=True):
            if not fixed:
                turn = _turned_on(turn, before, way, at, now)
            before, way = at, now
            s = (run + far) / whole
            spin = Rotation.from_rotvec(np.radians(twist_deg * s) * (now if not fixed else path.begins[1])).as_matrix()
            r = spin @ turn
            share.append(s)
            stations.append(placement(r, at - r @ begin))
        run += length
        out.append((piece, np.array(share), stations))
    return out


def _turned_on(turn: Array, a: Array, way_a: Array, b: Array, way_b: Array) -> Array:
    """The frame carried from a place to the next one, (3, 3)."""
    step = b - a
    if float(step @ step) < 1e-24:
        return turn
    first = turn - 2 * np.outer(step, step @ turn) / (step @ step)
    mirrored = way_a - 2 * (step @ way_a) / (step @ step) * step
    rest = way_b - mirrored
    size = float(rest @ rest)
    return first if size < 1e-24 else first - 2 * np.outer(rest, rest @ first) / size


def _skinned(
    profile: Profile, frame: PlaneFrame, path: Path, *, fixed: bool, twist_deg: float, prefix: str
) -> NamedShape:
    """Through sections along the path: walls of straight pieces that only go on are flat, the others splines."""
    face, keyed = profile_face(profile, frame)
    stations = carried(path, fixed=fixed, twist_deg=twist_deg)
    walls = []
    for entity, edge in keyed:
        places = places_along(edge)
        for piece, at, ways in stations:
            rows = np.stack([moved(m, places) for m in ways], axis=1)
            walls.append(Wall(f"{prefix}.side[{entity}:{piece.name}]", rows, at))
    first, last = stations[0][2][0], stations[-1][2][-1]
    caps = [(f"{prefix}.{n}[{profile.id}]", moved_face(face, m)) for n, m in (("start", first), ("end", last))]
    return skin(walls, caps, doing="sweeping")
