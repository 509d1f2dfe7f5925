"""Wear planted in the bores of whole scanned parts: proposed, and the true diameter inside U95 with it left out."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_solid import ExactSolid
from contour.exchange.raw import RawScan
from contour.fit.covariance import fit_covariance
from contour.fit.region import inner_vertices
from contour.fit.segment.whole import segment
from contour.fit.wear import worn_zone
from contour.geometry.surface_rows import CYLINDER
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import TRUTH_PARTS

__all__ = ["run"]

_PLANTED = ((0.15, 90.0), (0.3, 150.0))  # (mm deep, over degrees); to these comes what is sound


def _worn_scan(solid: ExactSolid, face: int, deep: float, over: float, seed: int) -> tuple[PreparedScan, np.ndarray]:
    """(scan, true face by facet) with a sector of one bore worn away, deepest in its middle."""
    whole = virtual_scan(solid, ScanSettings(spacing_mm=0.6, noise_mm=0.03, seed=seed))
    row = solid.face_data[face]
    own = np.unique(whole.facets[whole.true_face == face])
    w = whole.vertices[own] - row[:3]
    across = w - (w @ row[3:6])[:, None] * row[3:6]
    out = across / np.linalg.norm(across, axis=1)[:, None]
    middle = out[np.random.default_rng(seed).integers(len(out))]
    off = np.arccos(np.clip(out @ middle, -1, 1))
    vertices = whole.vertices.copy()
    vertices[own] += (deep * np.clip(np.cos(np.pi * off / over), 0, 1) * (off < over / 2))[:, None] * out
    scan = prepare_scan(RawScan(vertices[whole.facets], np.arange(len(whole.facets)), len(whole.facets), "stl"), 1.0)
    return scan, whole.true_face[scan.source_facet]


def _bores(solid: ExactSolid) -> list[int]:
    """Cylinders that face their axis and are large enough for a shallow zone to be a zone."""
    return [
        f
        for f, kind in enumerate(solid.face_kind)
        if kind == CYLINDER and solid.face_data[f][8] < 0 and solid.face_data[f][6] >= 4
    ]


def run() -> Iterator[tuple[str, str]]:
    planted = proposed = inside = sound = false = 0
    parts = {**TRUTH_PARTS, "bracket": lambda: bracket().shape, "pump cover": lambda: pump_cover().shape}
    for name, make in parts.items():
        solid = exact_arrays(make())
        tried = 0
        for face in _bores(solid)[:2]:
            for deep, over in (*_PLANTED, (0.0, 1.0)):
                scan, true = _worn_scan(solid, face, deep, np.radians(over), seed=7 + face)
                found = segment(scan)
                own = found.labels[(true == face) & (found.labels >= 0)]
                k = int(np.bincount(own).argmax()) if len(own) else -1
                surface = found.regions[k].surface if k >= 0 else None
                if surface is None or surface.kind != "cylinder":
                    continue
                facets = np.flatnonzero(found.labels == k)
                zone = worn_zone(scan, facets, surface)
                if deep == 0.0:
                    sound, false = sound + 1, false + (zone is not None)
                    continue
                planted, tried = planted + 1, tried + 1
                if zone is None:
                    continue
                proposed += 1
                rest = np.setdiff1d(facets, zone.facets)
                u = fit_covariance(zone.surface, scan.vertices[inner_vertices(scan, rest)], edge_mm=scan.edge_mm).radius
                inside += u is not None and abs(zone.surface.radius - solid.face_data[face][6]) < 2 * u
        if tried:
            yield f"{name}: bores with wear planted", str(tried)
    yield "worn zones proposed, 0.15 mm over 90°, 0.3 mm over 150° (wanted: all)", f"{proposed} of {planted}"
    yield "true diameter inside U95 without them (wanted: all)", f"{inside} of {proposed}"
    yield "sound bores said to be worn (wanted: none)", f"{false} of {sound}"
