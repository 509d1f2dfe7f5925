"""Damaged STEP files through `check`: one line and exit code 2, or an answer; never a signal, never for ever."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from contour.exchange.step import write_step
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from tests.browser.conftest import ROOT

__all__ = ["run"]

FILES, SEED = 120, 19
_ODD = [b"0.", b"1.E30", b"-5.", b"1.E-30", b"NAN", b"1.E308"]


def _damaged(data: bytes, rng: np.random.Generator) -> bytes:
    """Bits turned, cut short, lines lost or shuffled, figures and references changed."""
    lines, kind = data.split(b"\n"), int(rng.integers(6))
    if kind == 0:
        out = bytearray(data)
        for at in rng.integers(0, len(out), int(rng.integers(1, 40))):
            out[at] ^= 1 << int(rng.integers(8))
        return bytes(out)
    if kind == 1:
        return data[: int(rng.integers(1, len(data)))]
    if kind == 2:
        lost = set(rng.integers(0, len(lines), int(rng.integers(1, 30))).tolist())
        return b"\n".join(line for i, line in enumerate(lines) if i not in lost)
    if kind == 3:
        i, j = sorted(rng.integers(0, len(lines), 2))
        return b"\n".join([*lines[:i], *(lines[k] for k in i + rng.permutation(j - i)), *lines[j:]])
    found = [m.span() for m in re.finditer(rb"-?\d+\.\d*(E[-+]\d+)?" if kind == 4 else rb"(?<=[,(])#\d+", data)]
    out_ = data
    for at in sorted(rng.integers(0, len(found), int(rng.integers(1, 30))), reverse=True):
        a, b = found[at]
        other = found[int(rng.integers(len(found)))]
        out_ = out_[:a] + (_ODD[int(rng.integers(len(_ODD)))] if kind == 4 else data[slice(*other)]) + out_[b:]
    return out_


def run() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(SEED)
    with tempfile.TemporaryDirectory() as name:
        folder, sources = Path(name), []
        for k, part in enumerate((bracket(), pump_cover())):
            write_step(folder / f"{k}.step", [("part", part.shape, None)], unit="mm")
            sources.append((folder / f"{k}.step").read_bytes())
        how: Counter[str] = Counter()
        wrong, times = [], []
        for k in range(FILES):
            path = folder / "damaged.step"
            path.write_bytes(_damaged(sources[k % 2], rng))
            begun = time.monotonic()
            done = subprocess.run(
                [sys.executable, "-m", "contour.cli", "check", str(path), "--json"],
                capture_output=True,
                text=True,
                cwd=ROOT,
                check=False,
            )
            times.append(time.monotonic() - begun)
            one_line = done.returncode == 0 or (done.returncode == 2 and len(done.stderr.splitlines()) == 1)
            if not one_line or not done.stdout.strip():
                wrong.append((k, done.returncode))
            else:
                how[json.loads(done.stdout).get("problem", {}).get("code", "answered")] += 1
        yield (
            f"{FILES} damaged STEP files: signals, tracebacks, silence (wanted: 0)",
            f"{len(wrong)} {wrong[:5] if wrong else ''}",
        )
        yield "how they ended", ", ".join(f"{code}: {n}" for code, n in how.most_common())
        yield "time for one", f"median {np.median(times):.1f} s, worst {max(times):.1f} s"
