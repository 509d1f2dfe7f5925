"""Two thousand damaged mesh files through `inspect`: no crash, no hang, memory bounded; and a scan of five million facets."""

from __future__ import annotations

import gzip
import json
import resource
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from benchmarks.reading import wavy_file
from contour.check.exact_arrays import exact_arrays
from contour.exchange.mesh_out import write_mesh
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.pump_cover import pump_cover

__all__ = ["run"]

FILES = 2000
_LOOK = """
import sys, json, resource, time
from pathlib import Path
from contour.cli import main
for line in sys.stdin:
    begun = time.perf_counter()
    try:
        code = main(["inspect", line.strip(), "--unit", "mm", "--json"])
    except BaseException as error:
        code = repr(error)[:200]
    sys.stderr.flush(); sys.stdout.flush()
    print("DONE " + json.dumps([code, time.perf_counter() - begun, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss]), flush=True)
"""


def _sources(folder: Path) -> list[bytes]:
    made = virtual_scan(exact_arrays(pump_cover().shape), ScanSettings(spacing_mm=2.2, noise_mm=0.03, seed=2))
    out = []
    for ending in ("stl", "obj", "ply", "3mf"):
        path = folder / f"source.{ending}"
        write_mesh(path, [("cover", made.vertices, made.facets)])
        out.append((ending, path.read_bytes()))
    out.append(("stl.gz", gzip.compress(out[0][1])))
    return out  # type: ignore[return-value]


def _damaged(data: bytes, other: bytes, rng: np.random.Generator) -> bytes:
    out = bytearray(data)
    kind = int(rng.integers(4))
    if kind == 0:
        for at in rng.integers(0, len(out), int(rng.integers(1, 40))):
            out[at] ^= 1 << int(rng.integers(8))
    elif kind == 1:
        del out[int(rng.integers(1, len(out))) :]
    elif kind == 2:
        size = int(rng.integers(4, 400))
        out[:size] = other[:size]
    else:
        at, size = int(rng.integers(len(out))), int(rng.integers(1, 2000))
        out[at : at + size] = rng.bytes(int(rng.integers(0, 2000)))
    return bytes(out)


def run() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(12)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        sources = _sources(folder)
        child = subprocess.Popen(
            [sys.executable, "-c", _LOOK],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        assert child.stdin and child.stdout
        outcomes: Counter[str] = Counter()
        slowest, peak, largest = 0.0, 0, max(len(d) for _, d in sources)
        for k in range(FILES):
            ending, data = sources[k % len(sources)]  # type: ignore[misc]
            path = folder / f"x.{ending}"
            path.write_bytes(_damaged(data, sources[int(rng.integers(len(sources)))][1], rng))  # type: ignore[index]
            child.stdin.write(f"{path}\n")
            child.stdin.flush()
            line = child.stdout.readline()
            while line and not line.startswith("DONE "):
                line = child.stdout.readline()
            if not line:
                outcomes["crashed"] += 1
                break
            code, seconds, memory = json.loads(line[5:])
            outcomes[{0: "read", 2: "refused"}.get(code, str(code))] += 1
            slowest, peak = max(slowest, seconds), max(peak, memory)
        child.stdin.close()
        child.wait()
        yield f"{FILES:,} damaged files through inspect", ", ".join(f"{n:,} {k}" for k, n in sorted(outcomes.items()))
        yield (
            "  slowest; peak memory of the one process (files of up to " + f"{largest / 1e6:.1f} MB)",
            f"{slowest:.1f} s; {peak / 2**20:.2f} GB",
        )
        path = folder / "five.stl"
        count = wavy_file(path, 1582)
        begun = time.perf_counter()
        code = "import sys; from contour.cli import main; main(['inspect', sys.argv[1], '--unit', 'mm', '--json'])"
        done = subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=True)
        seconds = time.perf_counter() - begun
        memory = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 2**20
        yield (
            f"health of {count:,} facets: peak memory (wanted: at most 4 GB)",
            f"{memory:.2f} GB, {seconds:.0f} s, {len(json.loads(done.stdout)['defects'])} kinds",
        )
