"""One sector of what repeats around an axis, as it is drawn: its ends stay alike and the angle of one sector apart, whatever sizes are asked for."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from contour.outline.turned import going_on
from contour.sketch.drawn.acts.pen import Pen
from contour.sketch.drawn.text import Arc, Constraint, Line
from contour.sketch.taken import TakenLoop

__all__ = ["held_sector", "seam_pieces"]

Found = list[tuple[float, Constraint]]


def _ends(loop: TakenLoop) -> tuple[int, int] | None:
    """Places of the pieces that are the ends of one sector; None where the loop is none, or not all of it is drawn."""
    relation = next((r for r in loop.relations if r.kind == "turned"), None)
    ids = [p.id for p in loop.pieces]
    if relation is None or not all(p.taken for p in loop.pieces):
        return None
    return ids.index(relation.first), ids.index(relation.second)


def seam_pieces(loops: Sequence[TakenLoop]) -> set[str]:
    """The ends of sectors and what meets them: none of these is drawn straight, level or square by itself, for it goes on over the seam."""
    out: set[str] = set()
    for loop in loops:
        if (ends := _ends(loop)) is not None:
            pairs = going_on(*ends, len(loop.pieces))
            out |= {loop.pieces[k].id for k in (*ends, *(k for pair in pairs for k in pair))}
    return out


def held_sector(pen: Pen, loop: TakenLoop) -> Found:
    """What holds the drawn ends: of one length, led through the middle of the bore, the angle of one sector apart."""
    ends = _ends(loop)
    if ends is None:
        return []
    first, second = (loop.pieces[k].id for k in ends)
    if not all(isinstance(pen.entities[n], Line) for n in (first, second)):
        return []
    a, b = (np.subtract(*(pen.at(p) for p in pen.ends(n)[::-1])) for n in (first, second))
    apart = math.degrees(math.acos(np.clip(a @ b / (np.linalg.norm(a) * np.linalg.norm(b)), -1, 1)))
    # One of them runs out and the other one in.
    count = round(360 / max(180 - apart, 1e-6))
    if count < 2:
        return []
    lean = Constraint(kind="collinear", of=(first, second))
    if count > 2:
        lean = Constraint(kind="angle", of=(first, second), value=f"180 deg - 360 deg / {count}")
    held = [Constraint(kind="equal", of=(first, second)), lean]
    for i, j in going_on(*ends, len(loop.pieces)):
        bore = pen.entities[loop.pieces[i].id]
        if i == j and isinstance(bore, Arc):
            held += [Constraint(kind="on-curve", of=(bore.centre, end)) for end in (first, second)]
    return [(0.0, c) for c in held]
