"""Edits of the job itself, its bodies' looks and its probes."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from contour.job.build.scope import Scope
from contour.job.edits.checked import Known, validated
from contour.metrology.standards.materials import MATERIALS
from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import BodyLook, NamedSet, Probe, Recipe
from contour.recipe.strict import Strict
from contour.recipe.values import Value

__all__ = ["OPERATIONS", "DropProbe", "DropSet", "PinProbe", "PutSet", "SetBody", "SetJob"]


class SetBody(Strict):
    op: Literal["set-body"]
    id: str
    name: str | None = Field(default=None, max_length=200)
    colour: str | None = None
    material: str | None = Field(default=None, max_length=60, description="empty: it is not said any more")
    density: float | None = Field(default=None, description="g/cm³; of a known material its usual one")


class PinProbe(Strict):
    op: Literal["pin-probe"]
    probe: Probe


class DropProbe(Strict):
    op: Literal["drop-probe"]
    id: str


class PutSet(Strict):
    """A set of chosen parts: a new one, or another state of the one with its id."""

    op: Literal["put-set"]
    set: NamedSet


class DropSet(Strict):
    op: Literal["drop-set"]
    id: str


class SetJob(Strict):
    op: Literal["set-job"]
    name: str | None = Field(default=None, min_length=1, max_length=200)
    unit: LengthUnit | None = None
    acceptance: Value | None = None


def _set_job(recipe: Recipe, edit: SetJob, known: Known) -> tuple[Recipe, str]:
    changes: dict[str, Any] = {}
    if edit.name is not None:
        changes["name"] = edit.name.strip() or recipe.name
    if edit.unit is not None:
        changes["unit"] = edit.unit
    if edit.acceptance is not None:
        mm = edit.acceptance.resolve("length", recipe.unit, Scope(recipe).lookup).value
        if not 0 < mm <= 100:
            raise ContourError(
                "bad-params",
                "the acceptance must lie between 0 and 100 mm",
                got=f"{mm:g} mm",
                where=Where(param="acceptance"),
                need="above 0, up to 100 mm",
                remedy="type something like 0.1 mm",
            )
        changes["acceptance_mm"] = mm
    return recipe.model_copy(update=changes), "change " + ", ".join(k.replace("_mm", "") for k in changes)


def _set_body(recipe: Recipe, edit: SetBody, known: Known) -> tuple[Recipe, str]:
    step = recipe.step(edit.id)
    old = next((b for b in recipe.bodies if b.id == edit.id), BodyLook(id=edit.id))
    if edit.density is not None and not 0 < edit.density <= 30:
        raise ContourError(
            "bad-params",
            "no material is as light or as heavy as that",
            where=Where(param="density"),
            got=f"{edit.density:g} g/cm³",
            need="above 0, up to 30 g/cm³",
            remedy="type something like 7.85",
        )
    said = edit.model_dump(exclude={"op"}, exclude_none=True)
    if edit.material is not None and edit.density is None:
        said["density"] = next((m.density for m in MATERIALS if m.name == edit.material), None)
    new = validated(BodyLook, old.name, {**old.model_dump(), **said})
    rest = tuple(b for b in recipe.bodies if b.id != edit.id)
    return recipe.model_copy(update={"bodies": (*rest, new)}), f"change {new.name or step.name}"


def _pin_probe(recipe: Recipe, edit: PinProbe, known: Known) -> tuple[Recipe, str]:
    rest = tuple(p for p in recipe.probes if p.id != edit.probe.id)
    return recipe.model_copy(update={"probes": (*rest, edit.probe)}), f"pin {edit.probe.name}"


def _drop_probe(recipe: Recipe, edit: DropProbe, known: Known) -> tuple[Recipe, str]:
    return recipe.model_copy(update={"probes": tuple(p for p in recipe.probes if p.id != edit.id)}), "drop a probe"


def _put_set(recipe: Recipe, edit: PutSet, known: Known) -> tuple[Recipe, str]:
    taken = next((s for s in recipe.sets if s.name == edit.set.name and s.id != edit.set.id), None)
    if taken:
        raise ContourError(
            "bad-params",
            f"there is a set '{taken.name}' already",
            where=Where(param="name", value=edit.set.name),
            got=edit.set.name,
            need="a name of its own",
            remedy="choose another name, or drop the old set first",
        )
    rest = tuple(s for s in recipe.sets if s.id != edit.set.id)
    return recipe.model_copy(update={"sets": (*rest, edit.set)}), f"keep the set {edit.set.name}"


def _drop_set(recipe: Recipe, edit: DropSet, known: Known) -> tuple[Recipe, str]:
    return recipe.model_copy(update={"sets": tuple(s for s in recipe.sets if s.id != edit.id)}), "drop a set"


OPERATIONS: dict[type, Any] = {
    SetJob: _set_job,
    SetBody: _set_body,
    PinProbe: _pin_probe,
    DropProbe: _drop_probe,
    PutSet: _put_set,
    DropSet: _drop_set,
}
