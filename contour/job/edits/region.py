"""Regions changed by hand: facets moved between them, regions joined and parted, wear painted; one edit, one undo."""

from __future__ import annotations

import uuid
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.job.edits.relations import dependents
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, Step
from contour.recipe.values import FacetSet

__all__ = ["SetFacets", "set_facets"]


class Facets(BaseModel):
    """What a region is to hold from here on; `worn` in place of `picked`: what has no say in its fit."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    step: str
    picked: FacetSet | None = None
    worn: FacetSet | None = None


class SetFacets(BaseModel):
    """drop: regions that went into another; one that other steps need stays. said: what the edit is called."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    op: Literal["set-facets"]
    rows: list[Facets] = Field(min_length=1, max_length=200)
    drop: list[str] = Field(default_factory=list, max_length=200)
    said: str = Field(default="change facets", max_length=100)
    part: FacetSet | None = Field(
        default=None, description="facets that become a region of their own, right after the first"
    )


def set_facets(recipe: Recipe, edit: SetFacets) -> tuple[Recipe, str]:
    """Raises ContourError (not-found, wrong-kind) for steps that are no regions."""
    changed: dict[str, dict[str, Any]] = {}
    for row in edit.rows:
        step = recipe.step(row.step)
        if step.kind != "region":
            raise ContourError(
                "wrong-kind",
                f"'{step.name}' is no region",
                where=Where(step=step.id),
                got=step.kind,
                need="region",
                remedy="choose a region",
            )
        params = dict(step.params)
        if row.picked is not None:
            # The kind stays as it was found: facets by hand must not turn a bore into a freeform patch unasked.
            params |= {"picked": row.picked.model_dump(), "seeds": [], "removed": []}
        if row.worn is not None:
            params["worn"] = row.worn.model_dump()
        changed[step.id] = params
    gone = {s for s in edit.drop if s not in changed and not dependents(recipe, s)}
    steps = tuple(
        s.model_copy(update={"params": changed[s.id]}) if s.id in changed else s
        for s in recipe.steps
        if s.id not in gone
    )
    if edit.part is not None:
        whole = recipe.step(edit.rows[0].step)
        names = {s.name for s in recipe.steps}
        name = next(n for n in (f"{whole.name} part {k}" for k in range(2, 10_000)) if n not in names)
        params = {"scan": whole.params["scan"], "picked": edit.part.model_dump(), "surface": "auto"}
        at = next(i for i, s in enumerate(steps) if s.id == whole.id) + 1
        steps = (*steps[:at], Step(id=str(uuid.uuid4()), kind="region", name=name, params=params), *steps[at:])
    return recipe.model_copy(update={"steps": steps}), edit.said
