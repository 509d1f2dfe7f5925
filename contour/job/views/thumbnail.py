"""Small pictures of parts for the shelf, rendered from their geometry without a screen."""

from __future__ import annotations

import io
from pathlib import Path

import numba as nb
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from contour.products.buffers import read_view

__all__ = ["body_picture", "raster", "render", "scan_picture"]

_WIDTH, _HEIGHT, _OVER = 360, 240, 2
_BODY = (196, 188, 170)
_SCAN = (158, 170, 168)


@nb.njit(cache=True, nogil=True)
def raster(points, triangles, shade, width, height):  # type: ignore[no-untyped-def]
    """(height, width) shade of the nearest triangle (largest z) at every pixel; 0 where there is none."""
    depth = np.full((height, width), -1e300)
    out = np.zeros((height, width))
    for t in range(len(triangles)):
        ax, ay, az = points[triangles[t, 0]]
        bx, by, bz = points[triangles[t, 1]]
        cx, cy, cz = points[triangles[t, 2]]
        det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if abs(det) < 1e-12:
            continue
        for y in range(max(0, int(np.ceil(min(ay, by, cy)))), min(height - 1, int(max(ay, by, cy))) + 1):
            for x in range(max(0, int(np.ceil(min(ax, bx, cx)))), min(width - 1, int(max(ax, bx, cx))) + 1):
                u = ((x - ax) * (cy - ay) - (cx - ax) * (y - ay)) / det
                v = ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) / det
                if u >= -1e-9 and v >= -1e-9 and u + v <= 1 + 1e-9:
                    z = az + u * (bz - az) + v * (cz - az)
                    if z > depth[y, x]:
                        depth[y, x] = z
                        out[y, x] = shade[t]
    return out


def render(vertices: NDArray[np.float64], triangles: NDArray[np.int64], colour: tuple[int, int, int]) -> bytes:
    """A PNG with a clear background, seen from front right above.

    vertices (n, 3) mm, triangles (m, 3); colour 0..255.
    """
    toward = np.array([0.55, -0.72, 0.5])
    toward /= np.linalg.norm(toward)
    right = np.cross([0, 0, 1.0], toward)
    right /= np.linalg.norm(right)
    up = np.cross(toward, right)
    flat = np.column_stack([vertices @ right, vertices @ up, vertices @ toward])
    width, height = _WIDTH * _OVER, _HEIGHT * _OVER
    low, high = flat[:, :2].min(axis=0), flat[:, :2].max(axis=0)
    scale = 0.86 * min(width / max(high[0] - low[0], 1e-9), height / max(high[1] - low[1], 1e-9))
    centre = (low + high) / 2
    screen = np.column_stack(
        [width / 2 + scale * (flat[:, 0] - centre[0]), height / 2 - scale * (flat[:, 1] - centre[1]), flat[:, 2]]
    )
    corners = vertices[triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True) + 1e-300
    light = toward + 0.35 * up - 0.4 * right
    shade = 0.42 + 0.58 * np.clip(normal @ (light / np.linalg.norm(light)), 0, 1)
    image = raster(screen, triangles.astype(np.int64), shade, width, height)
    rgba = np.zeros((height, width, 4), np.uint8)
    rgba[..., :3] = (image[..., None] * np.array(colour)).clip(0, 255)
    rgba[..., 3] = (image > 0) * 255
    picture = Image.fromarray(rgba, "RGBA").resize((_WIDTH, _HEIGHT), Image.Resampling.LANCZOS)
    buffer = io.BytesIO()
    picture.save(buffer, "PNG", optimize=True)
    return buffer.getvalue()


def body_picture(views: list[Path]) -> bytes:
    """Picture of bodies from their view buffers."""
    return _picture(views, _BODY)


def _picture(views: list[Path], colour: tuple[int, int, int]) -> bytes:
    vertices, triangles, base = [], [], 0
    for path in views:
        arrays, origin = read_view(path)
        points = arrays["positions"].reshape(-1, 3).astype(np.float64) + origin
        vertices.append(points)
        triangles.append(arrays["indices"].reshape(-1, 3).astype(np.int64) + base)
        base += len(points)
    return render(np.vstack(vertices), np.vstack(triangles), colour)


def scan_picture(view: Path) -> bytes:
    """Picture of a scan from its view buffer."""
    return _picture([view], _SCAN)
