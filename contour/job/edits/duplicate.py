"""Steps done once more, with other inputs where some are chosen: what they refer to among themselves goes along."""

from __future__ import annotations

import copy
import re
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import Field

from contour.job.build.scope import rename_everywhere
from contour.job.edits.checked import Known, checked_step, replaced, require_order
from contour.recipe.naming import slug
from contour.recipe.params import PlainLeaf, plain_leaves, put_at
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, Step
from contour.recipe.strict import Strict

__all__ = ["OPERATIONS", "Copied", "DuplicateSteps"]

_SHORT = 8  # of an id, in names of faces


class Copied(Strict):
    """A step to copy, and those of its parameters that are chosen anew."""

    step: str
    id: str | None = Field(default=None, description="a UUID chosen by the browser, so that it can select the copy")
    params: dict[str, Any] = Field(default_factory=dict)


class DuplicateSteps(Strict):
    """Right after the last of them, in their order; one undo takes the copies away."""

    op: Literal["duplicate-steps"]
    steps: list[Copied] = Field(min_length=1, max_length=200)


@dataclass(slots=True)
class _Instead:
    """What stands for what in the copies: ids of the copied steps · wholes and names of parts from outside that were chosen anew."""

    ids: dict[str, str]
    wholes: dict[str, str] = field(default_factory=dict)
    parts: dict[str, str] = field(default_factory=dict)

    def learn(self, before: Any, chosen: Any) -> None:
        """What a parameter that is chosen anew says of the others: a face of the copied boss is now one of the body that this was put on."""
        new = {leaf.place: leaf for leaf in plain_leaves({"": chosen})}
        for old in plain_leaves({"": before}):
            now = new.get(old.place)
            if now is None or now.what != old.what:
                continue
            if old.what == "ref":
                self.wholes.setdefault(str(old.said["id"]), str(now.said["id"]))
            elif old.what == "part":
                self.wholes.setdefault(old.of, now.of)
                self.parts.setdefault(old.called, now.called)

    def whole(self, leaf: PlainLeaf) -> str:
        """Of a part: what it is a part of now. What it was of stays, unless a copied step made the part."""
        if leaf.of in self.ids:
            return self.ids[leaf.of]
        made = any(f"{old[:_SHORT]}." in leaf.called for old in self.ids)
        return self.wholes.get(leaf.of, leaf.of) if made else leaf.of

    def name(self, said: str) -> str:
        """A part's name, in which names of others may stand; one from outside by itself stays."""
        inner = any(f"{old[:_SHORT]}." in said for old in self.ids)
        for old, new in self.ids.items():
            said = said.replace(f"{old[:_SHORT]}.", f"{new[:_SHORT]}.")
        if inner:
            for old, new in self.parts.items():
                said = said.replace(old, new)
        return said

    def put_into(self, params: dict[str, Any]) -> None:
        """In the parameters of a copy, in place."""
        for leaf in list(plain_leaves(params)):
            if leaf.what == "ref":
                put_at(params, leaf.place, {**leaf.said, "id": self.ids.get(leaf.said["id"], leaf.said["id"])})
            elif leaf.what == "part":
                put_at(params, leaf.place, self._part(leaf))

    def _part(self, leaf: PlainLeaf) -> dict[str, Any]:
        whole = self.whole(leaf)
        out: dict[str, Any] = {}
        for key, value in leaf.said.items():
            if value == leaf.of:
                out[key] = whole
            elif isinstance(value, str):
                out[key] = self.name(value)
            elif isinstance(value, list) and all(isinstance(v, str) for v in value):
                out[key] = [self.name(v) for v in value]
            else:
                out[key] = value
        return out


def _free(name: str, taken: set[str]) -> str:
    stem = re.sub(r" \d+$", "", name)
    return next(n for k in range(2, 10_000) if (n := f"{stem} {k}") not in taken)


def _in_order(recipe: Recipe, given: Sequence[Copied]) -> list[tuple[Step, Copied]]:
    by = {c.step: c for c in given}
    if len(by) < len(given):
        raise ContourError(
            "bad-params",
            "a step is listed twice",
            where=Where(param="steps"),
            got=f"{len(given)} for {len(by)} steps",
            need="each step once",
            remedy="take one of the two out",
        )
    for step in by:
        recipe.step(step)
    return [(s, by[s.id]) for s in recipe.steps if s.id in by]


def _renamed(copies: Sequence[Step], names: Mapping[str, str], recipe: Recipe) -> list[Step]:
    """Formulas between the copied steps follow them, as far as their names are theirs alone."""
    apart = Recipe(name="copies", steps=tuple(copies))
    for old, new in names.items():
        if sum(slug(s.name) == slug(old) for s in recipe.steps) == 1:
            apart = rename_everywhere(apart, slug(old), slug(new))
    return list(apart.steps)


def _duplicate(recipe: Recipe, edit: DuplicateSteps, known: Known) -> tuple[Recipe, str]:
    chosen = _in_order(recipe, edit.steps)
    instead = _Instead({s.id: c.id or str(uuid.uuid4()) for s, c in chosen})
    for step, own in chosen:
        for param, value in own.params.items():
            instead.learn(step.params.get(param), value)
    taken = {s.name for s in recipe.steps} | {s.group for s in recipe.steps}
    # A group that is copied whole is a group of its own; others go on in the one they are in.
    groups = {s.group for s, _ in chosen} - {s.group for s in recipe.steps if s.id not in instead.ids} - {""}
    beside = {g: _free(g, taken) for g in groups}
    names: dict[str, str] = {}
    copies = []
    for step, own in chosen:
        params: dict[str, Any] = copy.deepcopy({**step.params, **own.params})
        instead.put_into(params)
        names[step.name] = _free(step.name, taken)
        taken.add(names[step.name])
        update = {"id": instead.ids[step.id], "name": names[step.name], "params": params}
        update["group"] = beside.get(step.group, step.group)
        copies.append(step.model_copy(update=update))
    at = recipe.steps.index(chosen[-1][0]) + 1
    steps = (*recipe.steps[:at], *_renamed(copies, names, recipe), *recipe.steps[at:])
    if len({s.id for s in steps}) < len(steps):
        raise ContourError(
            "bad-params",
            "a step with this id exists",
            where=Where(param="steps"),
            got="an id twice",
            need="ids of their own",
            remedy="duplicate the steps again",
        )
    longer = recipe.model_copy(update={"steps": steps})
    for made in copies:
        longer = replaced(longer, checked_step(longer.step(made.id), longer, known))
    require_order(longer)
    what = chosen[0][0].name if len(chosen) == 1 else f"{len(chosen)} steps"
    return longer, f"duplicate {what}"


OPERATIONS: dict[type, Any] = {DuplicateSteps: _duplicate}
