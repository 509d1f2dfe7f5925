"""The true outlines of a plane's cut through a solid, by the kernel: their pieces in order."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.gp import gp_Pln
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from contour.geometry.curves import Curve, Line
from contour.geometry.frames import PlaneFrame
from contour.solid.face_geometry import array, direction, edge_curve, pnt
from contour.solid.shape import edges

__all__ = ["TruePiece", "true_cuts"]

_SAME_MM = 1e-5
_PLACES = 60  # along an edge


@dataclass(frozen=True, slots=True)
class TruePiece:
    """kind: line, arc, ellipse or free · places (k, 2) along it, mm, on the cut's plane."""

    kind: str
    places: np.ndarray


def true_cuts(shape: TopoDS_Shape, frame: PlaneFrame, *, told_mm: float) -> list[tuple[TruePiece, ...]]:
    """The pieces around every closed border of the cut; neighbours on one curve are one piece.

    told_mm: what can be told apart on the scan; an ellipse that goes nowhere so far off a circle is an arc there to anybody.
    """
    section = BRepAlgoAPI_Section(shape, gp_Pln(pnt(frame.origin), direction(frame.normal)), False)
    section.Approximation(False)
    section.Build()
    left = edges(section.Shape())
    out = []
    while left:
        chain = [left.pop(0)]
        end = TopExp.LastVertex_s(chain[0])
        while (ahead := next((e for e in left if _has(e, end)), None)) is not None:
            left.remove(ahead)
            chain.append(ahead)
            first, last = TopExp.FirstVertex_s(ahead), TopExp.LastVertex_s(ahead)
            end = last if first.IsSame(end) else first
        out.append(_pieces(chain, frame, told_mm))
    return out


def _has(edge: TopoDS_Edge, corner) -> bool:  # type: ignore[no-untyped-def]
    return bool(TopExp.FirstVertex_s(edge).IsSame(corner) or TopExp.LastVertex_s(edge).IsSame(corner))


def _pieces(chain: list[TopoDS_Edge], frame: PlaneFrame, told_mm: float) -> tuple[TruePiece, ...]:
    curves = [edge_curve(e) for e in chain]
    n = len(curves)
    begins = [k for k in range(n) if n == 1 or not _one(curves[k - 1], curves[k])] or [0]
    out = []
    for k, after in zip(begins, begins[1:] + begins[:1], strict=True):
        edges_of_it = [chain[j % n] for j in range(k, k + ((after - k) % n or n))]
        places = frame.to_plane(np.vstack([_places(e) for e in edges_of_it]))
        kind = _kind(curves[k])
        out.append(TruePiece("arc" if kind == "ellipse" and _off_circle(places) < told_mm else kind, places))
    return tuple(out)


def _places(edge: TopoDS_Edge) -> np.ndarray:
    curve = BRepAdaptor_Curve(edge)
    return np.array(
        [array(curve.Value(t)) for t in np.linspace(curve.FirstParameter(), curve.LastParameter(), _PLACES)]
    )


def _kind(curve: Curve | None) -> str:
    return "free" if curve is None else "arc" if curve.kind == "circle" else curve.kind


def _off_circle(places: np.ndarray) -> float:
    """How far the farthest of places (k, 2) lies off the circle that is nearest to them by its equation, mm."""
    x = places - places.mean(axis=0)
    (a, b, c), *_ = np.linalg.lstsq(np.column_stack([2 * x, np.ones(len(x))]), (x**2).sum(axis=1))
    radius = np.sqrt(c + a**2 + b**2)
    return float(np.abs(np.linalg.norm(x - [a, b], axis=1) - radius).max())


def _one(a: Curve | None, b: Curve | None) -> bool:
    """Whether both lie on one line, circle or ellipse."""
    if a is None or b is None or a.kind != b.kind:
        return False
    if isinstance(a, Line) and isinstance(b, Line):
        ends = np.array([b.start, b.end]) - a.start
        aside = ends - np.outer(ends @ a.direction, a.direction)
        return bool(np.linalg.norm(aside, axis=1).max() < _SAME_MM)
    assert not isinstance(a, Line) and not isinstance(b, Line)
    sizes = np.array([*a.centre, a.long, a.short]) - [*b.centre, b.long, b.short]
    return bool(np.abs(sizes).max() < _SAME_MM)
