"""What children do. Each task takes plain data and a way to report, and returns plain data."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

import contour.check.exact_arrays

# Loaded here so that the fork server has the kernel in memory before the first child.
import contour.solid.boolean
import contour.solid.extrude
import contour.solid.facts
import contour.solid.halves
import contour.solid.mass
import contour.solid.resurface  # noqa: F401
from contour.check.pairing import propose_pairs
from contour.exchange.mesh_out import write_mesh
from contour.exchange.raw import RawScan
from contour.exchange.scanfile import read_scan
from contour.exchange.solid_format import is_solid_file
from contour.exchange.step import write_step
from contour.fit.modelled import nature_of, precision_of
from contour.fit.segment.whole import Settings
from contour.geometry.frames import plane_frame
from contour.job.build.build import build
from contour.job.build.result import BuildResult
from contour.job.build.solids import read_source
from contour.job.build.store import Store
from contour.job.questions.compare import moved_map, scan_moved
from contour.job.questions.practice import practice_scan
from contour.job.questions.preview import preview
from contour.job.questions.segmented import regions_of
from contour.job.questions.variants import side_by_side
from contour.job.views.thumbnail import body_picture, scan_picture
from contour.job.work.drawings import DRAWING_TASKS
from contour.job.work.pictures import PICTURE_TASKS
from contour.mesh.health import inspect_scan
from contour.mesh.prepare import prepare_scan
from contour.outline.lines import scan_lines
from contour.outline.radial import radial_frame
from contour.outline.where_to_cut import ranked_cuts
from contour.products import load_product
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import load_recipe
from contour.solid.closed_mesh import closed_mesh
from contour.solid.doubt import doubted_unit
from contour.solid.from_file import read_shape_file
from contour.solid.gate import check_solid
from contour.solid.shape import NamedShape, read_shape

__all__ = ["TASKS"]

Report = Callable[[dict[str, Any]], None]


def _ping(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    return {}


def _inspect(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: path, name, unit. Facts of a scan file and which format it was."""
    report({"event": "scan", "name": f"reading {payload['name']}"})
    if is_solid_file(Path(payload["path"])):
        return _solid_facts(payload)
    raw = read_scan(Path(payload["path"]), name=payload["name"])
    report({"event": "scan", "name": f"measuring {len(raw.corners):,} facets"})
    factor = LENGTH_UNITS[payload["unit"]]
    facts = inspect_scan(raw, factor).as_json() | _made(raw, factor)
    if raw.unit is not None:  # the format says it: nothing to guess
        facts |= {"unit_guess": raw.unit, "unit_said": True}
    return {"facts": facts, "format": raw.format}


def _made(raw: RawScan, factor: float) -> dict[str, Any]:
    """How a mesh came about; one that was modelled has no noise, its vertices are as exact as the file says them."""
    try:
        scan = prepare_scan(raw, factor)
    except ContourError:  # nothing to be told of: the facts say what is wrong
        return {}
    made = nature_of(scan)
    return {"made": made} | ({"noise": precision_of(scan)} if made == "modelled" else {})


def _solid_facts(payload: dict[str, Any]) -> dict[str, Any]:
    """Facts of a file of solids, and its format; nothing of it is meshed."""
    evidence = SolidEvidence(id="", name=payload["name"], blob="0" * 64, format="step")
    product = read_source([Path(payload["path"])], evidence)
    facts = {
        "solid": True,
        "bodies": [
            {"name": b.name, "colour": b.colour, "closed": b.closed, "faces": len(b.numbers)} for b in product.bodies
        ],
        "faces": sum(len(b.numbers) for b in product.bodies),
        "unit_mm": product.unit_mm,
        "size": product.size,
        "sewn": product.sewn,
        "doubt": doubted_unit(max(product.size), product.unit_mm, None),
    }
    return {"facts": facts, "format": product.format}


