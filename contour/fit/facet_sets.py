"""Sets of facets changed by hand: joined, parted by a plane, painted facets given and taken, rings added and taken away."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError, Where

__all__ = ["Change", "HandWork", "changed", "ringed", "sides_of"]

Facets = NDArray[np.int64]
Change = Literal["join", "split", "give", "take", "rings", "worn"]


@dataclass(frozen=True, slots=True)
class HandWork:
    """What a change by hand leaves: facets by region, worn ones by region, regions that are gone, and a part that became its own."""

    picked: dict[str, Facets] = field(default_factory=dict)
    worn: dict[str, Facets] = field(default_factory=dict)
    dropped: tuple[str, ...] = ()
    part: Facets | None = None


def ringed(across: NDArray[np.int32], facets: Facets, rings: int) -> Facets:
    """Facets with `rings` rings of neighbours more, or fewer where it is negative. across (n, 3) as
    :func:`contour.mesh.topology.neighbours` gives it.

    >>> strip = np.array([[-1, 3, -1], [0, 6, -1], [3, 9, -1], [6, -1, -1]], np.int32)
    >>> ringed(strip, np.array([1]), 1).tolist(), ringed(strip, np.array([0, 1, 2]), -1).tolist()
    ([0, 1, 2], [0, 1])
    """
    inside = np.zeros(len(across) + 1, np.bool_)
    inside[facets] = True
    grow = rings > 0
    other = across // 3
    for _ in range(abs(rings)):
        beside = inside[other] & (across >= 0)
        if grow:
            inside[:-1] |= beside.any(axis=1)
        else:
            # At the scan's own border there is nothing to draw back from.
            inside[:-1] &= (beside | (across < 0)).all(axis=1)
    return np.flatnonzero(inside[:-1])


def sides_of(
    centroids: NDArray[np.float64], facets: Facets, origin: NDArray[np.float64], normal: NDArray[np.float64]
) -> tuple[Facets, Facets]:
    """(in front of the plane, behind it). centroids (n, 3), origin (3,), mm; normal (3,); facets ids (k,)."""
    front = (centroids[facets] - origin) @ normal > 0
    return facets[front], facets[~front]


def changed(
    op: Change,
    region: str,
    members: Mapping[str, Facets],
    scan: PreparedScan,
    *,
    painted: Facets | None = None,
    rings: int = 0,
    plane: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None,
) -> HandWork:
    """One change of a region by hand.

    members: facets of the region and of all others that the change may touch: those to join it, or those that lose what it is given (a
    facet belongs to one region). plane: (point, normal). Raises ContourError (too-few-facets, bad-params) when the change lacks something.
    """
    own = members[region]
    if op in ("give", "take", "worn") and (painted is None or len(painted) == 0):
        raise ContourError(
            "too-few-facets",
            "nothing is painted",
            got="no facets",
            need="at least one facet",
            where=Where(param="painted"),
            remedy="draw around some facets first",
        )
    if op == "join":
        if len(members) < 2:
            raise ContourError(
                "bad-params",
                "joining takes at least two regions",
                got=f"{len(members)} region{'s' * (len(members) != 1)}",
                need="at least two",
                where=Where(param="regions"),
                remedy="choose another region",
            )
        others = tuple(k for k in members if k != region)
        return HandWork({region: np.unique(np.concatenate(list(members.values())))}, dropped=others)
    if op == "split":
        if plane is None:
            raise ContourError(
                "bad-params",
                "where to part is not said",
                got="no plane",
                need="a plane across the region",
                where=Where(param="plane"),
                remedy="click two places, or choose a plane",
            )
        front, back = sides_of(scan.centroids, own, *plane)
        return HandWork({region: front}, part=back)
    if op == "rings":
        return HandWork({region: ringed(scan.across, own, rings)})
    assert painted is not None
    if op == "take":
        return HandWork({region: np.setdiff1d(own, painted)})
    if op == "worn":
        return HandWork(worn={region: np.intersect1d(own, painted)})
    robbed = {k: np.setdiff1d(f, painted) for k, f in members.items() if k != region and np.isin(f, painted).any()}
    return HandWork({region: np.union1d(own, painted), **robbed})
