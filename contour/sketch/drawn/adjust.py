"""A drawing adjusted to measured places: all free sizes at once by least squares, what is asked of the drawing kept, each size with its uncertainty.

Gauss-Newton with the constraints as side conditions (Nocedal and Wright 2006, ch. 18: the KKT system of the linearised problem); the covariance
is the upper left block of that system's inverse. Neighbouring places share facets: what their errors have in common is read off the residuals
along each chain, and makes uncertainties that much larger.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import bmat, csc_array, eye_array
from scipy.sparse.linalg import splu

from contour.recipe.formula import Lookup
from contour.recipe.problem import ContourError
from contour.sketch.drawn.dimensions import measured, slope_of
from contour.sketch.drawn.gathered import Gathered, Told
from contour.sketch.drawn.nearness import Belonging, belonging, off
from contour.sketch.drawn.solution import moved_to, solved
from contour.sketch.drawn.system import DrawnSystem
from contour.sketch.drawn.text import Drawing

__all__ = ["Adjusted", "AdjustedSize", "adjusted"]

Array = NDArray[np.float64]
_OUTER, _INNER = 6, 8  # rounds of belonging, and of Gauss-Newton in each
_REACH = 0.04  # of the drawing's size: places further off belong to nothing at first
_LEAST = 3  # places that tell something of an entity
_CUT, _SOFT = 4.0, 2.0  # standard deviations: what is left out, and from where on it counts less
_LOOSE = 1e-9  # of the largest weight: what no place tells stays where it is drawn
_SAYS_NOTHING = 0.05  # of the drawing's size: an uncertainty beyond is none
_LAGS = 40


@dataclass(frozen=True, slots=True)
class AdjustedSize:
    """value, before: mm or degrees · u: its standard uncertainty; none where the places do not tell it."""

    value: float
    before: float
    u: float | None
    held: bool


@dataclass(frozen=True, slots=True, eq=False)
class Adjusted:
    """sizes: of each dimension · rms, noise: of the residuals of what was used, mm; robustly · used, left_out: places · assumed: entities that no place
    tells anything of · off (n,): signed distance of each place from its entity, mm, not a number where it belongs to none."""

    drawing: Drawing
    sizes: tuple[AdjustedSize, ...]
    rms: float
    noise: float
    used: int
    left_out: int
    assumed: tuple[str, ...]
    off: Array
    belonging: Belonging


def adjusted(
    drawing: Drawing, chains: Sequence[Array], *, held: Collection[int] = (), lookup: Lookup | None = None
) -> Adjusted:
    """The drawing where it fits chains of measured places (n, 2), mm, best; it has to be roughly there already.

    held: dimensions that keep their value, by their place; all others are adjusted, as is everything else that can move. Raises
    ContourError (no-solution) where what is asked does not hold together, (too-few-points) where no place is near.
    """
    start = solved(_freed(drawing, held), lookup)
    if not start.solved:
        raise ContourError(
            "no-solution",
            "what is asked of the drawing does not hold together",
            got=" against ".join(start.conflicts[0]) if start.conflicts else f"an error of {start.residual:.3g} mm",
            need="a drawing that can be solved",
            remedy="take one of these away, or free the sizes that contradict each other",
        )
    points = np.vstack([np.asarray(c, float).reshape(-1, 2) for c in chains]) if chains else np.zeros((0, 2))
    points = points[np.isfinite(points).all(axis=1)]
    work = _Work(start.drawing, points, lookup)
    for k in range(_OUTER):
        before = work.x.copy()
        work.belong(first=k == 0)
        work.fit()
        if k > 0 and float(np.abs(work.x - before).max()) < 1e-6 * work.size:
            work.still = True
            break
    return work.told(drawing, frozenset(held), _chain_of(chains))


def _freed(drawing: Drawing, held: Collection[int]) -> Drawing:
    """Dimensions that are not held only read."""
    return drawing.model_copy(
        update={
            "dimensions": tuple(
                d if k in held else d.model_copy(update={"reference": True}) for k, d in enumerate(drawing.dimensions)
            )
        }
    )


def _chain_of(chains: Sequence[Array]) -> NDArray[np.int64]:
    return np.concatenate([np.full(len(c), k) for k, c in enumerate(chains)] or [np.zeros(0, np.int64)]).astype(
        np.int64
    )


class _Work:
    """The drawing under adjustment: where its unknowns are, and which place belongs to what."""

    def __init__(self, drawing: Drawing, points: Array, lookup: Lookup | None) -> None:
        self.points, self.lookup = points, lookup
        self._begin(drawing)
        self.weights = np.ones(len(points))
        self.noise = self._widest = np.inf
        self.still = False  # nothing has moved since places were last given to what is next to them

    def _begin(self, drawing: Drawing) -> None:
        self.drawing = drawing
        self.system = DrawnSystem(drawing, self.lookup)
        self.asked = self.system.demands().system
        self.x, self.size = self.system.x.copy(), self.system.size
        self._told_at: dict[bytes, Told] = {}

    def belong(self, *, first: bool) -> None:
        """Each place to the entity next to it; what is far off, as a rim, wear or something else is, to none."""
        reach = _REACH * self.size if first else max(5 * self._widest, 1e-6 * self.size)
        self.belongs = belonging(self.drawing, self.points, reach)
        owners = np.bincount(self.belongs.owner[self.belongs.inner], minlength=len(self.belongs.names))
        self.told_of = [k for k, n in enumerate(owners) if n >= _LEAST]
        if not self.told_of:
            raise ContourError(
                "too-few-points",
                "no measured place lies near what is drawn",
                got=f"{int((self.belongs.owner >= 0).sum())} places within {reach:.3g} mm",
                need="a section under the drawing",
                remedy="draw it nearer to the section, or choose another height",
            )
        self._told_at = {}
        owner = np.where(self.belongs.inner, self.belongs.owner, -1)
        rows = {k: np.flatnonzero(owner == k) for k in self.told_of}
        self._gathered = Gathered(self.system.unknowns, self.belongs.names, rows, self.points)

    def residuals(self, x: Array) -> Array:
        """(n,) mm, nan of places that belong to nothing."""
        return self._told(x).residuals

    def _told(self, x: Array) -> Told:
        """Kept for the next question: a step that was tried is where the next one begins."""
        key = x.tobytes()
        if key not in self._told_at:
            self._told_at = {**dict(list(self._told_at.items())[-1:]), key: self._gathered.told(x)}
        return self._told_at[key]

    def fit(self) -> None:
        for _ in range(_INNER):
            r = self.residuals(self.x)
            self.noise = max(float(1.4826 * np.nanmedian(np.abs(r))), 1e-9 * self.size)
            spread = self._spread(r)
            z = np.abs(np.nan_to_num(r, nan=np.inf)) / spread
            self.weights = np.where(z < _CUT, np.minimum(1.0, _SOFT / np.maximum(z, 1e-12)), 0.0)
            normal, slope = self._normal(self.x)
            step = self._kkt(normal, slope)
            self._widest = float(np.nanmax(np.where(self.weights > 0, spread, 0.0)))
            moved = self._as_far_as_it_helps(step)
            if moved < 1e-9 * self.size:
                break
        self._begin(self._settled())

    def _spread(self, r: Array) -> Array:
        """(n,) what is usual of each place's own entity: one that is off as a whole, since its size is held, is off and not worn."""
        return np.fmax(self.noise, 1.4826 * self._gathered.medians(np.abs(r)))

    def _alone(self, r: Array) -> Array:
        """Residuals without what an entity is off by as a whole."""
        return r - self._gathered.medians(r)

    def _normal(self, x: Array) -> tuple[csc_array, Array]:
        return self._gathered.normal(self._told(x), self.weights, len(x))

    def _factor(self, normal: csc_array):  # type: ignore[no-untyped-def]
        """The KKT system, factored: little weight on staying where no place says anything, and none of it singular where demands repeat."""
        scale = max(float(normal.diagonal().max()), 1e-12)
        jacobian = self.asked.jacobian(self.x)
        top = normal / scale + _LOOSE * eye_array(len(self.x))
        if not len(self.asked):
            return splu(csc_array(top)), scale
        bottom = -1e-11 * eye_array(len(self.asked))
        return splu(csc_array(bmat([[top, jacobian.T], [jacobian, bottom]], format="csc"))), scale

    def _kkt(self, normal: csc_array, slope: Array) -> Array:
        factor, scale = self._factor(normal)
        right = np.concatenate([-slope / scale, -self.asked.residuals(self.x)])
        return np.asarray(factor.solve(right)[: len(self.x)])

    def _cost(self, x: Array) -> float:
        r = np.nan_to_num(self.residuals(x))
        broken = self.asked.residuals(x)
        return float(self.weights @ r**2 + 10 * len(self.points) * (broken @ broken))

    def _as_far_as_it_helps(self, step: Array) -> float:
        if not np.isfinite(step).all():
            return 0.0
        step = step * min(1.0, 0.1 * self.size / max(float(np.abs(step).max()), 1e-300))
        was = self._cost(self.x)
        for part in (1.0, 0.5, 0.25, 0.1, 0.02):
            if self._cost(self.x + part * step) <= was * (1 + 1e-9) + 1e-18:
                self.x = self.x + part * step
                return float(np.abs(part * step).max())
        return 0.0

    def _settled(self) -> Drawing:
        """The drawing at x, exactly as it is asked to be."""
        there = DrawnSystem(moved_to(self.system.unknowns, self.x), self.lookup)
        found = there.settle()
        kept = found.solved and self.system.orientation.kept(self.x)
        return moved_to(there.unknowns, found.x) if kept else self.drawing

    def told(self, given: Drawing, held: frozenset[int], chain: NDArray[np.int64]) -> Adjusted:
        if not self.still:
            self.belong(first=False)
        r = self.residuals(self.x)
        spread = self._spread(r)
        used = np.isfinite(r) & (np.abs(r) < _CUT * spread)
        self.weights = np.where(used, (self.noise / spread) ** 2, 0.0)
        sizes = self._sizes(given, held, r, used, chain)
        named = {self.belongs.names[k] for k in self.told_of}
        return Adjusted(
            drawing=self.drawing.model_copy(update={"dimensions": given.dimensions}),
            sizes=sizes,
            rms=float(np.sqrt(np.mean(r[used] ** 2))) if used.any() else 0.0,
            noise=self.noise,
            used=int(used.sum()),
            left_out=int(len(self.points) - used.sum()),
            assumed=tuple(n for n in self.belongs.names if n not in named),
            off=self._all_off(),
            belonging=self.belongs,
        )

    def _all_off(self) -> Array:
        out = np.full(len(self.points), np.nan)
        for k, name in enumerate(self.belongs.names):
            rows = np.flatnonzero(self.belongs.owner == k)
            if len(rows):
                out[rows] = off(self.system.unknowns, self.x, name, self.points[rows])[0]
        return out

    def _sizes(
        self, given: Drawing, held: frozenset[int], r: Array, used: NDArray[np.bool_], chain: NDArray[np.int64]
    ) -> tuple[AdjustedSize, ...]:
        u, normal = self.system.unknowns, self._normal(self.x)[0]
        factor, scale = self._factor(normal)
        freedom = max(int(used.sum()) - len(self.x) + len(self.asked), 1)
        variance = float(np.sum((self.weights * r**2)[used])) / freedom * _together(self._alone(r), used, chain)
        start = DrawnSystem(given, self.lookup)
        out = []
        for k, d in enumerate(given.dimensions):
            value = measured(u, d, f"d:{k}", self.x)
            slope = np.zeros(len(self.x) + len(self.asked))
            slope[: len(self.x)] = slope_of(u, d, self.x, self.size)
            own = slope[: len(self.x)] @ factor.solve(slope)[: len(self.x)] / scale
            spread = float(np.sqrt(max(own * variance, 0.0)))
            limit = _SAYS_NOTHING * (180.0 if d.kind == "angle" else self.size)
            before = measured(start.unknowns, d, f"d:{k}", start.x)
            out.append(AdjustedSize(value, before, None if k in held or spread > limit else spread, k in held))
        return tuple(out)


def _together(r: Array, used: NDArray[np.bool_], chain: NDArray[np.int64]) -> float:
    """How much less residuals along chains tell than as many of their own would: one and twice the sum of their correlations."""
    rows = np.flatnonzero(used)
    if len(rows) < 4 * _LAGS:
        return 1.0
    values, of = r[rows], chain[rows] if len(chain) == len(r) else np.zeros(len(rows), np.int64)
    square = float(np.mean(values**2))
    total = 1.0
    for lag in range(1, _LAGS):
        near = (rows[lag:] - rows[:-lag] == lag) & (of[lag:] == of[:-lag])
        if near.sum() < 20:
            break
        shared = float(np.mean((values[lag:] * values[:-lag])[near])) / max(square, 1e-300)
        if shared < 0.05:
            break
        total += 2 * shared
    return total
