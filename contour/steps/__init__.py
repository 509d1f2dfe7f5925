"""One file per kind of step. Importing this package finds them all; none of them imports the kernel before it runs."""

from contour.recipe.registry import StepKind, discover

__all__ = ["KINDS", "StepKind"]

KINDS = discover(__name__, list(__path__))
