"""Edits of a job's pictures: brought in, straightened, scaled, marked, taken out."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from contour.job.edits.checked import Known
from contour.recipe.evidence.picture import Picture, PictureLength, PictureMark, Pixel
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe
from contour.recipe.strict import Strict

__all__ = ["AddPicture", "DropMark", "DropPicture", "PictureEdit", "SetMark", "SetPicture", "apply_picture_edit"]


class AddPicture(Strict):
    """A photo or a drawing; its pixels must be in the store."""

    op: Literal["add-picture"]
    picture: Picture


class SetPicture(Strict):
    """Changes how a picture is straightened or scaled. `clear` names what goes back to nothing."""

    op: Literal["set-picture"]
    id: str
    name: str | None = Field(default=None, min_length=1, max_length=200)
    role: Literal["photo", "drawing"] | None = None
    corners: tuple[Pixel, Pixel, Pixel, Pixel] | None = None
    aspect: float | None = Field(default=None, gt=0.01, lt=100)
    bend: float | None = Field(default=None, ge=-0.5, le=0.5)
    turn_deg: float | None = Field(default=None, ge=-180, le=180)
    contrast: float | None = Field(default=None, ge=0.2, le=5)
    crop: tuple[float, float, float, float] | None = None
    scale: PictureLength | None = None
    check: PictureLength | None = None
    clear: tuple[Literal["corners", "aspect", "crop", "scale", "check"], ...] | None = None


class DropPicture(Strict):
    op: Literal["drop-picture"]
    id: str


class SetMark(Strict):
    """Makes a mark in a picture, or changes the one with that id."""

    op: Literal["set-mark"]
    picture: str
    mark: PictureMark


class DropMark(Strict):
    op: Literal["drop-mark"]
    picture: str
    id: str


_LEAST_POINTS = {"distance": 2, "angle": 3, "circle": 2, "repeat": 2, "trace": 2}

PictureEdit = AddPicture | SetPicture | DropPicture | SetMark | DropMark


def _picture(recipe: Recipe, id: str) -> Picture:
    for p in recipe.pictures:
        if p.id == id:
            return p
    raise ContourError(
        "not-found",
        "the job has no such picture",
        got=id[:8],
        need="one of the job's pictures",
        where=Where(param="id"),
        remedy="choose another picture",
    )


def _replaced(recipe: Recipe, picture: Picture) -> Recipe:
    return recipe.model_copy(update={"evidence": tuple(picture if e.id == picture.id else e for e in recipe.evidence)})


def apply_picture_edit(recipe: Recipe, edit: PictureEdit, known: Known) -> tuple[Recipe, str]:
    """The next recipe and what the edit is called. Raises ContourError (not-found, bad-params)."""
    if isinstance(edit, AddPicture):
        if any(e.id == edit.picture.id for e in recipe.evidence):
            raise ContourError(
                "bad-params",
                "evidence with this id exists",
                got=edit.picture.id[:8],
                need="an id of its own",
                where=Where(param="picture.id"),
                remedy="load the page again",
            )
        return recipe.model_copy(update={"evidence": (*recipe.evidence, edit.picture)}), f"add {edit.picture.name}"
    if isinstance(edit, DropPicture):
        picture = _picture(recipe, edit.id)
        # Readings made from it stay: they hold what was measured. A pin on it has nothing to stand on any more.
        kept = tuple(
            e.model_copy(update={"pin": None})
            if e.kind == "reading" and e.pin is not None and e.pin.on == edit.id
            else e
            for e in recipe.evidence
            if e.id != edit.id
        )
        return recipe.model_copy(update={"evidence": kept}), f"take {picture.name} away"
    if isinstance(edit, SetPicture):
        picture = _picture(recipe, edit.id)
        changes = {
            k: getattr(edit, k) for k in edit.model_fields_set - {"op", "id", "clear"} if getattr(edit, k) is not None
        }
        changes |= dict.fromkeys(edit.clear or ())
        return _replaced(recipe, picture.model_copy(update=changes)), f"change {picture.name}"
    picture = _picture(recipe, edit.picture)
    if isinstance(edit, SetMark):
        need = _LEAST_POINTS.get(edit.mark.kind, 1)
        if len(edit.mark.points) < need:
            raise ContourError(
                "bad-params",
                f"a mark of kind {edit.mark.kind} has too few points",
                got=len(edit.mark.points),
                need=str(need),
                where=Where(param="mark.points"),
                remedy="set the missing points",
            )
        rest = [m for m in picture.marks if m.id != edit.mark.id]
        at = next((i for i, m in enumerate(picture.marks) if m.id == edit.mark.id), len(rest))
        marks = (*rest[:at], edit.mark, *rest[at:])
        return _replaced(
            recipe, picture.model_copy(update={"marks": marks})
        ), f"mark {edit.mark.name or edit.mark.kind}"
    marks = tuple(m for m in picture.marks if m.id != edit.id)
    return _replaced(recipe, picture.model_copy(update={"marks": marks})), "take a mark away"
