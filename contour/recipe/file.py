"""The recipe: evidence, acceptance, unit and the ordered steps, as strict, sorted JSON with a schema version."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Where

__all__ = ["SCHEMA_VERSION", "Recipe", "ScanEvidence", "Step", "dump_recipe", "load_recipe"]

SCHEMA_VERSION = 1

# version -> function that lifts a document of that version to the next one
_MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ScanEvidence(_Strict):
    """A scan file as it came: its bytes by hash, and the unit the person gave it."""

    id: str
    kind: Literal["scan"] = "scan"
    name: str = Field(max_length=200)
    blob: str = Field(pattern=r"^[0-9a-f]{64}$")
    format: Literal["stl", "obj"]
    unit: LengthUnit


class Step(_Strict):
    """One operation; `params` is checked against its kind's own model when it is built or edited."""

    id: str
    kind: str
    name: str = Field(max_length=200)
    enabled: bool = True
    params: dict[str, Any]


class Recipe(_Strict):
    """A whole job without its products. References go by id, only to evidence or earlier steps."""

    schema_version: Literal[1] = 1
    name: str = Field(min_length=1, max_length=200)
    unit: LengthUnit = "mm"
    acceptance_mm: float = Field(default=0.1, gt=0, le=100)
    evidence: tuple[ScanEvidence, ...] = ()
    steps: tuple[Step, ...] = ()

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Recipe:
        ids = [e.id for e in self.evidence] + [s.id for s in self.steps]
        if len(set(ids)) != len(ids):
            raise ValueError("two entries share an id")
        return self

    def step(self, step_id: str) -> Step:
        """The step with that id; raises ContourError (not-found)."""
        for step in self.steps:
            if step.id == step_id:
                return step
        raise ContourError("not-found", "the job has no such step", where=Where(step=step_id))


def dump_recipe(recipe: Recipe) -> str:
    """Canonical text: sorted keys, two spaces, one newline at the end."""
    return json.dumps(recipe.model_dump(mode="json"), indent=2, sort_keys=True, ensure_ascii=False) + "\n"


def load_recipe(text: str, *, file: str | None = None) -> Recipe:
    """Read a recipe of this or an earlier schema version.

    Raises ContourError (bad-recipe) with the line or the field that is wrong.
    """
    try:
        document = json.loads(text)
    except ValueError as error:
        raise ContourError(
            "bad-recipe", f"not JSON: {error}", where=Where(file=file), remedy="export the job again"
        ) from None
    if not isinstance(document, dict):
        raise ContourError(
            "bad-recipe", "a recipe is a JSON object", where=Where(file=file), got=type(document).__name__
        )
    version = document.get("schema_version")
    while isinstance(version, int) and version in _MIGRATIONS:
        document = _MIGRATIONS[version](document)
        version = document["schema_version"]
    if version != SCHEMA_VERSION:
        raise ContourError(
            "bad-recipe",
            "this recipe's schema version cannot be read",
            where=Where(file=file),
            got=version,
            need=f"1 to {SCHEMA_VERSION}",
            remedy="open it with the version of the application that wrote it",
        )
    try:
        return Recipe.model_validate_json(json.dumps(document))
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        raise ContourError(
            "bad-recipe", f"{first['msg']} at '{place}'", where=Where(file=file), got=repr(first.get("input"))[:80]
        ) from None
