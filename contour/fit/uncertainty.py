"""Standard uncertainty of what was fitted: from the fit's own Jacobian and residuals."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.fit.surface import Surface, distances
from contour.mesh.slice import plane_frame

__all__ = ["fitted_uncertainty"]

# Neighbouring scan points share part of their noise (smoothing in the scanner and in meshing), so that n points tell
# less than n independent ones; the factor on the variance is a choice, checked against repeated virtual scans.
_SHARED_NOISE = 4.0


def fitted_uncertainty(surface: Surface, points: NDArray[np.float64]) -> float:
    """Standard uncertainty, mm, of a plane's place along its normal (at the middle of the points), or of a cylinder's
    radius. `points` (n, 3) are those the surface was fitted to. Infinite when they do not settle it.

    Linear propagation: s² (JᵀJ)⁻¹, with s² from the residuals.
    """
    n = len(points)
    r = distances(surface, points)
    axis = np.array(surface.axis)
    frame = plane_frame(np.array(surface.origin), axis)
    u, v = frame.u, frame.v
    if surface.kind == "plane":
        unknowns, which = 3, 0
        local = points - points.mean(axis=0)
        jac = np.column_stack([np.ones(n), local @ u, local @ v])
    else:
        unknowns, which = 5, 4
        d = points - np.array(surface.origin)
        height = d @ axis
        radial = d - height[:, None] * axis
        radial /= np.maximum(np.linalg.norm(radial, axis=1), 1e-12)[:, None]
        height = height - height.mean()
        cu, cv = radial @ u, radial @ v
        jac = np.column_stack([cu, cv, height * cu, height * cv, np.ones(n)])
    if n <= unknowns:
        return float("inf")
    normal = jac.T @ jac
    if np.linalg.cond(normal) > 1e14:
        return float("inf")
    variance = float(r @ r) / (n - unknowns)
    return float(np.sqrt(variance * _SHARED_NOISE * np.linalg.inv(normal)[which, which]))
