"""A curve in space, as pieces end to end."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from contour.construct.space_curve import SpacePiece, SpaceSpline
from contour.geometry.curves import Line, Oval
from contour.products.kind import ProductKind

__all__ = ["KIND", "CurveProduct"]


@dataclass(frozen=True, slots=True)
class CurveProduct:
    """pieces: in their order, each beginning where the one before it ends; of a closed one the first where the last ends."""

    pieces: tuple[SpacePiece, ...]
    closed: bool
    kind: str = "curve"


def _save(product: CurveProduct, folder: Path) -> None:
    rows = [{"kind": type(p).__name__, **asdict(p)} for p in product.pieces]
    (folder / "curve.json").write_text(json.dumps({"pieces": rows, "closed": product.closed}))


def _vectors(value: Any) -> Any:
    return tuple(map(_vectors, value)) if isinstance(value, list) else value


def _load(folder: Path) -> CurveProduct:
    data = json.loads((folder / "curve.json").read_text())
    models: dict[str, type[SpacePiece]] = {m.__name__: m for m in (Line, Oval, SpaceSpline)}
    pieces = (models[row.pop("kind")](**{k: _vectors(v) for k, v in row.items()}) for row in data["pieces"])
    return CurveProduct(tuple(pieces), bool(data["closed"]))


KIND = ProductKind("curve", CurveProduct, "curve.json", _save, _load, read_off_scan=True)
