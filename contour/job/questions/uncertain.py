"""How well the named values of a job are known: their formulas' uncertainty from the readings they rest on."""

from __future__ import annotations

from collections.abc import Mapping

from contour.job.build.scope import Scope
from contour.metrology.propagate import Input, input_of, propagated
from contour.metrology.reading import all_readings
from contour.recipe.formula import Dimension, Quantity, evaluate, names_in
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe

__all__ = ["formula_uncertainty", "rests_on", "value_uncertainties"]


def rests_on(recipe: Recipe, text: str) -> set[str]:
    """Names of the readings that a formula rests on, through named values too; values that ring are left where they ring."""
    values = {v.name: v.value.text for v in recipe.values}
    readings = {r.name for r in recipe.readings}
    found: set[str] = set()
    seen: set[str] = set()
    waiting = [text]
    while waiting:
        for name in names_in(waiting.pop()):
            owner = name.split(".")[0]
            if owner in readings:
                found.add(owner)
            elif name in values and name not in seen:
                seen.add(name)
                waiting.append(values[name])
    return found


def formula_uncertainty(
    recipe: Recipe, text: str, known: Mapping[str, Mapping[str, Quantity]], dimension: Dimension = "length"
) -> float | None:
    """Standard uncertainty of a formula (mm, degrees, plain) by the readings it rests on; none when it rests on none whose
    uncertainty is known, or cannot be worked out. known: values of steps by step id; they are taken as exact."""
    facts = all_readings(recipe)
    inputs = {r.name: i for r in recipe.readings if r.id in facts and (i := input_of(facts[r.id])) is not None}
    names = rests_on(recipe, text)
    if not names or not names <= inputs.keys():
        return None

    def result(means: Mapping[str, float]) -> float:
        scope = Scope(recipe, means=means)
        for step in recipe.steps:
            if step.id in known:
                scope.learn(step, dict(known[step.id]))
        return evaluate(text, dimension=dimension, unit=recipe.unit, lookup=scope.lookup).value

    chosen: dict[str, Input] = {n: inputs[n] for n in sorted(names)}
    try:
        return propagated(result, chosen)[1]
    except ContourError:
        return None  # the value itself says what is wrong with it


def value_uncertainties(recipe: Recipe, known: Mapping[str, Mapping[str, Quantity]]) -> dict[str, float]:
    """Standard uncertainty by the id of the named value, of those that rest on readings."""
    found = {v.id: formula_uncertainty(recipe, v.value.text, known, v.dimension) for v in recipe.values}
    return {id: u for id, u in found.items() if u is not None}
