"""What steps that lay a scan on itself have in common: how many are alike around an axis, and the mesh that is made."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from pydantic import Field

from contour.construct.place import Place
from contour.construct.repeats import counted
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError, Where
from contour.recipe.registry import Inputs
from contour.register.turned_alike import turned_alike

__all__ = ["SPACING", "count_around", "fits_memory"]

SPACING: Any = Field(
    default=None, title="Facet side", description="facet side of the new mesh; as the scan's when empty"
)


def count_around(inputs: Inputs, scan: PreparedScan, axis: Place) -> tuple[int, dict[str, Any]]:
    """How many are alike around the axis, as typed or as found, and what is told of that. Raises ContourError (bad-params, no-symmetry)."""
    if "count" in inputs.values:
        count = counted(inputs.values["count"], param="count", most=400)
        return count, {"alike": count}
    try:
        found = turned_alike(
            scan.vertices, scan.facets, scan.across, axis.at, axis.along, noise_mm=scan.noise_mm, side_mm=scan.edge_mm
        )
    except ContourError as error:
        raise error.at(param="axis") from None
    return found.count, {"alike": found.count, "agree": found.agree}


@contextmanager
def fits_memory() -> Iterator[None]:
    """A mesh too fine for the memory is said of its spacing. Raises ContourError (out-of-memory)."""
    try:
        yield
    except ValueError as error:
        raise ContourError(
            "out-of-memory",
            "the spacing is too fine for a scan of this size",
            where=Where(param="spacing"),
            got=str(error),
            need="a mesh that fits into memory",
            remedy="choose a greater spacing",
        ) from None
