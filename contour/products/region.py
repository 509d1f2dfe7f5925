"""A region: members of a scan and the surface through them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from contour.construct.place import Place, place_of_surface
from contour.geometry.surfaces import Surface
from contour.products.kind import ProductKind
from contour.recipe.facts import Facts, Triple

__all__ = [
    "KIND",
    "RegionFacts",
    "RegionProduct",
    "SettledRegion",
    "SurfaceFacts",
    "WornFacts",
    "region_place",
    "surface_facts",
]


class SurfaceFacts(Facts):
    """The surface of a region: mm, degrees. inside: a hole's or a hollow's wall."""

    kind: str
    origin: Triple
    axis: Triple
    radius: float | None = None
    inside: bool | None = None
    diameter: float | None = None
    half_angle: float | None = None
    minor: float | None = None


class WornFacts(BaseModel):
    """A zone that stands out as worn: its depth (mm), area (mm²), share of the region's and how many facets it has."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    depth: float
    area: float
    share: float
    facets: int


class RegionFacts(SurfaceFacts):
    """A region as its step has found it: residuals, middle and reach in mm, area in mm². u: standard uncertainty of a plane's position,
    of another surface's radius; uncertain: of each of its numbers."""

    of: Literal["region"] = "region"
    facets: int
    rms: float
    largest: float
    largest_at: Triple
    area: float
    middle: Triple
    tolerance: float
    uncertain: dict[str, float] = {}
    u: float | None = None
    left_out: int = 0
    worn: WornFacts | None = None


class SettledRegion(SurfaceFacts):
    """A region as an agreement has settled it. rms_before, shift: mm · cost: how far it was moved, in its own standard uncertainties."""

    of: Literal["settled"] = "settled"
    rms: float
    rms_before: float
    shift: float
    cost: float
    middle: Triple


def surface_facts(s: Surface) -> dict[str, Any]:
    """What is told of a surface, as :class:`SurfaceFacts` takes it: mm, degrees."""
    facts: dict[str, Any] = {"kind": s.kind, "origin": s.origin, "axis": s.axis}
    if s.kind != "plane":
        facts |= {"radius": s.radius, "inside": s.outward < 0}
    if s.kind in ("cylinder", "sphere"):
        facts["diameter"] = 2 * s.radius
    if s.kind == "cone":
        facts["half_angle"] = float(np.degrees(s.half_angle))
    if s.kind == "torus":
        facts["minor"] = s.minor
    return facts


@dataclass(frozen=True, slots=True)
class RegionProduct:
    """Members as raw facet numbers (sorted) and the surface through them; rms in mm. middle, reach: of the members, mm; u: standard
    uncertainties as :meth:`contour.fit.covariance.Covariance.as_json` gives them; left_out: members without a say in the fit; worn: members of the zone that stands out as worn, worn_mm: how deep; span: of a cylinder
    along its axis, from abreast of the middle, mm."""

    source_facets: NDArray[np.int64]
    surface: Surface
    rms: float
    middle: tuple[float, float, float] = (0.0, 0.0, 0.0)
    reach: float = 0.0
    u: Mapping[str, float] = field(default_factory=dict)
    left_out: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    worn: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    worn_mm: float | None = None
    span: tuple[float, float] = (0.0, 0.0)
    kind: str = "region"


def region_place(region: RegionProduct) -> Place:
    """The plane, axis or point that the region's surface has."""
    place = place_of_surface(region.surface, middle=np.array(region.middle), reach=region.reach, u=dict(region.u))
    return replace(place, span=region.span)


def _save(product: RegionProduct, folder: Path) -> None:
    np.save(folder / "facets.npy", product.source_facets)
    np.save(folder / "left_out.npy", product.left_out)
    np.save(folder / "worn.npy", product.worn)
    about = {
        "rms": product.rms,
        "middle": product.middle,
        "reach": product.reach,
        "u": dict(product.u),
        "worn_mm": product.worn_mm,
        "span": product.span,
    }
    (folder / "region.json").write_text(json.dumps({"surface": asdict(product.surface), **about}))


def _load(folder: Path) -> RegionProduct:
    data = json.loads((folder / "region.json").read_text())
    s = data["surface"]
    surface = Surface(**{**s, "origin": tuple(s["origin"]), "axis": tuple(s["axis"])})
    members, left_out = np.load(folder / "facets.npy"), np.load(folder / "left_out.npy")
    # A product of an earlier version, which an older build may still name, says nothing of wear.
    worn = np.load(folder / "worn.npy") if (folder / "worn.npy").exists() else np.zeros(0, np.int64)
    middle = tuple(data["middle"])
    span = tuple(data.get("span", (0.0, 0.0)))
    return RegionProduct(
        members, surface, data["rms"], middle, data["reach"], data["u"], left_out, worn, data.get("worn_mm"), span
    )


KIND = ProductKind("region", RegionProduct, "region.json", _save, _load, place=region_place, read_off_scan=True)
