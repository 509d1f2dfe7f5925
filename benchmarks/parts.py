"""Large seeded inputs, made once per run."""

from __future__ import annotations

from functools import cache

import numpy as np
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet

from contour.check.exact_arrays import exact_arrays
from contour.exchange.raw import RawScan
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.sketch.entities import Entity
from contour.solid.boolean import combine
from contour.solid.shape import NamedShape, edges, faces
from demo.bracket import prism, rounded_rectangle, whole_circle

__all__ = ["big_scan", "plate"]


@cache
def plate(columns: int, rows: int) -> NamedShape:
    """A plate with two faces per column and row, and six more: bores, and bosses with rounded rims, by turns."""
    size = 14 + 14.6 * columns, 10 + 14.3 * rows
    body = prism(rounded_rectangle(0, 0, *size, 10, "o"), (0, 0, 0), np.array([0, 0, 1.0]), 14, "plate")
    bosses: list[Entity] = []
    bores: list[Entity] = []
    for i in range(columns):
        for j in range(rows):
            x, y = 14 + 14.6 * i, 12 + 14.3 * j
            (bosses if (i + j) % 2 else bores).append(whole_circle(x, y, 3.6 if (i + j) % 2 else 3.0, f"c{i}{j}"))
    body = combine(body, prism(bores, (0, 0, -5), np.array([0, 0, 1.0]), 40, "bores"), "subtract")
    body = combine(body, prism(bosses, (0, 0, 13), np.array([0, 0, 1.0]), 7, "bosses"), "add")
    maker = BRepFilletAPI_MakeFillet(body.shape)
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.GeomAbs import GeomAbs_CurveType

    for edge in edges(body.shape):
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle and abs(curve.Circle().Location().Z() - 20) < 1e-6:
            maker.Add(0.8, edge)
    shape = maker.Shape()
    return NamedShape(shape, tuple(f"f{i}" for i in range(len(faces(shape)))))


@cache
def big_scan() -> PreparedScan:
    """The bracket with some half a million facets."""
    from demo.bracket import bracket

    scan = virtual_scan(exact_arrays(bracket().shape), ScanSettings(spacing_mm=0.362, noise_mm=0.02, seed=4))
    corners = scan.vertices[scan.facets]
    return prepare_scan(RawScan(corners, np.arange(len(corners)), len(corners), "stl"), 1.0)
