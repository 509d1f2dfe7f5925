"""An old print of the rope-guide bracket: plan view with dimension lines, as a flatbed scanner would make it of yellowed paper."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont
from scipy.ndimage import gaussian_filter

from contour.sketch.entities import Entity, entity_points
from demo.bracket import HOLES, rounded_rectangle, whole_circle

__all__ = ["PLACES", "PX_PER_MM", "SIZE", "bracket_print", "place"]

PX_PER_MM = 9.0
SIZE = (1500, 1120)
_CORNER = (210.0, 930.0)  # pixel of the part's origin
_INK, _PAPER = 40, (241, 234, 214)
# name: where the print states it, mm in plan
PLACES: dict[str, tuple[float, float]] = {
    "length_drawn": (60.0, -14.0),
    "width_drawn": (-14.0, 40.0),
    "eye_drawn": (110.0, 25.0),
    "thick_drawn": (97.0, 88.0),
}


def place(x: float, y: float) -> tuple[float, float]:
    """Pixel of a place on the plan, mm."""
    return _CORNER[0] + PX_PER_MM * x, _CORNER[1] - PX_PER_MM * y


def _stroke(
    draw: ImageDraw.ImageDraw, points: NDArray[np.float64] | Sequence[tuple[float, float]], wide: int = 4
) -> None:
    draw.line([place(float(x), float(y)) for x, y in points], fill=_INK, width=wide, joint="curve")


def _arrow(draw: ImageDraw.ImageDraw, tip: tuple[float, float], way: tuple[float, float]) -> None:
    (x, y), (dx, dy) = tip, way
    _stroke(draw, [(x - 3 * dx - dy, y - 3 * dy + dx), tip, (x - 3 * dx + dy, y - 3 * dy - dx)], 2)


def _between(draw: ImageDraw.ImageDraw, a: tuple[float, float], b: tuple[float, float]) -> None:
    way = np.subtract(b, a) / np.linalg.norm(np.subtract(b, a))
    _stroke(draw, [a, b], 2)
    _arrow(draw, b, (float(way[0]), float(way[1])))
    _arrow(draw, a, (float(-way[0]), float(-way[1])))


def bracket_print() -> bytes:
    """PNG. Plan view from above; the length, the depth, the eye and the plate's thickness are stated."""
    page = Image.new("L", SIZE, 255)
    draw = ImageDraw.Draw(page)
    font = ImageFont.load_default(30)
    outlines: list[list[Entity]] = [
        rounded_rectangle(0, 0, 120, 80, 8, "o"),
        rounded_rectangle(24, 8, 54, 22, 4, "p"),
        *([whole_circle(x, y, 4.5, "h")] for x, y in HOLES),
        [whole_circle(78, 34, 13, "s")],
        [whole_circle(78, 34, 7, "c")],
    ]
    for outline in outlines:
        for piece in outline:
            _stroke(draw, entity_points(piece))
    _stroke(draw, [(20, 68), (100, 68)])
    for a, b in (((0, -2), (0, -12)), ((120, -2), (120, -12)), ((-2, 0), (-12, 0)), ((-2, 80), (-12, 80))):
        _stroke(draw, [a, b], 2)
    _between(draw, (0, -10), (120, -10))
    _between(draw, (-10, 0), (-10, 80))
    _stroke(draw, [(84, 31), (93, 25), (110, 25)], 2)
    for text, (x, y) in (
        ("120 ±0.2", (53, -4.5)),
        ("DIA 14 ±0.05", (93, 30)),
        ("PLATE 12 ±0.15", (100, 92)),
        ("ROPE GUIDE, PLAN", (2, 92)),
        ("SALTMARSH FERRY WORKS", (2, 97)),
    ):
        draw.text(place(x, y), text, fill=_INK, font=font)
    side = Image.new("L", (150, 44), 255)
    ImageDraw.Draw(side).text((4, 4), "80 ±0.2", fill=_INK, font=font)
    px, py = place(-15.5, 48)
    page.paste(side.rotate(90, expand=True), (int(px), int(py)))
    ink = gaussian_filter(1 - np.asarray(page, np.float64) / 255, 0.9)
    grain = np.random.default_rng(3).normal(0, 4, (*ink.shape, 1))
    seen = np.array(_PAPER) * (1 - 0.8 * ink[..., None]) + grain
    out = io.BytesIO()
    Image.fromarray(seen.clip(0, 255).astype(np.uint8)).save(out, "PNG")
    return out.getvalue()
