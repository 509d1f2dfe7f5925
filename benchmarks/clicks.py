"""Clicks all over scans of known parts: is what grows there the surface that the place belongs to?"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator

import numpy as np
from scipy.spatial import cKDTree

from benchmarks.segment_truth import holed_scan
from contour.check.exact_arrays import exact_arrays
from contour.fit.region import grow_region
from contour.geometry.surface_rows import CODES
from contour.geometry.surfaces import distances
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
    """The six truth parts, facets of 0.8 mm, noise 0.02 mm."""
    parts = {**TRUTH_PARTS, "bracket": lambda: bracket().shape, "pump cover": lambda: pump_cover().shape}
    total: Counter[str] = Counter()
    rng = np.random.default_rng(11)
    seconds = []
    for make in parts.values():
        solid = exact_arrays(make())
        scan, true = holed_scan(solid, spacing=0.8, noise=0.02, missing=0.0, seed=7)
        near = cKDTree(scan.centroids)
        for k, facet in enumerate(rng.permutation(len(scan.facets))[:_CLICKS].tolist()):
            begun = time.perf_counter()
            try:
                s = grow_region(scan, np.array([facet])).surface
            except ContourError:
                total["nothing"] += 1
                continue
            if k > 5:  # compiled
                seconds.append(time.perf_counter() - begun)
            code = CODES[s.kind]
            faces = np.unique(true[near.query_ball_point(scan.centroids[facet], _BESIDE_MM)])
            around = np.array(near.query_ball_point(scan.centroids[facet], _AROUND_MM))
            right = any(
                np.median(np.abs(distances(s, scan.centroids[around[true[around] == face]]))) < _NEAR_MM
                for face in faces[solid.face_kind[faces] == code]
            )
            total["right" if right else f"a {s.kind} that is not there"] += 1
    clicks = sum(total.values())
    rest = ", ".join(f"{n} {what}" for what, n in total.most_common() if what != "right")
    yield (
        f"{clicks:,} clicks on six parts: the surface of the place or one within 1 mm",
        f"{100 * total['right'] / clicks:.1f} %; {rest}; a click {1e3 * float(np.median(seconds)):.0f} ms",
    )
