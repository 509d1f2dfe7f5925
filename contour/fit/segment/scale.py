"""Parts of any size, from a watch's screw to a ship's hull: taken apart at a scale where facets are about half a millimetre.

Fits and searches have floors and ceilings in mm that suit parts a person can hold. A scan whose facets are far from that is made larger
or smaller by a power of ten, and what was found is given back in its own measure.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from contour.fit.covariance import Covariance
from contour.fit.thread.form import ThreadForm
from contour.geometry.surfaces import Surface
from contour.mesh.prepare import PreparedScan

__all__ = ["handy_scale", "scaled_covariance", "scaled_scan", "scaled_surface", "scaled_thread"]

_HANDY = 0.5  # mm, a facet's side
_FINEST, _COARSEST = 0.02, 20.0  # as they are: a power of ten would change nothing but rounding


def handy_scale(scan: PreparedScan) -> float:
    """By what the scan's mm are to be multiplied; 1 for what can be worked on as it is."""
    if _FINEST <= scan.edge_mm <= _COARSEST or scan.edge_mm <= 0:
        return 1.0
    return float(10.0 ** -round(math.log10(scan.edge_mm / _HANDY)))


def scaled_scan(scan: PreparedScan, by: float) -> PreparedScan:
    """The scan `by` times as large, about the origin: vertices (n, 3) and all that is told in mm."""
    return replace(
        scan,
        vertices=scan.vertices * by,
        centroids=scan.centroids * by,
        areas=scan.areas * by**2,
        vertex_areas=scan.vertex_areas * by**2,
        noise_mm=scan.noise_mm * by,
        edge_mm=scan.edge_mm * by,
    )


def _times(values: tuple[float, float, float], by: float) -> tuple[float, float, float]:
    x, y, z = values
    return x * by, y * by, z * by


def scaled_surface(s: Surface, by: float) -> Surface:
    """The surface `by` times as large, about the origin; mm."""
    return replace(s, origin=_times(s.origin, by), radius=s.radius * by, minor=s.minor * by)


def scaled_covariance(u: Covariance | None, by: float) -> Covariance | None:
    """Standard uncertainties of what is `by` times as large; mm and radians."""
    if u is None:
        return None
    radius, minor = (None if x is None else x * by for x in (u.radius, u.minor))
    return replace(u, position=u.position * by, radius=radius, minor=minor)


def scaled_thread(t: ThreadForm | None, by: float) -> ThreadForm | None:
    """The thread `by` times as large, about the origin; mm."""
    if t is None:
        return None
    lengths = ("pitch", "mean_radius", "u_pitch", "u_diameter", "low", "high", "rms")
    return replace(
        t,
        point=np.asarray(t.point * by),
        waves=np.asarray(t.waves * by),
        **{name: getattr(t, name) * by for name in lengths},
    )
