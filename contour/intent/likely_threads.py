"""Which standard thread a scanned one can be: nearest first, and how far off each is beside what the scan leaves open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from contour.fit.thread.form import ThreadForm
from contour.metrology.standards.threads import Thread, nearest_threads

__all__ = ["LikelyThread", "likely_threads"]

_LEAST_PITCH_U = 5e-4  # of the pitch: no scanner is better along a whole thread


@dataclass(frozen=True, slots=True)
class LikelyThread:
    """major_off, pitch_off mm: measured less standard · difference_u: both together, in standard uncertainties."""

    thread: Thread
    major_off: float
    pitch_off: float
    difference_u: float


def likely_threads(form: ThreadForm, count: int = 4) -> list[LikelyThread]:
    """The nearest standard threads, the likeliest first, with differences in mm."""
    u_pitch = max(form.u_pitch, _LEAST_PITCH_U * form.pitch)
    return [
        LikelyThread(
            c.thread,
            c.difference,
            c.pitch_difference,
            float(np.hypot(c.difference / form.u_diameter, c.pitch_difference / u_pitch)),
        )
        for c in nearest_threads(pitch=form.pitch, major=form.major, inside=form.inside, count=count)
    ]
