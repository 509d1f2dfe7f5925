"""Borders between the regions of a mesh: chains of sides between two regions, the corners where chains meet, and the loops around each region.

No kernel here: vertices, facets and labels alone.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Borders", "Chain", "borders_of"]

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Chain:
    """Sides between two regions, in order: left (its material lies to the left of the way, seen from outside) and right; -1 where the mesh is
    open. vertices (k,): a ring repeats its first one at its end, and has no corners."""

    left: int
    right: int
    vertices: Ints
    ring: bool


@dataclass(frozen=True, slots=True)
class Borders:
    """loops[r]: around region r, each a list of (chain, whether it is run forwards)."""

    chains: list[Chain]
    loops: list[list[list[tuple[int, bool]]]]


def _next_side(f: int, k: int, across: NDArray[np.int32], labels: Ints) -> tuple[int, int]:
    """The side of the same region's border that begins where this one ends."""
    own = labels[f]
    k = (k + 1) % 3
    for _ in range(10_000):
        mate = int(across[f, k])
        if mate < 0 or labels[mate // 3] != own:
            return f, k
        f, k = mate // 3, (mate % 3 + 1) % 3
    raise RuntimeError("the facets around a vertex do not end")


def borders_of(
    facets: NDArray[np.int32],
    across: NDArray[np.int32],
    labels: Ints,
    regions: int,
    kinks: frozenset[int] = frozenset(),
) -> Borders:
    """Chains and loops of regions. facets (n, 3), across (n, 3) as :func:`contour.mesh.topology.neighbours` has it, labels (n,) from 0 ·
    kinks: vertices on borders that are corners as well."""
    beside = np.where(across >= 0, labels[across // 3], -1)
    rows = np.argwhere(beside != labels[:, None])
    sides = {(int(f), int(k)): i for i, (f, k) in enumerate(rows)}
    # What meets at a vertex: every border side once, with its two regions.
    meets: dict[int, set[tuple[int, int]]] = {}
    pairs: dict[int, set[tuple[int, int]]] = {}
    for f, k in sides:
        a, b = int(facets[f, k]), int(facets[f, (k + 1) % 3])
        pair = (min(int(labels[f]), int(beside[f, k])), max(int(labels[f]), int(beside[f, k])))
        for v in (a, b):
            meets.setdefault(v, set()).add((min(a, b), max(a, b)))
            pairs.setdefault(v, set()).add(pair)
    corner = {v for v in meets if len(meets[v]) != 2 or len(pairs[v]) != 1 or v in kinks}
    chains: list[Chain] = []
    of_side: dict[tuple[int, int], tuple[int, bool]] = {}
    loops: list[list[list[tuple[int, bool]]]] = [[] for _ in range(regions)]
    left = set(sides)
    for start in sides:
        if start not in left:
            continue
        walk = [start]
        left.discard(start)
        while (following := _next_side(*walk[-1], across, labels)) != start:
            walk.append(following)
            left.discard(following)
        # Begin at a corner where there is one.
        first = next((i for i, (f, k) in enumerate(walk) if int(facets[f, k]) in corner), None)
        walk = walk if first is None else walk[first:] + walk[:first]
        loop: list[tuple[int, bool]] = []
        run: list[tuple[int, int]] = []
        for i, side in enumerate(walk):
            run.append(side)
            f, k = side
            end = int(facets[f, (k + 1) % 3])
            if end not in corner and i + 1 < len(walk):
                continue
            known = of_side.get(run[0])
            if known is None:
                vertices = np.array([facets[f, k] for f, k in run] + [end], np.int64)
                right = int(beside[run[0]])
                known = (len(chains), True)
                chains.append(Chain(int(labels[run[0][0]]), right, vertices, first is None))
                for g, j in run:
                    mate = int(across[g, j])
                    if mate >= 0:
                        of_side[mate // 3, mate % 3] = (known[0], False)
            loop.append(known)
            run = []
        loops[int(labels[walk[0][0]])].append(loop)
    return Borders(chains, loops)
