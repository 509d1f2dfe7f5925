"""One file per kind of step. Importing this package finds them all; none of them imports the kernel before it runs."""

from typing import Any

from contour.recipe.registry import StepKind, found_in

__all__ = ["KINDS", "StepKind"]

KINDS: dict[str, StepKind[Any]] = found_in(__name__, list(__path__), StepKind)
