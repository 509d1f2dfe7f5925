"""What children do. Each task takes plain data and a way to report, and returns plain data."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

# Loaded here so that the fork server has the kernel in memory before the first child.
import contour.job.body_view
import contour.solid.boolean
import contour.solid.extrude  # noqa: F401
from contour.exchange.scanfile import read_scan
from contour.exchange.step import read_step, write_step
from contour.exchange.stl_out import write_stl
from contour.job.build import BuildResult, build
from contour.job.store import Store
from contour.job.thumbnail import body_picture, scan_picture
from contour.mesh.health import inspect_scan
from contour.mesh.prepare import load_prepared
from contour.mesh.topology import weld_near
from contour.recipe.file import load_recipe
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import ContourError
from contour.solid.gate import check_solid
from contour.solid.shape import read_shape
from contour.solid.tessellate import tessellate

__all__ = ["TASKS"]

Report = Callable[[dict[str, Any]], None]


def _ping(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    return {}


def _inspect(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: path, name, unit. Facts of a scan file and which format it was."""
    report({"event": "scan", "name": f"reading {payload['name']}"})
    raw = read_scan(Path(payload["path"]), name=payload["name"])
    report({"event": "scan", "name": f"measuring {len(raw.corners):,} facets"})
    facts = inspect_scan(raw, LENGTH_UNITS[payload["unit"]]).as_json()
    return {"facts": facts, "format": raw.format}


def _build(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: recipe (text), store (path), fit (bool), thumbnail (path or none)."""
    store = Store(Path(payload["store"]))
    result = build(load_recipe(payload["recipe"]), store, report, with_fit=payload.get("fit", True))
    picture = payload.get("thumbnail")
    if picture:
        _thumbnail(result, store, Path(picture))
    return result.model_dump(mode="json")


def _thumbnail(result: BuildResult, store: Store, path: Path) -> None:
    if result.bodies:
        data = body_picture([store.folder(b.key) / "view.bin" for b in result.bodies])
    elif result.scans:
        data = scan_picture(load_prepared(store.folder(next(iter(result.scans.values())))))
    else:
        return
    draft = path.with_suffix(".part")
    draft.write_bytes(data)
    draft.replace(path)


def _shapes(payload: dict[str, Any]) -> list[tuple[str, Any]]:
    store = Store(Path(payload["store"]))
    if not payload["bodies"]:
        raise ContourError("no-body", "the job has no body yet", remedy="extrude an outline first")
    return [(b["name"], read_shape((store.folder(b["key"]) / "shape.bin").read_bytes())) for b in payload["bodies"]]


def _export_step(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, bodies [{name, key}], unit, out. Writes, reads back and checks what was written."""
    shapes = _shapes(payload)
    out = Path(payload["out"])
    report({"event": "deliver", "name": "writing STEP"})
    write_step(out, shapes, unit=payload["unit"])
    report({"event": "deliver", "name": "reading the file back"})
    facts = check_solid(read_step(out))
    expected = sum(check_solid(s).volume for _, s in shapes)
    if not facts.closed or not facts.valid or abs(facts.volume - expected) > 1e-6 * expected:
        raise ContourError(
            "body-broken", "the STEP file does not read back as the same solid",
            got=f"{facts.volume:.3f} mm³, closed: {facts.closed}", need=f"{expected:.3f} mm³",
        )  # fmt: skip
    return {"bytes": out.stat().st_size, "solids": facts.solids, "faces": facts.faces, "volume": facts.volume}


def _mesh(payload: dict[str, Any]) -> tuple[np.ndarray, np.ndarray]:
    vertices, triangles, base = [], [], 0
    for _, shape in _shapes(payload):
        mesh = tessellate(shape, chord_mm=payload["chord_mm"], angle_rad=float(np.radians(payload["angle_deg"])))
        vertices.append(mesh.vertices)
        triangles.append(mesh.triangles + base)
        base += len(mesh.vertices)
    # Faces share their edges to rounding only: single precision could tear them apart.
    return weld_near(np.vstack(vertices), np.vstack(triangles).astype(np.int32), 1e-6)


def _count_stl(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload as for the STL file; how many facets it would have."""
    _, triangles = _mesh(payload)
    return {"facets": len(triangles), "bytes": 84 + 50 * len(triangles)}


def _export_stl(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, bodies, unit, chord_mm, angle_deg, out."""
    report({"event": "deliver", "name": "meshing"})
    vertices, triangles = _mesh(payload)
    out = Path(payload["out"])
    count = write_stl(out, vertices, triangles, factor=1 / LENGTH_UNITS[payload["unit"]])
    facts = inspect_scan(read_scan(out), LENGTH_UNITS[payload["unit"]])
    if not facts.closed:
        raise ContourError(
            "body-broken", "the STL file does not read back closed", got=f"{facts.open_edges} open edges",
            remedy="choose another fineness",
        )  # fmt: skip
    return {"facets": count, "bytes": out.stat().st_size, "volume": facts.volume}


TASKS: dict[str, Callable[[dict[str, Any], Report], dict[str, Any]]] = {
    "ping": _ping,
    "inspect": _inspect,
    "build": _build,
    "export-step": _export_step,
    "export-stl": _export_stl,
    "count-stl": _count_stl,
}
