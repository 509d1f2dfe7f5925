"""Walls led along guides: curves in space that meet every section, and that the walls pass through in between."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from contour.recipe.problem import ContourError, Where
from contour.solid.path import Path
from contour.solid.skin import CURVED, Wall, across

__all__ = ["led"]

Array = NDArray[np.float64]
_STATIONS = 49  # sections that a guided wall is led through
_DENSE = 129  # places of a piece of a guide
_MEETS_MM = 0.05


def led(walls: Sequence[Wall], guides: Sequence[Path]) -> list[Wall]:
    """Walls of one ring, in their order round, moved onto guides between the sections; what lies between two guides is moved as both, the nearer
    one more. Sections stay as they are.

    Raises ContourError (bad-params) where a guide passes a section by, or changes from one line of the outline to another.
    """
    at = np.unique(np.concatenate([np.linspace(0, 1, _STATIONS), walls[0].at]))
    grids = [_fine(w, at) for w in walls]
    ring = np.concatenate([g[:-1] for g in grids])  # (n, m, 3), once round
    moves = []
    for k, guide in enumerate(guides):
        where, off = _followed(guide, ring, at, walls[0].at, k)
        moves.append((where, off))
    moves.sort(key=lambda m: m[0])
    n = len(ring)
    shares = _shares([w for w, _ in moves], n)
    moved = ring + sum(s[:, None, None] * off for s, (_, off) in zip(shares, moves, strict=True))
    out, begin = [], 0
    for wall in walls:
        rows = moved[np.arange(begin, begin + CURVED) % n]
        out.append(Wall(wall.name, rows, at))
        begin += CURVED - 1
    return out


def _fine(wall: Wall, at: Array) -> Array:
    """(k, m, 3): dense both ways."""
    rows = across(wall)(at).reshape(len(at), -1, 3).transpose(1, 0, 2)
    if len(rows) == CURVED:
        return rows
    share = np.linspace(0, 1, CURVED)[:, None, None]
    return rows[:1] * (1 - share) + rows[-1:] * share


def _followed(guide: Path, ring: Array, at: Array, sections: Array, which: int) -> tuple[float, Array]:
    """(where on the ring, how far the guide lies off that line at every station, (m, 3))."""
    stations = np.array([int(np.argmin(np.abs(at - s))) for s in sections])
    share, places = _dense(guide)
    reached, where = [], 0.0
    for k, s in enumerate(stations):
        away, spot, along = _nearest(places, ring[:, s])
        if away > _MEETS_MM:
            p = places[along]
            raise ContourError(
                "bad-params",
                "a guide passes a section by",
                where=Where(param=f"guides[{which}]", point=(float(p[0]), float(p[1]), float(p[2]))),
                got=f"{away:.3f} mm from section {k + 1}",
                need=f"within {_MEETS_MM:g} mm of every section's outline",
                remedy="draw the guide through a point of each section",
            )
        reached.append(float(share[along]))
        where = spot if k == 0 else where
    if not (np.diff(reached) > 0).all():
        if not (np.diff(reached) < 0).all():
            raise ContourError(
                "bad-params",
                "a guide does not meet the sections in their order",
                where=Where(param=f"guides[{which}]"),
                got="another order",
                need="the order of the sections",
                remedy="put the sections in the order in which they follow",
            )
        return _followed(guide.turned(), ring, at, sections, which)
    go = (
        np.clip(PchipInterpolator(sections, reached)(at), 0, 1)
        if len(sections) > 2
        else np.interp(at, sections, reached)
    )
    low, part = int(np.floor(where)), where - np.floor(where)
    line = ring[low % len(ring)] * (1 - part) + ring[(low + 1) % len(ring)] * part
    off = _at(guide, go) - line
    amiss = np.linalg.norm(off[stations], axis=1)
    if float(amiss.max()) > _MEETS_MM:
        raise ContourError(
            "bad-params",
            "a guide changes from one line of the outline to another",
            where=Where(param=f"guides[{which}]"),
            got=f"{float(amiss.max()):.3f} mm beside it at section {int(np.argmax(amiss)) + 1}",
            need="the same corner, or the same share of the way round, of all sections",
            remedy="draw the guide through places that answer each other",
        )
    # What is left at the sections themselves stays out: they are met exactly.
    rest = np.column_stack([np.interp(at, sections, off[stations, c]) for c in range(3)])
    return where, off - rest


def _dense(guide: Path) -> tuple[Array, Array]:
    """(shares of the way (n,), places (n, 3))."""
    share = np.linspace(0, 1, _DENSE * len(guide.pieces))
    return share, _at(guide, share)


def _at(guide: Path, share: Array) -> Array:
    """Places (n, 3) at shares of the way."""
    lengths = np.array([p.length() for p in guide.pieces])
    run = np.concatenate([[0.0], np.cumsum(lengths)])
    run = run / run[-1]
    out = []
    for s in share:
        k = int(np.clip(np.searchsorted(run, s, side="right") - 1, 0, len(lengths) - 1))
        out.append(guide.pieces[k].at(float((s - run[k]) / (run[k + 1] - run[k])))[0])
    return np.array(out)


def _nearest(places: Array, outline: Array) -> tuple[float, float, int]:
    """(least distance between places (n, 3) and a closed outline (k, 3), where on the outline, which place)."""
    a, b = outline, np.roll(outline, -1, axis=0)
    d = b - a
    t = np.einsum("nkc,kc->nk", places[:, None] - a, d) / np.maximum((d * d).sum(axis=1), 1e-24)
    t = np.clip(t, 0, 1)
    away = np.linalg.norm(a + t[..., None] * d - places[:, None], axis=2)
    i, k = np.unravel_index(int(np.argmin(away)), away.shape)
    return float(away[i, k]), float(k + t[i, k]), int(i)


def _shares(where: Sequence[float], n: int) -> list[Array]:
    """How much each guide counts all round, (n,) each: wholly on itself, not at all on its neighbours, together once; one alone everywhere."""
    if len(where) == 1:
        return [np.ones(n)]
    places = np.arange(n, dtype=float)
    out = [np.zeros(n) for _ in where]
    for i in range(len(where)):
        j = (i + 1) % len(where)
        gap = (where[j] - where[i]) % n
        far = (places - where[i]) % n
        inside = far <= gap
        rise = far[inside] / max(gap, 1e-9)
        ease = rise * rise * (3 - 2 * rise)
        out[i][inside] = 1 - ease
        out[j][inside] = np.maximum(out[j][inside], ease)
    return out
