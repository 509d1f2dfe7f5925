"""What in a recipe needs what: by reference, by face name, and by formula."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from contour.job.build.scope import used_names
from contour.recipe.naming import slug
from contour.recipe.params import plain_leaves
from contour.recipe.recipe import Recipe, Step
from contour.solid.topology.resolve import roots, split_name
from contour.steps import KINDS

__all__ = ["dependents", "late_placement", "needs", "order_problem", "pointed"]


def pointed(params: Any) -> Iterator[str]:
    """Ids, and the first eight characters of ids in names of parts, that plain parameters point to."""
    for leaf in plain_leaves(params):
        if leaf.what == "ref":
            yield leaf.said["id"]
        elif leaf.what == "part":
            yield leaf.of
            sides = split_name(split_name(leaf.called, "@")[0], "|")
            yield from (root.partition(".")[0] for side in sides for root in roots(side))


def needs(recipe: Recipe) -> dict[str, set[str]]:
    """For each step the ids of the steps it refers to, directly or through named values."""
    by_short = {s.id[:8]: s.id for s in recipe.steps}
    ids = {s.id for s in recipe.steps}
    owners = {slug(s.name): s.id for s in recipe.steps}
    values = {v.name for v in recipe.values}
    uses: dict[str, set[str]] = {}  # named value or step id -> names used in its formulas
    for use in used_names(recipe):
        uses.setdefault(use.step or use.place, set()).add(use.name)

    def steps_behind(name: str, seen: frozenset[str]) -> set[str]:
        owner = name.split(".")[0]
        if owner in owners and "." in name:
            return {owners[owner]}
        if name not in values or name in seen:
            return set()
        return set().union(*(steps_behind(n, seen | {name}) for n in uses.get(name, ())))

    out: dict[str, set[str]] = {}
    for step in recipe.steps:
        # Further bodies of a step are told by its id and a number.
        found = {by_short.get(p, p.partition(".")[0]) for p in pointed(step.params)} & ids
        for name in uses.get(step.id, ()):
            found |= steps_behind(name, frozenset())
        out[step.id] = found - {step.id}
    return out


def dependents(recipe: Recipe, step_id: str) -> list[Step]:
    """Steps that would lose something without this one, directly or through others, in order."""
    wanted = needs(recipe)
    gone = {step_id}
    out = []
    for step in recipe.steps:
        if step.id not in gone and wanted[step.id] & gone:
            gone.add(step.id)
            out.append(step)
    return out


def late_placement(recipe: Recipe) -> tuple[Step, Step] | None:
    """The first step that places a scan below a step that has used it where it was, with that one."""
    used: dict[str, Step] = {}
    for step in recipe.steps:
        kind = KINDS.get(step.kind)
        if kind is None or not step.enabled:
            continue
        for id in pointed(step.params):
            if kind.makes != "scan":
                used.setdefault(id, step)
            elif kind.places and id in used:
                return step, used[id]
    return None


def order_problem(recipe: Recipe) -> tuple[Step, Step] | None:
    """The first step that needs one below it, with that one."""
    wanted = needs(recipe)
    place = {s.id: i for i, s in enumerate(recipe.steps)}
    for i, step in enumerate(recipe.steps):
        late = [n for n in wanted[step.id] if place[n] > i]
        if late:
            return step, recipe.steps[place[min(late, key=place.__getitem__)]]
    return None
