"""Planes, axes and points are kept alike, and told of alike."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import Literal

from contour.construct.place import Place
from contour.products.kind import ProductKind
from contour.recipe.facts import Facts, Triple

__all__ = ["PlaceFacts", "PlaceFigures", "place_kind"]


class PlaceFigures(Facts):
    """A plane, an axis or a point: a place on it, its direction and how far it reaches; standard uncertainties of its position (u,
    mm) and its direction (u_tilt, degrees). x, y, z are the origin's, for formulas."""

    shape: Literal["plane", "axis", "point"]
    origin: Triple
    direction: Triple | None = None
    reach: float = 0.0
    u: float | None = None
    u_tilt: float | None = None
    x: float | None = None
    y: float | None = None
    z: float | None = None


class PlaceFacts(PlaceFigures):
    """The same, where a step tells no more."""

    of: Literal["place"] = "place"


def _save(place: Place, folder: Path) -> None:
    (folder / "place.json").write_text(json.dumps(asdict(place)))


def _load(folder: Path) -> Place:
    data = json.loads((folder / "place.json").read_text())
    # One that was kept before places had a span says nothing of it.
    vectors = {name: tuple(data[name]) for name in ("origin", "direction", "span") if name in data}
    return Place(**{**data, **vectors})


def place_kind(shape: str) -> ProductKind[Place]:
    """The product kind of a plane, an axis or a point: how it is kept, shown and pointed to."""
    return ProductKind(shape, Place, "place.json", _save, _load, place=lambda place: place, read_off_scan=True)
