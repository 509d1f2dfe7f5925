"""The step registry: one file per kind in ``contour/steps``, found by itself."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Generic, Protocol, TypeVar

from pydantic import BaseModel

from contour.recipe.formula import LengthUnit
from contour.recipe.problem import Problem

__all__ = ["Inputs", "Outcome", "Product", "StepKind", "discover"]

P = TypeVar("P", bound=BaseModel)


class Product(Protocol):
    """What a step makes; `kind` says what may refer to it and how the store keeps it."""

    kind: str


@dataclass(frozen=True, slots=True)
class Inputs:
    """What a step may read: its own id, the products its references name, and the job's settings."""

    step: str
    products: Mapping[str, Any]  # by parameter field name
    unit: LengthUnit
    lengths: Mapping[str, float] = field(default_factory=dict)  # resolved values, mm


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a step made (`product`), measured (`facts`) and has to say (`problems`, none of which stopped it).

    `body` names the body that the product replaces or begins, for products that are bodies.
    """

    product: Any
    facts: dict[str, Any] = field(default_factory=dict)
    problems: tuple[Problem, ...] = ()


@dataclass(frozen=True, slots=True)
class StepKind(Generic[P]):
    """The declaration of a kind of step; everything else is derived from it."""

    id: str
    title: str
    help: str
    version: int  # raise it when the same parameters give another result
    makes: str  # "region", "sketch", "body"
    params: type[P]
    key_value: str  # the field shown, and edited, in the step's row
    run: Callable[[P, Inputs], Outcome]
    target: str | None = None  # field that names the body this step changes, if any


def discover(package: str, path: list[str]) -> dict[str, StepKind[Any]]:
    """All ``KIND`` declarations of a package's modules by their id."""
    kinds: dict[str, StepKind[Any]] = {}
    for info in pkgutil.iter_modules(path):
        kind = getattr(importlib.import_module(f"{package}.{info.name}"), "KIND", None)
        if isinstance(kind, StepKind):
            if kind.id in kinds:
                raise ValueError(f"step kind {kind.id!r} is declared twice")
            kinds[kind.id] = kind
    return kinds
