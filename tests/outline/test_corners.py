"""Corners of a scanned block in cuts through it: two are cut off straight, two are rounded, and are told as what they are."""

from __future__ import annotations

import numpy as np
import pytest

from benchmarks.gaps import same_structure
from contour.check.exact_arrays import exact_arrays
from contour.geometry.frames import plane_frame
from contour.mesh.prepare import prepare_scan
from contour.outline.corners import corner_of_lines, cut_straight
from contour.outline.section import section_loops
from contour.simulate.scanner import Pose, ScanSettings, virtual_scan
from contour.sketch.entities import Entity
from tests.conftest import prism, raw_scan

LONG, WIDE, CUT = 34.0, 24.0, 1.8
TRUE = ("line", "line", "line", "arc", "line", "arc", "line", "line")
UP = np.array([0.0, 0.0, 1.0])


def block_outline() -> list[Entity]:
    """Counter-clockwise from the lower left: chamfers below, fillets above."""
    x, y, s = LONG - CUT, WIDE - CUT, CUT * float(np.sqrt(0.5))
    spots = [(CUT, 0.0), (x, 0.0), (LONG, CUT), (LONG, y), (x, WIDE), (CUT, WIDE), (0.0, y), (0.0, CUT)]
    mids = {3: (x + s, y + s), 5: (CUT - s, y + s)}
    ends = [*spots[1:], spots[0]]
    return [Entity(f"e{k}", kind, spots[k], ends[k], mids.get(k)) for k, kind in enumerate(TRUE)]


# Along the rows of the scan's own grid a cut crosses two sides of it close to each other, again and again.
@pytest.mark.parametrize("turn", [(0.0, 0.0, 0.0), (4.0, -3.0, 11.0)])
def test_chamfers_are_lines_and_fillets_are_arcs(turn) -> None:
    pose = Pose(turn_deg=turn)
    settings = ScanSettings(spacing_mm=0.55, noise_mm=0.02, pose=pose, seed=5)
    made = virtual_scan(exact_arrays(prism(block_outline(), 12.0).shape), settings)
    scan = prepare_scan(raw_scan(made.vertices[made.facets]), 1.0)
    right = 0
    heights = np.linspace(2.0, 10.0, 17)
    for z in heights:
        frame = plane_frame(pose.apply(np.array([[LONG / 2, WIDE / 2, z]]))[0], pose.rotation @ UP)
        (loop,) = section_loops(scan, frame.origin, frame.normal, frame=frame)
        right += same_structure([p.kind for p in loop.outline.pieces], TRUE)
    assert right >= 15, f"{right} of {len(heights)}"


def cut_corner(kind: str, size: float, *, blur: float, noise: float, seed: int) -> np.ndarray:
    """A right corner at the origin, coming along x and leaving along y, as a scanner that averages over `blur` shows it: points (n, 2), mm."""
    if kind == "chamfer":
        path = np.array([[-12.0, 0.0], [-size, 0.0], [0.0, size], [0.0, 12.0]])
    else:
        t = np.linspace(-np.pi / 2, 0.0, 200)
        round_ = np.column_stack([-size + size * np.cos(t), size + size * np.sin(t)])
        path = np.vstack([[-12.0, 0.0], round_, [0.0, 12.0]])
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    step = 0.01
    dense = np.column_stack([np.interp(np.arange(0, along[-1], step), along, path[:, d]) for d in range(2)])
    reach = int(4 * blur / step)
    bell = np.exp(-0.5 * (np.arange(-reach, reach + 1) * step / blur) ** 2)
    soft = np.column_stack([np.convolve(dense[:, d], bell / bell.sum(), mode="valid") for d in range(2)])
    points = soft[::30]
    return points + np.random.default_rng(seed).normal(0, noise, points.shape)


@pytest.mark.parametrize("seed", range(5))
@pytest.mark.parametrize("size", [1.8, 3.0])
def test_what_a_corner_speaks_for(size, seed) -> None:
    """On curves made here by another way: the sign tells a straight cut from a fillet, also where a scanner has rounded both its ends."""
    edge, noise, blur = 0.6, 0.015, 0.4
    x, y = np.array([1.0, 0.0]), np.array([0.0, 1.0])
    for kind, sign in (("chamfer", 1), ("fillet", -1)):
        points = cut_corner(kind, size, blur=blur, noise=noise, seed=seed)
        corner = corner_of_lines(np.zeros(2), x, y, points, 0, len(points), edge, size)
        assert corner is not None
        assert sign * cut_straight(corner, blur, edge, noise, size) > 0, kind


def test_what_is_neither_is_left_as_it_is() -> None:
    """A step of two corners is explained by no single cut: nothing is said."""
    path = np.array([[-12.0, 0.0], [-4.0, 0.0], [-4.0, 3.0], [0.0, 3.0], [0.0, 12.0]])
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    points = np.column_stack([np.interp(np.arange(0, along[-1], 0.3), along, path[:, d]) for d in range(2)])
    corner = corner_of_lines(np.zeros(2), np.array([1.0, 0]), np.array([0, 1.0]), points, 0, len(points), 0.6, 4.0)
    assert corner is not None and cut_straight(corner, 0.4, 0.6, 0.015, 4.0) == 0.0
