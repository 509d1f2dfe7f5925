"""Patches over all freeform regions of a mesh, and where those meet that are parts of one face: on a curve that both come near to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.geometry.surfaces import Surface
from contour.solid.of_regions.courses import Courses
from contour.solid.of_regions.curves import Run, faired, run_along
from contour.solid.of_regions.patches import Ground, Laid, Sheet, laid, points_of, tracked

__all__ = ["laid_over"]

Array = NDArray[np.float64]
Way = tuple[Array, Run]  # points (k, 3) mm of a chain, and the curve along it


@dataclass(frozen=True, slots=True)
class _Parts:
    """sheets, laid: of each freeform region, its sheet and the patch over it · ways: of each soft chain."""

    on: Ground
    sheets: dict[int, Sheet]
    laid: dict[int, Laid]
    ways: dict[int, Way]

    def beside(self, c: int) -> list[int]:
        """The regions with patches on a chain's sides."""
        chain = self.on.borders.chains[c]
        return [r for r in (chain.left, chain.right) if r in self.sheets]

    def on_patch(self, r: int, c: int) -> tuple[Array, Array, float]:
        """(Where on a region's patch a chain's curve runs (k, 2), places (k, 3) on the patch there, how far the curve is off it, mm)."""
        patch = self.laid[r].patch
        track, where = tracked(patch, self.sheets[r], self.on.borders.chains[c], *self.ways[c])
        near = patch.at(track)
        return track, near, float(np.linalg.norm(near - where, axis=1).max())

    def apart(self) -> set[int]:
        """Chains beside which a patch is too far off their curve."""
        return {c for c in self.ways for r in self.beside(c) if self.on_patch(r, c)[2] > self.sheets[r].most_gap()}

    def poor(self) -> int:
        """How many patches are rough or too far off a curve."""
        off = {r for c in self.apart() for r in self.beside(c)}
        return len(off | {r for r, own in self.laid.items() if own.rough})

    def again(self, chains: set[int], way: Callable[[_Parts, int], Way]) -> _Parts:
        """The same with other curves along chains, and patches beside them that go through those."""
        ways = self.ways | {c: way(self, c) for c in chains}
        own = {r for c in chains for r in self.beside(c)}
        return replace(self, ways=ways, laid=self.laid | {r: laid(r, self.sheets[r], self.on, ways) for r in own})


def laid_over(surfaces: list[Surface | Sheet], on: Ground) -> tuple[list[Surface | Laid], Courses]:
    """What lies over each region, and the courses with those of soft chains: the edge runs smoothly among their sides, midway between where both
    patches are nearest to it; patches that are far apart there are laid again, through a curve that suits both."""
    sheets = {r: s for r, s in enumerate(surfaces) if isinstance(s, Sheet)}
    first = _Parts(on, sheets, {r: laid(r, s, on, {}) for r, s in sheets.items()}, {})
    best = replace(first, ways={c: _midway(first, c) for c in on.soft})
    apart, poor = best.apart(), best.poor()
    for way in (_nearer_one, _vertices) if apart else ():
        other = best.again(apart, way)
        if (count := other.poor()) < poor:
            best, poor = other, count
        if not poor:
            break
    runs = list(on.courses.runs)
    covers = dict(best.laid)
    for c, (_, run) in best.ways.items():
        runs[c] = run
        for r in best.beside(c):
            track, _, off = best.on_patch(r, c)
            own = covers[r]
            rough = own.rough or off > sheets[r].most_gap()
            covers[r] = replace(own, tracks=own.tracks | {c: track}, beside=own.beside | {c: off}, rough=rough)
    return [covers[r] if isinstance(s, Sheet) else s for r, s in enumerate(surfaces)], replace(on.courses, runs=runs)


def _midway(parts: _Parts, c: int) -> Way:
    """Among the vertices of a chain, midway between the patches on its sides, where neither is rough."""
    on = parts.on
    chain = on.borders.chains[c]
    points = points_of(chain, on.vertices, on.courses)
    sides = parts.beside(c)
    if any(parts.laid[r].rough for r in sides):
        return points, on.courses.runs[c]
    between = faired(points).copy()
    at = [parts.sheets[r].flat[np.searchsorted(parts.sheets[r].vertices, chain.vertices)] for r in sides]
    patches = [parts.laid[r].patch for r in sides]
    near = [p.at(p.nearest(flat, between)) for p, flat in zip(patches, at, strict=True)]
    between[1:-1] = np.mean(near, axis=0)[1:-1]
    return _through(between, on) or (points, on.courses.runs[c])


def _nearer_one(parts: _Parts, c: int) -> Way:
    """Of where the patches are nearest to a chain's curve, the more of the one that is nearer: between the vertices of its rim a patch may be
    anywhere."""
    points, run = parts.ways[c]
    told = [parts.on_patch(r, c) for r in parts.beside(c)]
    way = np.average(
        [near for _, near, _ in told], axis=0, weights=[max(off, parts.on.tolerance) ** -2 for *_, off in told]
    )
    way[[0, -1]] = points[[0, -1]]
    made = _through(way, parts.on)
    return (points, made[1]) if made else (points, run)


def _vertices(parts: _Parts, c: int) -> Way:
    """Smoothly along the vertices of a chain, wherever the patches are."""
    points = faired(points_of(parts.on.borders.chains[c], parts.on.vertices, parts.on.courses))
    return _through(points, parts.on) or parts.ways[c]


def _through(points: Array, on: Ground) -> Way | None:
    """The curve through points (k, 3); none where two of them lie on each other."""
    apart = float(np.linalg.norm(np.diff(points, axis=0), axis=1).min())
    return (points, run_along(points, [], False, 0.0)) if apart > on.tolerance else None
