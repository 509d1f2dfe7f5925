"""Faces moved together as far as the body bears it."""

from __future__ import annotations

from collections.abc import Mapping

from contour.recipe.problem import ContourError
from contour.solid.resurface import resurface
from contour.solid.shape import NamedShape

__all__ = ["move_what_can"]


def move_what_can(body: NamedShape, moves: Mapping[int, float]) -> tuple[NamedShape, dict[int, ContourError]]:
    """All faces at once, each by mm along its normal; if that breaks the body, the largest sets that do not, found by halving. The rest with
    the reason of each."""
    refused: dict[int, ContourError] = {}
    accepted: dict[int, float] = {}
    best = body

    def settle(group: list[int]) -> None:
        nonlocal best
        try:
            best = resurface(body, {**accepted, **{k: moves[k] for k in group}})
        except ContourError as error:
            if len(group) == 1:
                refused[group[0]] = error
                return
            half = len(group) // 2
            settle(group[:half])
            settle(group[half:])
            return
        accepted.update({k: moves[k] for k in group})

    if moves:
        settle(list(moves))
    # A face may only have been held back by one that came later: one more try.
    for k in list(refused):
        try:
            best = resurface(body, {**accepted, k: moves[k]})
        except ContourError as error:
            refused[k] = error
            continue
        accepted[k] = moves[k]
        del refused[k]
    return best, refused
