"""What a scan file holds and what is wrong with it, before anybody builds on it."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.exchange.raw import RawScan
from contour.mesh.defects import Defect, raw_defects
from contour.mesh.facets import mesh_of_soup
from contour.mesh.noise import estimate_noise
from contour.mesh.topology import (
    component_labels,
    facet_geometry,
    neighbours,
    signed_volume,
    usable_facets,
    vertex_facets,
    weld,
)

__all__ = ["ScanFacts", "dropped_facets", "guess_unit", "inspect_scan"]


@dataclass(frozen=True, slots=True)
class ScanFacts:
    """Facts of a scan in mm (areas mm², volume mm³); `volume` only where it means something."""

    facets: int
    vertices: int
    size: tuple[float, float, float]
    area: float
    volume: float | None
    closed: bool
    open_edges: int
    nonmanifold_edges: int
    duplicate_facets: int
    degenerate_facets: int
    components: int
    noise: float
    unit_guess: str
    warnings: tuple[str, ...]
    defects: tuple[Defect, ...] = ()

    def as_json(self) -> dict[str, Any]:
        plain = asdict(self)
        plain["defects"] = [
            {"kind": d.kind, "count": d.count, "blocking": d.blocking, "places": [list(p.point) for p in d.places]}
            for d in self.defects
        ]
        return plain


def _many(count: int, one: str, many: str) -> str:
    return f"{count:,} {one if count == 1 else many}"


def guess_unit(largest: float) -> str:
    """The unit that gives a bench-size part (some 8 mm to 3 m), by its largest size in file units.

    Parts read in metres come out below 0.6, inches between 0.6 and 8, anything else is taken for mm, the usual unit.
    """
    if largest < 0.6:
        return "m"
    return "inch" if largest < 8 else "mm"


def dropped_facets(corners: NDArray[np.float64]) -> dict[str, dict[str, Any]]:
    """Repeated and collapsed facets of a file (n, 3, 3) as they are left out on reading: counts and first places."""
    _, facets = weld(corners)
    keep, collapsed, repeats = usable_facets(facets)
    gone = np.flatnonzero(~keep)
    f = facets[gone]
    flat = (f[:, 0] == f[:, 1]) | (f[:, 1] == f[:, 2]) | (f[:, 2] == f[:, 0])
    out = {}
    for kind, count, ids in (("duplicate", repeats, gone[~flat]), ("degenerate", collapsed, gone[flat])):
        out[kind] = {"count": count, "points": corners[ids[:200]].mean(axis=1).tolist()}
    return out


def inspect_scan(raw: RawScan, factor: float, *, unit: str | None = None) -> ScanFacts:
    """Measure a raw scan; `factor` turns file units into mm, `unit` is what they are taken for (to be doubted).

    Edges are counted after collapsed facets (a corner twice) and repeats are set aside: those two are what they are,
    not holes or junctions. Flat facets with three different corners stay, because they hold the mesh together.
    """
    read = mesh_of_soup(raw.corners * factor, raw.facet_ids)
    vertices, facets = read.vertices, read.facets
    keep, collapsed, repeats = usable_facets(facets)
    facets = facets[keep]
    across_counts = neighbours(facets, len(vertices))[1] if len(facets) else np.zeros(4, np.int64)
    open_edges, junctions, odd, misturned = (int(c) for c in across_counts)
    _, _, areas = facet_geometry(vertices, facets)
    sides = np.linalg.norm(vertices[facets] - vertices[np.roll(facets, -1, axis=1)], axis=2)
    # A facet thinner than a millionth of its longest side has no usable normal.
    flat = int((areas <= 0.5e-6 * sides.max(axis=1, initial=0) ** 2).sum()) if len(facets) else 0
    offsets, around = vertex_facets(facets, len(vertices))
    closed = len(facets) > 0 and open_edges == 0 and odd == 0
    warnings = [n.text() for n in raw.notes]
    volume: float | None = None
    if closed and misturned == 0:
        volume = signed_volume(vertices, facets)
        if volume < 0:
            warnings.append("the facets face inwards; the volume is given as if they faced outwards")
            volume = -volume
    elif closed:
        warnings.append(f"{misturned:,} edges join facets that face opposite ways, so the volume is not known")
    if repeats:
        warnings.append(f"{_many(repeats, 'facet stands', 'facets stand')} in the file twice; the repeats are not used")
    if collapsed + flat:
        warnings.append(f"{_many(collapsed + flat, 'facet has', 'facets have')} no area")
    if junctions:
        warnings.append(f"{_many(junctions, 'edge joins', 'edges join')} more than two facets")
    if open_edges:
        warnings.append(f"{_many(open_edges, 'edge is', 'edges are')} open: the scan has holes or patches")
    size = np.ptp(vertices, axis=0)
    defects = raw_defects(read)
    guess = guess_unit(float(size.max()) / factor)
    if unit is not None and guess != unit:
        defects = (*defects, Defect("unit", 1, False, ()))
        warnings.append(f"the size looks like {guess}, not {unit}")
    return ScanFacts(
        facets=raw.facets_read,
        vertices=len(vertices),
        size=(float(size[0]), float(size[1]), float(size[2])),
        area=float(areas.sum()),
        volume=volume,
        closed=closed,
        open_edges=open_edges,
        nonmanifold_edges=junctions,
        duplicate_facets=repeats,
        degenerate_facets=collapsed + flat,
        components=component_labels(facets, len(vertices))[0] if len(facets) else 0,
        noise=estimate_noise(vertices, facets, offsets, around),
        unit_guess=guess,
        warnings=tuple(warnings),
        defects=defects,
    )
