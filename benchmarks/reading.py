"""Reading, welding and adjacency of a binary STL of a million facets, against trimesh's load (which has no adjacency)."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from benchmarks.timing import median_of
from contour.exchange.scanfile import read_scan
from contour.exchange.stl_out import write_stl
from contour.mesh.topology import neighbours, weld

__all__ = ["run"]


def wavy_file(path: Path, side: int = 708) -> int:
    """A noisy square of about a million facets in random order."""
    rng = np.random.default_rng(0)
    x, y = np.meshgrid(np.arange(side) * 0.3, np.arange(side) * 0.3, indexing="ij")
    vertices = np.column_stack([x.ravel(), y.ravel(), np.sin(x / 9).ravel() + rng.normal(0, 0.02, side * side)])
    i = np.arange(side * side).reshape(side, side)
    a, b, c, d = i[:-1, :-1].ravel(), i[1:, :-1].ravel(), i[1:, 1:].ravel(), i[:-1, 1:].ravel()
    facets = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    return write_stl(path, vertices, rng.permutation(facets).astype(np.int32))


def ours(path: Path) -> None:
    vertices, facets = weld(read_scan(path).corners)
    neighbours(facets, len(vertices))


def run() -> Iterator[tuple[str, str]]:
    import trimesh

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "million.stl"
        count = wavy_file(path)
        mine, theirs = median_of(lambda: ours(path), 5), median_of(lambda: trimesh.load(path), 5)
        yield (
            f"read + weld + adjacency, {count:,} facets (wanted: 3x trimesh's load)",
            f"{theirs / mine:.1f}x  ({mine:.2f} s : {theirs:.2f} s)",
        )
        # VmHWM, because getrusage's figure of a new process still carries its parent's size from before exec.
        code = (
            "import sys; from pathlib import Path; from benchmarks.reading import ours; ours(Path(sys.argv[1]));"
            "print(next(line for line in open('/proc/self/status') if 'VmHWM' in line).split()[1])"
        )
        out = subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=True).stdout
        yield "peak memory of that process (wanted: at most 1.2 GB)", f"{int(out.split()[-1]) / 2**20:.2f} GB"
