"""OBJ out: one object per body, shared vertices, full precision."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

__all__ = ["write_obj"]


def write_obj(
    path: Path,
    bodies: Sequence[tuple[str, NDArray[np.float64], NDArray[np.int32]]],
    *,
    factor: float = 1.0,
    unit: str = "mm",
) -> int:
    """Write (name, vertices (n, 3), triangles (m, 3)) per body, coordinates multiplied by `factor`.

    OBJ knows no unit, so that a comment says it. Returns the number of triangles.
    """
    base, count = 1, 0
    with path.open("w", encoding="ascii", errors="replace") as out:
        out.write(f"# Usable Contour, lengths in {unit}\n")
        for name, vertices, triangles in bodies:
            label = re.sub(r"\W+", "_", name, flags=re.ASCII) or "body"
            out.write(f"o {label}\n")
            np.savetxt(out, vertices * factor, fmt="v %.9g %.9g %.9g")
            np.savetxt(out, triangles + base, fmt="f %d %d %d")
            base += len(vertices)
            count += len(triangles)
    return count
