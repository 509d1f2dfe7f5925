"""A scan: prepared for work, or as a step has changed it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from contour.mesh.prepare import PreparedScan, load_prepared, save_prepared
from contour.products.buffers import scan_view
from contour.products.kind import Extras, ProductKind
from contour.recipe.facts import Facts

__all__ = ["KIND", "ScanFacts", "ScanFigures", "ScanProduct"]


class ScanFigures(Facts):
    """What a step has done to a scan: how many places it changed, the largest movement of a vertex (mm), facets before and after."""

    changed: int
    moved: float
    facets: int
    facets_before: int


class ScanFacts(ScanFigures):
    """The same, where a step tells no more."""

    of: Literal["scan"] = "scan"


@dataclass(frozen=True, slots=True)
class ScanProduct:
    """A prepared scan; lives in its own folder of arrays."""

    scan: PreparedScan
    kind: str = "scan"


def _save(product: ScanProduct, folder: Path) -> None:
    save_prepared(product.scan, folder)


def _load(folder: Path) -> ScanProduct:
    return ScanProduct(load_prepared(folder))


def _beside(product: ScanProduct, folder: Path, extras: Extras) -> dict[str, Any]:
    scan_view(folder / "view.bin", product.scan)
    return {}


KIND = ProductKind(
    "scan", ScanProduct, "numbers.json", _save, _load, _beside, state_of="scan", read_off_scan=True, version=2
)
