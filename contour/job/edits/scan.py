"""Edits of a job's scans: brought in, taken out, what they are taken for, and defects that are left."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from contour.job.edits.checked import Known
from contour.job.edits.relations import pointed
from contour.recipe.evidence.scan import LeftAlone, ScanEvidence
from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe
from contour.recipe.strict import Strict
from contour.recipe.values import FacetSet

__all__ = ["AddScan", "DropScan", "LeaveDefect", "ScanEdit", "SetScan", "apply_scan_edit"]


class AddScan(Strict):
    """Another scan of the part, or of something else for reference. Its bytes must be in the store."""

    op: Literal["add-scan"]
    scan: ScanEvidence


class SetScan(Strict):
    """Changes what a scan is taken for. `zone` limits the fit; `clear_zone` lifts that."""

    op: Literal["set-scan"]
    id: str
    name: str | None = Field(default=None, min_length=1, max_length=200)
    unit: LengthUnit | None = None
    role: Literal["part", "reference"] | None = None
    zone: FacetSet | None = None
    clear_zone: bool | None = None


class DropScan(Strict):
    """Takes a scan out of the job; steps that use it must go first."""

    op: Literal["drop-scan"]
    id: str


class LeaveDefect(Strict):
    """Marks a defect as looked at and left (or asks for it again); the point is in the raw scan's frame."""

    op: Literal["leave-defect"]
    scan: str
    kind: str = Field(max_length=40)
    point: tuple[float, float, float]
    left: bool = True


ScanEdit = AddScan | SetScan | DropScan | LeaveDefect


def _scan(recipe: Recipe, id: str) -> ScanEvidence:
    found = next((s for s in recipe.scans if s.id == id), None)
    if found is None:
        raise ContourError(
            "not-found",
            "the job has no such scan",
            got=id[:8],
            need="one of the job's scans",
            where=Where(param="id"),
            remedy="choose one of the job's scans",
        )
    return found


def _with_scan(recipe: Recipe, scan: ScanEvidence) -> Recipe:
    return recipe.model_copy(update={"evidence": tuple(scan if e.id == scan.id else e for e in recipe.evidence)})


def _add_scan(recipe: Recipe, edit: AddScan) -> tuple[Recipe, str]:
    if any(e.id == edit.scan.id for e in recipe.evidence):
        raise ContourError(
            "bad-params",
            "a scan with this id exists",
            got=edit.scan.id[:8],
            need="an id of its own",
            where=Where(param="scan.id"),
            remedy="bring the file in again",
        )
    return recipe.model_copy(update={"evidence": (*recipe.evidence, edit.scan)}), f"bring in {edit.scan.name}"


def _set_scan(recipe: Recipe, edit: SetScan) -> tuple[Recipe, str]:
    scan = _scan(recipe, edit.id)
    changes = edit.model_dump(exclude={"op", "id", "clear_zone", "zone"}, exclude_none=True)
    if edit.zone is not None or edit.clear_zone:
        changes["zone"] = edit.zone
    what = ", ".join(changes) or "nothing"
    return _with_scan(recipe, scan.model_copy(update=changes)), f"change {what} of {scan.name}"


def _drop_scan(recipe: Recipe, edit: DropScan) -> tuple[Recipe, str]:
    scan = _scan(recipe, edit.id)
    users = [s for s in recipe.steps if scan.id in set(pointed(s.params))]
    if users:
        raise ContourError(
            "bad-params",
            f"'{scan.name}' is used by steps",
            got=", ".join(s.name for s in users[:5]),
            need="a scan that no step uses",
            where=Where(step=users[0].id),
            remedy="delete these steps first",
        )
    left = tuple(e for e in recipe.evidence if e.id != scan.id)
    probes = tuple(p for p in recipe.probes if p.scan != scan.id)
    return recipe.model_copy(update={"evidence": left, "probes": probes}), f"take out {scan.name}"


def _leave_defect(recipe: Recipe, edit: LeaveDefect) -> tuple[Recipe, str]:
    scan = _scan(recipe, edit.scan)
    rest = tuple(k for k in scan.leave if (k.kind, k.point) != (edit.kind, edit.point))
    leave = (*rest, LeftAlone(kind=edit.kind, point=edit.point)) if edit.left else rest
    return _with_scan(
        recipe, scan.model_copy(update={"leave": leave})
    ), f"leave {edit.kind}" if edit.left else f"ask for {edit.kind} again"


def apply_scan_edit(recipe: Recipe, edit: ScanEdit, known: Known) -> tuple[Recipe, str]:
    """The next recipe and what the edit is called. Raises ContourError (not-found, bad-params)."""
    if isinstance(edit, AddScan):
        return _add_scan(recipe, edit)
    if isinstance(edit, SetScan):
        return _set_scan(recipe, edit)
    if isinstance(edit, DropScan):
        return _drop_scan(recipe, edit)
    return _leave_defect(recipe, edit)
