"""A scanned block with a hole, rebuilt in two halves: what tests of whole jobs change."""

from __future__ import annotations

from contour.recipe.recipe import Recipe


def changed(recipe: Recipe, step: str, **params) -> Recipe:
    steps = tuple(s.model_copy(update={"params": {**s.params, **params}}) if s.id == step else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": steps})
