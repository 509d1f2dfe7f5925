"""A thread's wall: its axis, pitch, hand, starts and diameters from facets that wind about it.

The axis comes first (:mod:`contour.fit.thread.axes`), then the wave that winds about it (:mod:`contour.fit.thread.waves`); axis, pitch and
the thread's form as a Fourier series are then fitted together. The diameters follow from the mean radius over a pitch, which softening by
the scanner leaves where it is, and the basic profile of metric and unified threads (ISO 68-1: 60 degrees, flat for P/8 at the major and
P/4 at the minor diameter).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.fit.thread.axes import FEWEST, axes_of, wall_about
from contour.fit.thread.waves import COARSEST, FINEST, LEAST_TURNS, Seen, Wave, strongest_wave, without
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import square_to, triple, unit

__all__ = ["DEPTH", "ThreadForm", "refitted", "thread_form", "wall_residuals"]

Array = NDArray[np.float64]

DEPTH = 5 / 8 * float(np.sqrt(3) / 2)  # of the basic profile, in pitches
_MEAN = 7 / 16 * DEPTH  # its mean radius above the minor one, in pitches
_FIRST = 0.2862  # amplitude of its first wave, in pitches
_LEAST_TOLD = 0.7  # of the radius's variance has to wind
_LEAST_START = 0.25  # the same after a few steps of the fit
_LEAST_DEPTH, _MOST_DEPTH = 0.35, 1.5  # of the first wave, beside the basic profile
_ALIKE = 0.75  # cosine between facets' normals and the form's, in the middle
_SAMPLE, _FEW = 6000, 2000  # facets for a fit, and for the first look
_BANDS = (0.18, 0.45)  # of the radius: how deep fine and coarse threads are at most
_LEAST_HINT = 0.06  # share of the variance that the strongest wave has at least before axis and form are fitted


@dataclass(frozen=True, slots=True)
class ThreadForm:
    """point (3,), axis (3,): unit · pitch mm, from crest to crest along the axis · starts · hand: 1 right, -1 left · inside: a nut's or
    hole's · mean_radius mm · waves (2k,): cosine and sine of each wave of the radius, mm · u_pitch, u_diameter: standard
    uncertainties, mm · told: share of the radius's variance that winds · low, high: where the wall begins and ends along the axis from
    the point, mm · rms mm."""

    point: Array
    axis: Array
    pitch: float
    starts: int
    hand: int
    inside: bool
    mean_radius: float
    waves: Array
    u_pitch: float
    u_diameter: float
    told: float
    low: float
    high: float
    rms: float

    @property
    def minor(self) -> float:
        return 2 * (self.mean_radius - _MEAN * self.pitch)

    @property
    def major(self) -> float:
        return self.minor + 2 * DEPTH * self.pitch

    @property
    def cylinder(self) -> Surface:
        """Through the mean radius: what the wall is to what looks for plain surfaces."""
        return Surface("cylinder", triple(self.point), triple(self.axis), self.mean_radius, -1 if self.inside else 1)

    @property
    def depth_seen(self) -> float:
        """How deep the thread is in the scan beside the basic profile: 1 is all of it."""
        return float(np.hypot(self.waves[0], self.waves[1]) / (_FIRST * self.pitch))


def _series(phase: Array, count: int) -> Array:
    return np.column_stack([f(j * phase) for j in range(1, count + 1) for f in (np.cos, np.sin)])


def _slope(phase: Array, waves: Array) -> Array:
    """How the radius changes with the phase, mm per radian."""
    j = np.arange(1, len(waves) // 2 + 1)
    return np.asarray((np.cos(phase[:, None] * j) * j) @ waves[1::2] - (np.sin(phase[:, None] * j) * j) @ waves[::2])


@dataclass(frozen=True, slots=True)
class _Fit:
    point: Array
    axis: Array
    frequency: float
    winding: int
    mean: float
    waves: Array
    u_frequency: float
    u_mean: float
    told: float
    rest: Array
    weights: Array


def _fitted(points: Array, weights: Array, point: Array, axis: Array, wave: Wave, edge: float) -> _Fit | None:
    """Axis, pitch, radius and waves together, by Gauss-Newton; facets that stray have less say (Tukey's weights)."""
    frequency = wave.frequency
    waves = np.zeros(0)
    say = weights.copy()
    for turn in range(14):
        seen = Seen.of(points, point, axis)
        middle = float(np.average(seen.z, weights=say))
        count = int(np.clip(1 / (frequency * FINEST * edge), 1, 3))
        phase = 2 * np.pi * frequency * (seen.z - middle) - wave.winding * seen.turn
        series = _series(phase, count)
        rows = np.hstack([seen.slack[:, [0, 1, 2, 4, 5]], series])
        if len(waves) == 2 * count:
            rows = np.hstack([rows, (_slope(phase, waves) * 2 * np.pi * (seen.z - middle))[:, None]])
        root = np.sqrt(say)
        scale = np.maximum(np.linalg.norm(rows * root[:, None], axis=0), 1e-12)
        solution = np.linalg.lstsq(rows * root[:, None] / scale, seen.r * root, rcond=1e-10)[0] / scale
        rest = seen.r - rows @ solution
        waves = solution[5 : 5 + 2 * count]
        spread = 1.4826 * float(np.median(np.abs(rest))) + 1e-9
        say = weights * np.clip(1 - (rest / (5 * spread)) ** 2, 0, 1) ** 2
        change = float(solution[-1]) if rows.shape[1] > 5 + 2 * count else 0.0
        length = float(np.ptp(seen.z))
        frequency += float(np.clip(change, -0.2 / length, 0.2 / length))
        if not 0 < frequency < 1 / (1.5 * edge):
            return None
        a, b = square_to(axis)
        # The radius is larger towards where the axis really is not: the column's solution is the shift.
        lean = np.clip(solution[3:5], -0.1, 0.1)
        point = point + middle * axis + solution[1] * a + solution[2] * b
        axis = unit(axis + lean[0] * a + lean[1] * b)
        if turn == 5 and float(say @ rest**2) > (1 - _LEAST_START) * float(say @ without(seen.slack, seen.r, say) ** 2):
            return None
        if turn > 4 and abs(change) * length < 1e-5 and abs(solution[1]) + abs(solution[2]) < 1e-5 * edge:
            break
    flat = without(seen.slack, seen.r, say)
    total = float(say @ flat**2)
    told = 1 - float(say @ rest**2) / total if total > 0 else 0.0
    variance = float(say @ rest**2 / say.sum())
    # Neighbours share their noise: about one free reading per twelve facets.
    free = max(float(say.sum() ** 2 / (say**2).sum()) / 12 - rows.shape[1], 1.0)
    inverse = np.linalg.pinv((rows * (say / say.sum())[:, None]).T @ rows)
    u = np.sqrt(np.maximum(np.diag(inverse), 0) * variance / free)
    return _Fit(
        point, axis, frequency, wave.winding, float(solution[0]), waves, float(u[-1]), float(u[0]), told, rest, say
    )


def wall_residuals(form: ThreadForm, points: Array) -> tuple[Array, Array]:
    """(radius less the thread's at that place, height along the axis from the form's point), mm. points (n, 3)."""
    seen = Seen.of(points, form.point, form.axis)
    phase = 2 * np.pi * seen.z / form.pitch - form.hand * form.starts * seen.turn
    return seen.r - form.mean_radius - _series(phase, len(form.waves) // 2) @ form.waves, seen.z


def _some(points: Array, normals: Array, weights: Array, most: int = _SAMPLE) -> tuple[Array, Array, Array]:
    if len(points) <= most:
        return points, normals, weights
    chosen = np.random.default_rng(7).choice(len(points), most, replace=False)
    return points[chosen], normals[chosen], weights[chosen]


def thread_form(points: Array, normals: Array, weights: Array, *, edge_mm: float, noise_mm: float) -> ThreadForm | None:
    """The thread that facets are the wall of; none where they do not wind about an axis.

    points (n, 3) mm, normals (n, 3), weights (n,): centroids, normals and areas of facets, among which others may be.
    """
    points, normals, weights = _some(points, normals, weights)
    few = _some(points, normals, weights, _FEW)
    best: tuple[float, Wave, Array, Array, float] | None = None
    for point, axis in axes_of(points, normals, weights):
        for band in _BANDS:
            wall = wall_about(*few, point, axis, band)
            if wall.sum() < FEWEST // 3:
                continue
            wave = strongest_wave(Seen.of(few[0][wall], point, axis), few[2][wall], edge_mm)
            if wave is not None and (best is None or wave.share > best[0]):
                best = wave.share, wave, point, axis, band
    if best is None or best[0] < _LEAST_HINT:
        return None
    _, wave, point, axis, band = best
    wall = wall_about(points, normals, weights, point, axis, band)
    if wall.sum() < FEWEST:
        return None
    points, normals, weights = points[wall], normals[wall], weights[wall]
    fit = _fitted(points, weights, point, axis, wave, edge_mm)
    return None if fit is None else _judged(points, normals, weights, fit, edge_mm, noise_mm)


def refitted(
    form: ThreadForm, points: Array, normals: Array, weights: Array, *, edge_mm: float, noise_mm: float
) -> ThreadForm | None:
    """A thread fitted again to the facets along it, without the ends of the wall that stray (countersinks, run-outs); none where they
    turn out not to be one.

    points (n, 3), normals (n, 3), weights (n,) as for :func:`thread_form`.
    """
    points, normals, weights = _some(points, normals, weights)
    rest, z = wall_residuals(form, points)
    slice_ = np.floor(z / (0.5 * form.pitch)).astype(np.int64)
    slice_ -= slice_.min()
    size = np.bincount(slice_, weights)
    stray = np.sqrt(np.bincount(slice_, weights * rest**2) / np.maximum(size, 1e-300))
    sound = (size > 0) & (stray < max(1.6 * float(np.median(stray[size > 0])), noise_mm))
    runs = np.flatnonzero(np.diff(np.concatenate([[False], sound, [False]]).astype(int)))
    lengths = runs[1::2] - runs[::2]
    if len(lengths) == 0 or lengths.max() < 2 * LEAST_TURNS:
        return None
    k = int(np.argmax(lengths))
    own = (slice_ >= runs[2 * k]) & (slice_ < runs[2 * k + 1])
    wave = Wave(1 / form.pitch, form.hand * form.starts, form.told)
    points, normals, weights = points[own], normals[own], weights[own]
    fit = _fitted(points, weights, form.point, form.axis, wave, edge_mm)
    return None if fit is None else _judged(points, normals, weights, fit, edge_mm, noise_mm)


def _alike(fit: _Fit, seen: Seen, normals: Array, own: NDArray[np.bool_]) -> float:
    """Cosine between facets' normals and those of the form where they lie, the middle one: what only happens to lie near a wave leans
    otherwise. Below 0 where the material lies outside."""
    a, b = square_to(fit.axis)
    phase = 2 * np.pi * fit.frequency * seen.z - fit.winding * seen.turn
    steep = _slope(phase, fit.waves)
    c, s = np.cos(seen.turn), np.sin(seen.turn)
    lean = np.column_stack([np.ones_like(c), steep * fit.winding / seen.r, -steep * 2 * np.pi * fit.frequency])
    around = np.column_stack([normals @ a * c + normals @ b * s, normals @ b * c - normals @ a * s, normals @ fit.axis])
    cosine = (lean * around).sum(axis=1) / np.linalg.norm(lean, axis=1)
    return float(np.median(cosine[own]))


def _judged(points: Array, normals: Array, weights: Array, fit: _Fit, edge: float, noise: float) -> ThreadForm | None:
    """The fit as a thread, unless it is too shallow, too short, too little of what is seen, or no wall about the axis."""
    seen = Seen.of(points, fit.point, fit.axis)
    pitch = 1 / fit.frequency
    first = float(np.hypot(fit.waves[0], fit.waves[1]))
    own = np.abs(fit.rest) < max(0.3 * pitch, 4 * noise)
    if own.mean() < 0.4:
        return None
    low, high = np.percentile(seen.z[own], [0.5, 99.5])
    around = np.unique((seen.turn[own] * 36 / (2 * np.pi)).astype(np.int64)).size / 36
    facing = _alike(fit, seen, normals, own)
    good = (
        fit.told > _LEAST_TOLD
        and _LEAST_DEPTH * _FIRST * pitch < first < _MOST_DEPTH * _FIRST * pitch
        and high - low > LEAST_TURNS * pitch
        and around > 0.3
        and abs(facing) > _ALIKE
        and COARSEST * 2 * fit.mean > pitch > 1.9 * edge
    )
    if not good:
        return None
    rms = float(np.sqrt(np.average(fit.rest[own] ** 2, weights=weights[own])))
    # The form is taken as the basic profile: what the scan shows otherwise is doubt about the diameters.
    odd = 0.1 * abs(first - _FIRST * pitch)
    hand = int(np.sign(fit.winding))
    return ThreadForm(
        fit.point,
        fit.axis,
        pitch,
        abs(fit.winding),
        hand,
        facing < 0,
        fit.mean,
        fit.waves,
        fit.u_frequency * pitch**2,
        2 * float(np.hypot(fit.u_mean, odd)),
        fit.told,
        float(low),
        float(high),
        rms,
    )
