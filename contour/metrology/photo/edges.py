"""Edges in a picture to a part of a pixel: where brightness changes fastest along a short line across the edge.

Reference: Tian and Huhns, Algorithms for subpixel registration (1986): the parabola through the peak and its neighbours.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, map_coordinates

from contour.metrology.photo.flat import FlatPixels
from contour.outline.arcs import arc_sweep
from contour.recipe.problem import ContourError

__all__ = [
    "SnappedCircle",
    "SnappedLine",
    "edge_along",
    "edges_across",
    "parabola_peak",
    "profile",
    "sampled",
    "snap_bowed",
    "snap_circle",
    "snap_line",
]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8] | FlatPixels
_WEAK = 0.03  # brightness change per pixel below which nobody sees an edge


@dataclass(frozen=True, slots=True)
class SnappedLine:
    """Ends of the edge line, the points it was fitted to, and their scatter across it, pixels."""

    a: Array
    b: Array
    points: Array
    rms: float


@dataclass(frozen=True, slots=True)
class SnappedCircle:
    """Centre, radius, the points, their scatter and the radius's standard uncertainty, pixels."""

    centre: Array
    radius: float
    points: Array
    rms: float
    u_radius: float


def sampled(picture: Picture, x: Array, y: Array) -> Array:
    """Brightness 0 to 1 at places of a picture: of its pixels (h, w) 0 to 255, or of a photo seen flat."""
    if isinstance(picture, FlatPixels):
        return picture.at(x, y)
    return np.asarray(map_coordinates(picture, [y, x], output=np.float32, order=1, mode="nearest") / 255.0, np.float64)


def profile(picture: Picture, a: Array, b: Array, *, width: int = 1, step: float = 0.5) -> tuple[Array, Array]:
    """(distance from a, brightness) along a line, averaged over `width` pixels across it.

    a, b (2,), pixels; answers (n,) and (n,).
    """
    length = float(np.linalg.norm(b - a))
    count = max(int(round(length / step)) + 1, 3)
    t = np.linspace(0, length, count)
    way = (b - a) / max(length, 1e-9)
    across = np.array([-way[1], way[0]])
    total = np.zeros(count)
    offsets = np.arange(width) - (width - 1) / 2
    for o in offsets:
        p = a + t[:, None] * way + o * across
        total += sampled(picture, p[:, 0], p[:, 1])
    return t, total / len(offsets)


def parabola_peak(values: Array, k: int) -> float:
    """Place of the peak at k, to a part of a sample. values (n,); in samples, that is the unit of k."""
    if k <= 0 or k >= len(values) - 1:
        return float(k)
    a, b, c = values[k - 1], values[k], values[k + 1]
    bend = a - 2 * b + c
    return float(k + 0.5 * (a - c) / bend) if bend < 0 else float(k)


def edge_along(
    picture: Picture, middle: Array, way: Array, *, reach: float, width: int = 1, drawn: bool = False
) -> float | None:
    """Signed distance from `middle` along the unit vector `way` to the strongest edge within reach; none when there is none.

    drawn: a dark line on paper is looked for, and its middle found; its two edges would be two answers. Near ones win against
    far ones of the same strength.
    """
    t, v = profile(picture, middle - reach * way, middle + reach * way, width=width)
    rows, weak = _steepness(v[None], t[1] - t[0], drawn)
    slope = np.abs(rows[0])
    weighed = slope * _nearness(t, reach)
    k = int(np.argmax(weighed))
    if slope[k] < weak:
        return None
    return float(parabola_peak(slope, k) * (t[1] - t[0]) - reach)


def _nearness(t: Array, reach: float) -> Array:
    return np.asarray(1 - 0.4 * np.abs(t - reach) / reach)


def _steepness(v: Array, step: float, drawn: bool) -> tuple[Array, float]:
    """(how fast brightness grows along each row, or, of drawn lines, how dark it is there; what nobody sees). v (n, k)."""
    if drawn:
        return gaussian_filter1d(np.quantile(v, 0.9, axis=1, keepdims=True) - v, 2.4, axis=1), 3 * _WEAK
    return np.gradient(gaussian_filter1d(v, 1.6, axis=1), step, axis=1), _WEAK


