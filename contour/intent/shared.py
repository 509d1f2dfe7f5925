"""Faces in one plane and rounds on one axis."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from contour.intent.features import FAR, LEAST_MM, Feature, Proposal, clusters, counted, direction_u
from contour.intent.relation import Relation

__all__ = ["coaxial", "coplanar"]


def coplanar(features: Sequence[Feature]) -> list[Proposal]:
    """Planes that lie in one, within what the scan tells: proposals, best first."""
    rows = [f for f in features if f.surface.kind == "plane" and not f.blend]
    n = len(rows)
    alike = np.eye(n, dtype=bool)
    cost = np.zeros((n, n))
    for i, j in itertools.combinations(range(n), 2):
        a, b = rows[i], rows[j]
        na, nb = np.array(a.surface.axis), np.array(b.surface.axis)
        turn = math.acos(min(abs(float(na @ nb)), 1.0)) / math.hypot(direction_u(a), direction_u(b))
        gap = np.array(b.middle) - np.array(a.middle)
        reach = float(np.linalg.norm(gap))
        normal = na / a.u.position**2 + np.sign(na @ nb) * nb / b.u.position**2 if a.u.position and b.u.position else na
        normal /= np.linalg.norm(normal)
        u = math.sqrt(
            a.u.position**2 + b.u.position**2 + (reach * min(direction_u(a), direction_u(b))) ** 2 + (LEAST_MM / 2) ** 2
        )
        off = abs(float(gap @ normal)) / u
        cost[i, j] = cost[j, i] = max(turn, off)
        alike[i, j] = alike[j, i] = float(na @ nb) > 0.9 and turn <= FAR and off <= FAR and u < 0.1
    out = []
    for group in clusters(rows, alike):
        if len(group) > 1:
            away = float(max(cost[group[0], k] for k in group[1:]))
            ids = tuple(rows[k].id for k in group)
            out.append(Proposal("coplanar", ids, f"{len(group)} faces in one plane", away, Relation("coplanar", ids)))
    return out


def coaxial(features: Sequence[Feature]) -> list[Proposal]:
    """Cylinders, cones and tori about one axis, within what the scan tells: proposals, best first."""
    rows = [f for f in features if f.surface.round and not f.blend and direction_u(f) < math.radians(0.6)]
    n = len(rows)
    alike = np.eye(n, dtype=bool)
    cost = np.zeros((n, n))
    for i, j in itertools.combinations(range(n), 2):
        a, b = rows[i], rows[j]
        na, nb = np.array(a.surface.axis), np.array(b.surface.axis)
        turn = math.acos(min(abs(float(na @ nb)), 1.0)) / math.hypot(direction_u(a), direction_u(b))
        axis, better = (na, a) if direction_u(a) < direction_u(b) else (nb, b)
        gap = np.array(b.surface.origin) - np.array(a.surface.origin)
        along = float(gap @ axis)
        off = float(np.linalg.norm(gap - along * axis))
        u = math.sqrt(a.u.position**2 + b.u.position**2 + (along * direction_u(better)) ** 2 + LEAST_MM**2)
        cost[i, j] = cost[j, i] = max(turn, off / u)
        alike[i, j] = alike[j, i] = turn <= FAR and off <= FAR * u and u < 0.25
    out = []
    for group in clusters(rows, alike):
        if len(group) > 1:
            away = float(max(cost[group[0], k] for k in group[1:]))
            members = [rows[k] for k in group]
            ids = tuple(f.id for f in members)
            out.append(Proposal("coaxial", ids, f"one axis: {counted(members)}", away, Relation("coaxial", ids)))
    return out
