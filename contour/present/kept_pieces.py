"""Of what falls apart, the pieces that somebody has pointed at."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from contour.geometry.vectors import triple
from contour.present.places import point_at
from contour.recipe.problem import ContourError, Where
from contour.recipe.registry import Inputs

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["pieces_that_stay"]

_ON_PIECE = 0.5  # mm: a point further from every piece means none of them


def pieces_that_stay(sides: Sequence[NamedShape], count: int, inputs: Inputs) -> list[NamedShape]:
    """Each side with only those of its pieces that the points `pieces[0]` … lie on, `count` of them; one that no point lies on stays whole.

    Raises ContourError (not-found) for a point that no piece is near.
    """
    from contour.solid.pieces import pieces
    from contour.solid.topology.names import together

    found = [(side, piece, away) for side, made in enumerate(sides) for piece, away in pieces(made)]
    stay: set[int] = set()
    for i in range(count):
        at = np.array(point_at(inputs, f"pieces[{i}]").origin)
        away = [distance(at) for _, _, distance in found]
        if min(away) > _ON_PIECE:
            raise ContourError(
                "not-found",
                "no piece lies at this point",
                where=Where(param=f"pieces[{i}]", point=triple(at)),
                got=f"the nearest is {min(away):.3f} mm away",
                need=f"a point within {_ON_PIECE:g} mm of a piece",
                remedy="pick a corner or an edge of the piece that is to stay",
            )
        stay.add(int(np.argmin(away)))
    chosen = [[found[k][1] for k in sorted(stay) if found[k][0] == side] for side in range(len(sides))]
    return [together(own) if own else whole for own, whole in zip(chosen, sides, strict=True)]
