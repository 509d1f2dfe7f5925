"""A solid as plain arrays: its triangles, the formulas of the faces and edges they stand for, and how these are trimmed."""

from __future__ import annotations

from dataclasses import dataclass, fields
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from contour.geometry.bspline_rows import HEAD
from contour.mesh.nearest import TriangleTree, build_tree

__all__ = ["EXACT_VERSION", "FACE_ROW", "FREE", "SPLINE", "ExactSolid", "load_exact", "save_exact"]

FREE, SPLINE = 0, 6  # beside the codes of contour.geometry.surface_rows
FACE_ROW = 13

EXACT_VERSION = 5  # of the arrays kept beside a body, and of what is measured by them


@dataclass(frozen=True, slots=True)
class ExactSolid:
    """A solid in mm.

    vertices (n, 3) · triangles (m, 3) i32, outward · face (m,) i32 · side_edge (m, 3) i32 · side_sense (m, 3) i8 (see
    :class:`contour.solid.tessellate.Tessellation`) · uv (n, 2): parameters of the vertices on their faces · face_kind (f,) i32: code of
    its surface, SPLINE, or FREE for one without a formula · face_data (f, 13): the nine numbers of
    :mod:`contour.geometry.surface_rows` (a torus's inner sheet has a ring radius below nothing; of a spline only the side counts), the
    heights along the axis of up to two tips that belong to the face (NaN where there is none), start and span of a torus's tube
    angle · spline (f,) i32: which spline, or -1 · spline_head (s, 7), spline_data: :mod:`contour.geometry.bspline_rows` ·
    edge_kind (e,) i32 · edge_data (e, 12): :mod:`contour.geometry.curve_rows` · polyline (p, 3) and polyline_span (e, 2) for edges
    without a formula · chord_mm: how far the triangles stray from the faces.
    """

    vertices: NDArray[np.float64]
    triangles: NDArray[np.int32]
    face: NDArray[np.int32]
    side_edge: NDArray[np.int32]
    side_sense: NDArray[np.int8]
    uv: NDArray[np.float64]
    face_kind: NDArray[np.int32]
    face_data: NDArray[np.float64]
    spline: NDArray[np.int32]
    spline_head: NDArray[np.int64]
    spline_data: NDArray[np.float64]
    edge_kind: NDArray[np.int32]
    edge_data: NDArray[np.float64]
    polyline: NDArray[np.float64]
    polyline_span: NDArray[np.int64]
    chord_mm: float

    def __post_init__(self) -> None:
        assert self.face_data.shape[1:] == (FACE_ROW,) and self.spline_head.shape[1:] == (HEAD,)

    def tree(self) -> TriangleTree:
        return build_tree(self.vertices, self.triangles)


def save_exact(solid: ExactSolid, path: Path) -> None:
    """Keep a solid's faces as arrays in one file; mm."""
    np.savez(path, **{f.name: getattr(solid, f.name) for f in fields(solid)})


def load_exact(path: Path) -> ExactSolid:
    """The solid that :func:`save_exact` kept; mm."""
    with np.load(path) as data:
        values = {f.name: data[f.name] for f in fields(ExactSolid)}
    values["chord_mm"] = float(values["chord_mm"])
    return ExactSolid(**values)
