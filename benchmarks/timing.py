"""Timing helpers: medians, and 95th percentiles where single answers matter."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np

__all__ = ["each", "median_of", "milliseconds"]


def median_of(work: Callable[[], Any], rounds: int) -> float:
    """Median seconds over some rounds, after one that is not counted."""
    work()
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return float(np.median(times))


def each(work: Callable[[Any], Any], items: Iterable[Any]) -> np.ndarray:
    """Seconds for every item."""
    times = []
    for item in items:
        begun = time.perf_counter()
        work(item)
        times.append(time.perf_counter() - begun)
    return np.array(times)


def milliseconds(times: np.ndarray) -> str:
    return f"median {np.median(times) * 1e3:.1f} ms, p95 {np.percentile(times, 95) * 1e3:.1f} ms, worst {times.max() * 1e3:.1f} ms"