def edges_across(picture: Picture, middles: Array, ways: Array, *, reach: float, drawn: bool = False) -> Array:
    """Signed distances (n,) from places of one curve along unit vectors to its edge within reach; not a number where none is seen.

    They belong together: the edge is light on the same side all along, on that on which more of it is seen. drawn: as in
    :func:`edge_along`. middles, ways (n, 2), reach: pixels.
    """
    count = max(int(round(2 * reach / 0.5)) + 1, 3)
    t = np.linspace(0, 2 * reach, count)
    p = middles[:, None, :] + (t - reach)[None, :, None] * ways[:, None, :]
    rows, weak = _steepness(sampled(picture, p[..., 0], p[..., 1]), t[1] - t[0], drawn)
    near = _nearness(t, reach)
    best = np.full(len(middles), np.nan)
    most = 0.0
    for side in (1.0,) if drawn else (1.0, -1.0):
        slope = np.maximum(side * rows, 0.0)
        k = np.argmax(slope * near, axis=1)
        height = slope[np.arange(len(k)), k]
        seen = float((np.minimum(height, 5 * weak) * near[k])[height >= weak].sum())
        if seen > most:
            peaks = np.array([parabola_peak(r, int(j)) for r, j in zip(slope, k, strict=True)])
            best = np.where(height >= weak, peaks * (t[1] - t[0]) - reach, np.nan)
            most = seen
    return best


def _robust(residual: Array) -> NDArray[np.bool_]:
    scale = max(1.4826 * float(np.median(np.abs(residual))), 0.05)
    return np.abs(residual) < 3 * scale


def snap_line(picture: Picture, a: Array, b: Array, *, reach: float = 8.0, drawn: bool = False) -> SnappedLine:
    """The straight edge near the line a-b. Raises ContourError (fit-failed) where no edge is to be seen.

    a, b (2,) and reach, pixels.
    """
    length = float(np.linalg.norm(b - a))
    if length < 4:
        raise ContourError(
            "fit-failed",
            "the line is too short to find an edge along it",
            got=f"{length:.0f} pixels",
            need="4",
            remedy="draw a longer line",
        )
    way = (b - a) / length
    across = np.array([-way[1], way[0]])
    found = []
    # The ends are corners, where other edges cross.
    for s in np.linspace(0.08, 0.92, int(np.clip(length / 2, 8, 160))):
        middle = a + s * (b - a)
        off = edge_along(picture, middle, across, reach=reach, drawn=drawn)
        if off is not None:
            found.append((s * length, off))
    if len(found) < 5:
        raise ContourError(
            "fit-failed",
            "no edge is to be seen along this line",
            got=f"{len(found)} places",
            need="5",
            remedy="draw it closer to the edge, or raise the contrast of the photo",
        )
    t, d = np.array(found).T
    keep = np.ones(len(t), np.bool_)
    for _ in range(4):
        slope, base = np.polyfit(t[keep], d[keep], 1)
        keep = _robust(d - (base + slope * t))
    rest = (d - (base + slope * t))[keep]
    points = a + t[keep, None] * way + d[keep, None] * across
    return SnappedLine(
        a + base * across, b + (base + slope * length) * across, points, float(np.sqrt((rest**2).mean()))
    )


