"""Readings against the scan, or a made part against the model: is there a common shift, or a common scale?

Pairs of two measurements of the same thing are explained by `difference = shift + scale * size`, each part only where the
data ask for it. A shift that all takes of a session share is a zero that was not set; a scale is the scanner's.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from contour.recipe.problem import ContourError

__all__ = ["Correction", "Pair", "ScaleCheck", "ZeroCheck", "print_correction", "scale_check", "zero_check"]

# A shift is suspected beyond so many of its standard uncertainties: of true zeros about 1 in 200 lies there.
_SUSPECT = 2.8


@dataclass(frozen=True, slots=True)
class Pair:
    """One size, mm: `one` as this side measures it, `other` as the other side does, each with its standard uncertainty.

    inside: a bore, slot or other gap, which a caliper reads with its inner jaws.
    """

    name: str
    one: float
    u_one: float
    other: float
    u_other: float
    inside: bool = False

    @property
    def difference(self) -> float:
        return self.one - self.other

    @property
    def u(self) -> float:
        return math.hypot(self.u_one, self.u_other)


@dataclass(frozen=True, slots=True)
class ZeroCheck:
    """shift: what the takes of a session have in common against the scan, mm, with standard uncertainty."""

    shift: float
    u: float
    pairs: int
    suspected: bool


@dataclass(frozen=True, slots=True)
class ScaleCheck:
    """scale: scan over truth, less one; u its standard uncertainty; significant: whether correcting is worth it."""

    scale: float
    u: float
    pairs: int
    misfit: float
    significant: bool

    @property
    def factor(self) -> float:
        """What to multiply the scan by."""
        return 1 / (1 + self.scale)


@dataclass(frozen=True, slots=True)
class Correction:
    """What a first-off or first print says of the making: made = scale * model + offset, by kind of size, mm."""

    scale: float
    u_scale: float
    outside: float | None
    u_outside: float | None
    inside: float | None
    u_inside: float | None
    rms: float
    pairs: int


def _weighted(a: np.ndarray, y: np.ndarray, u: np.ndarray) -> tuple[np.ndarray, np.ndarray, float]:
    """Weighted least squares: parameters, covariance, chi squared."""
    w = 1 / u
    normal = (a * w[:, None]).T @ (a * w[:, None])
    cov = np.linalg.inv(normal)
    x = cov @ ((a * w[:, None]).T @ (y * w))
    return x, cov, float((((y - a @ x) * w) ** 2).sum())


def _columns(pairs: Sequence[Pair]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    size = np.array([p.other for p in pairs])
    y = np.array([p.difference for p in pairs])
    u = np.array([max(p.u, 1e-9) for p in pairs])
    return size, y, u


def zero_check(pairs: Sequence[Pair], *, resolution_mm: float, limit_mm: float = 0.0) -> ZeroCheck:
    """Whether the readings of a session (`one`) all lie off the scan (`other`) by the same amount.

    limit_mm: the instrument's own error limit, of which half the variance is common to a session (see propagate): that
    much shift is nobody's fault. A scale of the scan is allowed for when the sizes differ enough to tell it from a
    shift. Suspected when the shift is larger than chance and larger than two resolutions.

    Raises ContourError (too-few-points) for fewer than three pairs: one may be wrong by itself.
    """
    if len(pairs) < 3:
        raise ContourError(
            "too-few-points",
            "a forgotten zero shows only in several readings that are tied to the scan",
            got=len(pairs),
            need="3",
            remedy="tie more readings of the session to regions of the scan",
        )
    size, y, u = _columns(pairs)
    ones = np.ones_like(y)
    x, cov, chi = _weighted(ones[:, None], y, u)
    spread = np.ptp(size) / max(float(size.mean()), 1e-9)
    if len(pairs) >= 4 and spread > 0.3:
        with_scale = _weighted(np.column_stack([ones, size]), y, u)
        # The scan's scale comes in when it explains what a shift alone does not.
        if chi - with_scale[2] > 7.9:
            x, cov, chi = with_scale
    freedom = max(len(pairs) - len(x), 1)
    common = limit_mm / math.sqrt(3) * math.sqrt(0.5)
    error = math.sqrt(cov[0, 0] * max(1.0, chi / freedom) + common**2)
    shift = float(x[0])
    suspected = abs(shift) > _SUSPECT * error and abs(shift) > 2 * resolution_mm
    return ZeroCheck(shift, error, len(pairs), suspected)


def scale_check(pairs: Sequence[Pair]) -> ScaleCheck:
    """The scan's (`other`) scale error by readings (`one`); the scan's bore and boss edges share no shift here.

    Raises ContourError (too-few-points) for fewer than two pairs.
    """
    if len(pairs) < 2:
        raise ContourError(
            "too-few-points",
            "a scale needs at least two readings that are tied to the scan",
            got=len(pairs),
            need="2",
            remedy="tie readings to regions: large sizes tell the scale best",
        )
    truth = np.array([p.one for p in pairs])
    y = np.array([p.other - p.one for p in pairs])
    u = np.array([max(p.u, 1e-9) for p in pairs])
    x, cov, chi = _weighted(truth[:, None], y, u)
    misfit = math.sqrt(chi / max(len(pairs) - 1, 1))
    error = math.sqrt(cov[0, 0]) * max(1.0, misfit)
    return ScaleCheck(float(x[0]), error, len(pairs), misfit, abs(float(x[0])) > 2 * error)


def print_correction(pairs: Sequence[Pair], *, with_scale: Literal["auto", "no"] = "auto") -> Correction:
    """Made sizes (`one`) against the model's (`other`): a common scale, and an offset of outside and of inside sizes.

    Offsets are of the full size (both walls). The scale is only taken out where the sizes differ by a factor of two.

    Raises ContourError (too-few-points).
    """
    if not pairs:
        raise ContourError(
            "too-few-points",
            "no reading of the made part is tied to a size of the model",
            need="1",
            got="0",
            remedy="choose the readings and say which size of the model each is",
        )
    size, y, u = _columns(pairs)
    inside = np.array([p.inside for p in pairs])
    columns = []
    names = []
    for name, chosen in (("outside", ~inside), ("inside", inside)):
        if chosen.any():
            columns.append(chosen.astype(float))
            names.append(name)
    scaled = with_scale == "auto" and len(pairs) > len(columns) and size.max() > 2 * size.min()
    if scaled:
        columns.append(size)
        names.append("scale")
    x, cov, chi = _weighted(np.column_stack(columns), y, u)
    freedom = len(pairs) - len(x)
    grow = max(1.0, chi / freedom) if freedom > 0 else 1.0
    found = {n: (float(v), math.sqrt(c * grow)) for n, v, c in zip(names, x, np.diag(cov), strict=True)}
    rest = y - np.column_stack(columns) @ x
    scale, u_scale = found.get("scale", (0.0, 0.0))
    out, into = found.get("outside", (None, None)), found.get("inside", (None, None))
    return Correction(
        1 + scale, u_scale, out[0], out[1], into[0], into[1], float(np.sqrt((rest**2).mean())), len(pairs)
    )
