"""Rounds, wear and intent against what is known of the parts: recognised, told apart, proposed, and nothing made up."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from benchmarks.segment_truth import holed_scan
from contour.check.exact_arrays import exact_arrays
from contour.check.exact_solid import ExactSolid
from contour.fit.segment.relations import relations
from contour.fit.segment.whole import Segmentation, segment
from contour.geometry.surface_rows import CONE, CYLINDER, PLANE, SPHERE, TORUS
from contour.intent.features import Feature, Proposal
from contour.intent.proposals import proposals
from contour.mesh.prepare import PreparedScan
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import TRUTH_PARTS

__all__ = ["run"]

Pair = tuple[str, int, int]


def _faces_of(found: Segmentation, true: np.ndarray, areas: np.ndarray) -> list[int]:
    """The true face that most of each region's area lies on."""
    out = []
    for k in range(len(found.regions)):
        own = found.labels == k
        out.append(int(np.bincount(true[own], areas[own]).argmax()) if own.any() else -1)
    return out


def _blends(solid: ExactSolid) -> set[int]:
    """Faces that roll between two others: rounds that are tangent to a plane or a larger round along a border."""
    faces: dict[int, set[int]] = {}
    tri, side = solid.triangles, solid.side_edge
    owners: dict[int, set[int]] = {}
    for t in range(len(tri)):
        for e in side[t]:
            if e >= 0:
                owners.setdefault(int(e), set()).add(int(solid.face[t]))
    for pair in owners.values():
        if len(pair) == 2:
            a, b = pair
            faces.setdefault(a, set()).add(b)
            faces.setdefault(b, set()).add(a)
    out = set()
    for f, kind in enumerate(solid.face_kind):
        if kind not in (CYLINDER, TORUS):
            continue
        row = solid.face_data[f]
        r = row[7] if kind == TORUS else row[6]
        touching = 0
        for g in faces.get(f, ()):
            other, kind_g = solid.face_data[g], solid.face_kind[g]
            if kind == CYLINDER and kind_g == PLANE:
                away = abs(float((row[:3] - other[:3]) @ other[3:6]))
                touching += abs(away - r) < 1e-6 and abs(float(row[3:6] @ other[3:6])) < 1e-6
            elif kind == TORUS and kind_g == PLANE:
                away = abs(float((row[:3] - other[:3]) @ other[3:6]))
                touching += abs(away - r) < 1e-6
            elif kind == TORUS and kind_g == CYLINDER:
                touching += abs(abs(row[6] - other[6]) - r) < 1e-6
            elif kind == TORUS and kind_g == CONE:
                h = float((row[:3] - other[:3]) @ other[3:6])
                touching += abs(abs((row[6] - other[6] - h * np.tan(other[7])) * np.cos(other[7])) - r) < 1e-5
        if touching >= 2:
            out.add(f)
    return out


def _span(scan: PreparedScan, own: np.ndarray, row: np.ndarray) -> float:
    """Degrees that a round goes around its axis: half a turn and more is the end of a lug, not a blend."""
    e = np.eye(3)[int(np.argmin(np.abs(row[3:6])))]
    a = np.cross(row[3:6], e)
    d = scan.centroids[own] - row[:3]
    angle = np.sort(np.degrees(np.arctan2(d @ np.cross(row[3:6], a), d @ a)) % 360)
    return float(360 - np.diff(np.append(angle, angle[0] + 360)).max())


def _true(kind: str, solid: ExactSolid, a: int, b: int) -> bool:
    """Whether two faces of the solid stand in a relation."""
    p, q, ka, kb = solid.face_data[a], solid.face_data[b], solid.face_kind[a], solid.face_kind[b]
    along = abs(float(p[3:6] @ q[3:6]))
    if kind == "parallel":
        return along > 1 - 1e-9
    if kind == "perpendicular":
        return along < 1e-6
    if kind == "coplanar":
        return ka == kb == PLANE and along > 1 - 1e-9 and abs(float((p[:3] - q[:3]) @ p[3:6])) < 1e-6
    if kind == "coaxial":
        off = p[:3] - q[:3]
        return along > 1 - 1e-9 and float(np.linalg.norm(off - (off @ p[3:6]) * p[3:6])) < 1e-6
    ra, rb = (float(x[7] if k == TORUS else x[6]) for x, k in ((p, ka), (q, kb)))
    return abs(ra - rb) < 1e-6