def snap_bowed(picture: Picture, a: Array, b: Array, *, reach: float = 6.0, bow: float = 0.04) -> Array:
    """Points (n, 2) of the edge near a-b that a lens may have bowed by up to `bow` of its length.

    The bow under which the edge is seen best comes first; then every place looks for itself within reach.
    Raises ContourError (fit-failed) where no edge is to be seen. Pixels.
    """
    length = float(np.linalg.norm(b - a))
    if length < 20:
        raise ContourError(
            "fit-failed", "the side is too short", got=f"{length:.0f} pixels", need="20", remedy="draw a longer side"
        )
    way = (b - a) / length
    across = np.array([-way[1], way[0]])
    s = np.linspace(0.04, 0.96, int(np.clip(length / 4, 16, 200)))
    limit = bow * length + reach
    # Brightness in strips across the side, and how fast it changes there.
    offsets = np.arange(-limit - 3, limit + 3.5, 0.5)
    p = (a + s[:, None] * (b - a))[:, None, :] + offsets[None, :, None] * across
    strips = sampled(picture, p[..., 0], p[..., 1])
    slope = np.abs(np.gradient(gaussian_filter1d(strips, 1.6, axis=1), 0.5, axis=1))
    shape = 4 * s * (1 - s)
    rows = np.arange(len(s))
    bows = np.arange(-bow * length, bow * length + 0.5, 0.5)
    seen = [
        float(
            np.minimum(
                slope[rows, np.clip(np.round((w * shape - offsets[0]) / 0.5).astype(int), 0, len(offsets) - 1)], 0.15
            ).mean()
        )
        for w in bows
    ]
    middle = float(bows[int(np.argmax(seen))]) * shape
    found, at = [], []
    for k in rows:
        window = np.abs(offsets - middle[k]) <= reach
        inside = np.flatnonzero(window)
        local = slope[k, inside] * (1 - 0.4 * np.abs(offsets[inside] - middle[k]) / reach)
        best = int(inside[int(np.argmax(local))])
        if slope[k, best] >= _WEAK:
            found.append(offsets[0] + 0.5 * parabola_peak(slope[k], best))
            at.append(s[k])
    if len(found) < max(8, len(s) / 3):
        raise ContourError(
            "fit-failed",
            "no edge is to be seen along this side",
            got=f"{len(found)} of {len(s)} places",
            need="an edge along a third of it, at least",
            remedy="move the side onto the edge, or raise the contrast",
        )
    t, d = np.array(at), np.array(found)
    keep = np.ones(len(t), np.bool_)
    for _ in range(5):
        curve = np.polynomial.Polynomial.fit(t[keep], d[keep], 3)
        keep = _robust(d - curve(t))
    return np.asarray((a + t[keep, None] * (b - a)) + d[keep, None] * across)


def _circle(p: Array) -> tuple[Array, float]:
    """Algebraic fit, then Gauss-Newton on true distances."""
    m = p.mean(axis=0)
    q = p - m
    x, *_ = np.linalg.lstsq(np.column_stack([2 * q, np.ones(len(q))]), (q**2).sum(axis=1), rcond=None)
    centre, radius = x[:2], float(np.sqrt(max(x[2] + x[0] ** 2 + x[1] ** 2, 1e-9)))
    for _ in range(8):
        d = q - centre
        r = np.linalg.norm(d, axis=1)
        jacobian = np.column_stack([-d / r[:, None], -np.ones(len(q))])
        step, *_ = np.linalg.lstsq(jacobian, -(r - radius), rcond=None)
        centre, radius = centre + step[:2], radius + float(step[2])
    return centre + m, radius


def _spot(p: Array) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def snap_circle(
    picture: Picture,
    centre: Array,
    radius: float,
    *,
    reach: float | None = None,
    within: tuple[Array, Array, Array] | None = None,
    drawn: bool = False,
) -> SnappedCircle:
    """The round edge near a circle, or near the part of it that goes from a corner over a point to another corner.

    Raises ContourError (fit-failed) where less than a third of it is to be seen. centre (2,), radius, reach: pixels.
    """
    reach = min(8.0, 0.4 * radius) if reach is None else reach
    if within is None:
        angles = np.linspace(0, 2 * np.pi, int(np.clip(4 * radius, 24, 240)), endpoint=False)
    else:
        begin, sweep = arc_sweep(_spot(within[0]), _spot(within[1]), _spot(within[2]), centre)
        # The ends are corners, where other edges cross.
        angles = begin + sweep * np.linspace(0.06, 0.94, int(np.clip(abs(sweep) * radius, 16, 240)))
    found = []
    for a in angles:
        way = np.array([np.cos(a), np.sin(a)])
        off = edge_along(picture, centre + radius * way, way, reach=reach, drawn=drawn)
        if off is not None:
            found.append(centre + (radius + off) * way)
    if len(found) < len(angles) / 3:
        raise ContourError(
            "fit-failed",
            "no round edge is to be seen here",
            got=f"{len(found)} of {len(angles)} places",
            need="an edge around a third of it, at least",
            remedy="mark it closer to its edge",
        )
    p = np.array(found)
    keep = np.ones(len(p), np.bool_)
    for _ in range(4):
        middle, r = _circle(p[keep])
        keep = _robust(np.linalg.norm(p - middle, axis=1) - r)
    rest = np.linalg.norm(p[keep] - middle, axis=1) - r
    rms = float(np.sqrt((rest**2).mean()))
    return SnappedCircle(middle, float(r), p[keep], rms, rms / np.sqrt(max(int(keep.sum()) / 3, 1.0)))
