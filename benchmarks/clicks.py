"""Clicks all over scans of known parts: is what grows there the surface that the place belongs to?"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from benchmarks.segment_truth import holed_scan, uneven_scan
from contour.check.exact_arrays import exact_arrays
from contour.check.exact_solid import ExactSolid
from contour.fit.region import grow_region
from contour.geometry.surface_rows import CODES
from contour.geometry.surfaces import distances
from contour.mesh.prepare import PreparedScan
from contour.recipe.problem import ContourError
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import TRUTH_PARTS

__all__ = ["run"]

_CLICKS = 200  # a part
_BESIDE_MM = 1.0  # a place so near to another face may mean that one
_AROUND_MM = 8.0  # half of what is scanned of that face so far around has to lie so near to the surface
_NEAR_MM = 0.02


def run() -> Iterator[tuple[str, str]]:
    """The six truth parts, facets of 0.8 mm, noise 0.02 mm; then the noisy half of those that were scanned with 0.01 and 0.05 mm."""
    parts = {**TRUTH_PARTS, "bracket": lambda: bracket().shape, "pump cover": lambda: pump_cover().shape}
    even, uneven = _Told(), _Told()
    rng, other = np.random.default_rng(11), np.random.default_rng(12)
    for make in parts.values():
        solid = exact_arrays(make())
        scan, true = holed_scan(solid, spacing=0.8, noise=0.02, missing=0.0, seed=7)
        even.click(solid, scan, true, rng.permutation(len(scan.facets))[:_CLICKS], _NEAR_MM)
        scan, true, loud = uneven_scan(solid, spacing=0.8, noises=(0.01, 0.05), seed=7)
        uneven.click(solid, scan, true, other.permutation(np.flatnonzero(loud))[: _CLICKS // 2], 1.5 * _NEAR_MM)
    yield even.line("six parts")
    yield uneven.line("the noisy half of six parts, five times as noisy as the other")


class _Told:
    """What clicks have found."""

    def __init__(self) -> None:
        self.total: Counter[str] = Counter()
        self.seconds: list[float] = []

    def click(
        self, solid: ExactSolid, scan: PreparedScan, true: NDArray[np.int64], facets: NDArray[np.int64], near_mm: float
    ) -> None:
        near = cKDTree(scan.centroids)
        for k, facet in enumerate(facets.tolist()):
            begun = time.perf_counter()
            try:
                s = grow_region(scan, np.array([facet])).surface
            except ContourError:
                self.total["nothing"] += 1
                continue
            if k > 5:  # compiled
                self.seconds.append(time.perf_counter() - begun)
            code = CODES[s.kind]
            faces = np.unique(true[near.query_ball_point(scan.centroids[facet], _BESIDE_MM)])
            around = np.array(near.query_ball_point(scan.centroids[facet], _AROUND_MM))
            right = any(
                np.median(np.abs(distances(s, scan.centroids[around[true[around] == face]]))) < near_mm
                for face in faces[solid.face_kind[faces] == code]
            )
            self.total["right" if right else f"a {s.kind} that is not there"] += 1

    def line(self, where: str) -> tuple[str, str]:
        clicks = sum(self.total.values())
        rest = ", ".join(f"{n} {what}" for what, n in self.total.most_common() if what != "right")
        return (
            f"{clicks:,} clicks on {where}: the surface of the place or one within 1 mm",
            f"{100 * self.total['right'] / clicks:.1f} %; {rest}; a click {1e3 * float(np.median(self.seconds)):.0f} ms",
        )
