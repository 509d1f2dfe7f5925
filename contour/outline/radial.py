"""Profile of a turned part: the mean of half-sections all around its axis, and how far each place of it runs out.

The longest half-section is the guide; every other one is measured against it along its normal, the mean moves the guide, twice.
Runout is what the first three harmonics around the axis span at a place: noise of single facets does not add to it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.geometry.frames import PlaneFrame
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import slice_scan
from contour.recipe.problem import ContourError, Where

__all__ = ["RadialLine", "radial_frame", "radial_profile", "runout_of"]

Array = NDArray[np.float64]
_AROUND = 36
_LEAST_SEEN = 0.5


@dataclass(frozen=True, slots=True)
class RadialLine:
    """points (n, 2): along the axis, away from it, mm · runout (n,): mm, full span, NaN at edges and where not nearly all half-sections tell · seen: share of the half-sections that have it."""

    points: Array
    closed: bool
    runout: Array
    seen: float


def radial_frame(origin: Array, axis: Array, outward: Array) -> PlaneFrame:
    """The half-plane that the profile is drawn on: u along the axis, v away from it towards `outward`. All (3,), mm."""
    a = axis / np.linalg.norm(axis)
    v = outward - (outward @ a) * a
    if np.linalg.norm(v) < 1e-6:
        e = np.eye(3)[int(np.argmin(np.abs(a)))]
        v = e - (e @ a) * a
    v = v / np.linalg.norm(v)
    return PlaneFrame(np.asarray(origin, np.float64), a, v, np.cross(a, v))


def _halves(flat: Array, closed: bool) -> list[tuple[Array, bool]]:
    """Parts of a polyline on the positive side of the axis; ends on the axis are put in."""
    ring = np.vstack([flat, flat[:1]]) if closed else flat
    up = ring[:, 1] > 0
    if up.all():
        return [(flat, closed)]
    out: list[list[Array]] = []
    for i in range(len(ring)):
        if i and up[i] != up[i - 1]:
            a, b = ring[i - 1], ring[i]
            at = a + (0 - a[1]) / (b[1] - a[1]) * (b - a)
            if up[i]:
                out.append([at])
            elif out:
                out[-1].append(at)
        elif up[i] and i == 0:
            out.append([])
        if up[i] and out:
            out[-1].append(ring[i])
    if closed and len(out) > 1 and up[0]:
        # The polyline's own start lies on this side: its first and last part are one.
        out[0] = [*out[-1][:-1], *out[0]]
        out.pop()
    return [(np.array(p), False) for p in out if len(p) >= 3]


def _evened(points: Array, closed: bool, spacing: float) -> Array:
    ring = np.vstack([points, points[:1]]) if closed else points
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(ring, axis=0), axis=1))])
    n = max(int(along[-1] / spacing), 4)
    at = np.linspace(0, along[-1], n, endpoint=not closed)
    return np.column_stack([np.interp(at, along, ring[:, d]) for d in range(2)])


def _normals(points: Array, closed: bool) -> Array:
    if closed:
        t = np.roll(points, -2, axis=0) - np.roll(points, 2, axis=0)
    else:
        wide = np.vstack([points[:1], points[:1], points, points[-1:], points[-1:]])
        t = wide[4:] - wide[:-4]
    return np.column_stack([-t[:, 1], t[:, 0]]) / np.maximum(np.linalg.norm(t, axis=1, keepdims=True), 1e-12)


def _harmonics(values: Array, angle: Array) -> tuple[float, float]:
    """(mean, span of the first three harmonics) of readings around the axis; some may be missing."""
    told = np.isfinite(values)
    if told.sum() < 8:
        return (float(np.nanmedian(values)) if told.any() else 0.0), 0.0
    a = angle[told]
    rows = np.column_stack([np.ones(len(a)), *(f(k * a) for k in (1, 2, 3) for f in (np.cos, np.sin))])
    if told.sum() < 14:
        rows = rows[:, :3]
    x = np.linalg.lstsq(rows, values[told], rcond=None)[0]
    t = np.linspace(0, 2 * np.pi, 90)
    full = np.column_stack([f(k * t) for k in (1, 2, 3) for f in (np.cos, np.sin)])[:, : len(x) - 1]
    wave = full @ x[1:]
    return float(x[0]), float(np.ptp(wave))


def runout_of(lines: list[RadialLine]) -> float | None:
    """What 95 % of the profile stay within, mm; None where nothing goes all around."""
    told = np.concatenate([line.runout for line in lines])
    told = told[np.isfinite(told)]
    return float(np.percentile(told, 95)) if len(told) else None


def _turned_parts(p: Array, closed: bool, runout: Array, seen: Array) -> list[RadialLine]:
    """What goes around the axis: places that at least half of the half-sections have. The rest of the guide is not turned."""
    on = seen >= _LEAST_SEEN
    # At an edge of the profile a shift along it looks like one across it.
    n = _normals(p, closed)
    straight = np.einsum("ij,ij->i", np.roll(n, 3, axis=0), np.roll(n, -3, axis=0)) > np.cos(np.radians(30))
    lacking = (
        np.convolve(seen < 0.97, np.ones(9), mode="same") > 0
    )  # beside a gap the nearest place is not the same one
    runout = np.where(~lacking & straight, runout, np.nan)
    if on.mean() > 0.97:
        return [RadialLine(p, closed, runout, float(seen.mean()))]
    if closed and on.any() and not on.all():  # begun where something is missing, so that no run is cut by the seam
        first = int(np.argmin(on))
        p, runout, seen = (np.roll(a, -first, axis=0) for a in (p, runout, seen))
        on = np.roll(on, -first)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], on.astype(int), [0]])))
    runs = [(a, b) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a >= 8]
    return [RadialLine(p[a:b], False, runout[a:b], float(seen[a:b].mean())) for a, b in runs]


def radial_profile(scan: PreparedScan, frame: PlaneFrame, *, around: int = _AROUND) -> list[RadialLine]:
    """Mean half-sections about the frame's u axis, longest first.

    Raises ContourError (no-section) when no half-plane meets the scan, or nothing goes around the axis.
    """
    o, axis = frame.origin, frame.u
    angles: list[float] = []
    halves: list[list[tuple[Array, bool]]] = []
    for k in range(around // 2):
        t = np.pi * k / (around // 2)
        v = np.cos(t) * frame.v + np.sin(t) * frame.normal
        normal = np.cross(axis, v)
        for sign in (1.0, -1.0):
            angles.append(t if sign > 0 else t + np.pi)
            halves.append([])
        for line in slice_scan(scan, o, normal):
            d = line.points - o
            z, r = d @ axis, d @ v
            for which, sign in ((-2, 1.0), (-1, -1.0)):
                halves[which] += _halves(np.column_stack([z, sign * r]), line.closed)
    if not any(halves):
        raise ContourError(
            "no-section",
            "no half-plane about the axis meets the scan",
            where=Where(param="axis"),
            got="0 half-planes",
            need="an axis inside the part",
            remedy="choose the axis of the part's own turned surfaces",
        )
    angle = np.array(angles)
    spacing = 0.5 * scan.edge_mm
    trees = [
        cKDTree(np.vstack([_evened(p, c, 0.25 * scan.edge_mm) for p, c in parts])) if parts else None
        for parts in halves
    ]

    def length(parts: list[tuple[Array, bool]]) -> float:
        return float(sum(np.linalg.norm(np.diff(p, axis=0), axis=1).sum() for p, _ in parts))

    guide = halves[int(np.argmax([length(p) for p in halves]))]
    gate = max(1.5 * scan.edge_mm, 12 * scan.noise_mm)
    out = []
    for points, closed in guide:
        p = _evened(points, closed, spacing)
        if len(p) < 6:
            continue
        runout, seen = np.zeros(len(p)), np.zeros(len(p))
        for _ in range(2):
            n = _normals(p, closed)
            offsets = np.full((len(trees), len(p)), np.nan)
            for i, tree in enumerate(trees):
                if tree is None:
                    continue
                away, at = tree.query(p, distance_upper_bound=gate)
                hit = np.isfinite(away)
                q = tree.data[at[hit]]
                offsets[i, hit] = np.einsum("ij,ij->i", q - p[hit], n[hit])
            seen = np.isfinite(offsets).mean(axis=0)
            found = [_harmonics(offsets[:, k], angle) for k in range(len(p))]
            p = p + np.array([m for m, _ in found])[:, None] * n
            runout = np.array([w for _, w in found])
        if not closed:  # what ended on the axis still does
            for end in (0, -1):
                if points[end][1] == 0.0:
                    p[end, 1] = 0.0
        out += _turned_parts(p, closed, runout, seen)
    if not out:
        raise ContourError(
            "no-section",
            "nothing goes around this axis",
            where=Where(param="axis"),
            got="no place that half of the half-sections share",
            need="half-sections that agree",
            remedy="choose the axis of the part's own turned surfaces",
        )
    return sorted(out, key=lambda line: -len(line.points))
