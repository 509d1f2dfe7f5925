"""Short ways to write a drawing down."""

from __future__ import annotations

from typing import Any

from contour.sketch.drawn.solution import Solution, solved
from contour.sketch.drawn.text import Drawing, read_drawing

__all__ = ["arc", "circle", "drawing", "line", "point", "solution"]


def point(x: float, y: float) -> dict[str, Any]:
    return {"kind": "point", "at": [x, y]}


def line(a: str, b: str) -> dict[str, Any]:
    return {"kind": "line", "from": a, "to": b}


def circle(centre: str, radius: float) -> dict[str, Any]:
    return {"kind": "circle", "centre": centre, "radius": radius}


def arc(centre: str, a: str, b: str) -> dict[str, Any]:
    return {"kind": "arc", "centre": centre, "from": a, "to": b}


def drawing(entities: dict[str, Any], constraints: str = "", sizes: str = "") -> Drawing:
    """constraints: ``"horizontal l; equal l m"`` · sizes: ``"length l = 20 mm; angle l m = 30"``"""
    asked = [c.split() for c in constraints.split(";") if c.strip()]
    valued = [(s.split("=")[0].split(), s.split("=")[1].strip()) for s in sizes.split(";") if s.strip()]
    return read_drawing(
        {
            "entities": entities,
            "constraints": [{"kind": kind, "of": of} for kind, *of in asked],
            "dimensions": [{"kind": kind, "of": of, "value": value} for (kind, *of), value in valued],
        }
    )


def solution(entities: dict[str, Any], constraints: str = "", sizes: str = "") -> Solution:
    return solved(drawing(entities, constraints, sizes))
