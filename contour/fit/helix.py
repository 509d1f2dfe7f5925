"""Pitch and turns of a helix: of the facets of a thread's flank or groove about its axis, or of a thread's outline.

Facets: the angle about the axis is unwrapped from neighbour to neighbour, and the height is fitted to it by a line (robustly): its
slope is the pitch. Outline: the radius along the axis repeats itself every pitch; the lag of the best correlation is refined by a
least-squares fit of a Fourier series of that period (Lomb, Astrophysics and Space Science 39, 1976, with harmonics).
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.recipe.problem import ContourError

__all__ = ["Helix", "helix_of_facets", "pitch_of_outline"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Helix:
    """pitch: mm per turn along the axis, + right-handed · turns: how many the facets cover · u: standard uncertainty of the pitch ·
    radius: mm, mean · rms: mm, along the axis."""

    pitch: float
    turns: float
    u: float
    radius: float
    rms: float


def _unwrapped(angle: Array, beside: NDArray[np.int32]) -> tuple[Array, NDArray[np.int64]]:
    """Angles made continuous over neighbours (n, k; -1 none), and which piece each belongs to."""
    out = np.full(len(angle), np.nan)
    piece = np.full(len(angle), -1, np.int64)
    count = 0
    for first in range(len(angle)):
        if piece[first] >= 0:
            continue
        out[first], piece[first] = angle[first], count
        queue = deque([first])
        while queue:
            i = queue.popleft()
            for j in beside[i]:
                if j >= 0 and piece[j] < 0:
                    step = (angle[j] - out[i] + np.pi) % (2 * np.pi) - np.pi
                    out[j], piece[j] = out[i] + step, count
                    queue.append(j)
        count += 1
    return out, piece


def helix_of_facets(centroids: Array, beside: NDArray[np.int32], origin: Array, axis: Array) -> Helix:
    """centroids (n, 3) of the region's facets, beside (n, 3) their neighbours within the region (-1 none).

    Raises ContourError (nothing-found) when the region does not climb around the axis.
    """
    e = np.eye(3)[int(np.argmin(np.abs(axis)))]
    a = np.cross(axis, e)
    a /= np.linalg.norm(a)
    b = np.cross(axis, a)
    d = centroids - origin
    x, y, z = d @ a, d @ b, d @ axis
    angle, piece = _unwrapped(np.arctan2(y, x), beside)
    sizes = np.bincount(piece)
    own = piece == int(np.argmax(sizes))
    th, h, r = angle[own], z[own], np.hypot(x[own], y[own])
    covered = float(np.ptp(th)) / (2 * np.pi)
    if covered < 0.4 or own.sum() < 30:
        raise ContourError(
            "nothing-found",
            "the region does not wind around the axis",
            got=f"{covered:.2f} turns in one piece",
            need="at least 0.4 turns",
            remedy="choose the flank or root of a thread, grown as one region, and its axis",
        )
    # Radius goes along: on a slanting flank what lies farther out lies higher or lower.
    rows = np.column_stack([th / (2 * np.pi), np.ones_like(th), r - r.mean()])
    weight = np.ones(len(h))
    solution = np.zeros(3)
    for _ in range(12):
        w = weight[:, None]
        solution = np.linalg.lstsq(rows * w, h * weight, rcond=None)[0]
        rest = h - rows @ solution
        scale = 1.4826 * float(np.median(np.abs(rest))) + 1e-9
        weight = np.sqrt(np.minimum(1.0, 1.5 * scale / np.maximum(np.abs(rest), 1e-12)))
    rms = float(np.sqrt(np.mean(rest**2)))
    height = float(np.ptp(h))
    if abs(solution[0]) * covered < 0.4 * height or rms > 0.4 * height:
        raise ContourError(
            "nothing-found",
            "the region goes around the axis without climbing evenly",
            got=f"{solution[0]:+.3f} mm a turn, straying by {rms:.3f} mm",
            need="a climb that is even",
            remedy="choose one flank of a thread, or another axis",
        )
    cells = max(1.0, len(h) / 25.0)  # neighbours share their noise
    u = rms / (np.sqrt(cells) * max(float(np.std(th / (2 * np.pi))), 1e-9))
    return Helix(float(solution[0]), covered, float(u), float(r.mean()), rms)


def pitch_of_outline(along: Array, away: Array) -> tuple[float, float, float]:
    """Pitch (mm), its standard uncertainty and how many periods there are, from points of an outline: `along` the axis, `away` from it.

    Raises ContourError (nothing-found) when nothing repeats. along, away (n,), mm.
    """
    order = np.argsort(along)
    z, r = along[order], away[order]
    length = float(np.ptp(z))
    count = 2048
    grid = np.linspace(z[0], z[-1], count)
    even = np.interp(grid, z, r)
    even = even - np.polyval(np.polyfit(grid, even, 1), grid)
    spectrum = np.fft.rfft(even, 2 * count)
    lag = np.fft.irfft(np.abs(spectrum) ** 2)[:count] / (np.arange(count, 0, -1) / count)
    low = int(np.argmax(lag[: count // 2] < 0)) if (lag[: count // 2] < 0).any() else count
    best = low + int(np.argmax(lag[low : int(0.67 * count)])) if low < int(0.67 * count) else 0
    if best == 0 or lag[best] < 0.35 * lag[0]:
        raise ContourError(
            "nothing-found",
            "nothing repeats along the outline",
            got=f"best likeness {100 * max(lag[best] / max(lag[0], 1e-12), 0):.0f} %",
            need="at least two turns of a thread in the section",
            remedy="cut the section through the thread's axis",
        )
    rough = best * length / (count - 1)

    def misfit(period: float) -> float:
        phase = 2 * np.pi * grid / period
        rows = np.column_stack([f(k * phase) for k in (1, 2, 3, 4) for f in (np.cos, np.sin)] + [np.ones(count), grid])
        rest = even - rows @ np.linalg.lstsq(rows, even, rcond=None)[0]
        return float(rest @ rest)

    tried = np.linspace(0.94 * rough, 1.06 * rough, 121)
    costs = np.array([misfit(p) for p in tried])
    k = int(np.clip(np.argmin(costs), 1, len(tried) - 2))
    bend = costs[k - 1] - 2 * costs[k] + costs[k + 1]
    shift = 0.5 * (costs[k - 1] - costs[k + 1]) / bend if bend > 0 else 0.0
    step = tried[1] - tried[0]
    pitch = float(tried[k] + shift * step)
    variance = costs[k] / count
    # From the parabola of costs: u² = 2 s² / curvature, with as many independent readings as there are outline points.
    u = float(np.sqrt(2 * variance / max(bend / step**2, 1e-12) * count / max(len(z), 1)))
    return pitch, u, length / pitch
