"""Directions that agree, stand square on each other, or make a round angle."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from contour.intent.features import FAR, Array, Feature, Proposal, angles_between, clusters, counted, direction_u
from contour.intent.relation import Relation

__all__ = ["directions"]

_TOLD = math.radians(0.5)  # a group of directions needs one that is known as well as this
# Short arcs know their axis to a few degrees; that one of them lies within three of these of one of some four main directions by
# chance is still rarer than one in twenty (4 (1 - cos 3u)).
_LOOSE = math.radians(2.9)


def directions(features: Sequence[Feature]) -> list[Proposal]:
    """Directions that agree, and groups of them that stand square on each other."""
    rows = [f for f in features if f.surface.kind != "sphere" and not f.blend and direction_u(f) < _LOOSE]
    if len(rows) < 2:
        return []
    axes = np.array([f.surface.axis for f in rows])
    u = np.array([direction_u(f) for f in rows])
    joint = np.hypot(u[:, None], u[None, :])
    angle = angles_between(axes)
    groups = clusters(rows, angle <= FAR * joint)
    out, means = [], []
    for group in groups:
        first = group[0]
        if u[group].min() > _TOLD:
            continue
        signs = np.sign(axes[group] @ axes[first])
        w = 1 / u[group] ** 2
        mean = (axes[group] * (signs * w)[:, None]).sum(axis=0)
        mean /= np.linalg.norm(mean)
        means.append((group, mean, float(1 / math.sqrt(w.sum()))))
        if len(group) > 1:
            off = np.arccos(np.clip(np.abs(axes[group] @ mean), 0, 1)) / u[group]
            members = [rows[k] for k in group]
            out.append(
                Proposal(
                    "parallel",
                    tuple(f.id for f in members),
                    f"one direction: {counted(members)}",
                    float(off.max()),
                    Relation("parallel", tuple(f.id for f in members)),
                    unit="deg",
                )
            )
    for (g1, m1, u1), (g2, m2, u2) in itertools.combinations(means, 2):
        joint_u = math.hypot(u1, u2)
        off = abs(math.pi / 2 - _between(m1, m2))
        # Square by accident is as rare as the uncertainty is small; single odd directions must be told well.
        if off <= FAR * joint_u and joint_u < math.radians(0.15):
            ids = (rows[g1[0]].id, rows[g2[0]].id)
            text = f"{counted([rows[k] for k in g1])} square on {counted([rows[k] for k in g2])}"
            out.append(
                Proposal(
                    "perpendicular",
                    ids,
                    text,
                    off / joint_u,
                    Relation("perpendicular", ids),
                    measured=math.degrees(_between(m1, m2)),
                    proposed=90.0,
                    u=math.degrees(joint_u),
                    unit="deg",
                )
            )
    return [*out, *_round_angles(rows, means)]


def _between(a: Array, b: Array) -> float:
    return math.acos(min(abs(float(a @ b)), 1.0))


def _round_angles(rows: Sequence[Feature], means: Sequence[tuple[list[int], Array, float]]) -> list[Proposal]:
    """Angles between directions that are multiples of 15 or 5 degrees, where so many are beyond chance."""
    hits: list[Proposal] = []
    told: list[float] = []
    for (g1, m1, u1), (g2, m2, u2) in itertools.combinations(means, 2):
        angle, joint_u = math.degrees(_between(m1, m2)), math.degrees(math.hypot(u1, u2))
        step, near = _round_angle(angle)
        if abs(angle - 90) <= FAR * joint_u or joint_u > 0.3:
            continue
        told.append(min(2 * FAR * joint_u / step, 1.0))
        if near > 0 and abs(near - angle) <= FAR * joint_u:
            ids = (rows[g1[0]].id, rows[g2[0]].id)
            text = f"{angle:.2f}° between {counted([rows[k] for k in g1])} and {counted([rows[k] for k in g2])} is {near:g}°"
            demand = Relation("angle", ids, math.radians(near))
            away = abs(near - angle) / joint_u
            hits.append(
                Proposal("angle", ids, text, away, demand, measured=angle, proposed=near, u=joint_u, unit="deg")
            )
    if not hits:
        return []
    chance = float(np.mean(told))
    n, k = len(told), len(hits)
    tail = sum(math.comb(n, m) * chance**m * (1 - chance) ** (n - m) for m in range(k, n + 1))
    return hits if tail < 0.01 else []


def _round_angle(degrees: float) -> tuple[float, float]:
    """(how far apart angles as round as this lie, the nearest)."""
    for step in (15.0, 5.0):
        near = round(degrees / step) * step
        if 0 < near < 90 and abs(near - degrees) < 0.5:
            return step, near
    return 5.0, 0.0
