"""The recipe: evidence, named values, acceptance, unit and the ordered steps, as strict, sorted JSON with a version."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from contour.recipe.evidence import Evidence
from contour.recipe.evidence.picture import Picture
from contour.recipe.evidence.reading import Instrument, Reading, Session
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.formula import Dimension, LengthUnit
from contour.recipe.migrate import SCHEMA_VERSION, lifted
from contour.recipe.naming import formula_name
from contour.recipe.problem import ContourError, Where
from contour.recipe.strict import Strict
from contour.recipe.values import FacetSet, Value

__all__ = [
    "BodyLook",
    "NamedValue",
    "Probe",
    "Recipe",
    "Setting",
    "Step",
    "Variant",
    "dump_recipe",
    "load_recipe",
    "short_names",
    "wired_recipe",
]


class NamedValue(Strict):
    """A value with a name that formulas use."""

    id: str
    name: str = Field(max_length=60)
    dimension: Dimension = "length"
    value: Value
    note: str = Field(default="", max_length=500)

    _named = field_validator("name")(formula_name)


class Step(Strict):
    """One operation; `params` is checked against its kind's own model when it is built or edited.

    Steps next to each other with the same `group` are shown, and folded, together.
    """

    id: str
    kind: str
    name: str = Field(max_length=200)
    enabled: bool = True
    params: dict[str, Any]
    note: str = Field(default="", max_length=1000)
    group: str = Field(default="", max_length=100)


class BodyLook(Strict):
    """A body's own name and colour, and what it is made of; `id` is the step that began it. density: g/cm³."""

    id: str
    name: str = Field(default="", max_length=200)
    colour: str | None = Field(default=None, pattern=r"^#[0-9a-f]{6}$")
    # Said only where there is something to say, so that recipes of this version stay as they were written.
    material: str = Field(default="", max_length=60, exclude_if=lambda v: not v)
    density: float | None = Field(default=None, gt=0, le=30, exclude_if=lambda v: v is None)


class Probe(Strict):
    """A place on the scan whose deviation is watched: raw facet number, and the point on it (mm, scan frame)."""

    id: str
    name: str = Field(max_length=60)
    scan: str
    facet: int = Field(ge=0)
    point: tuple[float, float, float]


class SetPart(Strict):
    """A face or an edge by the body it is on and its lasting name."""

    part: Literal["face", "edge"]
    body: str
    name: str = Field(min_length=1, max_length=500)


class SetThing(Strict):
    """A body by the step that began it, or evidence by its own id, as a whole."""

    part: Literal["body", "evidence"]
    id: str


class SetFacets(Strict):
    """Facets of a scan, by their numbers in its file."""

    part: Literal["facets"]
    scan: str
    picked: FacetSet


class NamedSet(Strict):
    """What was chosen together, to be chosen, hidden or shown again. Steps do not depend on it: they hold their own references."""

    id: str
    name: str = Field(min_length=1, max_length=60)
    parts: tuple[Annotated[SetPart | SetThing | SetFacets, Field(discriminator="part")], ...] = Field(
        min_length=1, max_length=2000
    )


class Setting(Strict):
    """What a variant gives another value: a named value by its id, or a field of a step by the step's id and the field's place."""

    of: str
    place: str = Field(default="", max_length=200)
    value: Value


class Variant(Strict):
    """The job with a few values of its own: as it is worn, as it was when new, with an oversize."""

    id: str
    name: str = Field(min_length=1, max_length=60)
    note: str = Field(default="", max_length=500)
    settings: tuple[Setting, ...] = Field(default=(), max_length=200)


class Recipe(Strict):
    """A whole job without its products. References go by id, only to evidence or earlier steps."""

    schema_version: Literal[9] = 9
    name: str = Field(min_length=1, max_length=200)
    unit: LengthUnit = "mm"
    acceptance_mm: float = Field(default=0.1, gt=0, le=100)
    evidence: tuple[Evidence, ...] = ()
    instruments: tuple[Instrument, ...] = ()
    sessions: tuple[Session, ...] = ()
    values: tuple[NamedValue, ...] = ()
    steps: tuple[Step, ...] = ()
    bodies: tuple[BodyLook, ...] = ()
    probes: tuple[Probe, ...] = ()
    sets: tuple[NamedSet, ...] = ()
    variants: tuple[Variant, ...] = Field(default=(), exclude_if=lambda v: not v)

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Recipe:
        made = (*self.evidence, *self.instruments, *self.sessions, *self.values, *self.steps)
        ids = [e.id for e in (*made, *self.probes, *self.sets, *self.variants)]
        if len(set(ids)) != len(ids):
            raise ValueError("two entries share an id")
        names = [e.name for e in self.named]
        twice = next((n for n in names if names.count(n) > 1), None)
        if twice:
            raise ValueError(f"two values are called {twice}")
        return self

    @property
    def scans(self) -> tuple[ScanEvidence, ...]:
        return tuple(e for e in self.evidence if isinstance(e, ScanEvidence))

    @property
    def solids(self) -> tuple[SolidEvidence, ...]:
        return tuple(e for e in self.evidence if isinstance(e, SolidEvidence))

    @property
    def readings(self) -> tuple[Reading, ...]:
        return tuple(e for e in self.evidence if isinstance(e, Reading))

    @property
    def pictures(self) -> tuple[Picture, ...]:
        return tuple(e for e in self.evidence if isinstance(e, Picture))

    @property
    def named(self) -> tuple[NamedValue | Reading, ...]:
        """Everything that formulas know by a name of its own."""
        return (*self.values, *self.readings)

    def step(self, step_id: str) -> Step:
        """The step with that id; raises ContourError (not-found)."""
        for step in self.steps:
            if step.id == step_id:
                return step
        raise ContourError(
            "not-found",
            "the job has no such step",
            where=Where(step=step_id),
            got=step_id[:8],
            need="one of the job's steps",
            remedy="look at the job again: it has changed",
        )


def short_names(recipe: Recipe) -> dict[str, str]:
    """Names of steps by the first eight characters of their ids, which lasting names begin with."""
    return {s.id[:8]: s.name for s in recipe.steps}


def dump_recipe(recipe: Recipe) -> str:
    """Canonical text: sorted keys, two spaces, one newline at the end."""
    return json.dumps(recipe.model_dump(mode="json"), indent=2, sort_keys=True, ensure_ascii=False) + "\n"


def wired_recipe(recipe: Recipe) -> str:
    """The same without a blank, for another process: written a good deal faster."""
    return json.dumps(recipe.model_dump(mode="json"), sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def load_recipe(text: str, *, file: str | None = None) -> Recipe:
    """Read a recipe of this or an earlier schema version.

    Raises ContourError (bad-recipe) with the line or the field that is wrong.
    """
    try:
        document = json.loads(text)
    except ValueError as error:
        raise ContourError(
            "bad-recipe",
            f"not JSON: {error}",
            where=Where(file=file),
            got=text[:40],
            need="JSON",
            remedy="export the job again",
        ) from None
    if not isinstance(document, dict):
        raise ContourError(
            "bad-recipe",
            "a recipe is a JSON object",
            where=Where(file=file),
            got=type(document).__name__,
            need="a JSON object",
            remedy="export the job again",
        )
    document = lifted(document)
    version = document.get("schema_version")
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
            "bad-recipe",
            f"{first['msg']} at '{place}'",
            where=Where(file=file),
            got=repr(first.get("input"))[:80],
            need="what the recipe's schema says there",
            remedy="correct the file there, or export the job again",
        ) from None
