"""Rope-guide bracket: the truth model, its wear, and the virtual scan of it.

A base plate 120 x 80 x 12 with rounded corners, four mounting holes and a pocket; an upright wall with a bore that
the rope has worn out of round; a boss with a crowned top.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.check.exact_arrays import exact_arrays
from contour.geometry.frames import plane_frame
from contour.simulate.scanner import Pose, ScanSettings, VirtualScan, virtual_scan
from contour.sketch.entities import Entity, Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.extrude import extrude
from contour.solid.shape import NamedShape

__all__ = [
    "BASE_THICKNESS",
    "HOLES",
    "POSE",
    "base_block",
    "bracket",
    "bracket_scan",
    "prism",
    "rounded_rectangle",
    "whole_circle",
]

BASE_THICKNESS = 12.0
POSE = Pose(turn_deg=(0.0, 0.0, 18.0), shift_mm=(31.0, -12.0, 7.5))
_UP = np.array([0.0, 0.0, 1.0])
HOLES = ((14.0, 14.0), (106.0, 14.0), (14.0, 60.0), (106.0, 60.0))


def rounded_rectangle(x0: float, y0: float, x1: float, y1: float, r: float, tag: str) -> list[Entity]:
    """Four lines and four quarter arcs, counter-clockwise."""
    s = r * (1 - np.sqrt(0.5))
    spots = [
        ((x0 + r, y0), (x1 - r, y0), (x1 - s, y0 + s), (x1, y0 + r)),
        ((x1, y0 + r), (x1, y1 - r), (x1 - s, y1 - s), (x1 - r, y1)),
        ((x1 - r, y1), (x0 + r, y1), (x0 + s, y1 - s), (x0, y1 - r)),
        ((x0, y1 - r), (x0, y0 + r), (x0 + s, y0 + s), (x0 + r, y0)),
    ]
    out = []
    for k, (a, b, m, c) in enumerate(spots):
        out += [Entity(f"{tag}l{k}", "line", a, b), Entity(f"{tag}a{k}", "arc", b, c, m)]
    return out


def whole_circle(x: float, y: float, r: float, tag: str) -> Entity:
    return Entity(tag, "arc", (x + r, y), (x + r, y), (x - r, y))


def prism(
    entities: list[Entity], origin: tuple[float, float, float], normal: NDArray[np.float64], length: float, tag: str
) -> NamedShape:
    sketch = Sketch(plane_frame(np.array(origin), normal, np.array([1.0, 0, 0])), tuple(entities))
    return extrude(find_profiles(sketch), sketch.frame, start_mm=0.0, end_mm=length, prefix=tag)


def base_block() -> NamedShape:
    """The base plate with its holes and nothing else: what the first extrusion of the tour should be."""
    outline = rounded_rectangle(0, 0, 120, 80, 8, "o")
    holes = [whole_circle(x, y, 4.5, f"h{k}") for k, (x, y) in enumerate(HOLES)]
    return prism([*outline, *holes], (0, 0, 0), _UP, BASE_THICKNESS, "base")


def bracket() -> NamedShape:
    """The whole part as it was designed."""
    body = base_block()
    pocket = prism(rounded_rectangle(24, 8, 54, 22, 4, "p"), (0, 0, 6), _UP, 20, "pocket")
    body = combine(body, pocket, "subtract")
    wall_outline = [
        Entity("w0", "line", (20.0, 0.0), (100.0, 0.0)),
        Entity("w1", "line", (100.0, 0.0), (80.0, 44.0)),
        Entity("w2", "line", (80.0, 44.0), (40.0, 44.0)),
        Entity("w3", "line", (40.0, 44.0), (20.0, 0.0)),
    ]
    # The wall stands on the plate's back edge and is drawn looking from the front (normal -y, u = x, v = z).
    wall = prism(wall_outline, (0, 80, 11.9), np.array([0.0, -1.0, 0.0]), 12, "wall")
    body = combine(body, wall, "add")
    bore = prism([whole_circle(60, 24, 9, "b")], (0, 90, 11.9), np.array([0.0, -1.0, 0.0]), 30, "bore")
    body = combine(body, bore, "subtract")
    boss = prism([whole_circle(78, 34, 13, "s")], (0, 0, 11.9), _UP, 12.1, "boss")
    body = combine(body, boss, "add")
    return combine(body, prism([whole_circle(78, 34, 7, "c")], (0, 0, -5), _UP, 40, "eye"), "subtract")


def _worn(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """The rope has worn the bore upwards by up to 0.28 mm, and the boss is crowned by 0.12 mm."""
    out = points.copy()
    d = out[:, [0, 2]] - np.array([60.0, 35.9])
    r = np.linalg.norm(d, axis=1)
    in_bore = (np.abs(r - 9.0) < 0.05) & (out[:, 1] > 60)
    up = np.clip(d[:, 1] / np.maximum(r, 1e-9), 0, 1) ** 2
    out[in_bore, 0] += (0.28 * up * d[:, 0] / np.maximum(r, 1e-9))[in_bore]
    out[in_bore, 2] += (0.28 * up * d[:, 1] / np.maximum(r, 1e-9))[in_bore]
    rho = np.linalg.norm(out[:, :2] - np.array([78.0, 34.0]), axis=1)
    top = (np.abs(out[:, 2] - 24.0) < 0.02) & (rho < 13.01)
    out[top, 2] += 0.12 * (1 - (rho[top] / 13.0) ** 2)
    return out


def bracket_scan(spacing_mm: float = 0.95, noise_mm: float = 0.025, *, pose: Pose = POSE) -> VirtualScan:
    """The demo scan: one pass from eleven directions, so that deep corners stay unseen, and two lost patches."""
    views = tuple(
        (float(np.cos(a) * c), float(np.sin(a) * c), float(s))
        for c, s in ((0.75, 0.66), (0.9, -0.43))
        for a in np.radians([20, 95, 160, 235, 310])
    )
    settings = ScanSettings(
        spacing_mm=spacing_mm,
        noise_mm=noise_mm,
        soften=2,
        views=(*views, (0.0, 0.0, 1.0), (0.0, 0.0, -1.0)),
        dropouts=(((88.0, 62.0, 12.0), 3.5), ((36.0, 74.0, 40.0), 2.5)),
        wear=_worn,
        pose=pose,
        seed=20,
    )
    return virtual_scan(exact_arrays(bracket().shape), settings)
