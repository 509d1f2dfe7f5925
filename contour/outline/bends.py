"""An outline given by its corners in order, some sides bent over a point on them."""

from __future__ import annotations

from itertools import pairwise

from contour.recipe.problem import ContourError

__all__ = ["Side", "sides_of"]

Side = tuple[int, int | None, int]


def sides_of(count: int, bends: tuple[int, ...], *, closed: bool) -> list[Side]:
    """(corner, point on the arc or none, next corner) of every side, by places in the list of points.

    Raises ContourError (bad-params) for a bend without a corner on either side of it.

    >>> sides_of(4, (1,), closed=True)
    [(0, 1, 2), (2, None, 3), (3, None, 0)]
    """
    bent = set(bends)
    corners = [k for k in range(count) if k not in bent]
    if len(corners) < 2 or min(bent, default=0) < 0 or max(bent, default=0) >= count:
        raise ContourError(
            "bad-params", "an outline needs two corners", got=len(corners), need="at least 2", remedy="trace it again"
        )
    ends = [*corners, corners[0]] if closed else corners
    sides: list[Side] = []
    for a, b in pairwise(ends):
        between = [(a + n) % count for n in range(1, (b - a) % count)]
        if len(between) > 1:
            raise ContourError(
                "bad-params",
                "two points of a round side follow each other",
                got=f"points {between[0] + 1} and {between[1] + 1}",
                need="one point on the arc between two corners",
                remedy="click the corner where the arc ends",
            )
        sides.append((a, between[0] if between else None, b))
    loose = bent - {v for _, v, _ in sides}
    if loose:
        raise ContourError(
            "bad-params",
            "a round side has no corner at its end",
            got=f"point {min(loose) + 1}",
            need="one point on the arc between two corners",
            remedy="click the corner where the arc ends",
        )
    return sides
