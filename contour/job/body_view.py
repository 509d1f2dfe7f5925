"""What the view and the distances need of a body, computed once with the kernel and kept beside its shape."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from contour.job.view import write_view
from contour.mesh.exact import save_exact
from contour.solid.exact_arrays import exact_arrays, face_kinds
from contour.solid.shape import read_shape
from contour.solid.tessellate import tessellate
from contour.steps.products import BodyProduct

__all__ = ["body_faces", "save_body_view"]


def save_body_view(product: BodyProduct, folder: Path) -> None:
    """Writes view.bin (triangles with face numbers, edge lines) and exact.npz (for :mod:`contour.mesh.exact`)."""
    shape = read_shape(product.brep)
    mesh = tessellate(shape, chord_mm=0.05, angle_rad=0.35)
    origin = np.round((mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0)) / 2, 3)
    lines = [np.repeat(line, 2, axis=0)[1:-1] for line in mesh.edge_polylines if len(line) > 1]
    arrays = {
        "positions": (mesh.vertices - origin).astype("<f4").ravel(),
        "indices": mesh.triangles.astype("<u4").ravel(),
        "faces": mesh.face.astype("<u4"),
        "edges": (np.vstack(lines) - origin).astype("<f4").ravel(),
    }
    write_view(folder / "view.bin", arrays, origin)
    save_exact(exact_arrays(shape), folder / "exact.npz")


def body_faces(product: BodyProduct) -> list[dict[str, str]]:
    """Name and kind of each face, in the order of the view's face numbers."""
    kinds = face_kinds(read_shape(product.brep))
    return [{"name": n, "kind": k} for n, k in zip(product.names, kinds, strict=True)]
