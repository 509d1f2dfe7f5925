"""What names mean while a job is built: named values, readings, and the values of steps above."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from pydantic import BaseModel

from contour.metrology.reading import ReadingFacts, all_readings
from contour.products import PRODUCTS
from contour.recipe.evidence.reading import Reading
from contour.recipe.facts import Facts
from contour.recipe.formula import LengthUnit, Quantity, committed, evaluate, names_in, renamed, weakest
from contour.recipe.naming import slug
from contour.recipe.params import Leaf, formula_name_of, mapped, plain_leaves, put_at, walk
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.recipe import NamedValue, Recipe, Step
from contour.recipe.registry import StepKind
from contour.recipe.values import Value

__all__ = ["Scope", "Use", "commit_values", "quantities", "rename_everywhere", "used_names", "with_own"]

_POWERS = {"length": (1, 0), "angle": (0, 1), "number": (0, 0), "area": (2, 0), "volume": (3, 0)}


@dataclass(frozen=True, slots=True)
class Use:
    """Where a name is used: in a step's parameter, or in a named value."""

    name: str
    step: str | None
    place: str


class Scope:
    """Looks names up. Steps are learnt in order, so that a formula can only reach what stands above it."""

    def __init__(self, recipe: Recipe, *, means: Mapping[str, float] | None = None) -> None:
        """`means` puts other figures in the place of readings' means: what would follow if they had come out so."""
        self.unit = recipe.unit
        self._means = means or {}
        self._facts = all_readings(recipe)
        self._values: dict[str, NamedValue] = {v.name: v for v in recipe.values}
        self._readings: dict[str, Reading] = {r.name: r for r in recipe.readings}
        self._steps: dict[str, list[Step]] = {}
        for step in recipe.steps:
            self._steps.setdefault(slug(step.name), []).append(step)
        self._learnt: dict[str, dict[str, Quantity]] = {}
        self._passed: dict[str, str] = {}
        self._open: list[str] = []

    def learn(self, step: Step, found: dict[str, Quantity]) -> None:
        """From here on the step's values can be used."""
        self._learnt[step.id] = found

    def passed(self, step: Step, why: str) -> None:
        """The step stands above, but has no values for now."""
        self._passed[step.id] = why

    def lookup(self, name: str) -> Quantity:
        """The quantity a name stands for.

        Raises ContourError (value-cycle, not-above, step-blocked, unknown-name, or whatever is wrong in a named value's formula);
        KeyError for a name nobody knows.
        """
        if name in self._values:
            return self._value(self._values[name])
        if name in self._readings:
            return self._reading(self._readings[name])
        owner, _, part = name.partition(".")
        if owner in self._readings and part == "each":
            reading = self._readings[owner]
            q = self._reading(reading)
            return replace(q, value=q.value / reading.over)
        return self._of_step(name)

    def _reading(self, reading: Reading) -> Quantity:
        facts: ReadingFacts | None = self._facts.get(reading.id)
        if facts is None:
            raise ContourError(
                "unknown-name",
                f"the reading {reading.name} has no takes yet",
                where=Where(value=reading.name),
                got="0 takes",
                need="at least one take",
                remedy="type at least one take",
            )
        mean = self._means.get(reading.name, facts.mean)
        return Quantity(mean, *_POWERS[facts.dimension], mark=reading.source)

    def _value(self, value: NamedValue) -> Quantity:
        if value.name in self._open:
            ring = [*self._open[self._open.index(value.name) :], value.name]
            raise ContourError(
                "value-cycle",
                "these values need each other",
                where=Where(value=value.name),
                got=" → ".join(ring),
                need="values that lead back to a figure",
                remedy=f"give one of them a figure of its own, such as {value.name} = 10 mm",
            )
        self._open.append(value.name)
        try:
            return value.value.resolve(value.dimension, self.unit, self.lookup)
        except ContourError as error:
            where = error.problem.where
            if where.value is None:
                error.problem = error.problem.model_copy(
                    update={"where": where.model_copy(update={"value": value.name})}
                )
            raise
        finally:
            self._open.pop()

    def _of_step(self, name: str) -> Quantity:
        owner, _, part = name.partition(".")
        steps = self._steps.get(owner)
        if not steps or not part:
            raise KeyError(name)
        if len(steps) > 1:
            raise ContourError(
                "name-taken",
                f"'{owner}' could be any of {len(steps)} steps",
                got=", ".join(s.name for s in steps),
                need="one step of that name",
                where=Where(value=owner),
                remedy="give them different names",
            )
        step = steps[0]
        if step.id in self._passed:
            raise ContourError(
                "step-blocked",
                f"'{name}' waits for an earlier step: {self._passed[step.id]}",
                got=name,
                need="the step above to be whole",
                where=Where(value=name),
                remedy="mend that step first",
            )
        if step.id not in self._learnt:
            raise ContourError(
                "not-above",
                f"'{name}' is a value of '{step.name}', which does not stand above",
                got=name,
                need="a value of a step above",
                where=Where(value=name),
                remedy="use a value of a step above, or move that step up",
            )
        found = self._learnt[step.id]
        if part not in found:
            raise ContourError(
                "unknown-name",
                f"'{step.name}' has no value '{part}'",
                got=name,
                need=", ".join(f"{owner}.{p}" for p in sorted(found)) or "a step with values",
                where=Where(value=name),
                remedy="use one of its values",
            )
        return found[part]


