"""The regions of a whole scan as plain data: for the background task, the table in the browser and the command line."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled import exact_regions, mixed_regions, nature_of
from contour.fit.segment.relations import Relation, relations
from contour.fit.segment.whole import FoundRegion, Segmentation, Settings, segment
from contour.fit.thread.form import ThreadForm
from contour.geometry.surfaces import Surface
from contour.intent.features import Feature
from contour.intent.likely_threads import likely_threads
from contour.intent.proposals import proposals
from contour.job.questions.repeating import RoundRegion, alike_around
from contour.mesh.noise import noise_among
from contour.mesh.prepare import PreparedScan
from contour.mesh.topology import vertex_facets

__all__ = ["regions_of"]


def _params(s: Surface) -> dict[str, Any]:
    """mm, degrees."""
    if s.kind == "plane":
        return {"point": s.origin, "normal": s.axis}
    if s.kind == "sphere":
        return {"point": s.origin, "radius": s.radius}
    rows: dict[str, Any] = {"point": s.origin, "axis": s.axis, "radius": s.radius}
    if s.kind == "cone":
        rows["half_angle"] = float(np.degrees(s.half_angle))
    if s.kind == "torus":
        rows["minor_radius"] = s.minor
    return rows


def _u(region: FoundRegion) -> dict[str, float]:
    rows = region.uncertainty.as_json() if region.uncertainty else {}
    for name in ("direction", "half_angle"):
        if name in rows:
            rows[name] = float(np.degrees(rows[name]))
    if "minor" in rows:
        rows["minor_radius"] = rows.pop("minor")
    return rows


def _thread_params(t: ThreadForm) -> dict[str, Any]:
    """mm."""
    return {
        "major": t.major,
        "minor": t.minor,
        "pitch": t.pitch,
        "hand": "right" if t.hand > 0 else "left",
        "starts": t.starts,
        "axis": t.axis.tolist(),
        "point": (t.point + 0.5 * (t.low + t.high) * t.axis).tolist(),
        "length": t.high - t.low,
    }


def _of_thread(t: ThreadForm) -> dict[str, Any]:
    """What a row says of a thread that it does not say of a surface."""
    return {
        "params": _thread_params(t),
        "u": {"pitch": t.u_pitch, "major": t.u_diameter, "minor": t.u_diameter},
        "outward": -1 if t.inside else 1,
        "candidates": [
            {"designation": c.thread.designation, "difference_u": c.difference_u} for c in likely_threads(t)
        ],
    }


def _row(scan: PreparedScan, k: int, region: FoundRegion, relation: Relation, noise: float) -> dict[str, Any]:
    s = region.surface
    row = {
        "id": k,
        "kind": region.kind,
        "facets": region.facets,
        "area": region.area,
        "rms": region.rms,
        "noise": noise,
        "params": _params(s) if s else {},
        "u": _u(region),
        "outward": s.outward if s else 0,
        "is_fillet": relation.blend is not None,
        "blend": relation.blend,
        "ball": relation.ball_mm,
        "weak": relation.weak,
        "is_chamfer": relation.chamfer is not None,
        "same_surface": relation.same_surface,
        "worn_area": region.worn_area,
        "at": scan.centroids[region.middle].tolist(),
        "outwards": scan.smooth_normals[region.middle].tolist(),
        "candidates": [],
    }
    return row if region.thread is None else row | _of_thread(region.thread)


def _noises(scan: PreparedScan, found: Segmentation) -> list[float]:
    """The scan's noise in every region, mm: it may differ over a scan. That of all of it where a region is too small to tell."""
    if found.noise == 0.0:
        return [0.0] * len(found.regions)
    offsets, around = vertex_facets(scan.facets, len(scan.vertices))
    order = np.argsort(found.labels, kind="stable")
    begin = np.searchsorted(found.labels[order], np.arange(len(found.regions) + 1))
    out = []
    for k, region in enumerate(found.regions):
        own = np.unique(scan.facets[order[begin[k] : begin[k + 1]]]).astype(np.int64)
        # No patch lies between the flanks of a thread.
        here = None if region.thread else noise_among(scan.vertices, scan.facets, offsets, around, own)
        out.append(here or found.noise)
    return out


def regions_of(
    scan: PreparedScan,
    settings: Settings,
    *,
    protected: tuple[tuple[NDArray[np.int64], Surface], ...] = (),
    report: Callable[[str, float], None] = lambda _, __: None,
) -> tuple[dict[str, Any], Segmentation]:
    """({mesh (scanned, modelled or mixed), noise, edge, unassigned (share of the area), regions, proposals, system, alike}, the segmentation).

    Protected: facets (k,) that a region has already, and its surface.
    """
    report("reading how the mesh was made", 0.01)
    mesh = nature_of(scan)
    if mesh == "modelled":
        found = exact_regions(scan, protected=protected, report=report)
    elif mesh == "mixed":
        found = mixed_regions(scan, settings, protected=protected, report=report)
    else:
        found = segment(scan, settings, protected=protected, report=report)
    report("looking for fillets and intent", 0.97)
    related = relations(scan, found)
    features = []
    for k, region in enumerate(found.regions):
        u = region.uncertainty
        if region.surface is not None and u is not None and not related[k].weak:
            at = scan.centroids[region.middle]
            middle = (float(at[0]), float(at[1]), float(at[2]))
            blend = related[k].blend is not None
            features.append(Feature(k, region.surface, u, region.area, middle, blend))
    offered, system = proposals(features)
    noises = _noises(scan, found)
    report("looking for what repeats", 0.99)
    round_ones = [
        RoundRegion(k, r.surface, r.area)
        for k, r in enumerate(found.regions)
        if r.surface is not None and related[k].blend is None
    ]
    out = {
        "mesh": mesh,
        "noise": found.noise,
        "edge": scan.edge_mm,
        "system": system,
        "unassigned": float(scan.areas[found.labels < 0].sum() / scan.areas.sum()),
        "regions": [_row(scan, k, r, related[k], noises[k]) for k, r in enumerate(found.regions)],
        "proposals": [asdict(p) for p in offered],
        "alike": alike_around(scan, round_ones, modelled=mesh == "modelled"),
    }
    return out, found
