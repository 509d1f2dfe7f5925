"""What random jobs are made of besides their steps: how they were built, their sizes, and what each of their references has to mean."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from contour.job.build.build import build
from contour.job.build.result import BuildResult
from contour.job.build.store import Store
from contour.products import load_product
from contour.recipe.recipe import Recipe

__all__ = ["NEAR", "Built", "Holds", "Job", "Row", "Rule", "mm", "rebuilt", "sized"]

Row = dict[str, Any]
NEAR = 2e-3  # mm


@dataclass(frozen=True, slots=True)
class Built:
    """A job as it was built."""

    recipe: Recipe
    result: BuildResult
    store: Store

    def side(self, sketch: str, k: int) -> tuple[np.ndarray, np.ndarray]:
        """Both ends of a sketch's k-th line in space, mm: as it is drawn, whatever was made of it."""
        key = next(s.key for s in self.result.steps if s.id == sketch)
        drawn = load_product(self.store.folder(str(key)))
        line = drawn.entities[k]
        a, b = drawn.frame.to_space(np.array([line.start, line.end]))
        return a, b


Holds = Callable[[Row, Built], bool]


@dataclass(frozen=True, slots=True)
class Rule:
    """What a step's reference has to mean: `holds` of the row of the face or edge."""

    step: str
    ref: dict[str, Any]
    part: str
    holds: Holds


@dataclass(slots=True)
class Job:
    """turnable: steps and parameters whose value may be changed · refused: candidates that a build refused, by their problems."""

    recipe: Recipe
    rules: list[Rule] = field(default_factory=list)
    turnable: list[tuple[str, str]] = field(default_factory=list)
    refused: list[Any] = field(default_factory=list)


def sized(recipe: Recipe, step: str, param: str) -> float:
    """A step's value, mm."""
    return float(recipe.step(step).params[param]["text"].split()[0])


def mm(value: float) -> dict[str, str]:
    """A length as a step's parameters hold it."""
    return {"text": f"{value:.6f} mm"}


def rebuilt(recipe: Recipe, store: Store) -> Built:
    """Without the fit."""
    return Built(recipe, build(recipe, store, with_fit=False), store)
