"""Edits of a recipe: what can be asked for, and the table of what each does to a frozen recipe to give the next one."""

from __future__ import annotations

from typing import Annotated, Any, get_args

from pydantic import Field

from contour.job.edits import duplicate, instead, job, steps, values, variants
from contour.job.edits.checked import Known
from contour.job.edits.duplicate import DuplicateSteps
from contour.job.edits.instead import UseInstead
from contour.job.edits.intent import Agree
from contour.job.edits.job import DropProbe, DropSet, PinProbe, PutSet, SetBody, SetJob
from contour.job.edits.picture import PictureEdit, apply_picture_edit
from contour.job.edits.reading import ReadingEdit, apply_reading_edit
from contour.job.edits.region import SetFacets
from contour.job.edits.scan import AddScan, DropScan, LeaveDefect, ScanEdit, SetScan, apply_scan_edit
from contour.job.edits.solid import AddSolid, DropSolid, SetSolid, SolidEdit, apply_solid_edit
from contour.job.edits.steps import (
    AddStep,
    AddSteps,
    DeleteStep,
    GroupSteps,
    MoveStep,
    NoteStep,
    RenameStep,
    SetParams,
    SwitchStep,
)
from contour.job.edits.values import DeleteValue, SetReading, SetValue
from contour.job.edits.variants import DropVariant, PutVariant, TakeVariant
from contour.recipe.recipe import Recipe

__all__ = ["OPERATIONS", "Edit", "Known", "apply_edit"]

Edit = Annotated[
    AddStep
    | AddSteps
    | SetParams
    | RenameStep
    | SwitchStep
    | DeleteStep
    | MoveStep
    | NoteStep
    | GroupSteps
    | DuplicateSteps
    | UseInstead
    | SetValue
    | DeleteValue
    | Agree
    | SetFacets
    | SetReading
    | ReadingEdit
    | PictureEdit
    | SetBody
    | PinProbe
    | DropProbe
    | PutSet
    | DropSet
    | PutVariant
    | DropVariant
    | TakeVariant
    | AddScan
    | SetScan
    | DropScan
    | AddSolid
    | SetSolid
    | DropSolid
    | LeaveDefect
    | SetJob,
    Field(discriminator="op"),
]


OPERATIONS: dict[type, Any] = {
    **steps.OPERATIONS,
    **duplicate.OPERATIONS,
    **instead.OPERATIONS,
    **values.OPERATIONS,
    **job.OPERATIONS,
    **variants.OPERATIONS,
    **dict.fromkeys(get_args(ScanEdit), apply_scan_edit),
    **dict.fromkeys(get_args(SolidEdit), apply_solid_edit),
    **dict.fromkeys(get_args(PictureEdit), apply_picture_edit),
    **dict.fromkeys(get_args(ReadingEdit), apply_reading_edit),
}


def apply_edit(recipe: Recipe, edit: Edit, known: Known | None = None) -> tuple[Recipe, str]:
    """The next recipe and what the edit is called in the undo list. `known` are values of steps from the last build.

    Raises ContourError (bad-params, bad-formula, mixed-dimensions, unknown-name, value-cycle, name-taken, bad-order,
    not-found) and changes nothing then.
    """
    made: tuple[Recipe, str] = OPERATIONS[type(edit)](recipe, edit, known or {})
    return made
