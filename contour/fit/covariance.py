"""Standard uncertainties of everything a fit has found, honest where neighbours share their noise.

The covariance is the cluster-robust one (Liang & Zeger, Longitudinal data analysis using generalized linear models,
Biometrika 73, 1986): residuals are summed in cells of the surface before they are squared, so that what neighbouring points
have in common (smoothing in the scanner, waviness, wear) is not mistaken for many independent readings.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.fit.primitives import UNKNOWNS, jacobian
from contour.geometry.surface_rows import PLANE
from contour.geometry.surfaces import Surface, distances, gradients

__all__ = ["Covariance", "fit_covariance"]

Array = NDArray[np.float64]
_CELL_EDGES = 5.0  # cells of so many facet sides: farther apart, scan points share next to nothing
_FEW_CELLS = 12
# With few cells their squares tell little; then points are taken as independent, their variance so many times larger.
_SHARED_NOISE = 4.0


@dataclass(frozen=True, slots=True)
class Covariance:
    """Standard uncertainties. position: mm, of a plane along its normal in the middle of the points, of an axis across itself
    there, of a centre along its worst direction · direction: radians, of normal or axis, in the worst direction · radius,
    minor: mm · half_angle: radians. None for what the kind does not have; infinite for what the points do not settle."""

    position: float
    direction: float | None = None
    radius: float | None = None
    minor: float | None = None
    half_angle: float | None = None

    @property
    def settled(self) -> bool:
        """Whether the points told anything."""
        return math.isfinite(self.position)

    def as_json(self) -> dict[str, float]:
        rows = {k: getattr(self, k) for k in ("position", "direction", "radius", "minor", "half_angle")}
        return {k: float(v) for k, v in rows.items() if v is not None and np.isfinite(v)}


def _bias(surface: Surface, edge_mm: float) -> float:
    """Standard uncertainty of what every scanner does to a round: averaged over about one facet side around each point, it
    reads closer to the middle of curvature by side² / 4r; how much a scanner averages is not known, so that this is half the
    width of a rectangular distribution (JCGM 100:2008, 4.3.7)."""
    if surface.kind == "plane":
        return 0.0
    r = surface.minor if surface.kind == "torus" else surface.radius
    return float(edge_mm**2 / (4 * max(r, edge_mm)) / np.sqrt(3))


def _largest(block: Array) -> float:
    return float(np.sqrt(max(np.linalg.eigvalsh(block)[-1], 0.0)))


def fit_covariance(surface: Surface, points: Array, *, edge_mm: float, least_mm: float = 0.0) -> Covariance:
    """points (n, 3): those the surface was fitted to; edge_mm: mean side of the scan's facets · least_mm: standard uncertainty
    of a point that is known beforehand, such as a file's rounding; what the points scatter by counts where it is more.

    The point on the axis must be abreast of the points, as the fit leaves it.
    """
    code = surface.code
    m = UNKNOWNS[code]
    p = surface.packed()
    if code == PLANE:  # the place along the normal is asked for in the middle of the points
        middle = points.mean(axis=0)
        p[:3] = middle - ((middle - p[:3]) @ p[3:6]) * p[3:6]
    f, rows = jacobian(code, p, np.ascontiguousarray(points))
    lost = Covariance(math.inf, None if surface.kind == "sphere" else math.inf, math.inf)
    if len(points) <= m:
        return lost
    scale = np.maximum(np.abs(rows).max(axis=0), 1e-12)
    rows = rows / scale
    normal = rows.T @ rows
    if np.linalg.cond(normal) > 1e13:
        return lost
    inverse = np.linalg.inv(normal)
    size = _CELL_EDGES * edge_mm
    # Cells of feet, not of points: a grid plane along the surface would sort points by the sign of their own residual.
    feet = points - distances(surface, points)[:, None] * gradients(surface, points)
    cells = np.unique(np.floor(feet / size + 0.37).astype(np.int64), axis=0, return_inverse=True)[1].ravel()
    n_cells = int(cells.max()) + 1
    rest = f - rows @ (inverse @ (rows.T @ f))
    plain = max(float(rest @ rest) / (len(points) - m), least_mm**2) * inverse
    if n_cells > _FEW_CELLS + m:
        sums = np.zeros((n_cells, m))
        np.add.at(sums, cells, rows * rest[:, None])
        robust = inverse @ (sums.T @ sums) @ inverse * (n_cells / (n_cells - m))
        cov = robust + plain * 1e-3
        # Cells that happen to agree must not promise more than independent points would.
        grow = np.sqrt(np.maximum(np.diag(plain) / np.diag(cov), 1.0))
        cov = cov * np.outer(grow, grow)
    else:
        cov = _SHARED_NOISE * plain
    cov = cov / np.outer(scale, scale)
    bias = _bias(surface, edge_mm)

    def sigma(k: int, extra: float = 0.0) -> float:
        return float(np.hypot(np.sqrt(max(cov[k, k], 0.0)), extra))

    if surface.kind == "plane":
        return Covariance(sigma(0), _largest(cov[1:3, 1:3]))
    if surface.kind == "sphere":
        return Covariance(_largest(cov[:3, :3]), None, sigma(3, bias))
    across, tilt = _largest(cov[:2, :2]), _largest(cov[2:4, 2:4])
    if surface.kind == "cylinder":
        return Covariance(across, tilt, sigma(4, bias))
    if surface.kind == "cone":
        return Covariance(across, tilt, float(np.hypot(sigma(4) / np.cos(surface.half_angle), bias)), None, sigma(5))
    return Covariance(max(across, sigma(6)), tilt, sigma(5, bias), sigma(4, bias))
