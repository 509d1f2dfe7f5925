"""``python -m tests.compiled``: calls once what is compiled at its first call, for two workers of the suite would both compile it at the same time.

Best run beside checks that leave a core idle.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from contour.check.exact_arrays import exact_arrays
from contour.check.exact_distance import signed_distances
from contour.fit.modelled import exact_regions
from contour.fit.segment.whole import Settings, segment
from contour.job.work import warm as children  # as every child begins
from contour.mesh.prepare import prepare_scan
from contour.register.symmetry import symmetry_planes
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.solid.shape import NamedShape
from contour.solid.tessellate import tessellate
from tests.conftest import circle, prism, raw_scan, rectangle


def main() -> None:
    body: NamedShape = prism([*rectangle(40, 30), circle(15, 15, 6)], 10)
    exact = exact_arrays(body.shape)
    shot = virtual_scan(exact, ScanSettings(spacing_mm=1.0, noise_mm=0.02, seed=3))
    scan = prepare_scan(raw_scan(shot.vertices[shot.facets]), 1.0)
    signed_distances(exact, scan.vertices[:1000])
    segment(scan, Settings())
    with tempfile.TemporaryDirectory(prefix="contour-") as folder:
        children.warm(Path(folder))
    mesh = tessellate(body.shape, chord_mm=0.1, angle_rad=0.5)
    exact_regions(prepare_scan(raw_scan(np.asarray(mesh.vertices[mesh.triangles], float)), 1.0))
    symmetry_planes(scan.vertices, scan.facets, scan.across, noise_mm=scan.noise_mm)


if __name__ == "__main__":
    main()
