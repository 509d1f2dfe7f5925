"""Merge: scans of one part laid on each other and made one mesh."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from contour.geometry.rigid import best_rigid, moved
from contour.mesh.facets import Mesh
from contour.mesh.merge import merged
from contour.mesh.prepare import PreparedScan
from contour.present.alike import SPACING, fits_memory
from contour.present.scans import changed_scan, positive
from contour.products.scan import ScanFigures, ScanProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import Inputs, Outcome, StepKind
from contour.recipe.values import Length
from contour.register.agree import Laid, laid_on, searched
from contour.register.icp import Target, target_of

__all__ = ["KIND", "Other", "Pair", "Params"]

Point3 = tuple[float, float, float]


class Pair(BaseModel):
    """One spot of the part on both scans; each in its own raw scan's frame, mm."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    here: Point3
    there: Point3


class Other(BaseModel):
    """A scan to be added, and spots that are on both; with fewer than three pairs its place is searched for."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    pairs: list[Pair] = Field(default_factory=list, max_length=40)


class Params(BaseModel):
    """Pairs lay a scan down coarsely, nearest points finely; then all become one mesh, averaged where they overlap."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    others: list[Other] = Field(title="Other scans", min_length=1, max_length=20)
    spacing: Length | None = SPACING


def _start(other: Other, scan: PreparedScan, b: PreparedScan, target: Target, i: int) -> NDArray[np.float64]:
    if len(other.pairs) >= 3:
        here = moved(np.asarray(scan.pose), np.array([p.here for p in other.pairs]))
        there = moved(np.asarray(b.pose), np.array([p.there for p in other.pairs]))
        if np.linalg.svd(there - there.mean(axis=0))[1][1] < 1e-3 * np.ptp(there, axis=0).max():
            raise ContourError(
                "bad-params",
                "the pairs lie on one line",
                where=Where(param=f"others[{i}].pairs"),
                got="pairs in a row",
                need="three pairs that span a triangle",
                remedy="add a pair away from that line",
            )
        return best_rigid(there, here)
    found = searched(scan, b, target)
    if found is None:
        raise ContourError(
            "no-overlap",
            "no place was found where this scan agrees with the other",
            where=Where(param=f"others[{i}].pairs"),
            got="0 places",
            need="surfaces that are on both scans",
            remedy="add three spots that are on both scans",
        )
    return found


class LaidScan(BaseModel):
    """How one scan lies on those before it: the share of it that overlaps them, its rms and 95 % of its distances there (mm), and
    T_first_this."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    overlap: float
    error: float
    p95: float
    matrix: tuple[tuple[float, float, float, float], ...]


def _laid(other: Other, scan: PreparedScan, b: PreparedScan, target: Target, i: int) -> Laid:
    found = laid_on(target, scan, b, _start(other, scan, b, target, i))
    if found.overlap < 0.05:
        raise ContourError(
            "no-overlap",
            "the scans hardly overlap where the pairs lay them",
            where=Where(param=f"others[{i}]"),
            got=f"{100 * found.overlap:.0f} % of it",
            need="at least 5 %",
            remedy="pick other pairs",
        )
    return found


class MergeFacts(ScanFigures):
    """scans: how each was laid, in order · error: the largest rms, mm · overlap: the smallest share."""

    of: Literal["merge"] = "merge"
    scans: tuple[LaidScan, ...]
    error: float
    overlap: float


def _run(params: Params, inputs: Inputs) -> Outcome:
    product: ScanProduct = inputs.products["scan"]
    scan = product.scan
    spacing = inputs.values.get("spacing", scan.edge_mm / 1.2)
    positive(spacing, "spacing", "the spacing")
    numbers = scan.raw_facets
    meshes = [Mesh(np.array(scan.vertices), np.array(scan.facets), np.array(scan.source_facet))]
    rows = []
    for i, other in enumerate(params.others):
        if other.scan.id == params.scan.id or any(o.scan.id == other.scan.id for o in params.others[:i]):
            raise ContourError(
                "bad-params",
                "this scan is in the list twice",
                where=Where(param=f"others[{i}].scan"),
                got="the same scan",
                need="another scan",
                remedy="take one of them out",
            )
        b: PreparedScan = inputs.products[f"others[{i}].scan"].scan
        # Each lies on what has been laid down before it.
        so_far = Mesh(
            np.vstack([m.vertices for m in meshes]),
            np.vstack(
                [
                    m.facets + k
                    for m, k in zip(meshes, np.cumsum([0] + [len(m.vertices) for m in meshes[:-1]]), strict=True)
                ]
            ).astype(np.int32),
            np.concatenate([m.source for m in meshes]),
        )
        target = target_of(so_far.vertices, so_far.facets, across=so_far.across())
        fine = _laid(other, scan, b, target, i)
        rows.append(LaidScan(overlap=fine.overlap, error=fine.error, p95=fine.p95, matrix=fine.matrix.tolist()))
        source = np.where(b.source_facet >= 0, b.source_facet + numbers, -1)
        meshes.append(Mesh(moved(fine.matrix, np.asarray(b.vertices)), np.array(b.facets), source))
        numbers += b.raw_facets
    with fits_memory():
        mesh = merged(meshes, step_mm=spacing)
    from dataclasses import replace

    made = changed_scan(
        params.scan.id,
        replace(scan, raw_facets=numbers),
        mesh,
        count=len(params.others),
        told=MergeFacts,
        scans=tuple(rows),
        error=max(r.error for r in rows),
        overlap=min(r.overlap for r in rows),
    )
    return replace(made, gone=tuple(o.scan.id for o in params.others))


KIND: StepKind[Params] = StepKind(
    id="merge",
    title="Merge scans",
    help="Scans of one part laid on each other and made one",
    version=2,
    makes="scan",
    params=Params,
    key_value="spacing",
    run=_run,
    facts=MergeFacts,
    measures={"error": "length"},
)
