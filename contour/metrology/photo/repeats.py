"""Repeats along a line: threads, racks, rows of holes. Each is found for itself, so that a miscount and a drift show."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from contour.metrology.photo.edges import Picture, parabola_peak, profile
from contour.recipe.problem import ContourError

__all__ = ["Repeats", "repeats_along"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Repeats:
    """found: places of the repeats, (n, 2) pixels · pitch and its standard uncertainty, pixels · likeness: of each repeat to
    the mean one, -1 to 1 · doubled: whether half the pitch explains the picture as well (a miscount)."""

    found: Array
    pitch: float
    u_pitch: float
    likeness: Array
    doubled: bool

    @property
    def span(self) -> float:
        """From the first repeat to the last, pixels."""
        return self.pitch * (len(self.found) - 1)

    def drift(self, step: float, relative_u: float = 0.0) -> tuple[float, float]:
        """(how far the last repeat lies from where equal steps of that many pixels put it, standard uncertainty).

        relative_u: of the step, such as that of the scale it was worked out with.
        """
        gaps = len(self.found) - 1
        return gaps * (self.pitch - step), gaps * float(np.hypot(self.u_pitch, relative_u * step))


def _likeness(a: Array, b: Array) -> float:
    a, b = a - a.mean(), b - b.mean()
    size = float(np.linalg.norm(a) * np.linalg.norm(b))
    return float(a @ b / size) if size > 0 else 0.0


def _shifts(v: Array, window: Array, starts: Array, reach: int) -> tuple[Array, Array]:
    """Where the window fits best near each start, to a part of a sample, and how well."""
    out: list[float] = []
    good: list[float] = []
    n = len(window)
    for s in starts:
        k0 = int(round(s))
        scores = np.array(
            [
                _likeness(v[k : k + n], window) if 0 <= k and k + n <= len(v) else -1.0
                for k in range(k0 - reach, k0 + reach + 1)
            ]
        )
        best = int(np.argmax(scores))
        out.append(k0 - reach + parabola_peak(scores, best))
        good.append(float(scores[best]))
    return np.array(out), np.array(good)


def repeats_along(picture: Picture, first: Array, last: Array, count: int, *, width: int = 9) -> Repeats:
    """`count` repeats from `first` to `last` (pixels), averaged over `width` pixels across.

    The mean repeat is matched to each place near where equal steps put it (within 0.35 of one); the line through the
    matches gives the pitch. Raises ContourError (bad-params, fit-failed). first, last (2,).
    """
    step = (last - first) / max(count - 1, 1)
    length = float(np.linalg.norm(step))
    if not 2 <= count <= 500 or length < 5:
        raise ContourError(
            "bad-params",
            "too little to repeat",
            got=f"{count} repeats of {length:.0f} pixels",
            need="2 to 500 repeats of at least 5 pixels",
            remedy="draw from the first to the last, and say how many there are",
        )
    way = step / length
    begin, end = first - 0.9 * step, first + (count + 0.4) * step
    high, wide = picture.shape
    for corner in (first, last):
        if not (-1 <= corner[0] <= wide and -1 <= corner[1] <= high):
            raise ContourError(
                "bad-params",
                "the repeats leave the picture",
                got=f"{count} repeats",
                need="repeats inside the picture",
                remedy="count fewer, or draw the line again",
            )
    sample = 0.5
    t, v = profile(picture, begin, end, width=width, step=sample)
    sample = float(t[1] - t[0])
    v = gaussian_filter1d(v, 1.0)
    if float(np.ptp(v)) < 0.05:
        raise ContourError(
            "fit-failed",
            "nothing repeats along this line",
            got="an even line",
            need="light and dark in turns",
            remedy="draw it across the crests, near their edge",
        )
    half = 0.5 * length / sample
    size = int(round(1.0 * length / sample))
    reach = int(np.ceil(0.35 * length / sample))
    # Two rounds: the first with the repeat as drawn, the second with the mean of what it found.
    centre = 0.9 * length / sample
    starts: Array = np.asarray(centre - half + np.arange(count) * (length / sample), np.float64)
    k0 = int(round(starts[0]))
    window = v[max(k0, 0) : max(k0, 0) + size]
    index = np.arange(count)
    for _ in range(3):
        places, good = _shifts(v, window, starts, reach)
        used = good > max(0.3, 0.5 * float(np.median(good)))
        if used.sum() < 2:
            raise ContourError(
                "fit-failed",
                "the repeats are not alike",
                got=f"{int(used.sum())} alike",
                need="at least 2",
                remedy="count again, and draw from one crest to another",
            )
        slope, base = np.polyfit(index[used], places[used], 1)
        starts = np.asarray(base + slope * index, np.float64)
        reach = max(3, int(0.15 * length / sample))
        rows = [v[round(s) : round(s) + size] for s in places[used] if 0 <= round(s) and round(s) + size <= len(v)]
        if rows:
            window = np.asarray(np.mean(rows, axis=0), np.float64)
    rest = places[used] - (base + slope * index[used])
    n = int(used.sum())
    spread = float(np.sqrt((rest**2).sum() / max(n - 2, 1))) if n > 2 else 0.5
    # No place is known better than to a tenth of a pixel, whatever the scatter says.
    spread = max(spread * sample, 0.1)
    u_pitch = spread / float(np.sqrt(((index[used] - index[used].mean()) ** 2).sum()))
    pitch = float(slope * sample)
    found = begin + ((base + half + slope * index) * sample)[:, None] * way
    shift = size // 2
    doubled = _likeness(window[:shift], window[shift : 2 * shift]) > 0.9
    return Repeats(found, pitch, u_pitch, good, doubled)
