"""Planes, axes and points are kept alike."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

from contour.construct.place import Place
from contour.products.kind import ProductKind

__all__ = ["place_kind"]


def _save(place: Place, folder: Path) -> None:
    (folder / "place.json").write_text(json.dumps(asdict(place)))


def _load(folder: Path) -> Place:
    data = json.loads((folder / "place.json").read_text())
    return Place(**{**data, "origin": tuple(data["origin"]), "direction": tuple(data["direction"])})


def place_kind(shape: str) -> ProductKind[Place]:
    """The product kind of a plane, an axis or a point: how it is kept, shown and pointed to."""
    return ProductKind(shape, Place, "place.json", _save, _load, place=lambda place: place, read_off_scan=True)
