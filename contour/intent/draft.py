"""Draft: walls that all lean by one small angle from the direction most other faces have."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from contour.intent.features import FAR, Feature, Proposal, direction_u
from contour.intent.relation import Relation

__all__ = ["draft"]


def draft(features: Sequence[Feature]) -> list[Proposal]:
    """Walls that all lean by one small angle from the direction most other faces have."""
    planes = [f for f in features if f.surface.kind == "plane" and not f.blend and direction_u(f) < math.radians(0.3)]
    if len(planes) < 3:
        return []
    out: list[Proposal] = []
    best: tuple[int, Proposal] | None = None
    for pull in planes:
        axis = np.array(pull.surface.axis)
        lean = np.array(
            [math.degrees(math.asin(float(np.clip(np.array(f.surface.axis) @ axis, -1, 1)))) for f in planes]
        )
        u = np.degrees([math.hypot(direction_u(f), direction_u(pull)) for f in planes])
        walls = [k for k in range(len(planes)) if 0.4 < abs(lean[k]) < 12]
        for k in walls:
            same = [j for j in walls if abs(abs(lean[j]) - abs(lean[k])) <= FAR * math.hypot(u[j], u[k]) and u[j] < 0.2]
            if len(same) < 3:
                continue
            w = 1 / u[same] ** 2
            mean = float((np.abs(lean[same]) * w).sum() / w.sum())
            own = max(float(1 / math.sqrt(w.sum())), 0.02)
            away = float((np.abs(np.abs(lean[same]) - mean) / u[same]).max())
            near = round(mean * 2) / 2
            fits = near if abs(near - mean) <= FAR * own else None
            ids = (pull.id, *(planes[j].id for j in same))
            made = Proposal(
                "draft",
                ids,
                f"{len(same)} walls with a draft of {mean:.2f}°",
                away,
                Relation("draft", ids, math.radians(fits) if fits is not None else None),
                measured=mean,
                proposed=fits,
                u=own,
                unit="deg",
            )
            if best is None or len(same) > best[0]:
                best = (len(same), made)
    return [best[1]] if best else out
