"""Small parts with known truth, and scans of them."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.exchange.raw import RawScan
from contour.geometry.frames import plane_frame
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.simulate.scanner import ScanSettings, virtual_scan
from contour.sketch.entities import Entity, Sketch, find_profiles
from contour.solid.extrude import extrude
from contour.solid.shape import NamedShape

CUBE_CORNERS = np.array([[x, y, z] for z in (0, 1) for y in (0, 1) for x in (0, 1)], dtype=float)
CUBE_FACETS = np.array(
    [
        [0, 2, 3],
        [0, 3, 1],
        [4, 5, 7],
        [4, 7, 6],
        [0, 1, 5],
        [0, 5, 4],
        [2, 6, 7],
        [2, 7, 3],
        [0, 4, 6],
        [0, 6, 2],
        [1, 3, 7],
        [1, 7, 5],
    ]
)


def cube(size: tuple[float, float, float] = (1, 1, 1)) -> np.ndarray:
    """Corners (12, 3, 3) of a box, facing outwards."""
    return (CUBE_CORNERS * np.array(size))[CUBE_FACETS]


def binary_stl(corners: np.ndarray, *, told: int | None = None, header: bytes = b"", tail: bytes = b"") -> bytes:
    record = np.zeros(len(corners), [("n", "<f4", 3), ("c", "<f4", (3, 3)), ("a", "<u2")])
    record["c"] = corners
    count = len(corners) if told is None else told
    return header.ljust(80, b"\0")[:80] + struct.pack("<I", count) + record.tobytes() + tail


def ascii_stl(corners: np.ndarray, name: str = "part") -> str:
    rows = [f"solid {name}"]
    for tri in corners:
        rows += ["facet normal 0 0 0", " outer loop"]
        rows += [f"  vertex {x:.9g} {y:.9g} {z:.9g}" for x, y, z in tri]
        rows += [" endloop", "endfacet"]
    return "\n".join([*rows, f"endsolid {name}", ""])


def raw_scan(corners: np.ndarray) -> RawScan:
    return RawScan(corners, np.arange(len(corners)), len(corners), "stl")


def rectangle(w: float, h: float, tag: str = "e", at: tuple[float, float] = (0, 0)) -> list[Entity]:
    x, y = at
    spots = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
    return [Entity(f"{tag}{k + 1}", "line", spots[k], spots[(k + 1) % 4]) for k in range(4)]


def circle(x: float, y: float, r: float, tag: str = "c1") -> Entity:
    return Entity(tag, "arc", (x + r, y), (x + r, y), (x - r, y))


def prism(
    entities: list[Entity], distance: float, *, z: float = 0.0, prefix: str = "s1", symmetric: bool = False
) -> NamedShape:
    sketch = Sketch(plane_frame(np.array([0, 0, z]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0])), tuple(entities))
    return extrude(
        find_profiles(sketch),
        sketch.frame,
        start_mm=-distance / 2 if symmetric else 0.0,
        end_mm=distance / 2 if symmetric else distance,
        prefix=prefix,
    )


@pytest.fixture(scope="session")
def drilled_block() -> NamedShape:
    """40 x 30 x 10 with a bore of Ø 12 at (15, 15)."""
    return prism([*rectangle(40, 30), circle(15, 15, 6)], 10)


@pytest.fixture(scope="session")
def block_scan(drilled_block: NamedShape) -> PreparedScan:
    """Its scan: facets of 0.7 mm, noise 0.02 mm, seeded."""
    scan = virtual_scan(exact_arrays(drilled_block.shape), ScanSettings(spacing_mm=0.7, noise_mm=0.02, seed=3))
    return prepare_scan(raw_scan(scan.vertices[scan.facets]), 1.0)


@pytest.fixture(scope="session")
def block_stl(tmp_path_factory: pytest.TempPathFactory, block_scan: PreparedScan) -> Path:
    path = tmp_path_factory.mktemp("scan") / "block.stl"
    path.write_bytes(binary_stl(block_scan.vertices[block_scan.facets]))
    return path


def facet_near(scan: PreparedScan, place: tuple[float, float, float]) -> int:
    return int(np.argmin(np.linalg.norm(scan.centroids - np.array(place), axis=1)))


@pytest.fixture
def unhurried(monkeypatch):
    """Places to cut are looked at for as long as it takes: on busy cores the last ones would get no turn."""
    monkeypatch.setattr("contour.outline.where_to_cut._CUT_S", np.inf)
    monkeypatch.setattr("contour.outline.where_to_cut._ALL_S", np.inf)
