"""Pictures of a job under a drawing: how they lie in its plane, and the figures that stand in them."""

from __future__ import annotations

import numpy as np

from contour.job.questions.photo import flat_picture
from contour.metrology.photo.flat import Flat
from contour.metrology.photo.laid import Laid
from contour.metrology.photo.scale import Scale
from contour.metrology.reading import all_readings
from contour.recipe.evidence.picture import Picture
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe
from contour.sketch.drawn.figures import Figure
from contour.sketch.drawn.under import UnderPicture

__all__ = ["as_kept", "figures_in", "laid_picture", "picture_called", "require_scale"]


def picture_called(recipe: Recipe, id: str) -> Picture:
    """Raises ContourError (not-found)."""
    found = next((p for p in recipe.pictures if p.id == id), None)
    if found is None:
        raise ContourError(
            "not-found",
            "the job has no such picture any more",
            got=id[:8],
            need="one of the job's photos or drawings",
            remedy="take it from under the drawing, or go back to when it was there",
        )
    return found


def require_scale(picture: Picture, scale: Scale | None) -> Scale:
    """Raises ContourError (bad-params)."""
    if scale is None:
        raise ContourError(
            "bad-params",
            f"{picture.name} has no scale yet",
            got="pixels only",
            need="a known length in it",
            remedy="open the picture and give it a known length",
        )
    return scale


def laid_picture(under: UnderPicture, flat: Flat, scale: Scale) -> Laid:
    """How the flat picture lies by what the drawing keeps of it."""
    x, y = flat.to_flat(np.array([under.px]))[0]
    return Laid((float(x), float(y)), under.at, under.turn, scale.mm_per_px, under.mirrored)


def as_kept(laid: Laid, under: UnderPicture) -> UnderPicture:
    """What the drawing keeps of a picture that was moved."""
    turn = (laid.turn_deg + 180) % 360 - 180
    return under.model_copy(update={"at": laid.at, "turn": float(turn)})


def figures_in(recipe: Recipe, picture: Picture, laid: Laid) -> list[Figure]:
    """Readings that are pinned on a picture, at their places in the plane; those without a take say nothing."""
    known, flat = all_readings(recipe), flat_picture(picture)
    out = []
    for r in recipe.readings:
        facts = known.get(r.id)
        if r.pin is None or r.pin.on != picture.id or facts is None:
            continue
        x, y = laid.to_plane(flat.to_flat(np.array([r.pin.at[:2]])))[0]
        at = (float(x), float(y))
        out.append(Figure(r.name, facts.mean, facts.dimension == "angle", at, r.tolerance_mm, facts.u))
    return out
