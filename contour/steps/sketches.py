"""What every step that makes a sketch says of it."""

from __future__ import annotations

from typing import Any

from contour.recipe.problem import ContourError, Problem
from contour.sketch.entities import Sketch, find_profiles

__all__ = ["sketch_facts"]


def sketch_facts(sketch: Sketch) -> tuple[dict[str, Any], tuple[Problem, ...]]:
    """Pieces by kind, closed profiles and their area (mm²). An open sketch is a fair sketch: it only cannot be extruded, and
    the problem says where it is open."""
    facts: dict[str, Any] = {
        name: sum(e.kind == kind for e in sketch.entities)
        for name, kind in (("lines", "line"), ("arcs", "arc"), ("ellipses", "ellipse"), ("free", "free"))
    }
    try:
        profiles = find_profiles(sketch)
    except ContourError as error:
        return facts | {"profiles": 0}, (error.problem,)
    return facts | {"profiles": len(profiles), "area": sum(p.area for p in profiles)}, ()
