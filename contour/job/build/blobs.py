"""Which kept files a recipe needs beside itself, by the declared types of its evidence and of its steps' parameters."""

from __future__ import annotations

from contour.job.build.inputs import checked_params
from contour.recipe.params import blobs_in
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, load_recipe, wired_recipe
from contour.recipe.values import Blob

__all__ = ["blobs_of"]


def blobs_of(recipe: Recipe, *, as_read: bool = False) -> tuple[Blob, ...]:
    """Every file the recipe names, once each: scans, pictures, painted facets, what steps were given. as_read: it was just read from its text.

    A step whose parameters are not valid reads nothing, so it names nothing.
    """
    if not as_read:  # what was copied together was not validated: types would say nothing
        recipe = load_recipe(wired_recipe(recipe))
    # What steps are given is plain as long as their kinds have not read it.
    found = dict.fromkeys(blobs_in(recipe.model_copy(update={"steps": ()})))
    for step in recipe.steps:
        try:
            _, params = checked_params(step)
        except ContourError:
            continue
        found.update(dict.fromkeys(blobs_in(params)))
    return tuple(found)
