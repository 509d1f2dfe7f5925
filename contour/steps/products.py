"""Products of steps and how each is kept on disk."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.construct.place import Place
from contour.fit.surface import Surface
from contour.mesh.prepare import PreparedScan, load_prepared
from contour.mesh.slice import PlaneFrame
from contour.sketch.entities import Entity, Sketch

__all__ = ["BodyProduct", "RegionProduct", "ScanProduct", "load_product", "save_product"]


@dataclass(frozen=True, slots=True)
class ScanProduct:
    """A prepared scan; lives in its own folder of arrays."""

    scan: PreparedScan
    kind: str = "scan"


@dataclass(frozen=True, slots=True)
class RegionProduct:
    """Members as raw facet numbers (sorted) and the surface through them; rms in mm. middle, reach: of the members, mm; u: standard
    uncertainties as :meth:`contour.fit.covariance.Covariance.as_json` gives them; left_out: members without a say in the fit; worn: members of the zone that stands out as worn, worn_mm: how deep."""

    source_facets: NDArray[np.int64]
    surface: Surface
    rms: float
    middle: tuple[float, float, float] = (0.0, 0.0, 0.0)
    reach: float = 0.0
    u: Mapping[str, float] = field(default_factory=dict)
    left_out: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    worn: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    worn_mm: float | None = None
    kind: str = "region"


@dataclass(frozen=True, slots=True)
class BodyProduct:
    """A solid as kernel bytes with the names of its faces; read it with ``contour.solid.shape.read_shape``."""

    brep: bytes
    names: tuple[str, ...]
    kind: str = "body"


def _plain(sketch: Sketch) -> dict[str, Any]:
    frame = {k: getattr(sketch.frame, k).tolist() for k in ("origin", "u", "v", "normal")}
    return {"frame": frame, "entities": [asdict(e) for e in sketch.entities]}


def _pair(p: Any) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _sketch(data: dict[str, Any]) -> Sketch:
    frame = PlaneFrame(**{k: np.array(v) for k, v in data["frame"].items()})
    entities = tuple(
        Entity(
            e["id"],
            e["kind"],
            _pair(e["start"]),
            _pair(e["end"]),
            None if e["mid"] is None else _pair(e["mid"]),
            tuple(_pair(p) for p in e["points"]),
            tuple(e["ellipse"]) if e.get("ellipse") else None,
        )
        for e in data["entities"]
    )
    return Sketch(frame, entities)


def save_product(product: Any, folder: Path) -> None:
    """Write one product into an empty folder."""
    if isinstance(product, RegionProduct):
        np.save(folder / "facets.npy", product.source_facets)
        np.save(folder / "left_out.npy", product.left_out)
        np.save(folder / "worn.npy", product.worn)
        about = {
            "rms": product.rms,
            "middle": product.middle,
            "reach": product.reach,
            "u": dict(product.u),
            "worn_mm": product.worn_mm,
        }
        (folder / "region.json").write_text(json.dumps({"surface": asdict(product.surface), **about}))
    elif isinstance(product, Place):
        (folder / "place.json").write_text(json.dumps(asdict(product)))
    elif isinstance(product, Sketch):
        (folder / "sketch.json").write_text(json.dumps(_plain(product)))
    elif isinstance(product, BodyProduct):
        (folder / "shape.bin").write_bytes(product.brep)
        (folder / "names.json").write_text(json.dumps(product.names))
    else:
        raise TypeError(f"no way to keep a {type(product).__name__}")


def load_product(folder: Path) -> Any:
    """Read back whatever :func:`save_product` wrote (scans map their arrays)."""
    if (folder / "numbers.json").exists():
        return ScanProduct(load_prepared(folder))
    if (folder / "region.json").exists():
        data = json.loads((folder / "region.json").read_text())
        s = data["surface"]
        surface = Surface(**{**s, "origin": tuple(s["origin"]), "axis": tuple(s["axis"])})
        middle = tuple(data["middle"])
        members, left_out = np.load(folder / "facets.npy"), np.load(folder / "left_out.npy")
        # A product of an earlier version, which an older build may still name, says nothing of wear.
        worn = np.load(folder / "worn.npy") if (folder / "worn.npy").exists() else np.zeros(0, np.int64)
        return RegionProduct(
            members, surface, data["rms"], middle, data["reach"], data["u"], left_out, worn, data.get("worn_mm")
        )
    if (folder / "place.json").exists():
        data = json.loads((folder / "place.json").read_text())
        return Place(**{**data, "origin": tuple(data["origin"]), "direction": tuple(data["direction"])})
    if (folder / "sketch.json").exists():
        return _sketch(json.loads((folder / "sketch.json").read_text()))
    return BodyProduct((folder / "shape.bin").read_bytes(), tuple(json.loads((folder / "names.json").read_text())))
