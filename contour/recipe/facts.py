"""What is told of something made or measured: typed figures in mm and degrees, that the step list, formulas and the view read."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

__all__ = ["Facts", "Triple"]

Triple = tuple[float, float, float]


class Facts(BaseModel):
    """What one step tells. Each kind of facts narrows `of` to its own name, by which a reader knows what else is there.

    mark: what its figures rest on · marks: the same of single figures, where they differ · None: not known, or not asked.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    of: str
    mark: str | None = None
    marks: dict[str, str] = {}

    def settled(self, slot: str) -> Facts | None:
        """What is told of a product that the step has put in the place of another step's, by that step's id."""
        return None

    def figure(self, name: str) -> float | None:
        """A figure by its name, in its own unit; none for what is no figure, or not known."""
        value = getattr(self, name, None)
        return float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None
