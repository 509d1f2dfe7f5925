"""Clefts: the narrow air between faces that face each other, as bodies that fill it.

Two flat faces nearer to each other than a width, or a round one within another round one about one axis, or a bore no wider than that: what is fitted to
a scan piece by piece leaves such clefts where pieces meet, and a slit through a wall is one too. Their fillings end flush with the faces that they lie
between, so that a wall with a filled cleft in it is whole.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Vec
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from contour.geometry.surfaces import Surface
from contour.geometry.vectors import Vec3, triple
from contour.solid.extent import bounds
from contour.solid.face_geometry import array, face_surface, goes_round
from contour.solid.mass import volume
from contour.solid.primitives import cone, turned
from contour.solid.shape import NamedShape, edges, faces, solids
from contour.solid.tessellate import tessellate

__all__ = ["Cleft", "clefts"]

Array = NDArray[np.float64]
_FACING = np.cos(np.radians(2.0))  # faces turned further from each other than this leave a wedge, which has no width
_LEAST_MM3 = 1e-9


@dataclass(frozen=True, slots=True)
class _Face:
    name: str
    face: TopoDS_Face
    surface: Surface
    box: Array  # (2, 3), mm


@dataclass(frozen=True, slots=True)
class Cleft:
    """What fills it, and how wide it is, mm."""

    filling: NamedShape
    width: float

    @property
    def at(self) -> Vec3:
        """A place in its middle: on the filling's surface, nearest to its centre, mm."""
        mesh = tessellate(self.filling.shape, chord_mm=0.1, sides=False)
        spots = mesh.vertices[mesh.triangles].mean(axis=1)
        return triple(spots[int(np.argmin(np.linalg.norm(spots - spots.mean(axis=0), axis=1)))])


def clefts(bodies: Sequence[NamedShape], width: float, *, prefix: str) -> list[Cleft]:
    """All clefts up to a width (mm) between faces of bodies, or of one; their fillings' faces are ``prefix.gap<k>[face]`` after the first of the two.

    Only between flat faces that face each other within 2° and whole cylinders about one axis.
    """
    known = [
        _Face(n, f, s, bounds(f))
        for b in bodies
        for n, f in zip(b.names, faces(b.shape), strict=True)
        if (s := face_surface(f))
    ]
    out = []
    for one in known:
        if (
            one.surface.kind == "cylinder"
            and one.surface.outward < 0
            and 2 * one.surface.radius <= width
            and goes_round(one.face)
        ):
            low, high = _heights(one, one.surface)
            r = one.surface.radius
            out.append(
                Cleft(
                    cone(one.surface.at, one.surface.along, (low, high), (r, r), prefix=f"{prefix}.gap[{one.name}]"),
                    2 * r,
                )
            )
    for a, b in combinations(known, 2):
        if (a.box[0] > b.box[1] + width).any() or (b.box[0] > a.box[1] + width).any():
            continue
        out += _between(a, b, width, prefix)
    return out


def _between(a: _Face, b: _Face, width: float, prefix: str) -> list[Cleft]:
    kinds = {a.surface.kind, b.surface.kind}
    if kinds == {"plane"}:
        return _flat(a, b, width, prefix)
    if kinds == {"cylinder"} and a.surface.outward != b.surface.outward:
        return _ring(*((a, b) if a.surface.outward > 0 else (b, a)), width, prefix)
    return []


def _flat(a: _Face, b: _Face, width: float, prefix: str) -> list[Cleft]:
    """What lies both over the one and over the other."""
    if -float(a.surface.along @ b.surface.along) < _FACING:
        return []
    apart = max(_over(a, b), _over(b, a))
    if not 1e-6 < apart <= width:
        return []
    op = BRepAlgoAPI_Common(
        *(BRepPrimAPI_MakePrism(f.face, gp_Vec(*map(float, apart * f.surface.along))).Shape() for f in (a, b))
    )
    return (
        [Cleft(_named(s, f"{prefix}.gap", a.name), apart) for s in solids(op.Shape()) if volume(s) > _LEAST_MM3]
        if op.IsDone()
        else []
    )


def _over(a: _Face, b: _Face) -> float:
    """How far the corners and round edges of b get from the plane of a, mm: the most; nothing where some lie under it."""
    high = (_spots(b.face) - a.surface.at) @ a.surface.along
    return float(high.max()) if high.min() > -1e-6 else 0.0


def _spots(face: TopoDS_Face) -> Array:
    """Places along the borders of a face, (n, 3), mm."""
    out = []
    for edge in edges(face):
        if not BRep_Tool.Degenerated_s(edge):
            curve = BRepAdaptor_Curve(edge)
            out += [array(curve.Value(t)) for t in np.linspace(curve.FirstParameter(), curve.LastParameter(), 5)]
    return np.array(out)


def _ring(shaft: _Face, bore: _Face, width: float, prefix: str) -> list[Cleft]:
    """What lies round the one within the other, as long as both are."""
    s, b = shaft.surface, bore.surface
    away = s.at - b.at
    aside = float(np.linalg.norm(away - (away @ b.along) * b.along))
    clear = b.radius - s.radius
    if abs(float(s.along @ b.along)) < _FACING or not (1e-6 < clear and clear + aside <= width and aside < clear):
        return []
    if not (goes_round(shaft.face) and goes_round(bore.face)):
        return []
    (l0, h0), (l1, h1) = _heights(shaft, b), _heights(bore, b)
    low, high = max(l0, l1), min(h0, h1)
    if high - low < 1e-6:
        return []
    # Off its middle the shaft is met by a ring that goes as far into it.
    least = s.radius - aside
    corners = [(least, low), (b.radius, low), (b.radius, high), (least, high)]
    sides = [(n, corners[k], corners[(k + 1) % 4]) for k, n in enumerate(("low", "out", "high", "in"))]
    return [Cleft(turned(sides, b.at, b.along, prefix=f"{prefix}.gap[{shaft.name}]"), clear + aside)]


def _heights(of: _Face, along: Surface) -> tuple[float, float]:
    """From where to where a face reaches along an axis, mm from its origin."""
    high = (_spots(of.face) - along.at) @ along.along
    return float(high.min()), float(high.max())


def _named(shape: TopoDS_Shape, prefix: str, name: str) -> NamedShape:
    return NamedShape(shape, tuple(f"{prefix}{k}[{name}]" for k in range(len(faces(shape)))))
