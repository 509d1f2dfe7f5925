"""What lies under a drawing, kept with it and no part of it: words, blocks and stated sizes of files, and pictures."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, FiniteFloat

from contour.exchange.flat.shapes import FlatDrawing, LeftOut, Place, Shape, Spline, Spot, rough
from contour.exchange.flat.splines import sampled

__all__ = ["UnderPicture", "UnderSheet", "UnderText", "under_of"]

Array = NDArray[np.float64]
_BEYOND = 1e6  # mm: no drawing reaches further
_MOST_UNDER = 20_000  # places: they are kept with the drawing


class UnderText(BaseModel):
    """Words at their lower left, mm and degrees."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    at: Place
    text: str = Field(max_length=400)
    height: float
    turn: float = 0.0


class UnderSheet(BaseModel):
    """What of a file lies under the drawing and is no part of it: paths and words, mm in the plane."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str = Field(max_length=200, description="of the file")
    lines: list[list[Place]] = Field(default_factory=list, max_length=_MOST_UNDER)
    texts: list[UnderText] = Field(default_factory=list, max_length=5000)


class UnderPicture(BaseModel):
    """A picture of the job, by its id, that lies under the drawing: its own pixel `px`, as it came in, at a place of the plane, so that it stays there when it is
    straightened or scaled anew."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    picture: str = Field(max_length=60)
    px: tuple[FiniteFloat, FiniteFloat] = Field(description="pixel of the picture as it came in")
    at: Place = Field(description="where that pixel lies, mm")
    turn: float = Field(
        default=0.0, ge=-360, le=360, description="degrees from the plane's first axis to the rows of the picture"
    )
    mirrored: bool = Field(default=False, description="it is seen from behind")


def under_of(
    drawing: FlatDrawing, name: str, *, all_of_it: bool = False
) -> tuple[UnderSheet | None, tuple[LeftOut, ...]]:
    """Words and blocks of a drawing in mm; all_of_it: its pieces, too. What there is no room for is told."""
    paths = [s.points for s in drawing.strokes]
    if all_of_it:
        paths += [_path(p.shape) for p in drawing.pieces if not isinstance(p.shape, Spot)]
    lines: list[list[Place]] = []
    room, out = _MOST_UNDER, 0
    for path in paths:
        if len(path) > room or not np.isfinite(path).all() or np.abs(path).max(initial=0.0) > _BEYOND:
            out += 1
            continue
        room -= len(path)
        lines.append([(float(x), float(y)) for x, y in np.round(path, 4)])
    words = [UnderText(at=t.at, text=t.text, height=t.height, turn=t.turn) for t in drawing.texts[:5000]]
    left = (LeftOut("stroke", "", "no room under the drawing", None, out),) if out else ()
    return (UnderSheet(name=name[:200], lines=lines, texts=words) if lines or words else None), left


def _path(shape: Shape) -> Array:
    if not isinstance(shape, Spline):
        return rough(shape)
    return sampled(shape, 8 * len(shape.control))[0]
