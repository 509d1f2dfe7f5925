"""What regions are to each other: rounds between two neighbours, chamfers, and pieces of one surface."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.fit.segment.labels import borders
from contour.fit.segment.whole import Segmentation
from contour.geometry.surfaces import Surface, distances, gradients
from contour.mesh.prepare import PreparedScan

__all__ = ["Relation", "neighbours_of", "relations"]

Array = NDArray[np.float64]
_SPAN_DEG = 175.0
_LONG = 0.12  # share of a region's border that counts as lying along it


@dataclass(frozen=True, slots=True)
class Relation:
    """blend: the two regions it rounds, with its radius as a rolling ball (mm) and whether the facets tell it well ·
    chamfer: the two it cuts the edge of · same_surface: number shared by regions that lie on one surface."""

    same_surface: int
    blend: tuple[int, int] | None = None
    ball_mm: float | None = None
    weak: bool = False
    chamfer: tuple[int, int] | None = None


def neighbours_of(scan: PreparedScan, found: Segmentation) -> dict[int, dict[int, int]]:
    """How many sides every two regions share."""
    a, b = borders(found.labels.astype(np.int64), scan.across)
    la, lb = found.labels[a].astype(np.int64), found.labels[b].astype(np.int64)
    keep = (la >= 0) & (lb >= 0)
    size = len(found.regions)
    pairs, count = np.unique(la[keep] * size + lb[keep], return_counts=True)
    out: dict[int, dict[int, int]] = {k: {} for k in range(size)}
    for pair, n in zip(pairs, count, strict=True):
        out[int(pair) // size][int(pair) % size] = int(n)
    return out


def _bend_radius(s: Surface | None) -> float:
    """How sharply a surface bends, mm; flats do not. A boss is not the round of the smaller round at its foot."""
    if s is None or s.kind == "plane":
        return float("inf")
    return s.minor if s.kind == "torus" else s.radius


def _span_deg(surface: Surface, points: Array) -> float:
    """How far round a tube the points go: of a cylinder about its axis, of a torus about its middle circle."""
    axis, w = np.array(surface.axis), points - np.array(surface.origin)
    h = w @ axis
    radial = w - h[:, None] * axis
    rho = np.linalg.norm(radial, axis=1)
    if surface.kind == "torus":
        angle = np.arctan2(h, rho - surface.radius)
    else:
        u = radial[int(np.argmax(rho))] / rho.max()
        angle = np.arctan2(radial @ np.cross(axis, u), radial @ u)
    turn = np.sort(np.degrees(angle))
    gaps = np.diff(np.append(turn, turn[0] + 360))
    return float(360 - gaps.max())


def _tangent(round_one: Surface, flank: Surface, points: Array, slack: float) -> bool:
    """Whether a tube leaves a flank tangentially: its middle lies one radius off it, along the whole tube."""
    r = round_one.minor if round_one.kind == "torus" else round_one.radius
    axis, origin = np.array(round_one.axis), np.array(round_one.origin)
    w = points - origin
    h = w @ axis
    if round_one.kind == "cylinder":
        low, high = np.percentile(h, [5, 95])
        spine = origin + np.array([[low], [(low + high) / 2], [high]]) * axis
    else:
        radial = w - h[:, None] * axis
        u = radial / np.maximum(np.linalg.norm(radial, axis=1), 1e-9)[:, None]
        spine = origin + round_one.radius * u[:: max(len(u) // 12, 1)]
    away = np.abs(distances(flank, spine))
    return bool(np.abs(away - r).max() < slack)


def _rolling_ball(points: Array, one: Surface, two: Surface, guess: float) -> float:
    """Radius of the ball that touches two planes whose round the points lie on: one unknown, so that few facets tell it."""
    n1, n2 = np.array(one.axis), np.array(two.axis)
    along = np.cross(n1, n2)
    along /= np.linalg.norm(along)
    rows = np.array([n1, n2, along])
    base = np.array([n1 @ np.array(one.origin), n2 @ np.array(two.origin), along @ points.mean(axis=0)])
    # Which side of the flanks the ball lies on: the middle of the points lies off the edge where the flanks meet, towards it.
    edge = np.linalg.solve(rows, base)
    inward = np.sign((points.mean(axis=0) - edge) @ (n1 + n2))
    r = guess
    for _ in range(30):

        def off(radius: float) -> float:
            centre = np.linalg.solve(rows, base + inward * radius * np.array([1.0, 1.0, 0.0]))
            w = points - centre
            return float(np.median(np.linalg.norm(w - np.outer(w @ along, along), axis=1)) - radius)

        f, e = off(r), 1e-4 * r
        slope = (off(r + e) - f) / e
        step = f / slope if abs(slope) > 1e-9 else 0.0
        r = float(np.clip(r - step, 0.3 * r, 3 * r))
        if abs(step) < 1e-6:
            break
    return r


def _turn_deg(
    scan: PreparedScan, found: Segmentation, k: int, j: int, sides: tuple[NDArray[np.int64], NDArray[np.int64]]
) -> float:
    """Angle at which two surfaces meet along their common border, degrees."""
    a, b = sides
    one, two = found.regions[k].surface, found.regions[j].surface
    assert one is not None and two is not None
    points = scan.centroids[a[(found.labels[a] == k) & (found.labels[b] == j)]]
    cosine = (gradients(one, points) * gradients(two, points)).sum(axis=1)
    return float(np.degrees(np.arccos(np.clip(np.median(cosine), -1, 1))))


def _pair_of_rounds(one: Surface, two: Surface) -> bool:
    """Whether two rounds are those of two corners with a wall between them that is too narrow to be seen: equal, parallel, and no
    farther apart than their radius, so that a plane touches both."""
    if one.kind != "cylinder" or two.kind != "cylinder" or one.outward != two.outward:
        return False
    axis = np.array(one.axis)
    gap = np.array(two.origin) - np.array(one.origin)
    apart = float(np.linalg.norm(gap - (gap @ axis) * axis))
    parallel = abs(float(axis @ np.array(two.axis))) > np.cos(np.radians(3.0))
    alike = abs(one.radius - two.radius) < 0.1 * one.radius
    return parallel and alike and 0.1 * one.radius < apart < one.radius


def _same(a: Surface, b: Surface, slack: float) -> bool:
    """Whether two fits are one surface, as far as their places and sizes tell."""
    if a.kind != b.kind or a.outward != b.outward:
        return False
    n, m = np.array(a.axis), np.array(b.axis)
    gap = np.array(b.origin) - np.array(a.origin)
    aligned = abs(float(n @ m)) > np.cos(np.radians(0.4))
    if a.kind == "plane":
        return float(n @ m) > np.cos(np.radians(0.4)) and abs(float(gap @ n)) < slack
    across = float(np.linalg.norm(gap - (gap @ n) * n))
    if a.kind == "cylinder":
        return aligned and across < slack and abs(a.radius - b.radius) < slack
    if a.kind == "cone":
        level = a.radius + float(gap @ n) * np.tan(a.half_angle)
        return aligned and across < slack and abs(level - b.radius) < slack and abs(a.half_angle - b.half_angle) < 0.01
    far = float(np.linalg.norm(gap))
    alike = abs(a.radius - b.radius) < slack and abs(a.minor - b.minor) < slack
    return far < slack and alike and (a.kind == "sphere" or aligned)


def relations(scan: PreparedScan, found: Segmentation) -> tuple[Relation, ...]:
    """One per region. A round: part of a tube (less than 175 degrees of it) that leaves both neighbours tangentially; a bore or a
    boss goes farther round or meets its neighbours at an edge; of two equal corners close to each other each may be the other's
    neighbour, for the wall between them. A chamfer: a narrow plane or cone turned by 25 to 65 degrees
    against both neighbours that it touches along its length."""
    beside = neighbours_of(scan, found)
    sides = borders(found.labels.astype(np.int64), scan.across)
    sigma = max(1.3 * found.noise, min(1e-3, 0.002 * scan.edge_mm))
    groups = list(range(len(found.regions)))
    for k, region in enumerate(found.regions):
        for j in range(k):
            other = found.regions[j]
            u, v = region.uncertainty, other.uncertainty
            if region.surface is None or other.surface is None or groups[j] != j:
                continue
            if u is None or v is None or not (u.settled and v.settled):
                continue  # what its points do not settle could be anybody's piece
            if _same(region.surface, other.surface, max(4 * float(np.hypot(u.position, v.position)), 1.5 * sigma)):
                groups[k] = j
                break
    out = []
    for k, region in enumerate(found.regions):
        s = region.surface
        if s is None or s.kind not in ("cylinder", "torus", "plane", "cone"):
            out.append(Relation(groups[k]))
            continue
        facets = np.flatnonzero(found.labels == k)
        points = scan.centroids[facets]
        total = sum(beside[k].values())
        long = [
            j
            for j, n in sorted(beside[k].items(), key=lambda p: -p[1])
            if n > _LONG * total and found.regions[j].surface
        ]
        if s.kind in ("cylinder", "torus"):
            r = s.minor if s.kind == "torus" else s.radius
            slack = max(6 * sigma, 0.15 * r)
            # A corner between other rounds touches its flanks along a little of its border only.
            beside_it = [j for j, n in sorted(beside[k].items(), key=lambda p: -p[1]) if n > 0.6 * _LONG * total]
            tangent = [
                j for j in beside_it if (t := found.regions[j].surface) is not None and _tangent(s, t, points, slack)
            ]
            larger = [j for j in tangent if _bend_radius(found.regions[j].surface) > 1.3 * r]
            if len(larger) == 1:
                larger += [
                    j
                    for j in beside[k]
                    if (t := found.regions[j].surface) is not None
                    and _pair_of_rounds(s, t)
                    and _turn_deg(scan, found, k, j, sides) < 15
                ]
            if len(larger) >= 2 and _span_deg(s, points) < _SPAN_DEG:
                pair = (larger[0], larger[1])
                flanks = [found.regions[j].surface for j in pair]
                weak = r < 5 * scan.edge_mm
                ball = r
                if weak and s.kind == "cylinder" and all(f is not None and f.kind == "plane" for f in flanks):
                    ball = _rolling_ball(points, flanks[0], flanks[1], r)  # type: ignore[arg-type]
                out.append(Relation(groups[k], pair, ball, weak))
                continue
        elif len(long) >= 2 and (total and region.area / (total * scan.edge_mm) < 4 * scan.edge_mm):
            turns = [_turn_deg(scan, found, k, j, sides) for j in long[:2]]
            if all(25 < t < 65 for t in turns):
                out.append(Relation(groups[k], chamfer=(long[0], long[1])))
                continue
        out.append(Relation(groups[k]))
    return tuple(out)
