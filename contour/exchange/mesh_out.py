"""Mesh files out by their ending: STL, OBJ, PLY, 3MF."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.exchange.obj_out import write_obj
from contour.exchange.ply_out import write_ply
from contour.exchange.stl_out import write_stl
from contour.exchange.threemf import write_3mf
from contour.recipe.problem import ContourError, Where

__all__ = ["MESH_FORMATS", "Body", "write_mesh"]

Body = tuple[str, NDArray[np.float64], NDArray[np.int32]]


def _stl(path: Path, bodies: Sequence[Body], *, factor: float = 1.0, unit: str = "mm") -> int:
    points, corners, base = [], [], 0
    for _, vertices, triangles in bodies:
        points.append(vertices)
        corners.append(triangles + base)
        base += len(vertices)
    return write_stl(path, np.vstack(points), np.vstack(corners).astype(np.int32), factor=factor)


_WRITERS: dict[str, Callable[..., int]] = {"stl": _stl, "obj": write_obj, "ply": write_ply, "3mf": write_3mf}
MESH_FORMATS = tuple(_WRITERS)


def write_mesh(
    path: Path, bodies: Sequence[Body], *, factor: float = 1.0, unit: str = "mm", kind: str | None = None
) -> int:
    """Write bodies in the format of the file's ending (or `kind`); returns the number of triangles.

    Raises ContourError (bad-params) for an ending that is no mesh format.
    Vertices in mm, written multiplied by `factor`, in `unit`.
    """
    ending = kind or path.suffix.lower().lstrip(".")
    if ending not in _WRITERS:
        raise ContourError(
            "bad-params",
            "the file's ending names no mesh format",
            where=Where(file=path.name),
            got=ending or "no ending",
            need=", ".join(MESH_FORMATS),
            remedy="name the file part.stl, for instance",
        )
    options: dict[str, Any] = {"factor": factor, "unit": unit}
    return _WRITERS[ending](path, bodies, **options)
