"""A line drawing of a scan seen along an axis, to scale: outlines and sharp changes of direction, no perspective."""

from __future__ import annotations

import io
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.ndimage import gaussian_filter

from contour.job.views.thumbnail import raster

__all__ = ["scan_drawing"]

_LONGEST, _MARGIN = 1500, 30


def scan_drawing(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], along: Literal["x", "y", "z"]
) -> tuple[bytes, int, int, float]:
    """(PNG, width, height, mm per pixel), seen from the positive end of the axis.

    Along z: x to the right, y up; along x: y to the right, z up; along y: x to the left, z up.
    """
    right, up, toward = {"z": (0, 1, 2), "x": (1, 2, 0), "y": (0, 2, 1)}[along]
    flat = np.column_stack([vertices[:, right], vertices[:, up], vertices[:, toward]]).astype(np.float64)
    if along == "y":
        flat[:, 0] *= -1
    low, size = flat[:, :2].min(axis=0), np.ptp(flat[:, :2], axis=0)
    scale = (_LONGEST - 2 * _MARGIN) / max(float(size.max()), 1e-9)
    wide, high = (int(np.ceil(s * scale)) + 2 * _MARGIN for s in size)
    screen = np.column_stack(
        [
            _MARGIN + scale * (flat[:, 0] - low[0]),
            high - 1 - _MARGIN - scale * (flat[:, 1] - low[1]),
            scale * flat[:, 2],
        ]
    )
    corners = flat[facets]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True) + 1e-300
    # How each facet faces, lit from the upper left: two shades that meet are an edge.
    shade = 0.55 + 0.25 * normal[:, 2] + 0.1 * normal[:, 1] - 0.1 * normal[:, 0]
    seen = gaussian_filter(raster(screen, facets.astype(np.int64), shade.clip(0.1, 1), wide, high), 1.2)
    gy, gx = np.gradient(seen)
    ink = np.clip(6 * np.hypot(gx, gy), 0, 1)
    paper = np.where(seen > 0.05, 0.93, 1.0) * (1 - 0.85 * ink)
    out = io.BytesIO()
    Image.fromarray((255 * paper).clip(0, 255).astype(np.uint8)).convert("RGB").save(out, "PNG")
    return out.getvalue(), wide, high, 1 / scale
