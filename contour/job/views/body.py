"""What the view and the distances need of a body, computed once with the kernel and kept beside its shape."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from contour.job.views.scan import write_view
from contour.mesh.exact import save_exact
from contour.solid.exact_arrays import exact_arrays
from contour.solid.facts import face_facts
from contour.solid.mass import area, volume
from contour.solid.shape import NamedShape, read_shape, solids
from contour.solid.tessellate import tessellate
from contour.steps.products import BodyProduct

__all__ = ["body_facts", "save_body_view", "save_coarse_view"]


def _save_view(shape: Any, folder: Path, chord_mm: float) -> None:
    mesh = tessellate(shape, chord_mm=chord_mm, angle_rad=0.35)
    origin = np.round((mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0)) / 2, 3)
    lines = [np.repeat(line, 2, axis=0)[1:-1] for line in mesh.edge_polylines if len(line) > 1]
    arrays = {
        "positions": (mesh.vertices - origin).astype("<f4").ravel(),
        "indices": mesh.triangles.astype("<u4").ravel(),
        "faces": mesh.face.astype("<u4"),
        "edges": (np.vstack([np.empty((0, 3)), *lines]) - origin).astype("<f4").ravel(),
    }
    write_view(folder / "view.bin", arrays, origin)


def save_body_view(product: BodyProduct, folder: Path) -> None:
    """Writes view.bin (triangles with face numbers, edge lines) and exact.npz (for :mod:`contour.mesh.exact`)."""
    shape = read_shape(product.brep)
    _save_view(shape, folder, 0.05)
    save_exact(exact_arrays(shape), folder / "exact.npz")


def save_coarse_view(product: BodyProduct, folder: Path) -> None:
    """Only a coarse view.bin: enough to see while a value is being typed."""
    _save_view(read_shape(product.brep), folder, 0.3)


def body_facts(product: BodyProduct, *, measure: bool = True) -> dict[str, Any]:
    """Volume and area (if measured), pieces, and each face in the order of the view's face numbers."""
    shape = read_shape(product.brep)
    listed = face_facts(NamedShape(shape, product.names))
    facts: dict[str, Any] = {"faces": len(listed), "solids": len(solids(shape)), "face_list": listed}
    if measure:
        facts |= {"volume": volume(shape), "area": area(shape)}
    return facts
