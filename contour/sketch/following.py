"""Taken pieces follow their scan: what a section has moved by since they were taken moves what was drawn of them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.outline.arcs import circle_through
from contour.outline.ellipses import nearest_on_ellipse
from contour.outline.pieces import Piece
from contour.sketch.drawn.text import Circle, Drawing, Entity, Point
from contour.sketch.drawn.text import Ellipse as DrawnEllipse
from contour.sketch.drawn.unknowns import Unknowns
from contour.sketch.taken import TakenPiece

__all__ = ["followed"]

Array = NDArray[np.float64]
_ROUNDS = 12
_FLAT = 0.05  # singular values below this share of the largest: two carriers touch and tell one direction only


def followed(drawing: Drawing, pieces: Sequence[tuple[TakenPiece, Piece]]) -> Drawing:
    """The drawing with every point of a taken piece moved by what the piece has moved by: given as it was taken, and as it is fitted now.

    Points keep what the user has done to them since; a corner moves as the crossing of both its pieces does.
    """
    u = Unknowns(drawing)
    of_point: dict[str, list[tuple[_Carrier, _Carrier]]] = {}
    entities: dict[str, Entity] = dict(drawing.entities)
    moved: dict[str, Array] = {}
    for taken, now in pieces:
        e = drawing.entities.get(taken.id)
        if e is None or isinstance(e, Point) or not taken.taken:
            continue
        was, new = _Carrier(taken), _Carrier(now)
        for p in u.points_of(taken.id):
            if isinstance(e, Circle | DrawnEllipse) or (p == getattr(e, "centre", None)):
                moved[p] = moved.get(p, u.at(p)) + (new.centre - was.centre)
            else:
                of_point.setdefault(p, []).append((was, new))
        if isinstance(e, Circle):
            entities[taken.id] = e.model_copy(update={"radius": max(e.radius + new.radius - was.radius, 1e-6)})
        elif isinstance(e, DrawnEllipse) and was.minor and new.minor:
            entities[taken.id] = e.model_copy(update={"minor": max(e.minor + new.minor - was.minor, 1e-6)})
    for p, carriers in of_point.items():
        before = _settled(u.at(p), [c for c, _ in carriers])
        moved[p] = u.at(p) + _settled(before, [c for _, c in carriers]) - before
    for p, at in moved.items():
        point = entities[p]
        assert isinstance(point, Point)
        entities[p] = Point(at=(float(at[0]), float(at[1])), construction=point.construction)
    return drawing.model_copy(update={"entities": entities})


class _Carrier:
    """The endless line, circle, ellipse or path that a piece lies on."""

    def __init__(self, piece: TakenPiece | Piece) -> None:
        self.kind = piece.kind
        self.start, self.end = np.array(piece.start), np.array(piece.end)
        self.ellipse = piece.ellipse
        self.path = np.array(piece.points) if len(piece.points) else np.array([self.start, self.end])
        self.centre, self.radius, self.minor = self.start, 0.0, 0.0
        if self.ellipse is not None:
            self.centre, self.minor = np.array(self.ellipse[:2]), self.ellipse[3]
        elif self.kind == "arc":
            assert piece.mid is not None
            if np.linalg.norm(self.start - self.end) < 1e-9:
                self.centre = (self.start + np.array(piece.mid)) / 2
                self.radius = float(np.linalg.norm(self.start - self.centre))
            else:
                m, r = circle_through(piece.start, piece.mid, piece.end)
                self.centre, self.radius = np.asarray(m), float(r)

    def foot(self, p: Array) -> tuple[Array, Array]:
        """The nearest place (2,) on the carrier, and the unit normal (2,) there."""
        if self.ellipse is not None:
            foot = nearest_on_ellipse(self.ellipse, p[None])[0][0]
            return foot, _unit(p - foot, foot - self.centre)
        if self.kind == "arc":
            n = _unit(p - self.centre, np.array([1.0, 0.0]))
            return self.centre + self.radius * n, n
        if self.kind == "line":
            d = _unit(self.end - self.start, np.array([1.0, 0.0]))
            return self.start + ((p - self.start) @ d) * d, np.array([-d[1], d[0]])
        a, d = self.path[:-1], np.diff(self.path, axis=0)
        t = np.clip(((p - a) * d).sum(axis=1) / np.maximum((d**2).sum(axis=1), 1e-300), 0, 1)
        feet = a + t[:, None] * d
        k = int(np.linalg.norm(feet - p, axis=1).argmin())
        way = _unit(d[k], np.array([1.0, 0.0]))
        return feet[k], np.array([-way[1], way[0]])


def _unit(v: Array, otherwise: Array) -> Array:
    length = float(np.linalg.norm(v))
    return v / length if length > 1e-12 else otherwise / max(float(np.linalg.norm(otherwise)), 1e-12)


def _settled(p: Array, carriers: Sequence[_Carrier]) -> Array:
    """Where carriers cross next to a place, or the nearest place on them where they touch: Gauss-Newton with the shortest steps."""
    for _ in range(_ROUNDS):
        rows = [c.foot(p) for c in carriers]
        normals = np.array([n for _, n in rows])
        off = np.array([(foot - p) @ n for foot, n in rows])
        step = np.linalg.pinv(normals, rcond=_FLAT) @ off
        p = p + step
        if float(np.linalg.norm(step)) < 1e-10:
            break
    return p
