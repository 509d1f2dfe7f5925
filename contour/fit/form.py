"""Form of a fitted region: how flat, round, straight it is, from residuals that are averaged until noise no longer speaks.

Ranges of averaged residuals (ISO 1101 asks for the zone that holds every point of the surface; a scan's points hold its noise
as well, and the largest of many noisy points only tells how many there are).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.geometry.surface_rows import across_axis
from contour.geometry.surfaces import Surface, distances

__all__ = ["Form", "form_of"]

Array = NDArray[np.float64]
_SECTORS = 72


@dataclass(frozen=True, slots=True)
class Form:
    """mm; none where the kind has no such form. flatness, cylindricity (of any round kind): range of the averaged residuals ·
    roundness: range of the profile round the axis, `widest` the way to where it lies farthest out · straightness: range along the axis ·
    profile: (angle in degrees from `zero`, right-handed about
    the axis, residual) round the axis, or (place, residual) along the longest way of a plane; gaps left out ·
    u: standard uncertainty of one profile value."""

    flatness: float | None
    roundness: float | None
    cylindricity: float | None
    straightness: float | None
    widest: tuple[float, float, float] | None
    zero: tuple[float, float, float]
    profile: tuple[tuple[float, float], ...]
    u: float


def _binned(place: Array, value: Array, bins: Array, least: int) -> tuple[Array, Array, NDArray[np.int64]]:
    """(middles, means, counts) of the bins that hold enough values."""
    which = np.digitize(place, bins) - 1
    count = np.bincount(which, minlength=len(bins))[: len(bins) - 1]
    total = np.bincount(which, value, len(bins))[: len(bins) - 1]
    keep = count >= least
    return ((bins[:-1] + bins[1:]) / 2)[keep], (total[keep] / count[keep]), count[keep]


def _triple(p: Array) -> tuple[float, float, float]:
    return float(p[0]), float(p[1]), float(p[2])


def _range(values: Array) -> float | None:
    return float(values.max() - values.min()) if len(values) > 1 else None


def form_of(surface: Surface, points: Array, *, edge_mm: float) -> Form:
    """points (n, 3): vertices of the region away from its rim; edge_mm: mean facet side."""
    d = distances(surface, points)
    w = points - np.array(surface.origin)
    axis = np.array(surface.axis)
    u_way, v_way = np.zeros(3), np.zeros(3)
    across_axis(axis, u_way, v_way)
    least = 6
    size = 6 * edge_mm
    if not surface.round:
        flat = w @ np.column_stack([u_way, v_way])
        cells = np.floor(flat / size).astype(np.int64)
        _, which, count = np.unique(cells, axis=0, return_inverse=True, return_counts=True)
        mean = np.bincount(which.ravel(), d) / count
        middle = flat.mean(axis=0)
        _, _, ways = np.linalg.svd(flat[:: max(len(flat) // 2000, 1)] - middle, full_matrices=False)
        t = (flat - middle) @ ways[0]
        bins = np.linspace(t.min(), t.max() + 1e-9, max(int(np.ptp(t) / size), 2) + 1)
        at, value, n = _binned(t, d, bins, least)
        noise = float(np.std(d) / np.sqrt(np.median(n))) if len(n) else 0.0
        profile = tuple((float(a), float(b)) for a, b in zip(at, value, strict=True))
        return Form(_range(mean[count >= least]), None, None, _range(value), None, _triple(u_way), profile, noise)
    h = w @ axis
    angle = np.degrees(np.arctan2(w @ v_way, w @ u_way)) % 360
    at, value, n = _binned(angle, d, np.linspace(0, 360, _SECTORS + 1), least)
    bins = np.linspace(h.min(), h.max() + 1e-9, max(int(np.ptp(h) / size), 1) + 1)
    _, along, _ = _binned(h, d, bins, least)
    turn = np.floor(angle / 15).astype(np.int64) * 1000 + np.floor((h - h.min()) / size).astype(np.int64)
    _, which, count = np.unique(turn, return_inverse=True, return_counts=True)
    mean = np.bincount(which.ravel(), d) / count
    # Outwards from the axis: for a bore the residual is positive towards it.
    outward = value * surface.outward
    noise = float(np.std(d) / np.sqrt(np.median(n))) if len(n) else 0.0
    profile = tuple((float(a), float(b)) for a, b in zip(at, outward, strict=True))
    widest = None
    if len(at):
        a = np.radians(at[int(np.argmax(outward))])
        widest = _triple(np.cos(a) * u_way + np.sin(a) * v_way)
    return Form(
        None, _range(value), _range(mean[count >= least]), _range(along), widest, _triple(u_way), profile, noise
    )
