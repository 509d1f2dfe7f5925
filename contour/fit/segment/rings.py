"""Narrow faces that belong to something turned: rings of shoulders, chamfers, short steps beside what already has an axis.

A ring of three facets' width is too narrow for a patch that says what it is, but taken around the whole turn it is a line in the
half-plane through the axis, with hundreds of facets on it. For every axis found, the facets that no surface explains are turned
into that half-plane and its lines are looked for (a Hough search: direction of the facets' normals, distance from the origin).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.fit.segment.merging import Draft
from contour.fit.segment.narrow import FEWEST, LEAST_GAIN, cost_of, own_cost, pieces_of, unheld
from contour.geometry.surface_rows import CONE, CYLINDER, PLANE, TORUS, across_axis

__all__ = ["follow_axes", "part_rings"]

_GRID = np.radians(3.0)
_LIKE = np.cos(np.radians(25.0))
# A cone no more than this off a plane or a cylinder is one, if that fits nearly as well.
_STRAIGHT, _AS_STRAIGHT, _AS_TANGENT = np.radians(10.0), 1.2, 2.2
_WIDTH = 2.0  # edge lengths: what is narrower may be a softened edge
_LEAST_TURN = np.radians(90.0)


@dataclass(slots=True)
class _Turned:
    """Facets in the half-plane through an axis: rho, h mm · n (m, 2): their normals there, across and along · angle about the axis."""

    facets: NDArray[np.int64]
    at: NDArray[np.float64]
    n: NDArray[np.float64]
    angle: NDArray[np.float64]


def _turned(draft: Draft, p: NDArray[np.float64], facets: NDArray[np.int64]) -> _Turned:
    scan, axis = draft.scan, p[3:6]
    w = scan.centroids[facets] - p[:3]
    h = w @ axis
    across = w - h[:, None] * axis
    rho = np.linalg.norm(across, axis=1)
    out = across / np.maximum(rho, 1e-9)[:, None]
    normals = scan.smooth_normals[facets]
    u, v = np.zeros(3), np.zeros(3)
    across_axis(axis, u, v)
    angle = np.arctan2(out @ v, out @ u)
    return _Turned(
        facets, np.column_stack([rho, h]), np.column_stack([(normals * out).sum(axis=1), normals @ axis]), angle
    )


def _line(at: NDArray[np.float64], n: NDArray[np.float64], sigma: float) -> tuple[NDArray[np.float64], float]:
    """(normal facing as n does, distance) of the line through points of the half-plane, outliers with less say."""
    weight = np.ones(len(at))
    normal, c = n, 0.0
    for _ in range(6):
        middle = (at * weight[:, None]).sum(axis=0) / weight.sum()
        _, _, axes = np.linalg.svd((at - middle) * np.sqrt(weight)[:, None], full_matrices=False)
        normal = axes[1] if axes[1] @ n > 0 else -axes[1]
        c = float(normal @ middle)
        weight = 1 / np.maximum(np.abs(at @ normal - c) / (0.5 * sigma), 1.0)
    return normal, c


def _made(
    draft: Draft, p: NDArray[np.float64], turned: _Turned, n: NDArray[np.float64]
) -> tuple[NDArray[np.float64], float]:
    """The line as it was made: so narrow a one leans with the softened edge beside it, and square to the axis or along it, best of
    all where a round about the axis runs out, is what people make."""
    normal, c = _line(turned.at, n, draft.sigma)
    most = _spread(turned.at @ normal - c, draft.sigma)
    for straight in (np.array([0.0, 1.0]), np.array([1.0, 0.0])):
        straight = straight * np.sign(normal @ straight)
        if normal @ straight < np.cos(_STRAIGHT):
            continue
        along = turned.at @ straight
        middle = float(np.median(along))
        ends = [off for off in _run_outs(draft, p, straight) if abs(off - middle) < draft.tolerance]
        for off, worse in [(off, _AS_TANGENT) for off in ends] + [(middle, _AS_STRAIGHT)]:
            if _spread(along - off, draft.sigma) < worse * most:
                return straight, off
    return normal, c


def _run_outs(draft: Draft, p: NDArray[np.float64], straight: NDArray[np.float64]) -> list[float]:
    """Where rounds about an axis are tangent to lines of this normal in the half-plane."""
    out = []
    for q in draft.values[draft.codes == TORUS]:
        if _coaxial(q, p, draft.tolerance):
            middle = float(straight @ np.array([q[6], (q[:3] - p[:3]) @ p[3:6]]))
            out += [middle - q[7], middle + q[7]]
    return out


def _spread(d: NDArray[np.float64], sigma: float) -> float:
    return float(np.minimum(np.abs(d), 2 * sigma).mean())


def _packed(p: NDArray[np.float64], normal: NDArray[np.float64], c: float) -> tuple[int, NDArray[np.float64]]:
    """(kind, values) of the surface that a line of the half-plane is the profile of."""
    point, axis = p[:3], p[3:6]
    if normal[0] == 0.0:
        n = normal[1] * axis
        return PLANE, np.array([*(point + c * n), *n, 0.0, 0.0, 1.0])
    side = 1.0
    if normal[0] < 0:
        normal, c, side = -normal, -c, -1.0
    if normal[1] == 0.0:
        return CYLINDER, np.array([*point, *axis, c, 0.0, side])
    if normal[1] > 0:
        axis = -axis
    return CONE, np.array([*point, *axis, c, float(np.arcsin(abs(normal[1]))), side])


def _best_line(
    turned: _Turned, cost: NDArray[np.float64], sigma: float
) -> tuple[float, NDArray[np.float64], NDArray[np.int64]]:
    """(gain, normal of the line, places in `turned` that it explains better)."""
    best, best_n, best_own = 0.0, np.zeros(2), np.zeros(0, np.int64)
    bin_width = 0.5 * sigma
    for step in range(int(round(2 * np.pi / _GRID))):
        n = np.array([np.cos(step * _GRID), np.sin(step * _GRID)])
        like = np.flatnonzero(turned.n @ n > _LIKE)
        if len(like) < FEWEST:
            continue
        c = turned.at[like] @ n
        bins = np.floor((c - c.min()) / bin_width).astype(np.int64)
        heap = np.convolve(np.bincount(bins, cost[like]), np.ones(5), "same")
        middle = c.min() + (int(heap.argmax()) + 0.5) * bin_width
        gain = cost[like] - cost_of(c - middle, turned.n[like] @ n, sigma)
        own = like[gain > 0]
        if len(own) >= FEWEST and (total := float(gain[gain > 0].sum())) > best:
            best, best_n, best_own = total, n, own
    return best, best_n, best_own


def part_rings(draft: Draft, least_area: float) -> int:
    """Gives rings about known axes that no surface explains labels of their own; returns how many. least_area mm²."""
    scan, found = draft.scan, 0
    cost = own_cost(draft)
    poor = np.flatnonzero(unheld(draft) & (cost > 1.0))
    own = draft.facets_by_label()
    seen: list[NDArray[np.float64]] = []
    for k in sorted(np.flatnonzero(np.isin(draft.codes, (CYLINDER, CONE, TORUS))), key=lambda k: -len(own[k])):
        facets, p = own[k], draft.values[k]
        if len(facets) < 4 * FEWEST or any(_coaxial(p, q, draft.tolerance) for q in seen):
            continue
        seen.append(p.copy())
        points = scan.centroids[facets]
        reach = 0.5 * float(np.linalg.norm(np.ptp(points, axis=0)))
        near = poor[
            (
                (scan.centroids[poor] > points.min(axis=0) - reach)
                & (scan.centroids[poor] < points.max(axis=0) + reach)
            ).all(axis=1)
        ]
        turned = _turned(draft, p, near)
        for _ in range(40):
            if len(turned.facets) < FEWEST:
                break
            gain, n, mine = _best_line(turned, cost[turned.facets], draft.sigma)
            if gain < LEAST_GAIN:
                break
            normal, c = _line(turned.at[mine], n, draft.sigma)
            gains = cost[turned.facets] - cost_of(turned.at @ normal - c, turned.n @ normal, draft.sigma)
            mine = np.flatnonzero((gains > 0) & (turned.n @ normal > _LIKE))
            around = np.unique(np.floor(turned.angle[mine] / _GRID)).size * _GRID
            for ring, inside in pieces_of(draft, turned.facets[mine]) if around > _LEAST_TURN else []:
                if _is_face(draft, turned, ring, inside, gains, least_area):
                    code, values = _packed(p, *_made(draft, p, _turned(draft, p, ring), normal))
                    new = draft.new_label(code)
                    draft.values[new], draft.rms[new], draft.follows[new] = values, draft.sigma, k
                    draft.labels[ring] = new
                    found += 1
            cost[turned.facets[mine]] = 0.0  # tried once
            left = np.flatnonzero(cost[turned.facets] > 1.0)
            turned = _Turned(turned.facets[left], turned.at[left], turned.n[left], turned.angle[left])
    return found


def _coaxial(p: NDArray[np.float64], q: NDArray[np.float64], near: float) -> bool:
    w = p[:3] - q[:3]
    return (
        abs(p[3:6] @ q[3:6]) > np.cos(np.radians(1.0)) and float(np.linalg.norm(w - (w @ q[3:6]) * q[3:6])) < 2 * near
    )


def _is_face(
    draft: Draft,
    turned: _Turned,
    ring: NDArray[np.int64],
    inside: NDArray[np.int32],
    gains: NDArray[np.float64],
    least_area: float,
) -> bool:
    """Whether connected facets on a line are a face: wider than a softened edge, and worth it."""
    if len(ring) < FEWEST:
        return False
    area = float(draft.scan.areas[ring].sum())
    where = np.isin(turned.facets, ring)
    bins = np.unique(np.floor(turned.angle[where] / _GRID)).size * _GRID
    if area < least_area or gains[where].sum() < LEAST_GAIN:
        return False
    width = area / (bins * float(turned.at[where, 0].mean()))
    return width > _WIDTH * draft.scan.edge_mm and (inside >= 1).mean() > 0.4


def follow_axes(draft: Draft) -> None:
    """Rings after their axes were fitted again: the axis is the leader's, the line in the half-plane their own."""
    for k in np.flatnonzero(draft.follows >= 0):
        leader = int(draft.follows[k])
        facets = np.flatnonzero(draft.labels == k)
        if draft.codes[k] == 0 or draft.codes[leader] == 0 or len(facets) < FEWEST:
            continue
        if draft.codes[k] == PLANE and abs(draft.values[k, 3:6] @ draft.values[leader, 3:6]) < 0.7:
            continue  # a flat beside a round, not a ring around it
        turned = _turned(draft, draft.values[leader], facets)
        line = _made(draft, draft.values[leader], turned, np.median(turned.n, axis=0))
        draft.codes[k], draft.values[k] = _packed(draft.values[leader], *line)
