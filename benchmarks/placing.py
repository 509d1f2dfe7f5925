"""Placing: demo scans onto their solids from 50 random poses, whole and with 40 % missing; symmetry of half-worn parts."""

from __future__ import annotations

import time
from collections.abc import Iterator
from functools import partial

import numpy as np
from scipy.spatial.transform import Rotation

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.geometry.rigid import inverse, moved, placement, turned
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.recipe.problem import ContourError
from contour.register.best_fit import best_fit
from contour.register.symmetry import symmetry_planes
from contour.simulate.scanner import ScanSettings, VirtualScan, virtual_scan
from demo.bracket import POSE, bracket, bracket_scan
from demo.pump_cover import LOWER_POSE, UPPER_POSE, lower_scan, pump_cover, upper_scan
from tests.conftest import raw_scan
from tests.register.test_placing import stepped, symmetric

__all__ = ["run"]

POSES = 50


def _prepared(scan: VirtualScan) -> PreparedScan:
    return prepare_scan(raw_scan(scan.vertices[scan.facets]), 1.0)


def _aligned(
    scan: PreparedScan, solid, own: np.ndarray, missing: float, sized: bool
) -> tuple[int, float, float, float]:
    """Right ones of 50, worst corner of the solid off its place (mm), worst rms against the true pose's, median seconds.

    A cover that looks the same after a turn (`sized`) is right when its rms is as good as at the true pose.
    """
    right, worst, excess, seconds = 0, 0.0, 0.0, []
    for seed in range(POSES):
        rng = np.random.default_rng(seed)
        pose = placement(Rotation.random(random_state=rng).as_matrix(), rng.uniform(-200, 200, 3))
        along = scan.centroids @ rng.normal(size=3)
        facets = scan.facets[along >= np.quantile(along, missing)]
        used, index = np.unique(facets, return_inverse=True)
        points = scan.vertices[used]
        begun = time.perf_counter()
        try:
            fit = best_fit(
                moved(pose, points),
                index.reshape(-1, 3).astype(np.int32),
                solid,
                partial(signed_distances, solid),
                noise_mm=scan.noise_mm,
            )
        except ContourError:
            continue
        seconds.append(time.perf_counter() - begun)
        off = float(np.abs(moved(fit.matrix @ pose @ inverse(own), solid.vertices) - solid.vertices).max())
        true = float(np.sqrt((signed_distances(solid, moved(own, points))[0] ** 2).mean()))
        good = fit.rms < true + 0.05 * scan.noise_mm and (sized or off < 0.1)
        right += good
        if good:
            worst, excess = max(worst, 0.0 if sized else off), max(excess, (fit.rms - true) / scan.noise_mm)
    return right, worst, excess, float(np.median(seconds))


def run() -> Iterator[tuple[str, str]]:
    cases = [
        ("bracket", bracket_scan(), bracket(), POSE, False),
        ("pump cover from above, spoilt", upper_scan(), pump_cover(), UPPER_POSE, True),
        ("pump cover from below", lower_scan(), pump_cover(), LOWER_POSE, True),
    ]
    for name, made, body, pose, sized in cases:
        scan, solid = _prepared(made), exact_arrays(body.shape)
        own = inverse(placement(pose.rotation, np.array(pose.shift_mm)))
        for missing in (0.0, 0.4):
            right, worst, excess, seconds = _aligned(scan, solid, own, missing, sized)
            yield (
                f"{name}, {'40 % missing' if missing else 'whole'}: right of {POSES} (wanted: all)",
                f"{right}, worst {worst:.4f} mm, rms over the true pose's at most {100 * excess:.1f} % of the noise, {seconds:.1f} s each",
            )
    for wear in (0.0, 0.2, 0.5):
        yield f"symmetry of a half-worn part, wear {wear} mm (wanted: 0.1 deg, 0.05 mm)", _symmetry(wear)
    scan = _prepared(virtual_scan(exact_arrays(stepped().shape), ScanSettings(spacing_mm=1.1, noise_mm=0.02, seed=4)))
    try:
        symmetry_planes(scan.vertices, scan.facets, scan.across, noise_mm=scan.noise_mm)
        said = "found one"
    except ContourError as error:
        said = f"said so: {error.problem.got}"
    yield "symmetry of a part without any", said


def _symmetry(wear: float) -> str:
    def worn(p: np.ndarray) -> np.ndarray:
        out = p.copy()
        top = (p[:, 0] > 34) & (p[:, 2] > 11.9)
        out[top, 2] -= wear * np.clip((p[top, 0] - 34) / 8, 0, 1)
        out[p[:, 0] > 59.9, 0] -= wear
        return out

    angle, shift = 0.0, 0.0
    for seed in range(5):
        made = virtual_scan(
            exact_arrays(symmetric().shape), ScanSettings(spacing_mm=1.0, noise_mm=0.02, seed=seed, wear=worn)
        )
        rng = np.random.default_rng(seed)
        pose = placement(Rotation.random(random_state=rng).as_matrix(), rng.uniform(-80, 80, 3))
        scan = prepare_scan(raw_scan(moved(pose, made.vertices)[made.facets]), 1.0)
        best = symmetry_planes(scan.vertices, scan.facets, scan.across, noise_mm=scan.noise_mm)[0]
        normal = turned(inverse(pose), np.array(best.normal))
        angle = max(angle, float(np.degrees(np.arccos(min(1.0, abs(normal[0]))))))
        shift = max(shift, float(abs((moved(inverse(pose), np.array(best.point)) - [30, 20, 0]) @ normal)))
    return f"5 poses, worst {angle:.4f} deg, {shift:.4f} mm"
