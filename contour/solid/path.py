"""Edges in space head to tail: the path that something is swept along."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
from OCP.collections import Array1_gp_Pnt
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.Geom import Geom_BSplineCurve
from OCP.gp import gp_Ax2, gp_Circ, gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Wire

from contour.construct.space_curve import SpacePiece
from contour.geometry.curves import Line, Oval
from contour.geometry.frames import PlaneFrame
from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity
from contour.solid.face_geometry import array, direction, pnt
from contour.solid.splines import kernel_knots
from contour.solid.wires import chain_edges

__all__ = ["Path", "Piece", "path_from", "pieces_in_space", "pieces_of"]

Array = NDArray[np.float64]
_JOIN_MM = 1e-5
_SMOOTH = np.cos(np.radians(0.1))
_DENSE = 65  # places of a piece that its bends are told by


@dataclass(frozen=True, slots=True, eq=False)
class Piece:
    """name: of the entity or edge it is · edge: of the kernel · back: it is gone along from its end to its beginning."""

    name: str
    edge: TopoDS_Edge
    back: bool = False

    def ends(self) -> tuple[Array, Array]:
        """Where it begins and where it ends, (3,) each, mm."""
        (a, _), (b, _) = self.at(0.0), self.at(1.0)
        return a, b

    def at(self, share: float) -> tuple[Array, Array]:
        """The place at a share of its own parameter, and the unit direction there, (3,) each."""
        curve = BRepAdaptor_Curve(self.edge)
        first, last = curve.FirstParameter(), curve.LastParameter()
        p, d = gp_Pnt(), gp_Vec()
        curve.D1(last + (first - last) * share if self.back else first + (last - first) * share, p, d)
        way = unit(np.array([d.X(), d.Y(), d.Z()]))
        return array(p), -way if self.back else way

    def length(self) -> float:
        """Along it, mm."""
        return float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(self.edge)))

    def turned(self) -> Piece:
        """The same, gone along the other way."""
        return Piece(self.name, self.edge, not self.back)


@dataclass(frozen=True, slots=True, eq=False)
class Path:
    """Pieces in the order they are gone along; closed where it ends as it begins. param: what it was given by, to be blamed in messages."""

    pieces: tuple[Piece, ...]
    closed: bool
    param: str

    @property
    def begins(self) -> tuple[Array, Array]:
        """Place and direction of the beginning."""
        return self.pieces[0].at(0.0)

    def turned(self) -> Path:
        """The same, gone along the other way."""
        return Path(tuple(p.turned() for p in reversed(self.pieces)), self.closed, self.param)

    def length(self) -> float:
        """Along it, mm."""
        return sum(p.length() for p in self.pieces)

    def corners(self) -> list[tuple[str, Array]]:
        """Pieces that do not go on as the one before them, and where."""
        pairs = list(pairwise(self.pieces))
        if self.closed:
            pairs.append((self.pieces[-1], self.pieces[0]))
        return [(b.name, b.at(0.0)[0]) for a, b in pairs if a.at(1.0)[1] @ b.at(0.0)[1] < _SMOOTH]

    def places(self) -> tuple[Array, Array]:
        """Places (n, 3) and unit directions (n, 3), dense and each once, from end to end."""
        rows = [p.at(float(s)) for p in self.pieces for s in np.linspace(0, 1, _DENSE)[:-1]]
        rows.append(self.pieces[-1].at(1.0))
        return np.array([p for p, _ in rows]), np.array([d for _, d in rows])

    def tightest(self) -> tuple[float, Array]:
        """(least radius that it bends with within its pieces, where, mm)."""
        best, where = np.inf, self.begins[0]
        for piece in self.pieces:
            rows = [piece.at(float(s)) for s in np.linspace(0, 1, _DENSE)]
            for (p, d), (q, e) in pairwise(rows):
                bend = float(np.linalg.norm(np.cross(d, e)))
                radius = float(np.linalg.norm(q - p)) / bend if bend > 1e-9 else np.inf
                if radius < best:
                    best, where = radius, (p + q) / 2
        return best, where

    def wire(self) -> TopoDS_Wire:
        """For the kernel."""
        maker = BRepBuilderAPI_MakeWire()
        for piece in self.pieces:
            maker.Add(TopoDS.Edge(piece.edge.Reversed()) if piece.back else piece.edge)
        return maker.Wire()


def pieces_of(entities: Sequence[Entity], frame: PlaneFrame) -> list[Piece]:
    """Entities of a sketch as pieces, each running as its entity does."""
    return [Piece(name, edge) for name, edge in chain_edges(entities, frame)]


def pieces_in_space(pieces: Sequence[SpacePiece]) -> list[Piece]:
    """Pieces of a curve in space, named by their place in it."""
    return [Piece(f"c{k + 1}", _edge_of(p)) for k, p in enumerate(pieces)]


def _edge_of(piece: SpacePiece) -> TopoDS_Edge:
    if isinstance(piece, Line):
        return BRepBuilderAPI_MakeEdge(pnt(np.array(piece.start)), pnt(np.array(piece.end))).Edge()
    if isinstance(piece, Oval):
        frame = gp_Ax2(pnt(np.array(piece.centre)), direction(piece.axis), direction(np.array(piece.x)))
        return BRepBuilderAPI_MakeEdge(gp_Circ(frame, piece.long), piece.first, piece.last).Edge()
    poles = Array1_gp_Pnt(1, len(piece.poles))
    for i, p in enumerate(piece.poles, 1):
        poles.SetValue(i, pnt(np.array(p)))
    return BRepBuilderAPI_MakeEdge(Geom_BSplineCurve(poles, *kernel_knots(np.array(piece.knots)), 3, False)).Edge()


def path_from(pieces: Sequence[Piece], near: Array, *, param: str) -> Path:
    """Pieces in any order as one path that begins at its end nearest to `near` (3,), or, closed, at the nearest of its joints.

    Raises ContourError (open-end) where they do not hang together, at the piece that stands apart.
    """
    left = list(pieces)
    chain = [left.pop(0)]
    while left:
        (begin, _), (_, end) = chain[0].ends(), chain[-1].ends()
        for i, piece in enumerate(left):
            a, b = piece.ends()
            if _near(a, end) or _near(b, end):
                chain.append(piece if _near(a, end) else piece.turned())
            elif _near(b, begin) or _near(a, begin):
                chain.insert(0, piece if _near(b, begin) else piece.turned())
            else:
                continue
            left.pop(i)
            break
        else:
            a, b = left[0].ends()
            raise ContourError(
                "open-end",
                "the path is in pieces",
                where=Where(param=param, entity=left[0].name, point=(float(a[0]), float(a[1]), float(a[2]))),
                got=f"{min(float(np.linalg.norm(p - q)) for p in (a, b) for q in (begin, end)):.3f} mm to the next piece",
                need="pieces that join end to end",
                remedy="join the pieces, or choose those that hang together",
            )
    (begin, _), (_, end) = chain[0].ends(), chain[-1].ends()
    closed = _near(begin, end)
    if closed:
        k = int(np.argmin([np.linalg.norm(p.ends()[0] - near) for p in chain]))
        chain = chain[k:] + chain[:k]
    elif np.linalg.norm(end - near) < np.linalg.norm(begin - near):
        chain = [p.turned() for p in reversed(chain)]
    return Path(tuple(chain), closed, param)


def _near(a: Array, b: Array) -> bool:
    return float(np.linalg.norm(a - b)) < _JOIN_MM
