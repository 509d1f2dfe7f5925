"""The distance to random trimmed patches of every analytic surface against the kernel's own projection."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from tests.patches import PATCHES, disagreement, points_about, random_patch

__all__ = ["run"]

POINTS, PER_PATCH, SEED = 10_000, 50, 2026


def run() -> Iterator[tuple[str, str]]:
    for kind in PATCHES:
        off = []
        for k in range(POINTS // PER_PATCH):
            rng = np.random.default_rng([SEED, k])
            patch = random_patch(kind, rng)
            off.append(disagreement(patch, points_about(patch, PER_PATCH, rng)))
        worst = np.abs(np.concatenate(off))
        beyond = int((worst > 1e-3).sum())
        yield (
            f"{kind}: {POINTS:,} points, {len(off)} patches (wanted: 1 µm)",
            f"worst {worst.max() * 1e3:.4f} µm, {beyond} beyond 1 µm",
        )
