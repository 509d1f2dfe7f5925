"""Edges of a picture that lies under a drawing: found along what is drawn, and the picture laid onto it by them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.metrology.photo.edges import Picture, edges_across
from contour.metrology.photo.laid import Laid
from contour.recipe.problem import ContourError
from contour.sketch.drawn.text import Drawing
from contour.sketch.drawn.traces import traces_of

__all__ = ["REACH_PX", "LaidOnto", "SeenEdges", "edges_near", "laid_onto"]

Array = NDArray[np.float64]
REACH_PX = 14.0  # how far to either side an edge is looked for
_EVERY_PX, _MOST = 2.0, 400  # places along one entity
_CORNER_PX = 3.0  # next to a corner the edge that crosses there is seen
_LEAST = 8  # places that lay a picture
_LEAST_PX = 0.5  # spread of edges


@dataclass(frozen=True, slots=True, eq=False)
class SeenEdges:
    """places, feet, ways (n, 2), off (n,): where an edge is seen, the place of the drawing it was looked for from, the unit vector along which, and how
    far, mm · entity (n,): by its place in names, which are those of all that bounds something."""

    names: tuple[str, ...]
    places: Array
    feet: Array
    ways: Array
    off: Array
    entity: NDArray[np.int64]

    @property
    def chains(self) -> list[Array]:
        """Places of one entity each, in their order along it."""
        return [self.places[self.entity == k] for k in np.unique(self.entity)]


def edges_near(
    drawing: Drawing, pixels: Picture, laid: Laid, *, reach_px: float = REACH_PX, lines: bool = False
) -> SeenEdges:
    """Edges of a picture within reach of what is drawn; construction lines are no edges. lines: of a drawing on paper the middles of its lines.

    Raises ContourError (fit-failed) where none are to be seen.
    """
    high, wide = pixels.shape[:2]
    names, places, feet, ways, off, entity = [], [], [], [], [], []
    for k, trace in enumerate(traces_of(drawing)):
        names.append(trace.entity)
        shown = laid.to_picture(trace.place(trace.shown))
        long = float(np.linalg.norm(np.diff(shown, axis=0), axis=1).sum())
        if long < 4 * _CORNER_PX:
            continue
        s = np.linspace(0, 1, int(np.clip(long / _EVERY_PX, 12, _MOST)) + 1)
        spare = 0.0 if trace.closed else _CORNER_PX / long
        s = s[:-1] if trace.closed else s[(s >= spare) & (s <= 1 - spare)]
        foot, slope = trace.place(s), trace.slope(s)
        way = np.stack([-slope[:, 1], slope[:, 0]], axis=1)
        way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-12)
        at = laid.to_picture(foot)
        inside = (at >= 0).all(axis=1) & (at <= [wide - 1, high - 1]).all(axis=1)
        if not inside.any():
            continue
        foot, way = foot[inside], way[inside]
        found = edges_across(pixels, at[inside], laid.ways(way), reach=reach_px, drawn=lines)
        seen = np.isfinite(found)
        mm = found[seen] * laid.mm_per_px
        places.append(foot[seen] + mm[:, None] * way[seen])
        feet.append(foot[seen])
        ways.append(way[seen])
        off.append(mm)
        entity.append(np.full(int(seen.sum()), k))
    if not sum(len(o) for o in off):
        raise ContourError(
            "fit-failed",
            "no edge of the picture is to be seen near what is drawn",
            got=f"none within {reach_px * laid.mm_per_px:.2g} mm",
            need="edges along what is drawn",
            remedy="lay the picture under the drawing first, or draw closer to its edges",
        )
    return SeenEdges(
        tuple(names),
        np.vstack(places),
        np.vstack(feet),
        np.vstack(ways),
        np.concatenate(off),
        np.concatenate(entity).astype(np.int64),
    )


@dataclass(frozen=True, slots=True)
class LaidOnto:
    """rms: of the edges that were used, mm · larger: how many times as large as its edges the drawing is, which the picture's scale has to answer for,
    with its standard uncertainty."""

    laid: Laid
    rms: float
    used: int
    larger: float
    u_larger: float


def laid_onto(drawing: Drawing, pixels: Picture, laid: Laid, *, lines: bool = False) -> LaidOnto:
    """A picture moved and turned, by its edges, onto a drawing that stays where it is: Gauss-Newton on the distances along the drawing's normals, each
    round looking for edges anew and nearer. Raises ContourError (fit-failed) as :func:`edges_near` does, and where edges leave it free to move."""
    for reach in (3 * REACH_PX, 2 * REACH_PX, REACH_PX, 0.6 * REACH_PX, 0.6 * REACH_PX):
        seen = edges_near(drawing, pixels, laid, reach_px=reach, lines=lines)
        step, middle, _, _, _ = _step(seen, laid.mm_per_px, scaled=False)
        laid = laid.moved(step[:2], math.degrees(step[2]), middle)
    seen = edges_near(drawing, pixels, laid, reach_px=0.6 * REACH_PX, lines=lines)
    step, _, spread, u, used = _step(seen, laid.mm_per_px, scaled=True)
    return LaidOnto(laid, spread, used, 1 + float(step[3]), float(u[3]))


def _step(seen: SeenEdges, pixel: float, *, scaled: bool) -> tuple[Array, Array, float, Array, int]:
    """(move, turn and, scaled, growth of the places that brings them onto the drawing; about where; rms; standard uncertainties; places used)."""
    p, n = seen.places, seen.ways
    middle = p.mean(axis=0)
    arm = p - middle
    size = max(float(np.linalg.norm(arm, axis=1).max(initial=0.0)), 1e-9)
    columns = [n[:, 0], n[:, 1], (n[:, 1] * arm[:, 0] - n[:, 0] * arm[:, 1]) / size]
    if scaled:
        columns.append((n * arm).sum(axis=1) / size)
    A = np.column_stack(columns)
    weight = np.ones(len(p))
    x = np.zeros(A.shape[1])
    for _ in range(12):
        M = (A * weight[:, None]).T @ A
        values = np.linalg.eigvalsh(M[:3, :3])
        if len(p) < _LEAST or values[0] < 1e-4 * values[-1]:
            raise ContourError(
                "fit-failed",
                "the edges that are seen leave the picture free to move",
                got=f"{len(p)} places",
                need="edges in two directions",
                remedy="draw more of the part, or lay the picture by two places",
            )
        x = np.linalg.lstsq(M, -(A * weight[:, None]).T @ seen.off, rcond=1e-9)[0]
        rest = np.abs(seen.off + A @ x)
        # No edge is known to better than that: sides that happen to fit exactly must not outvote the others.
        scale = max(1.4826 * float(np.median(rest)), _LEAST_PX * pixel)
        weight = np.where(rest < 4 * scale, np.minimum(1.0, 1.5 * scale / np.maximum(rest, 1e-12)), 0.0)
    used = weight > 0
    rms = float(np.sqrt(np.mean(rest[used] ** 2)))
    # Neighbours along an edge share its blur: a third of them tell something of their own.
    cover = np.linalg.pinv((A[used].T @ A[used]) / 3) * rms**2
    u = np.sqrt(np.maximum(np.diag(cover), 0.0))
    x, u = x.copy(), u.copy()
    x[2:] /= size
    u[2:] /= size
    return x, middle, rms, u, int(used.sum())
