"""The strongest wave that winds about an axis: a periodogram of the radius over height and angle, in both directions."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from contour.geometry.vectors import square_to

__all__ = ["COARSEST", "FINEST", "LEAST_TURNS", "Seen", "Wave", "strongest_wave", "without"]

Array = NDArray[np.float64]
FINEST = 2.2  # facet sides: a finer pitch is not seen
COARSEST = 0.45  # of the diameter
LEAST_TURNS = 1.8
_STARTS = 3


@dataclass(frozen=True, slots=True)
class Seen:
    """Facets about an axis: height, angle, radius; each (n,)."""

    z: Array
    turn: Array
    r: Array

    @classmethod
    def of(cls, points: Array, point: Array, axis: Array) -> Seen:
        a, b = square_to(axis)
        d = points - point
        x, y = d @ a, d @ b
        return cls(d @ axis, np.arctan2(y, x), np.hypot(x, y))

    @property
    def slack(self) -> Array:
        """(n, 6): what an axis slightly off does to the radius, and a taper."""
        c, s = np.cos(self.turn), np.sin(self.turn)
        z = self.z - self.z.mean()
        return np.column_stack([np.ones_like(c), c, s, z, z * c, z * s])


def without(rows: Array, values: Array, weights: Array) -> Array:
    """What is left of values (n,) when the rows (n, k) have explained what they can, by weighted least squares. weights (n,)."""
    weighted = rows * weights[:, None]
    return np.asarray(values - rows @ np.linalg.lstsq(weighted.T @ rows, weighted.T @ values, rcond=1e-12)[0])


@dataclass(frozen=True, slots=True)
class Wave:
    """frequency per mm, starts (signed by hand), share of the variance."""

    frequency: float
    winding: int
    share: float


def strongest_wave(seen: Seen, weights: Array, edge: float) -> Wave | None:
    """The strongest wave of the radius over height and angle; none where it stands still around the axis (grooves) or nothing repeats."""
    radius = float(np.average(seen.r, weights=weights))
    length = float(np.ptp(seen.z))
    finest, coarsest = FINEST * edge, min(COARSEST * 2 * radius, length / LEAST_TURNS)
    if coarsest <= 1.2 * finest:
        return None
    step = finest / 5
    bins = int(length / step) + 1
    place = np.minimum(((seen.z - seen.z.min()) / step).astype(np.int64), bins - 1)
    rest = without(seen.slack, seen.r, weights)
    total = float(weights @ rest**2)
    if total <= 0:
        return None
    padded = 1 << int(np.ceil(np.log2(8 * bins)))
    frequency = np.arange(padded) / (padded * step)
    inside = (frequency > 1 / coarsest) & (frequency < 1 / finest)
    powers = {}
    for k in range(-_STARTS, _STARTS + 1):
        turned = weights * rest * np.exp(1j * k * seen.turn)
        sums = np.bincount(place, turned.real, bins) + 1j * np.bincount(place, turned.imag, bins)
        powers[k] = np.where(inside, 2 * np.abs(np.fft.fft(sums, padded)) ** 2 / (weights.sum() * total), 0.0)
    still = maximum_filter1d(powers[0], 17)  # two widths of a peak
    # Grooves stand still around the axis; over part of a turn they seem to wind a little too.
    winding = {k: np.where(power > still, power, 0.0) for k, power in powers.items() if k}
    k = max(winding, key=lambda k: float(winding[k].max()))
    for single in (1, -1):  # over part of a turn only, windings are hardly told apart: the usual one
        if abs(k) > 1 and winding[single].max() > 0.85 * winding[k].max():
            k = single
    top = int(np.argmax(winding[k]))
    return Wave(float(frequency[top]), k, float(winding[k][top])) if winding[k][top] > 0 else None