def quantities(kind: StepKind[Any], facts: Facts, resolved: dict[str, Quantity]) -> dict[str, Quantity]:
    """What formulas may use of a step: its typed values, nested ones by their own names, and the facts its kind says it
    measures."""
    out = {formula_name_of(place, kind.params.model_fields): q for place, q in resolved.items()}
    for name, dimension in kind.measures.items():
        figure = facts.figure(name)
        typed_so = name in out and figure is not None and abs(out[name].value - figure) <= 1e-9 * max(1.0, abs(figure))
        if figure is not None and not typed_so:  # a hole that came out as wide as it was typed says what that rests on
            # What was read off the scan is as good as the scan; what follows from typed values as the weakest of them.
            typed = [q.mark for q in resolved.values() if q.mark is not None]
            own: Any = facts.marks.get(name) or facts.mark or ("scan" if PRODUCTS[kind.makes].read_off_scan else None)
            mark = own or weakest(*typed or ["assumed"])
            out[name] = Quantity(figure, *_POWERS[dimension], mark=mark)
    return out


def with_own(params: BaseModel, unit: LengthUnit, lookup: Callable[[str], Quantity]) -> Callable[[str], Quantity]:
    """A lookup that also knows the step's own named values (``width`` of ``lengths[width]``), before
    what is above.

    What it returns raises ContourError (value-cycle …) as `lookup` does, and KeyError for a name nobody knows.
    """
    fields = type(params).model_fields
    own: dict[str, Leaf] = {}
    for leaf in walk(params):
        name = formula_name_of(leaf.place, fields)
        if leaf.place.endswith(f"[{name}]") and isinstance(leaf.value, Value):
            own[name] = leaf
    found: dict[str, Quantity] = {}
    open_: list[str] = []

    def look(name: str) -> Quantity:
        # What is nearest is meant; a value that has the name it asks for asks those above.
        if name not in own or open_[-1:] == [name]:
            return lookup(name)
        if name in open_:
            raise ContourError(
                "value-cycle",
                "these values need each other",
                got=" → ".join([*open_[open_.index(name) :], name]),
                need="values that lead back to a figure",
                remedy=f"give one of them a figure of its own, such as {name} = 10 mm",
            )
        if name not in found:
            leaf = own[name]
            assert isinstance(leaf.value, Value) and leaf.declared.dimension is not None
            open_.append(name)
            try:
                found[name] = leaf.value.resolve(leaf.declared.dimension, unit, look)
            finally:
                open_.pop()
        return found[name]

    return look


def _texts(recipe: Recipe) -> Iterator[tuple[str | None, str, str]]:
    """(step or none, place, formula) of everything typed in a recipe."""
    for v in recipe.values:
        yield None, v.name, v.value.text
    for step in recipe.steps:
        for leaf in plain_leaves(step.params):
            if leaf.what == "value":
                yield step.id, leaf.place, leaf.said["text"]


def used_names(recipe: Recipe) -> list[Use]:
    """Every use of every name, in the order of the recipe."""
    return [Use(name, step, place) for step, place, text in _texts(recipe) for name in names_in(text)]


def rename_everywhere(recipe: Recipe, old: str, new: str) -> Recipe:
    """The recipe with a name replaced in every formula, so that renaming breaks nothing."""

    def change(text: str) -> str:
        return renamed(text, old, new)

    values = tuple(v.model_copy(update={"value": _retyped(v.value, change(v.value.text))}) for v in recipe.values)
    steps = tuple(s.model_copy(update={"params": mapped(s.params, change)}) for s in recipe.steps)
    variants = tuple(
        v.model_copy(
            update={
                "settings": tuple(
                    s.model_copy(update={"value": _retyped(s.value, change(s.value.text))}) for s in v.settings
                )
            }
        )
        for v in recipe.variants
    )
    return recipe.model_copy(update={"values": values, "steps": steps, "variants": variants})


def _retyped(value: Value, text: str) -> Value:
    return value if text == value.text else value.model_copy(update={"text": text})


def commit_values(params: BaseModel, unit: LengthUnit, lookup: Callable[[str], Quantity]) -> dict[str, Any]:
    """Validated parameters with the display unit written beside bare numbers, and every formula readable.

    Raises ContourError (bad-formula, mixed-dimensions, unknown-name …) with the parameter's place. A name that exists
    but has no value yet (a step that failed) is for the build to report.
    """
    plain = params.model_dump(mode="json", by_alias=True)
    lookup = with_own(params, unit, lookup)
    faults: list[Problem] = []
    for leaf in walk(params):
        value, dimension = leaf.value, leaf.declared.dimension
        if not isinstance(value, Value) or dimension is None:
            continue
        try:
            evaluate(value.text, dimension=dimension, unit=unit, lookup=lookup, mark=value.mark)
        except ContourError as error:
            if error.problem.code != "step-blocked":
                faults.append(error.at(param=leaf.place).problem)
                continue
        text = committed(value.text, dimension=dimension, unit=unit, lookup=lookup)
        put_at(plain, leaf.place, {**value.model_dump(), "text": text})
    if faults:
        raise ContourError.several(faults)
    return plain
