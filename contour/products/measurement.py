"""A lasting measurement: what was measured, between which places, and what it came to."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from contour.products.kind import ProductKind
from contour.recipe.facts import Facts, Triple

__all__ = ["KIND", "Measured", "MeasurementFacts", "MeasurementProduct"]

Measured = Literal["between", "size", "thickness", "length", "area", "volume", "pitch"]


class MeasurementFacts(Facts):
    """mm, mm², mm³, degrees. said: of what, in words · start, end: the places it is measured between · u, u_diameter, u_angle: standard
    uncertainties · lean: of the two sides of a wall to each other · turns: of a thread."""

    of: Literal["measurement"] = "measurement"
    measured: Measured
    said: str
    start: Triple | None = None
    end: Triple | None = None
    distance: float | None = None
    dx: float | None = None
    dy: float | None = None
    dz: float | None = None
    u: float | None = None
    angle: float | None = None
    u_angle: float | None = None
    radius: float | None = None
    diameter: float | None = None
    u_diameter: float | None = None
    thickness: float | None = None
    lean: float | None = None
    length: float | None = None
    area: float | None = None
    volume: float | None = None
    pitch: float | None = None
    turns: float | None = None


@dataclass(frozen=True, slots=True)
class MeasurementProduct:
    """A measurement is what is told of it."""

    facts: MeasurementFacts
    kind: str = "measurement"


def _save(product: MeasurementProduct, folder: Path) -> None:
    (folder / "measurement.json").write_text(product.facts.model_dump_json())


def _load(folder: Path) -> MeasurementProduct:
    return MeasurementProduct(MeasurementFacts.model_validate_json((folder / "measurement.json").read_text()))


KIND = ProductKind("measurement", MeasurementProduct, "measurement.json", _save, _load)
