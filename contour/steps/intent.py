"""Intent: regions fitted again together under the relations and values that were accepted, each under its own name."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.fit.region import inner_vertices
from contour.intent.features import LEAST_MM
from contour.intent.refit import Refitted, refit_together
from contour.intent.relation import Relation, RelationKind
from contour.products.intent import AgreedRow, IntentFacts, IntentProduct
from contour.products.region import RegionProduct, SettledRegion, surface_facts
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import RegionRef, ScanRef
from contour.recipe.registry import OWN, Inputs, Outcome, Product, StepKind
from contour.recipe.values import Angle, Length

__all__ = ["KIND", "Agreed", "Params"]

_DEAR = 3.0  # standard uncertainties that a region may be moved by before it is worth a word
_LEAST_MM, _LEAST_RAD = LEAST_MM / 2, math.radians(0.03)  # as proposals reckon


class Agreed(BaseModel):
    """One accepted relation. `size` is as stated: a diameter where `diameter` says so, of the circle for a bolt circle, the pitch of a
    row, a distance."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: RelationKind
    members: list[int] = Field(min_length=1, max_length=400, description="places in the list of regions")
    size: Length | None = Field(default=None, description="the value that is held")
    angle: Angle | None = Field(default=None, description="the angle that is held")
    diameter: bool = Field(default=False, description="the size is a diameter")
    slots: list[int] = Field(
        default_factory=list, max_length=400, description="place of each member on its circle or row"
    )
    count: int = Field(default=0, ge=0, le=400, description="places on the full circle")
    text: str = Field(default="", max_length=300, description="what was proposed, in words")
    measured: float | None = Field(default=None, description="what was measured before, mm or degrees")
    u: float | None = Field(default=None, description="its standard uncertainty")


