"""Two faces joined by a round, with nothing left of the small faces between them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.sparse.csgraph import dijkstra

from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.solid.edge_blends import Blended, Rounding, fillet
from contour.solid.mass import area, volume
from contour.solid.mouths import place_on
from contour.solid.shape import NamedShape, faces
from contour.solid.taken_off import without_faces
from contour.solid.topology.edges import borders_of, edge_names
from contour.solid.topology.labels import face_label
from contour.solid.topology.names import beside_names

__all__ = ["face_fillet"]

_WAYS = 4  # from one to the other that are looked at


def face_fillet(
    body: NamedShape,
    first: str,
    second: str,
    radius: float,
    *,
    between: Sequence[str] = (),
    prefix: str,
    labels: Mapping[str, str] | None = None,
) -> Blended:
    """Both faces run on over those between them until they meet, and that edge is rounded, mm. between: faces that go; none: found.

    Raises ContourError (bad-params), (not-found) with the faces in between where the two do not meet without them, and whatever a fillet raises.
    """
    if first == second:
        raise ContourError(
            "bad-params",
            "a round needs two faces",
            where=Where(param="second"),
            got="one face twice",
            need="two faces",
            remedy="choose another face",
        )
    sharp = body
    if not _shared(body, first, second):
        tried = [list(between)] if between else _between(body, first, second)
        met = (made for gone in tried if (made := _without(body, gone, first, second, prefix)) is not None)
        sharp = next(met, body)
        if sharp is body:
            own = dict(zip(body.names, faces(body.shape), strict=True))
            told = (
                " or ".join(", ".join(face_label(n, labels) for n in gone) for gone in tried[:2])
                or "nothing that lies beside both"
            )
            raise ContourError(
                "not-found",
                "the two faces do not meet without what lies between them",
                where=Where(param="between", point=triple(place_on(own[tried[0][0] if tried else second]))),
                got=told,
                need="faces that run on until they meet",
                remedy="choose what lies between them yourself, or other faces",
            )
    done = fillet(sharp, [Rounding(tuple(_shared(sharp, first, second)), radius)], prefix=prefix, labels=labels)
    return Blended(done.made, done.swallowed, done.blends, volume(done.made.shape) - volume(body.shape))


def _shared(body: NamedShape, first: str, second: str) -> list[str]:
    """Names of the edges that two faces share."""
    borders = borders_of(body)
    wanted = tuple(sorted(body.names.index(n) for n in (first, second)))
    return [n for n, pair in zip(edge_names(body), borders.edges, strict=True) if pair == wanted]


def _without(body: NamedShape, gone: Sequence[str], first: str, second: str, prefix: str) -> NamedShape | None:
    """The body without faces, if two others share an edge then."""
    made = without_faces(body, gone, prefix=prefix)
    return made if made is not None and {first, second} <= set(made.names) and _shared(made, first, second) else None


def _between(body: NamedShape, first: str, second: str) -> list[list[str]]:
    """Sets of faces that may be what lies between two others, the likeliest first: those on the way over edges that has the least area, then on the next
    one beside it, and on both together, where a step goes all round in pieces."""
    sizes = [area(f) for f in faces(body.shape)]
    beside = beside_names(body.shape, body.names)
    cost = np.array([[sizes[b] if n in near else 0.0 for b, n in enumerate(body.names)] for near in beside])
    start, goal = body.names.index(first), body.names.index(second)
    single: list[list[str]] = []
    while len(single) < _WAYS:
        way = _lightest(cost, start, goal)
        if not way:
            break
        single.append([body.names[k] for k in way])
        cost[way] = cost[:, way] = 0
    joint = [[n for way in single[: k + 1] for n in way] for k in range(1, len(single))]
    return [*single[:1], *joint[:1], *single[1:], *joint[1:]]


def _lightest(cost: NDArray[np.float64], start: int, goal: int) -> list[int]:
    """What lies between two nodes on the way of the least cost; nothing where there is no way."""
    _, before = dijkstra(cost, indices=start, return_predecessors=True)
    out = []
    k = int(before[goal])
    while k >= 0 and k != start:
        out.append(k)
        k = int(before[k])
    return out