def _read_solid(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: path. What a STEP file holds, once the kernel has read all of it."""
    facts = check_solid(read_shape_file(Path(payload["path"])))
    return {"solids": facts.solids, "faces": facts.faces, "closed": facts.closed, "volume": facts.volume}


def _build(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: recipe (text), store (path), fit (bool), thumbnail (path or none), ended (stages not to be tried, see
    :mod:`contour.job.work.children`)."""
    store, ended = Store(Path(payload["store"])), payload.get("ended", {})
    result = build(load_recipe(payload["recipe"]), store, report, with_fit=payload.get("fit", True), ended=ended)
    picture = payload.get("thumbnail")
    if picture and "picture" not in ended:
        report({"event": "picture", "name": "drawing the job's picture"})
        with contextlib.suppress(Exception):  # the border of a picture that nothing depends on
            _thumbnail(result, store, Path(picture))
    return result.model_dump(mode="json")


def _thumbnail(result: BuildResult, store: Store, path: Path) -> None:
    if result.bodies:
        data = body_picture([store.folder(b.key) / "view.bin" for b in result.bodies])
    elif result.scans:
        data = scan_picture(store.folder(next(iter(result.scans.values()))) / "view.bin")
    else:
        return
    draft = path.with_suffix(".part")
    draft.write_bytes(data)
    draft.replace(path)


def _shapes(payload: dict[str, Any]) -> list[tuple[str, Any, str | None]]:
    store = Store(Path(payload["store"]))
    if not payload["bodies"]:
        raise ContourError(
            "no-body",
            "the job has no body yet",
            got="0 bodies",
            need="at least one body",
            where=Where(param="bodies"),
            remedy="extrude an outline first",
        )
    return [
        (b["name"], read_shape((store.folder(b["key"]) / "shape.bin").read_bytes()), b.get("colour"))
        for b in payload["bodies"]
    ]


def _export_step(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, bodies [{name, key}], unit, out. Writes, reads back and checks what was written."""
    shapes = _shapes(payload)
    out = Path(payload["out"])
    report({"event": "deliver", "name": "writing STEP"})
    write_step(out, shapes, unit=payload["unit"])
    report({"event": "deliver", "name": "reading the file back"})
    facts = check_solid(read_shape_file(out))
    expected = sum(check_solid(s).volume for _, s, _ in shapes)
    if not facts.closed or not facts.valid or abs(facts.volume - expected) > 1e-6 * expected:
        raise ContourError(
            "body-broken",
            "the STEP file does not read back as the same solid",
            got=f"{facts.volume:.3f} mm³, closed: {facts.closed}",
            need=f"{expected:.3f} mm³",
            where=Where(file=out.name),
            remedy="look at the body's faces, or deliver a mesh",
        )
    return {"bytes": out.stat().st_size, "solids": facts.solids, "faces": facts.faces, "volume": facts.volume}


def _bodies_meshed(payload: dict[str, Any], report: Report) -> list[tuple[str, np.ndarray, np.ndarray]]:
    chord, angle = payload["chord_mm"], float(np.radians(payload["angle_deg"]))

    def again(what: str) -> None:
        report({"event": "deliver", "name": what})

    return [
        (name, *closed_mesh(shape, chord_mm=chord, angle_rad=angle, report=again))
        for name, shape, _ in _shapes(payload)
    ]


def _mesh(payload: dict[str, Any], report: Report) -> tuple[np.ndarray, np.ndarray]:
    vertices, triangles, base = [], [], 0
    for _, points, corners in _bodies_meshed(payload, report):
        vertices.append(points)
        triangles.append(corners + base)
        base += len(points)
    return np.vstack(vertices), np.vstack(triangles).astype(np.int32)


def _count_stl(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload as for the STL file; how many facets it would have."""
    _, triangles = _mesh(payload, report)
    return {"facets": len(triangles), "bytes": 84 + 50 * len(triangles)}


def _export_mesh(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, bodies, unit, chord_mm, angle_deg, out (its ending says the format)."""
    report({"event": "deliver", "name": "meshing"})
    bodies = _bodies_meshed(payload, report)
    out = Path(payload["out"])
    count = write_mesh(out, bodies, factor=1 / LENGTH_UNITS[payload["unit"]], unit=payload["unit"])
    return _read_back(out, count, np.vstack([v for _, v, _ in bodies]), payload["unit"])


def _read_back(out: Path, count: int, vertices: np.ndarray, unit: str) -> dict[str, Any]:
    """Read a mesh file again as somebody else would, in the unit it was asked for: closed, and of the same size."""
    facts = inspect_scan(read_scan(out), LENGTH_UNITS[unit])
    kind = out.suffix.lstrip(".").upper()
    if not facts.closed:
        raise ContourError(
            "body-broken",
            f"the {kind} file does not read back closed",
            got=f"{facts.open_edges} open edges",
            need="no open edges",
            where=Where(file=out.name),
            remedy="choose another fineness",
        )
    size = np.ptp(vertices, axis=0)
    if np.abs(np.array(facts.size) - size).max() > 1e-5 * size.max() + 1e-4:
        raise ContourError(
            "body-broken",
            f"the {kind} file does not read back in {unit} with the same size",
            got=" x ".join(f"{s:.3f}" for s in facts.size) + " mm",
            need=" x ".join(f"{s:.3f}" for s in size) + " mm",
            where=Where(file=out.name),
            remedy="deliver it again with another fineness",
        )
    return {"facets": count, "bytes": out.stat().st_size, "volume": facts.volume, "size": size.tolist()}


def _preview(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, recipe (text), fresh (ids of its steps that are new), with_fit: the job as it would be."""
    fresh, with_fit = payload.get("fresh", ()), payload.get("with_fit", False)
    return preview(
        load_recipe(payload["recipe"]), Store(Path(payload["store"])), report, fresh=fresh, with_fit=with_fit
    )


def _compare(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, before and after (recipe texts), out (view buffer of what moved)."""
    store = Store(Path(payload["store"]))
    results = []
    for which in ("before", "after"):
        report({"event": "compare", "name": f"building the {'earlier' if which == 'before' else 'later'} state"})
        results.append(build(load_recipe(payload[which]), store, with_fit=False))
    report({"event": "compare", "name": "measuring what moved"})
    moved = moved_map(results[0], results[1], store, Path(payload["out"]))
    volumes = [sum(b.volume for b in r.bodies) for r in results]
    return {
        "moved": moved,
        "volumes": volumes,
        "failed": [[s.name for s in r.steps if s.status == "failed"] for r in results],
    }


def _variants(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, recipe (text). The job and its variants, each with its figures."""
    columns = side_by_side(load_recipe(payload["recipe"]), Store(Path(payload["store"])), report)
    return {"columns": [c.model_dump(mode="json") for c in columns]}


def _scan_moved(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, before and after (keys of states of one scan), out (view buffer). How far mends moved the surface."""
    store = Store(Path(payload["store"]))
    report({"event": "compare", "name": "measuring what the mends changed"})
    before, after = (load_product(store.folder(payload[k])).scan for k in ("before", "after"))
    return scan_moved(before, after, Path(payload["out"]))


def _virtual_scan(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, solid (see :func:`contour.job.questions.practice.solid_of`), settings, out. A scan file and its labels."""
    report({"event": "scan", "name": "reading the solid"})
    out = practice_scan(payload, Store(Path(payload["store"])), lambda text: report({"event": "scan", "name": text}))
    return out


def _propose(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, scan (key), body (key), faces (names, none for all), tilt_deg, regions {step: key}."""
    store = Store(Path(payload["store"]))
    product = load_product(store.folder(payload["scan"]))
    body = load_product(store.folder(payload["body"]))
    regions, kinds = {}, {}
    for step, key in payload["regions"].items():
        region = load_product(store.folder(key))
        regions[step] = product.scan.facets_of_source(region.source_facets)
        kinds[step] = region.surface.kind
    wanted = None if payload["faces"] is None else [body.names.index(n) for n in payload["faces"] if n in body.names]
    report({"event": "propose", "name": f"looking for regions opposite {len(wanted or body.names)} faces"})
    pairs = propose_pairs(
        product.scan,
        NamedShape(read_shape(body.brep), body.names),
        wanted=wanted,
        tilt_deg=payload["tilt_deg"],
        regions=regions,
        kinds=kinds,
    )
    rows = [
        {
            "face": body.names[p.face],
            "seed": int(product.scan.source_facet[p.seed]),
            "region": p.region,
            "facets": p.facets,
            "offset": p.lay.offset,
            "tilt": p.lay.tilt_deg,
            "shift": p.lay.shift_mm,
            "before": p.lay.before,
            "after": p.lay.after,
        }
        for p in pairs
    ]
    return {"pairs": rows}


def _segment(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, scan (key), coarseness, least_area, protected (keys of region products), out. The labels go to `out`,
    int32 in the order of the scan's facets."""
    store = Store(Path(payload["store"]))
    scan = load_product(store.folder(payload["scan"])).scan
    kept = [load_product(store.folder(key)) for key in payload["protected"]]
    protected = tuple((scan.facets_of_source(r.source_facets), r.surface) for r in kept)
    settings = Settings(coarseness=payload["coarseness"], least_area=payload["least_area"])

    def told(what: str, share: float) -> None:
        report({"event": "segment", "name": what, "done": int(100 * share), "total": 100})

    out, found = regions_of(scan, settings, protected=protected, report=told)
    Path(payload["out"]).write_bytes(found.labels.astype("<i4").tobytes())
    return {**out, "scan": payload["scan"]}


def _profile(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, scan (key), source (radial, silhouette), origin, normal, outward, offset. Polylines on a frame."""
    scan = load_product(Store(Path(payload["store"])).folder(payload["scan"])).scan
    origin, normal = np.array(payload["origin"], float), np.array(payload["normal"], float)
    n = normal / np.linalg.norm(normal)
    if payload["source"] == "radial":
        frame = radial_frame(origin, normal, np.array(payload["outward"], float))
    else:
        frame = plane_frame(origin + payload["offset"] * n, n)
    found = scan_lines(scan, frame, payload["source"])
    axes = {k: getattr(frame, k).tolist() for k in ("origin", "u", "v", "normal")}
    return {"frame": axes, "lines": [(p.tolist(), c) for p, c in found.lines], "runout": found.runout}


def _where_to_cut(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, scan (key), origin, normal."""
    scan = load_product(Store(Path(payload["store"])).folder(payload["scan"])).scan
    found = ranked_cuts(scan, np.array(payload["origin"], float), np.array(payload["normal"], float))
    return {"cuts": [asdict(c) for c in found]}


TASKS: dict[str, Callable[[dict[str, Any], Report], dict[str, Any]]] = {
    "ping": _ping,
    "inspect": _inspect,
    "read-solid": _read_solid,
    "build": _build,
    "export-step": _export_step,
    "export-mesh": _export_mesh,
    "count-stl": _count_stl,
    "preview": _preview,
    "compare": _compare,
    "variants": _variants,
    "propose": _propose,
    "scan-moved": _scan_moved,
    "virtual-scan": _virtual_scan,
    "segment": _segment,
    "profile": _profile,
    "where-to-cut": _where_to_cut,
    **PICTURE_TASKS,
    **DRAWING_TASKS,
}