class Params(BaseModel):
    """Regions by reference; relations speak of them by their place in the list."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    regions: list[RegionRef] = Field(min_length=1, max_length=400, description="the regions that are fitted together")
    relations: list[Agreed] = Field(min_length=1, max_length=400)


def _relation(i: int, a: Agreed, inputs: Inputs, count: int) -> Relation:
    if any(not 0 <= m < count for m in a.members):
        raise ContourError(
            "bad-params",
            "a relation speaks of a region that is not listed",
            where=Where(param=f"relations[{i}]"),
            got=str(max(a.members)),
            need=f"0 to {count - 1}",
            remedy="list the region, or leave the relation out",
        )
    value = None
    if a.size is not None:
        stated = inputs.values[f"relations[{i}].size"]
        value = stated / 2 if a.diameter or a.kind == "bolt-circle" else stated
        if value <= 0:
            raise ContourError(
                "bad-params",
                "a size must be positive",
                where=Where(param=f"relations[{i}].size"),
                got=f"{stated:g} mm",
                need="above 0",
                remedy="type a size above nothing",
            )
    elif a.angle is not None:
        value = math.radians(inputs.values[f"relations[{i}].angle"])
    if value is None and a.kind in ("size", "distance", "angle"):
        raise ContourError(
            "bad-params",
            "this relation needs its value",
            where=Where(param=f"relations[{i}]"),
            got="nothing",
            need="a value",
            remedy="type it",
        )
    return Relation(a.kind, tuple(a.members), value, tuple(a.slots), a.count)


def _cost(product: RegionProduct, new: Refitted) -> float:
    """How far the region was moved, in its own standard uncertainties."""
    old, s, u = product.surface, new.surface, product.u
    middle = np.array(product.middle)
    turn = math.acos(min(abs(float(np.dot(old.axis, s.axis))), 1.0)) if old.kind != "sphere" else 0.0
    d = np.subtract(s.origin, old.origin)
    if old.kind == "plane":
        off = abs(float((middle - s.origin) @ np.array(s.axis) - (middle - old.origin) @ np.array(old.axis)))
    elif old.kind == "sphere":
        off = float(np.linalg.norm(d))
    else:
        at = np.array(s.origin) + float((middle - s.origin) @ np.array(s.axis)) * np.array(s.axis)
        was = np.array(old.origin) + float((middle - old.origin) @ np.array(old.axis)) * np.array(old.axis)
        off = float(np.linalg.norm(at - was))
    size = max(abs(s.radius - old.radius) if old.kind != "cone" else 0.0, abs(s.minor - old.minor))
    return max(
        off / math.hypot(u.get("position", 0.0), _LEAST_MM),
        turn / math.hypot(u.get("direction", 0.0), _LEAST_RAD),
        size / math.hypot(u.get("radius", 0.0), _LEAST_MM),
    )


def _held(relations: list[Relation], k: int) -> dict[str, str]:
    """Which figures of a region are intent now."""
    fixed = any(r.kind == "size" and k in r.members for r in relations)
    return {"diameter": "intent", "radius": "intent", "minor": "intent"} if fixed else {}


def _run(params: Params, inputs: Inputs) -> Outcome:
    scan = inputs.products["scan"].scan
    products: list[RegionProduct] = [inputs.products[f"regions[{i}]"] for i in range(len(params.regions))]
    relations = [_relation(i, a, inputs, len(products)) for i, a in enumerate(params.relations)]
    points = []
    for i, p in enumerate(products):
        facets = np.setdiff1d(scan.facets_of_source(p.source_facets), scan.facets_of_source(p.left_out))
        if len(facets) < 6:
            raise ContourError(
                "too-few-facets",
                "a region has hardly any facets left on this scan",
                where=Where(param=f"regions[{i}]"),
                got=str(len(facets)),
                need="at least 6 facets",
                remedy="repair the region first",
            )
        points.append(scan.vertices[inner_vertices(scan, facets)])
    found = refit_together([p.surface for p in products], points, relations)
    costs = [_cost(p, f) for p, f in zip(products, found, strict=True)]
    made: dict[str, Product] = {}
    settled: dict[str, SettledRegion] = {}
    for k, (ref, p, f) in enumerate(zip(params.regions, products, found, strict=True)):
        marks = _held(relations, k)
        u = {n: x for n, x in p.u.items() if not (marks and n in ("radius", "minor"))}
        made[ref.id] = replace(p, surface=f.surface, rms=f.rms, u=u)
        settled[ref.id] = SettledRegion(
            **surface_facts(f.surface),
            rms=f.rms,
            rms_before=f.rms_before,
            shift=f.shift,
            cost=costs[k],
            marks=marks,
            middle=p.middle,
        )
    rows = tuple(
        AgreedRow(
            kind=a.kind,
            regions=tuple(params.regions[m].id for m in a.members),
            text=a.text,
            measured=a.measured,
            u=a.u,
            cost=max(costs[m] for m in a.members),
        )
        for a in params.relations
    )
    dear = [
        Problem(
            code="far-from-scan",
            message=f"agreeing to '{a.text or a.kind}' moves a region by {row.cost:.1f} standard uncertainties",
            where=Where(param=f"relations[{i}]", point=products[max(a.members, key=lambda m: costs[m])].middle),
            got=f"{max(found[m].shift for m in a.members):.3f} mm",
            remedy="look at the region again, or take the relation back",
        )
        for i, (a, row) in enumerate(zip(params.relations, rows, strict=True))
        if row.cost > _DEAR
    ]
    facts = IntentFacts(
        agreed=len(rows), dearest=max(costs), largest_shift=max(f.shift for f in found), rows=rows, regions=settled
    )
    return Outcome({OWN: IntentProduct(rows), **made}, facts, tuple(dear))


KIND: StepKind[Params] = StepKind(
    id="intent",
    title="Intent",
    help="Regions fitted together under what was agreed",
    version=1,
    makes="intent",
    params=Params,
    key_value="relations",
    run=_run,
    facts=IntentFacts,
)
