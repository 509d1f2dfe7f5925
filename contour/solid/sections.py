"""Sections that a solid runs through, and how their outlines answer each other piece by piece."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Wire

from contour.geometry.curves import Oval
from contour.geometry.frames import PlaneFrame, plane_frame
from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError
from contour.sketch.entities import Profile
from contour.solid.face_geometry import edge_curve, face_surface, normal_at
from contour.solid.path import Piece, pieces_of
from contour.solid.shape import NamedShape, edge_faces, edges, faces, owners_of, shape_map
from contour.solid.topology.edges import edge_names

__all__ = ["Column", "Outline", "Section", "columns_of", "section_of_face", "section_of_profile", "wall_direction"]

Array = NDArray[np.float64]
_FEW = 64  # places all round that outlines are laid on each other by


@dataclass(frozen=True, slots=True, eq=False)
class Outline:
    """Pieces head to tail, closed. beside: of each piece the face that goes on behind the section, of a body's face."""

    pieces: tuple[Piece, ...]
    beside: tuple[TopoDS_Face | None, ...] = ()

    def shares(self) -> Array:
        """Where pieces begin and end, as shares of the whole way round, (n + 1,)."""
        run = np.cumsum([0.0, *(p.length() for p in self.pieces)])
        return run / run[-1]

    def at(self, share: Array) -> Array:
        """Places (n, 3) at shares of the way round; beyond 1 it goes round again. mm."""
        known = self.shares()
        out = []
        for s in np.asarray(share) % 1.0:
            k = min(int(np.searchsorted(known, s, side="right")) - 1, len(self.pieces) - 1)
            out.append(self.pieces[k].at(float((s - known[k]) / (known[k + 1] - known[k])))[0])
        return np.array(out)

    def within(self, share: float) -> int:
        """Which piece is there."""
        return min(int(np.searchsorted(self.shares(), share % 1.0, side="right")) - 1, len(self.pieces) - 1)

    def turned(self) -> Outline:
        """Gone round the other way."""
        return Outline(tuple(p.turned() for p in reversed(self.pieces)), tuple(reversed(self.beside)))

    def middle(self) -> Array:
        """Of its places all round, (3,)."""
        return np.asarray(self.at(np.arange(_FEW) / _FEW).mean(axis=0))

    def turns_about(self) -> Array:
        """Twice the area that it goes round, along the normal it goes round by the right hand, (3,)."""
        p = self.at(np.arange(_FEW) / _FEW)
        p = p - p.mean(axis=0)
        return np.asarray(np.cross(p, np.roll(p, -1, axis=0)).sum(axis=0))


@dataclass(frozen=True, slots=True, eq=False)
class Section:
    """name: of the profile or face · outlines: the outer one first · frame: of its plane."""

    name: str
    outlines: tuple[Outline, ...]
    frame: PlaneFrame


@dataclass(frozen=True, slots=True, eq=False)
class Column:
    """One piece of the outline through all sections. spans: shares of the way round that it begins and ends at, of each · names: of the pieces of the
    first and the last section · straight: in all of them."""

    spans: tuple[tuple[float, float], ...]
    names: tuple[str, str]
    straight: bool


def section_of_profile(profile: Profile, frame: PlaneFrame) -> Section:
    """A sketch's profile as a section."""
    loops = (profile.outer, *profile.islands)
    outlines = tuple(Outline(tuple(pieces_of(loop.entities, frame))) for loop in loops)
    return Section(profile.id, outlines, frame)


