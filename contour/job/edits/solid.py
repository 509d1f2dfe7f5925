"""Edits of a job's files of solids: brought in with the step that uses them, taken for another unit, replaced by a newer version."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from contour.job.edits.checked import Known
from contour.job.edits.relations import pointed
from contour.job.edits.steps import AddStep, add_step
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe
from contour.recipe.strict import Strict
from contour.recipe.values import FileBlob

__all__ = ["AddSolid", "DropSolid", "SetSolid", "SolidEdit", "apply_solid_edit"]


class AddSolid(Strict):
    """A file of solids, and the step that makes bodies of it. Its bytes must be in the store."""

    op: Literal["add-solid"]
    solid: SolidEvidence
    step: str
    role: Literal["material", "reference"] = "material"
    after: str | None = None


class SetSolid(Strict):
    """Another name or unit ("as the file says" by `said`), or a newer version of the file, whose unchanged faces keep their names."""

    op: Literal["set-solid"]
    id: str
    name: str | None = Field(default=None, min_length=1, max_length=200)
    unit: LengthUnit | None = None
    said: bool = False
    file: FileBlob | None = None


class DropSolid(Strict):
    """Takes a file of solids out of the job; steps that use it must go first."""

    op: Literal["drop-solid"]
    id: str


SolidEdit = AddSolid | SetSolid | DropSolid


def _solid(recipe: Recipe, id: str) -> SolidEvidence:
    found = next((s for s in recipe.solids if s.id == id), None)
    if found is None:
        raise ContourError(
            "not-found",
            "the job has no such file of solids",
            got=id[:8],
            need="one of the job's files of solids",
            where=Where(param="id"),
            remedy="bring the file in again",
        )
    return found


def _add(recipe: Recipe, edit: AddSolid, known: Known) -> tuple[Recipe, str]:
    if any(e.id == edit.solid.id for e in recipe.evidence):
        raise ContourError(
            "bad-params",
            "a file with this id exists",
            got=edit.solid.id[:8],
            need="an id of its own",
            where=Where(param="solid.id"),
            remedy="bring the file in again",
        )
    more = recipe.model_copy(update={"evidence": (*recipe.evidence, edit.solid)})
    name = edit.solid.name.rsplit(".", 1)[0].replace("_", " ").replace("-", " ").strip() or "Solid"
    params = {"file": {"id": edit.solid.id}, "role": edit.role}
    step = AddStep(op="add-step", id=edit.step, kind="solid", name=name, params=params, after=edit.after)
    made, _ = add_step(more, step, known)
    return made, f"bring in {edit.solid.name}"


def _set(recipe: Recipe, edit: SetSolid) -> tuple[Recipe, str]:
    solid = _solid(recipe, edit.id)
    changes: dict[str, object] = edit.model_dump(include={"name", "unit"}, exclude_none=True)
    if edit.said:
        changes["unit"] = None
    if edit.file is not None and edit.file.blob != solid.blob:
        changes |= {"blob": edit.file.blob, "name": edit.file.name, "earlier": (*solid.earlier, solid.blob)}
    made = solid.model_copy(update=changes)
    evidence = tuple(made if e.id == solid.id else e for e in recipe.evidence)
    what = "version" if "blob" in changes else ", ".join(changes) or "nothing"
    return recipe.model_copy(update={"evidence": evidence}), f"change {what} of {solid.name}"


def _drop(recipe: Recipe, edit: DropSolid) -> tuple[Recipe, str]:
    solid = _solid(recipe, edit.id)
    users = [s for s in recipe.steps if solid.id in set(pointed(s.params))]
    if users:
        raise ContourError(
            "bad-params",
            f"'{solid.name}' is used by steps",
            got=", ".join(s.name for s in users[:5]),
            need="a file that no step uses",
            where=Where(step=users[0].id),
            remedy="delete these steps first",
        )
    return recipe.model_copy(update={"evidence": tuple(e for e in recipe.evidence if e.id != solid.id)}), (
        f"take out {solid.name}"
    )


def apply_solid_edit(recipe: Recipe, edit: SolidEdit, known: Known) -> tuple[Recipe, str]:
    """The next recipe and what the edit is called. Raises ContourError (not-found, bad-params)."""
    if isinstance(edit, AddSolid):
        return _add(recipe, edit, known)
    return _set(recipe, edit) if isinstance(edit, SetSolid) else _drop(recipe, edit)
