"""What repeats around the axes of a scan's round surfaces: teeth, spokes, holes on a circle."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from contour.geometry.surfaces import Surface
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError
from contour.register.turned_alike import turned_alike

__all__ = ["RoundRegion", "alike_around"]

_AXES = 3  # the largest, that are asked
_FEWEST = 3  # two halves alike are a symmetry, not a row of things
_AS_MANY = {"cylinder", "cone", "torus"}
_SAME_COS, _SAME_SHARE = 0.9999, 0.01  # of directions, and of the scan's size: axes that are one


@dataclass(frozen=True, slots=True)
class RoundRegion:
    """A region by its number, with its surface and area, mm²."""

    id: int
    surface: Surface
    area: float


def alike_around(scan: PreparedScan, regions: Sequence[RoundRegion], *, modelled: bool) -> list[dict[str, Any]]:
    """[{count, agree, region (number of the largest about that axis), point, axis (mm)}], most alike first.

    modelled: facets are as large as its faces allow, and say nothing of how fine it is.
    """
    size = float(np.linalg.norm(np.ptp(scan.vertices, axis=0)))
    side = min(scan.edge_mm, 0.005 * size) if modelled else scan.edge_mm
    out = []
    for group in _about_one_axis(regions, _SAME_SHARE * size)[:_AXES]:
        most = max(group, key=lambda r: r.area)
        at, along = np.array(most.surface.origin), np.array(most.surface.axis)
        try:
            found = turned_alike(
                scan.vertices, scan.facets, scan.across, at, along, noise_mm=scan.noise_mm, side_mm=side
            )
        except ContourError:
            continue
        if found.count >= _FEWEST:
            out.append(
                {
                    "count": found.count,
                    "agree": found.agree,
                    "region": most.id,
                    "point": at.tolist(),
                    "axis": along.tolist(),
                }
            )
    return sorted(out, key=lambda row: -int(row["count"]))


def _about_one_axis(regions: Sequence[RoundRegion], near_mm: float) -> list[list[RoundRegion]]:
    """Regions by their axis, the one with the largest area first."""
    groups: list[list[RoundRegion]] = []
    for r in sorted((r for r in regions if r.surface.kind in _AS_MANY), key=lambda r: -r.area):
        at, along = np.array(r.surface.origin), np.array(r.surface.axis)
        for group in groups:
            first = group[0].surface
            to = at - np.array(first.origin)
            aside = np.linalg.norm(np.cross(to, first.axis))
            if abs(float(along @ np.array(first.axis))) > _SAME_COS and aside < near_mm:
                group.append(r)
                break
        else:
            groups.append([r])
    return sorted(groups, key=lambda g: -sum(r.area for r in g))
