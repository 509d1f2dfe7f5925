"""DXF out, in mm: lines, arcs, circles, ellipses and splines as such. By the package ezdxf."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from typing import Any

from contour.exchange.flat.shapes import Arc, Ellipse, Line, Path, Piece, Spline, Spot, Text, layers_of

__all__ = ["dxf_text"]

_MM = 4  # of $INSUNITS
# Layers by what is on them: a colour index of the format, and a linetype.
_LOOKS = {"construction": (8, "DASHED"), "brought in": (3, "DASHDOT"), "scan": (9, "CONTINUOUS")}


def dxf_text(pieces: Sequence[Piece], texts: Sequence[Text] = ()) -> str:
    """The file's text, DXF of 2010: it has splines and ellipses, and nearly everything reads it."""
    from ezdxf.filemanagement import new

    document = new("R2010", setup=["linetypes"])
    document.header["$INSUNITS"] = _MM
    document.header["$MEASUREMENT"] = 1
    for layer in layers_of(pieces, texts):
        if layer and layer not in document.layers:
            colour, linetype = _LOOKS.get(layer, (7, "CONTINUOUS"))
            document.layers.add(layer, color=colour, linetype=linetype)
    space = document.modelspace()
    for piece in pieces:
        _add(space, piece)
    for text in texts:
        space.add_text(
            text.text, height=text.height, rotation=text.turn, dxfattribs={"layer": text.layer or "0"}
        ).set_placement(text.at)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _add(space: Any, piece: Piece) -> None:
    on = {"layer": piece.layer or "0"}
    match piece.shape:
        case Spot() as s:
            space.add_point(s.at, dxfattribs=on)
        case Line() as s:
            space.add_line(s.start, s.end, dxfattribs=on)
        case Arc(whole=True) as s:
            space.add_circle(s.centre, s.radius, dxfattribs=on)
        case Arc() as s:
            space.add_arc(s.centre, s.radius, math.degrees(s.first), math.degrees(s.last), dxfattribs=on)
        case Ellipse() as s:
            first, last = (0.0, math.tau) if s.whole else (s.first, s.last)
            space.add_ellipse(s.centre, (*s.major, 0.0), s.ratio, first, last, dxfattribs=on)
        case Spline() as s:
            drawn = space.add_spline(degree=s.degree, dxfattribs=on)
            drawn.control_points = [(x, y, 0.0) for x, y in s.control.tolist()]
            drawn.knots = s.knots.tolist()
            if s.weights is not None:
                drawn.weights = s.weights.tolist()
        case Path() as s:
            space.add_lwpolyline(s.points.tolist(), close=s.closed, dxfattribs=on)
