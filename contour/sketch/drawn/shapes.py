"""The shapes of a drawing's entities: places along them, for looking and for testing what is near (never for building)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.sketch.drawn.text import Arc, Circle, Ellipse, Line, Spline
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["drawn_places", "sweep_deg"]

Array = NDArray[np.float64]


def sweep_deg(first: float, last: float) -> float:
    """Degrees from one direction counter-clockwise to another, in (0, 360]."""
    return 360 - (first - last) % 360


def drawn_places(unknowns: Unknowns, name: str, *, count: int = 73) -> Array:
    """(count, 2) places along an entity as drawn, mm; (1, 2) of a point."""
    e = unknowns.drawing.entities[name]
    if isinstance(e, Line):
        return np.linspace(unknowns.at(e.start), unknowns.at(e.end), count)
    if isinstance(e, Spline):
        curve = unknowns.curves[name]
        return curve.places(np.array([unknowns.at(p) for p in curve.points]), count)
    if isinstance(e, Circle | Arc | Ellipse):
        m = unknowns.at(e.centre)
        size = unknowns.start[unknowns.sizes[name]]
        axis = unknowns.at(e.major) - m if isinstance(e, Ellipse) else np.array([size, 0.0])
        major = float(np.linalg.norm(axis))
        frame = np.array([axis, [-axis[1] * size / major, axis[0] * size / major]]) if major > 0 else np.zeros((2, 2))
        turns = (0.0, 360.0)
        if (ends := unknowns.ends(name)) and major > 0:
            local = [np.linalg.lstsq(frame.T, unknowns.at(p) - m, rcond=None)[0] for p in ends]
            a, b = (float(np.degrees(np.arctan2(q[1], q[0]))) for q in local)
            turns = (a, a + sweep_deg(a, b))
        angle = np.radians(np.linspace(*turns, count))
        return np.asarray(m + np.cos(angle)[:, None] * frame[0] + np.sin(angle)[:, None] * frame[1])
    return unknowns.at(name)[None, :]
