"""A file of solids as it came: its bodies, each with the numbers that its faces are called by."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from contour.products.kind import ProductKind

__all__ = ["KIND", "SolidProduct", "SourceBody"]


@dataclass(frozen=True, slots=True)
class SourceBody:
    """brep: kernel bytes · numbers: of its faces, in the order of the shape, unlike in all the file · closed: a solid, not an open body."""

    name: str
    colour: str | None
    brep: bytes
    numbers: tuple[int, ...]
    closed: bool


@dataclass(frozen=True, slots=True)
class SolidProduct:
    """format, unit_mm, sewn: as :class:`contour.solid.from_file.SolidsFile` says them · size: of all bodies together along x, y, z, mm."""

    bodies: tuple[SourceBody, ...]
    format: str
    unit_mm: float
    sewn: bool = False
    size: tuple[float, float, float] = (0.0, 0.0, 0.0)
    kind: str = "solid"


def _save(product: SolidProduct, folder: Path) -> None:
    rows = []
    for k, body in enumerate(product.bodies):
        (folder / f"shape-{k}.bin").write_bytes(body.brep)
        rows.append({n: v for n, v in asdict(body).items() if n != "brep"})
    about = {"format": product.format, "unit_mm": product.unit_mm, "sewn": product.sewn, "size": product.size}
    (folder / "solid.json").write_text(json.dumps({**about, "bodies": rows}))


def _load(folder: Path) -> SolidProduct:
    kept: dict[str, Any] = json.loads((folder / "solid.json").read_text())
    bodies = tuple(
        SourceBody(b["name"], b["colour"], (folder / f"shape-{k}.bin").read_bytes(), tuple(b["numbers"]), b["closed"])
        for k, b in enumerate(kept.pop("bodies"))
    )
    return SolidProduct(bodies, **{**kept, "size": tuple(kept["size"])})


KIND = ProductKind("solid", SolidProduct, "solid.json", _save, _load, state_of="solid")