def _pairs(found: list[Proposal], face: list[int]) -> set[Pair]:
    out: set[Pair] = set()
    for p in found:
        if p.kind in ("parallel", "coplanar", "coaxial", "equal-radius", "perpendicular"):
            for a, b in itertools.combinations(p.regions, 2):
                i, j = sorted((face[a], face[b]))
                if i != j:
                    out.add((p.kind, i, j))
    return out


def _features(scan: PreparedScan, found: Segmentation) -> tuple[list[Feature], list[int]]:
    related = relations(scan, found)
    out = []
    for k, region in enumerate(found.regions):
        if region.surface is not None and region.uncertainty is not None and not related[k].weak:
            x, y, z = scan.centroids[region.middle]
            at = (float(x), float(y), float(z))
            out.append(Feature(k, region.surface, region.uncertainty, region.area, at, related[k].blend is not None))
    return out, [k for k, r in enumerate(related) if r.blend is not None]


def run() -> Iterator[tuple[str, str]]:
    parts = {**TRUTH_PARTS, "bracket": lambda: bracket().shape, "pump cover": lambda: pump_cover().shape}
    told = recognised = functional = wrong = 0
    radius_off: list[float] = []
    asked = proposed = false = claimed = 0
    for name, make in parts.items():
        solid = exact_arrays(make())
        scan, true = holed_scan(solid, spacing=0.55, noise=0.03, missing=0.15, seed=4)
        found = segment(scan)
        face = _faces_of(found, true, scan.areas)
        features, blends = _features(scan, found)
        planted = _blends(solid)
        seen = {face[k]: k for k in range(len(face))}
        here = [
            f
            for f in planted
            if f in seen and scan.areas[true == f].sum() > 8 and _span(scan, true == f, solid.face_data[f]) < 175
        ]
        got = [f for f in here if seen[f] in blends]
        told, recognised = told + len(here), recognised + len(got)
        round_faces = [f for f in seen if solid.face_kind[f] in (CYLINDER, TORUS) and f not in planted]
        functional += len(round_faces)
        wrong += sum(seen[f] in blends for f in round_faces)
        for f in got:
            kind, row = solid.face_kind[f], solid.face_data[f]
            r = float(row[7] if kind == TORUS else row[6])
            s = found.regions[seen[f]].surface
            if s is not None and r >= 5 * scan.edge_mm:
                radius_off.append(abs((s.minor if s.kind == "torus" else s.radius) - r) / r)
        offered, _ = proposals(features)
        mine = _pairs(offered, face)
        usable = {f.id: face[f.id] for f in features if not f.blend}
        kinds = {PLANE: "plane", CYLINDER: "cylinder", CONE: "cone", SPHERE: "sphere", TORUS: "torus"}
        for a, b in itertools.combinations(sorted(set(usable.values())), 2):
            ka, kb = solid.face_kind[a], solid.face_kind[b]
            if kinds.get(int(ka)) is None or kinds.get(int(kb)) is None or SPHERE in (ka, kb):
                continue
            for kind in ("parallel", "coplanar", "coaxial"):
                if kind == "coplanar" and not ka == kb == PLANE:
                    continue
                if kind == "coaxial" and PLANE in (ka, kb):
                    continue
                if _true(kind, solid, a, b):
                    asked += 1
                    proposed += (kind, a, b) in mine
        for kind, a, b in mine:
            claimed += 1
            false += not _true(kind, solid, a, b)
        yield (
            f"{name}: rounds recognised",
            f"{len(got)} of {len(here)}; {len(mine)} pairs of faces related, {sum(not _true(k, solid, a, b) for k, a, b in mine)} of them wrongly",
        )
    yield "rounds recognised (wanted: 90 %)", f"{recognised} of {told}"
    yield "functional rounds taken for blends (wanted: none)", f"{wrong} of {functional}"
    yield (
        "radius of rounds of 5 facet sides and more (wanted: within 10 %)",
        (
            f"median {100 * np.median(radius_off):.1f} %, worst {100 * max(radius_off):.1f} % of {len(radius_off)}"
            if radius_off
            else "none"
        ),
    )
    yield (
        "planted relations between two faces proposed (wanted: 90 %)",
        f"{proposed} of {asked}, {100 * proposed / max(asked, 1):.1f} %",
    )
    yield (
        "proposed relations that are none (wanted: at most 5 %)",
        f"{false} of {claimed}, {100 * false / max(claimed, 1):.1f} %",
    )