def section_of_face(body: NamedShape, name: str) -> Section:
    """A flat face of a body as a section, with the faces around it. Raises ContourError (wrong-kind) for one that is not flat."""
    face = faces(body.shape)[body.names.index(name)]
    known = face_surface(face)
    if known is None or known.kind != "plane":
        raise ContourError(
            "wrong-kind",
            "only a flat face can be a section",
            got="a curved face",
            need="a flat face",
            remedy="choose a flat face, or draw the section as a sketch",
        )
    found = shape_map(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    wires = [TopoDS.Wire(found.FindKey(i)) for i in range(1, found.Size() + 1)]
    outer = BRepTools.OuterWire_s(face)
    called = dict(zip(edge_names(body), edges(body.shape), strict=True))
    around = edge_faces(body.shape)
    ordered = [outer, *(w for w in wires if not w.IsSame(outer))]
    return Section(name, tuple(_outline(w, face, called, around) for w in ordered), plane_frame(known.at, known.along))


def _outline(wire: TopoDS_Wire, face: TopoDS_Face, called: dict[str, object], around: object) -> Outline:
    pieces, beside = [], []
    explorer = BRepTools_WireExplorer(wire, face)
    while explorer.More():
        edge = TopoDS.Edge(explorer.Current())
        name = next(n for n, e in called.items() if edge.IsSame(e))  # type: ignore[arg-type]
        back = edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        pieces.append(Piece(name, TopoDS.Edge(edge.Oriented(TopAbs_Orientation.TopAbs_FORWARD)), back))
        owners = owners_of(around, around.FindIndex(edge))  # type: ignore[attr-defined,arg-type]
        beside.append(next((f for f in owners if not f.IsSame(face)), None))
        explorer.Next()
    return Outline(tuple(pieces), tuple(beside))


def wall_direction(outline: Outline, k: int, share: float, ahead: Array) -> Array:
    """How the face behind a section goes on over its edge: unit (3,), at a share of piece `k`, the way that `ahead` (3,) points."""
    at, along = outline.pieces[k].at(share)
    face = outline.beside[k] if outline.beside else None
    n = None if face is None else normal_at(face, at)
    if n is None:
        return ahead
    way = np.cross(n, along)
    way = unit(way) if np.linalg.norm(way) > 1e-9 else ahead
    return way if way @ ahead > 0 else -way


def columns_of(outlines: Sequence[Outline]) -> tuple[list[Outline], list[Column]]:
    """Outlines that go round alike and begin abreast of each other, and the columns between them. Where all have as many corners, corner answers to corner;
    else each corner of one is met by a place as far round on the others."""
    went = outlines[0].turns_about()
    alike = [outlines[0]]
    for o in outlines[1:]:
        now = o.turns_about()
        # Which way round is told against the one before: sections may turn as they go.
        o = o if now @ went > 0 else o.turned()
        went = o.turns_about()
        alike.append(o)
    counts = {len(o.pieces) for o in alike}
    if len(counts) == 1 and counts != {1}:
        begun = _by_corners(alike)
        spans = [o.shares() + 0.0 for o in begun]
        breaks = [tuple((float(s[k]), float(s[k + 1])) for s in spans) for k in range(len(begun[0].pieces))]
    else:
        begun, breaks = _by_shares(alike)
    out = []
    seen: dict[tuple[str, str], int] = {}
    for span in breaks:
        mids = [(a + b) / 2 for a, b in span]
        pieces = [o.pieces[o.within(m)] for o, m in zip(begun, mids, strict=True)]
        names = (pieces[0].name, pieces[-1].name)
        seen[names] = seen.get(names, 0) + 1
        if seen[names] > 1:
            names = (names[0], f"{names[1]}#{seen[names]}")
        out.append(Column(span, names, all(_straight(p) for p in pieces)))
    return begun, out


def _straight(piece: Piece) -> bool:
    (a, _), (b, _), (c, _) = (piece.at(s) for s in (0.0, 0.37, 1.0))
    return float(np.linalg.norm(np.cross(b - a, c - a))) < 1e-9 * max(float(np.linalg.norm(c - a)) ** 2, 1e-12)


def _corners(outline: Outline) -> Array:
    """From its middle, (n, 3)."""
    return np.array([p.at(0.0)[0] for p in outline.pieces]) - outline.middle()


def _by_corners(outlines: Sequence[Outline]) -> list[Outline]:
    """Each begun at the corner that makes all its corners lie nearest to those of the one before, middle on middle."""
    out = [outlines[0]]
    for o in outlines[1:]:
        before = _corners(out[-1])
        corners = _corners(o)
        costs = [float(((np.roll(corners, -k, axis=0) - before) ** 2).sum()) for k in range(len(corners))]
        k = int(np.argmin(costs))
        out.append(Outline(o.pieces[k:] + o.pieces[:k], o.beside[k:] + o.beside[:k]))
    return out


def _by_shares(outlines: Sequence[Outline]) -> tuple[list[Outline], list[tuple[tuple[float, float], ...]]]:
    """(outlines, spans): shares of each are counted from the place that lies abreast of the beginning of the first."""
    grid = np.arange(_FEW) / _FEW
    starts = [0.0]
    before = outlines[0].at(grid) - outlines[0].middle()
    for o in outlines[1:]:
        fine = np.arange(8 * _FEW) / (8 * _FEW)
        places = o.at(fine) - o.middle()
        costs = [float(((np.roll(places, -k, axis=0)[::8] - before) ** 2).sum()) for k in range(len(fine))]
        starts.append(float(fine[int(np.argmin(costs))]))
        before = np.roll(places, -int(np.argmin(costs)), axis=0)[::8]
    own = [
        [] if len(o.pieces) == 1 else [float((s - starts[k]) % 1.0) for s in _felt(o)] for k, o in enumerate(outlines)
    ]
    breaks: list[float] = []
    for s in sorted(x for row in own for x in row) or [0.0]:
        if not breaks or s - breaks[-1] > 1e-4:
            breaks.append(s)
    ends = [*breaks[1:], breaks[0] + 1.0]
    exact = [[_snapped(b + starts[k], o) for b in (*breaks, ends[-1])] for k, o in enumerate(outlines)]
    spans = [tuple((row[i], row[i + 1]) for row in exact) for i in range(len(breaks))]
    return list(outlines), spans


def _felt(outline: Outline) -> list[float]:
    """Shares of the joints that are to be felt: not those between two pieces of one circle."""
    circles = [edge_curve(p.edge) for p in outline.pieces]
    out = []
    for k, share in enumerate(outline.shares()[:-1]):
        a, b = circles[k - 1], circles[k]
        one = isinstance(a, Oval) and isinstance(b, Oval) and "circle" == a.kind == b.kind
        if not (one and np.allclose(a.centre, b.centre, atol=1e-6) and abs(a.long - b.long) < 1e-6):  # type: ignore[union-attr]
            out.append(float(share))
    return out


def _snapped(share: float, outline: Outline) -> float:
    """A share moved onto a corner that is next to it."""
    turns, rest = divmod(share, 1.0)
    known = outline.shares()
    k = int(np.argmin(np.abs(known - rest)))
    return float(turns + known[k]) if abs(known[k] - rest) < 2e-4 and len(outline.pieces) > 1 else share
