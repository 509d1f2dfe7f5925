"""What is known so far while the steps of a job are walked."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from contour.job.build.scope import Scope
from contour.job.build.store import Store
from contour.products import Extras
from contour.recipe.recipe import Recipe
from contour.recipe.registry import Feature

__all__ = ["Running"]


@dataclass(slots=True)
class Running:
    """What is known so far while the list is walked."""

    recipe: Recipe
    store: Store
    scope: Scope
    extras: Extras
    states: dict[str, dict[str, str]] = field(
        default_factory=lambda: {"scan": {}, "body": {}, "solid": {}}
    )  # id -> key
    merged: dict[str, str] = field(default_factory=dict)
    keys: dict[str, str] = field(default_factory=dict)  # step id -> product key (regions, sketches)
    makes: dict[str, str] = field(default_factory=dict)
    lost: dict[str, str] = field(default_factory=dict)  # id of a step or body -> why it cannot be used
    history: list[tuple[str, tuple[str, ...]]] = field(default_factory=list)  # body step, body keys after it
    features: dict[str, Callable[[], Feature]] = field(default_factory=dict)  # step id -> what it was done with
    looks: dict[str, dict[str, Any]] = field(
        default_factory=dict
    )  # body -> its title, colour and role, by what brought it
    ended: Mapping[str, Any] = field(default_factory=dict)  # stages that killed a child before, with their problems

    @property
    def scans(self) -> dict[str, str]:
        return self.states["scan"]

    @property
    def bodies(self) -> dict[str, str]:
        return self.states["body"]
