"""Readings taken by hand: instruments, sessions, takes, and where on the part they belong."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, FiniteFloat, field_validator, model_validator

from contour.recipe.formula import LengthUnit
from contour.recipe.naming import formula_name
from contour.recipe.strict import Strict

__all__ = ["Feature", "Instrument", "Measures", "Method", "Pin", "Reading", "Session", "Take"]


class Instrument(Strict):
    """What readings are taken with: its smallest step, and how far it may be wrong by its data sheet (plus or minus)."""

    id: str
    name: str = Field(min_length=1, max_length=100)
    resolution_mm: float = Field(gt=0, le=10)
    limit_mm: float = Field(default=0.0, ge=0, le=10)
    note: str = Field(default="", max_length=500)


class Session(Strict):
    """One time at the bench with one instrument. `zero_mm` is what it showed when it was closed: taken off every take."""

    id: str
    name: str = Field(min_length=1, max_length=100)
    instrument: str
    zero_mm: float = Field(default=0.0, ge=-10, le=10, allow_inf_nan=False)


Method = Literal["jaws", "depth rod", "photo", "drawing", "elsewhere"]


class Take(Strict):
    """One time the caliper was read, in the unit it was read in.

    A take that is struck out says why; it is kept and does not count.
    """

    value: float = Field(gt=-1e6, lt=1e6, allow_inf_nan=False)
    unit: LengthUnit | Literal["deg"] = "mm"
    method: Method = "jaws"
    note: str = Field(default="", max_length=300)
    struck: str = Field(default="", max_length=300)
    session: str | None = None


class Pin(Strict):
    """Where on the part a reading was taken: on a picture (by its id; pixels) or on a scan (mm, raw scan's frame)."""

    on: str
    at: tuple[FiniteFloat, FiniteFloat, FiniteFloat]
    to: tuple[FiniteFloat, FiniteFloat, FiniteFloat] | None = None


class Feature(Strict):
    """What a reading measures on the scan: the diameter of one region, or the distance between two."""

    regions: tuple[str, ...] = Field(min_length=1, max_length=2)


Measures = Literal["outside", "inside", "depth", "step", "height", "span", "other"]


class Reading(Strict):
    """One quantity measured by hand, repeatedly. Formulas use its mean by its name, a span's share of one gap as
    ``name.each``.

    source: where its takes come from · over: gaps that a span goes over · tolerance_mm: plus or minus, as a drawing
    states it · u_mm: standard uncertainty that its source gives beside the takes (a photo's scale) · same_as: another
    reading of the same size, by another source.
    """

    id: str
    kind: Literal["reading"] = "reading"
    name: str = Field(max_length=60)
    takes: tuple[Take, ...] = Field(default=(), max_length=200)
    note: str = Field(default="", max_length=500)
    source: Literal["caliper", "photo", "drawing"] = "caliper"
    measures: Measures = "other"
    over: int = Field(default=1, ge=1, le=10_000)
    tolerance_mm: float | None = Field(default=None, ge=0, le=1e4)
    u_mm: float | None = Field(default=None, ge=0, le=1e4)
    same_as: str | None = None
    pin: Pin | None = None
    feature: Feature | None = None

    _named = field_validator("name")(formula_name)

    @model_validator(mode="after")
    def _one_dimension(self) -> Reading:
        if len({t.unit == "deg" for t in self.takes}) > 1:
            raise ValueError("a reading is a length or an angle, not both")
        return self
