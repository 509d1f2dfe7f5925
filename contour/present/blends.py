"""What a fillet or a chamfer has to say of the faces it has swallowed."""

from __future__ import annotations

from collections.abc import Sequence

from contour.recipe.problem import Problem, Where

__all__ = ["swallowed"]


def swallowed(gone: Sequence[tuple[str, tuple[float, float, float]]], what: str) -> tuple[Problem, ...]:
    """That faces, given by kind and a place on each, are gone, and where; nothing when none are."""
    if not gone:
        return ()
    return (
        Problem(
            code="swallowed",
            message=f"the {what} has swallowed {'a face' if len(gone) == 1 else f'{len(gone)} faces'}",
            where=Where(param="edges", point=gone[0][1]),
            got=", ".join(kind for kind, _ in gone[:6]),
            remedy="make it smaller where they should stay",
        ),
    )
