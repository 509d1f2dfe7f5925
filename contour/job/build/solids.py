"""Files of solids as the steps find them: read once, the faces numbered as in the versions of the file before."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from contour.job.build.keys import solid_key
from contour.job.build.running import Running
from contour.job.build.store import Store
from contour.mesh.prepare import load_prepared
from contour.products import Extras, keep_product, load_product
from contour.products.solid import SolidProduct, SourceBody
from contour.recipe.evidence.solid import SolidEvidence
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import Problem, Where
from contour.solid.doubt import doubted_unit

__all__ = ["ensure_solid", "read_source", "unit_doubts"]


def ensure_solid(store: Store, evidence: SolidEvidence) -> str:
    """Key of the file as read, reading it when the store has it no more."""
    key = solid_key(evidence)
    if not store.has(key):
        paths = [store.whole_blob(b, name=evidence.name) for b in (*evidence.earlier, evidence.blob)]
        product = read_source(paths, evidence)
        facts = {"bodies": len(product.bodies), "unit_mm": product.unit_mm}
        store.put(key, facts, lambda folder: keep_product(product, folder, Extras(view=False, measure=False)))
    return key


def read_source(paths: list[Path], evidence: SolidEvidence) -> SolidProduct:
    """The last of the files, its faces numbered on from those before. Raises ContourError (file-not-understood …)."""
    from contour.solid.facts import face_facts
    from contour.solid.from_file import read_solids, scaled, size_of
    from contour.solid.shape import NamedShape, faces, write_shape
    from contour.solid.topology.imported import carried_numbers

    known: list[dict[str, object]] = []
    numbers: list[int] = []
    for path in paths:
        with tempfile.TemporaryDirectory(prefix="contour-") as folder:
            # Bodies without a name are called by their file, whose kept bytes have none.
            link = Path(folder) / (Path(evidence.name).name or "solid")
            link.symlink_to(path.resolve())
            file = read_solids(link)
        factor = 1.0 if evidence.unit is None else LENGTH_UNITS[evidence.unit] / file.unit_mm
        shapes = [scaled(b.shape, factor) for b in file.bodies]
        rows: list[dict[str, object]] = []
        for shape in shapes:
            own = face_facts(NamedShape(shape, ("",) * len(faces(shape))))
            rows += [{**f, "beside": [k + len(rows) for k in f["beside"]]} for f in own]
        numbers = carried_numbers(known, numbers, rows)
        known = rows
    bodies, at = [], 0
    for body, shape in zip(file.bodies, shapes, strict=True):
        count = len(faces(shape))
        bodies.append(
            SourceBody(body.name, body.colour, write_shape(shape), tuple(numbers[at : at + count]), body.closed)
        )
        at += count
    unit_mm = LENGTH_UNITS[evidence.unit] if evidence.unit else file.unit_mm
    return SolidProduct(tuple(bodies), file.format, unit_mm, file.sewn, size_of(shapes))


def unit_doubts(run: Running) -> list[Problem]:
    """Files that are about 25.4 times as large, or as small, as the part's scan: their unit is doubted, with what to try."""
    if not run.recipe.solids:
        return []
    part = next((e for e in run.recipe.scans if e.role == "part" and e.id in run.scans), None)
    like = None
    if part is not None:
        scan = load_prepared(run.store.folder(run.scans[part.id]))
        like = float(np.ptp(scan.vertices, axis=0).max())
    out = []
    for solid in run.recipe.solids:
        key = run.states["solid"].get(solid.id)
        if key is None:
            continue
        product = load_product(run.store.folder(key))
        unit = doubted_unit(max(product.size), product.unit_mm, like)
        if unit is None or solid.unit is not None:
            continue
        said = next(u for u, mm in LENGTH_UNITS.items() if abs(mm - product.unit_mm) < 1e-9)
        out.append(
            Problem(
                code="unit-unknown",
                message=f"the file says {said}, but its size looks like {unit}",
                where=Where(file=solid.name),
                got=" × ".join(f"{s:.4g}" for s in product.size) + " mm",
                need=f"a scan of {like:.4g} mm" if like else "a part of a few millimetres to a few metres",
                remedy=f"say that it is in {unit}, or that it is right as it is",
            )
        )
    return out
