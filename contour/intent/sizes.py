"""Equal radii and distances, and sizes that are round beyond chance."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from contour.intent.features import FAR, LEAST_MM, Feature, Proposal, clusters, direction_u, radius_u
from contour.intent.relation import Relation
from contour.intent.rounding import Rounding, said

__all__ = ["RadiusGroup", "distances", "equal_distances", "radii", "round_distances", "size_of", "sizes"]


# Features, their mean radius, its standard uncertainty, how far the worst lies off in units of its own.
RadiusGroup = tuple[list[Feature], float, float, float]
Distance = tuple[Feature, Feature, float, float]


def radii(features: Sequence[Feature], *, blends: bool) -> list[RadiusGroup]:
    """(features, mean radius, its u, worst away) of groups of equal radius, single ones too."""
    rows = [f for f in features if f.blend == blends and f.surface.kind in ("cylinder", "sphere", "torus")]
    r = np.array([f.surface.minor if f.surface.kind == "torus" else f.surface.radius for f in rows])
    u = np.array([math.hypot(f.u.minor or 0.0, LEAST_MM) if f.surface.kind == "torus" else radius_u(f) for f in rows])
    if len(rows) == 0:
        return []
    side = np.array([f.surface.outward for f in rows])
    alike = (np.abs(r[:, None] - r[None, :]) <= FAR * np.hypot(u[:, None], u[None, :])) & (
        side[:, None] == side[None, :]
    )
    alike &= np.maximum(u[:, None], u[None, :]) < 0.05 * np.minimum(r[:, None], r[None, :])
    np.fill_diagonal(alike, True)
    out = []
    for group in clusters(rows, alike):
        w = 1 / u[group] ** 2
        mean, own = float((r[group] * w).sum() / w.sum()), float(1 / math.sqrt(w.sum()))
        # What scanners do to a round is common to all of a kind: the mean is not better than that.
        own = max(own, float(np.min(u[group])))
        away = float((np.abs(r[group] - mean) / u[group]).max())
        out.append(([rows[k] for k in group], mean, own, away))
    return out


def sizes(groups: Sequence[RadiusGroup], rounding: Rounding) -> list[Proposal]:
    """Whole and standard sizes near the radii of groups that are equal: proposals, best first."""
    out = []
    for members, mean, u, away in groups:
        blend = members[0].blend
        ids = tuple(f.id for f in members)
        if len(members) > 1:
            what = "fillets" if blend else "holes" if members[0].surface.outward < 0 else "outside cylinders"
            text = f"{len(members)} {what} of one radius"
            out.append(Proposal("equal-radius", ids, text, away, Relation("equal-size", ids), "R", measured=mean, u=u))
        value, u_value = size_of(members[0], mean, u)
        sign = "R" if value == mean else "Ø"
        near = rounding.near(value, u_value)
        if near is not None:
            unit = " mm" if rounding.system == "inch" else ""
            text = f"{sign} {value:.3f}{unit} is {sign} {said(near, rounding.system)}"
            demand = Relation("size", ids, near if sign == "R" else near / 2)
            cost = abs(near - value) / u_value
            out.append(Proposal("round", ids, text, cost, demand, sign, measured=value, proposed=near, u=u_value))
    return out


def size_of(f: Feature, mean: float, u: float) -> tuple[float, float]:
    """What people state of it: a diameter of bores and shafts, a radius of the rest. mean, u: its radius, mm."""
    return (mean, u) if f.blend or f.surface.kind != "cylinder" else (2 * mean, 2 * u)


def distances(features: Sequence[Feature]) -> list[Distance]:
    """(one, other, distance, its u) of parallel faces."""
    rows = [f for f in features if f.surface.kind == "plane" and not f.blend and f.area > 20]
    out = []
    for a, b in itertools.combinations(rows, 2):
        na, nb = np.array(a.surface.axis), np.array(b.surface.axis)
        joint = math.hypot(direction_u(a), direction_u(b))
        if math.acos(min(abs(float(na @ nb)), 1.0)) > FAR * joint:
            continue
        gap = np.array(b.middle) - np.array(a.middle)
        normal = na * a.area + np.sign(na @ nb) * nb * b.area
        normal /= np.linalg.norm(normal)
        value = abs(float(gap @ normal))
        across = float(np.linalg.norm(gap - (gap @ normal) * normal))
        u = math.sqrt(a.u.position**2 + b.u.position**2 + (across * joint / 2) ** 2 + (LEAST_MM / 2) ** 2)
        if value > 1 and u < 0.06:
            out.append((a, b, value, u))
    return out


def round_distances(pairs: Sequence[Distance], rounding: Rounding) -> list[Proposal]:
    """Whole distances near those between parallel planes and axes: proposals, best first."""
    out = []
    for a, b, value, u in pairs:
        near = rounding.near(value, u)
        if near is not None:
            ids = (a.id, b.id)
            text = f"{value:.3f} between two faces is {said(near, rounding.system)}"
            demand = Relation("distance", ids, near)
            out.append(Proposal("round", ids, text, abs(near - value) / u, demand, measured=value, proposed=near, u=u))
    return sorted(out, key=lambda p: p.away)


def equal_distances(pairs: Sequence[Distance], rounding: Rounding) -> list[Proposal]:
    """Pairs of faces as far apart as other pairs, where no round value says so already and no face is in both."""
    out = []
    odd = [p for p in pairs if rounding.near(p[2], p[3]) is None]
    spread = max((p[2] for p in odd), default=0.0)
    for (a, b, first, u1), (c, d, second, u2) in itertools.combinations(odd, 2):
        u = math.hypot(u1, u2)
        # Among many distances some agree by chance: only what is rare among those of this part counts.
        chance = len(odd) * (len(odd) - 1) / 2 * 2 * FAR * u / max(spread, 1e-9)
        if len({a.id, b.id, c.id, d.id}) == 4 and abs(first - second) <= FAR * u and chance < 0.3:
            ids = (a.id, b.id, c.id, d.id)
            text = f"two gaps of {(first + second) / 2:.3f} mm alike"
            demand = Relation("equal-distance", ids)
            out.append(Proposal("equal-distance", ids, text, abs(first - second) / u, demand, measured=first, u=u))
    return out
