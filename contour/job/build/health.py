"""Health of a job's scans: what is wrong where, kept beside the scan it is about."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

import numpy as np

from contour.geometry.rigid import moved
from contour.job.build.keys import health_key
from contour.job.build.store import Store
from contour.mesh.defects import Defect, Place, find_defects
from contour.mesh.facets import Mesh
from contour.mesh.health import guess_unit
from contour.mesh.prepare import PreparedScan
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.formula import LENGTH_UNITS

__all__ = ["ensure_health", "load_health"]


def ensure_health(store: Store, key: str, scan: PreparedScan, evidence: ScanEvidence) -> str:
    """Key of the defects of a scan state; places name facets by the state's own (the view's) numbers."""
    own = health_key(key, evidence.unit)
    if not store.has(own):
        mesh = Mesh(np.asarray(scan.vertices), np.asarray(scan.facets), np.arange(len(scan.facets)))
        found = list(find_defects(mesh))
        read = store.outcome(key)
        for kind in ("duplicate", "degenerate"):
            row = read.get("dropped", {}).get(kind)
            if row and row["count"]:
                points = [Place((p[0], p[1], p[2]), 0.0, ()) for p in row["points"]]
                # They were left out when the file was read: nothing that follows ever meets them.
                found.append(Defect(kind, row["count"], False, tuple(points)))  # type: ignore[arg-type]
        size = float(np.ptp(scan.vertices, axis=0).max()) / LENGTH_UNITS[evidence.unit]
        guess = guess_unit(size)
        unit = None if guess == evidence.unit else guess
        text = json.dumps({"defects": [asdict(d) for d in found], "unit_guess": unit})
        store.put(own, {}, lambda folder: _write(folder / "health.json", text))
    return own


def _write(path: Any, text: str) -> None:
    path.write_text(text)


def load_health(store: Store, key: str, scan: PreparedScan, evidence: ScanEvidence) -> dict[str, Any]:
    """What :func:`ensure_health` kept, each place with whether it was left alone on purpose."""
    data: dict[str, Any] = json.loads((store.folder(key) / "health.json").read_text())
    for defect in data["defects"]:
        for place in defect["places"]:
            place["source"] = [int(k) for k in scan.source_facet[place["facets"][:8]] if k >= 0]
            normal = scan.normals[place["facets"]].sum(axis=0) if place["facets"] else np.zeros(3)
            place["normal"] = (normal / (np.linalg.norm(normal) or 1.0)).tolist()
            place["left"] = False
        if not defect["places"]:
            continue
        points = np.array([p["point"] for p in defect["places"]])
        near = np.array([0.5 * p["size"] + 2 * scan.edge_mm for p in defect["places"]])
        for mark in evidence.leave:
            # A mend nearby moves a place a little; a mark means the nearest one, not every hole inside a large one.
            away = np.linalg.norm(points - moved(np.asarray(scan.pose), np.array(mark.point)), axis=1)
            k = int(np.argmin(away))
            if mark.kind == defect["kind"] and away[k] <= near[k]:
                defect["places"][k]["left"] = True
    return data
