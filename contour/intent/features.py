"""What proposals are made from and what they are."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from contour.fit.covariance import Covariance
from contour.geometry.surfaces import Surface
from contour.intent.relation import Relation

__all__ = ["FAR", "LEAST_MM", "Feature", "Proposal", "angles_between", "clusters", "counted", "direction_u", "radius_u"]

Array = NDArray[np.float64]
FAR = 3.0  # standard uncertainties: farther off, it was meant otherwise
LEAST_MM = 0.01
_LEAST_ANGLE = math.radians(0.03)  # what flatness and facets leave of a direction, whatever its fit says


@dataclass(frozen=True, slots=True)
class Feature:
    """A fitted region: its number, surface, uncertainties, area (mm²), middle (a point on it) and whether it is a blend."""

    id: int
    surface: Surface
    u: Covariance
    area: float
    middle: tuple[float, float, float]
    blend: bool = False


@dataclass(frozen=True, slots=True)
class Proposal:
    """kind: what sort of coincidence, for lists · regions by number · demand: what accepting it will hold the regions to, its members by
    number (none: there is nothing to hold) · stated: how its value is written, "Ø", "R" or "" · measured, proposed: mm or degrees,
    where there is one value · u: standard uncertainty of what was measured · away: what accepting costs, in units of it · text in
    words · missing: places (mm) where a member of a circle or row is absent · share: of the area that agrees, for a mirror."""

    kind: str
    regions: tuple[int, ...]
    text: str
    away: float
    demand: Relation | None = None
    stated: str = ""
    measured: float | None = None
    proposed: float | None = None
    u: float | None = None
    unit: str = "mm"
    missing: tuple[tuple[float, float, float], ...] = field(default=())
    share: float | None = None


def direction_u(f: Feature) -> float:
    """Standard uncertainty of a feature's direction, radians, never below the least that is believed."""
    return math.hypot(f.u.direction or 0.0, _LEAST_ANGLE)


def radius_u(f: Feature) -> float:
    """Standard uncertainty of a feature's radius, mm, never below the least that is believed."""
    return math.hypot(f.u.radius or 0.0, LEAST_MM / 2)


def angles_between(axes: Array) -> Array:
    """(n, n) between directions without a sign, radians."""
    return np.asarray(np.arccos(np.clip(np.abs(axes @ axes.T), 0, 1)))


def clusters(rows: Sequence[Feature], alike: Array) -> list[list[int]]:
    """Groups of rows that are all alike, largest area first; `alike` (n, n)."""
    left = sorted(range(len(rows)), key=lambda k: -rows[k].area)
    groups = []
    while left:
        first, *rest = left
        group = [first, *(k for k in rest if alike[first, k])]
        groups.append(group)
        left = [k for k in rest if k not in group]
    return groups


def counted(group: Sequence[Feature]) -> str:
    """In words, such as "2 planes, 1 cylinder"."""
    kinds = [f.surface.kind for f in group]
    many = {"torus": "tori"}
    found = {k: kinds.count(k) for k in dict.fromkeys(kinds)}
    return ", ".join(f"{n} {k if n == 1 else many.get(k, k + 's')}" for k, n in found.items())
