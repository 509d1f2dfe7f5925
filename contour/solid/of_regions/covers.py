"""What is to lie over each region of a modelled mesh: its surface, or a sheet for a patch, cut in parts where one patch does not do."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from contour.fit.segment.whole import Segmentation
from contour.geometry.surfaces import Surface, distances
from contour.mesh.parting import parted
from contour.mesh.prepare import PreparedScan
from contour.solid.of_regions.patches import Sheet, sheet_of

__all__ = ["Covers", "covers_of"]

Ints = NDArray[np.int64]

_DEEPER = 2.5  # times the deepest chord of a round region: what is freeform has none deeper
# Where there is no round region to compare with: facets of a freeform region, and radians between most of them.
_MANY, _GENTLE = 24, 0.35
_MOST_PARTS = 8  # of one freeform region
_LEAST_PART = 12  # facets
_ALLOWED = 2  # times that a sheet is let off


@dataclass(slots=True, eq=False)
class Covers:
    """labels (n,): the region of each facet, -1 for none; regions that are cut in parts have more of them · over: what lies over each region,
    nothing where its facets stay flat."""

    labels: Ints
    over: list[Surface | Sheet | None]
    _scan: PreparedScan
    _deepest: float
    _origin: dict[int, int] = field(default_factory=dict)  # of parts: the region that was cut
    _parts: Counter[int] = field(default_factory=Counter)

    def lay(self, region: int) -> None:
        """A sheet over a freeform region, or over parts of it where it does not spread out flat; nothing where its facets are deeper chords than
        those of round regions: those are flat faces that happen to bend little."""
        own = self._scan.facets[self.labels == region]
        sheet = sheet_of(self._scan.vertices, own, self._origin.get(region, region))
        self.over[region] = sheet if sheet is not None and self._is_blend(sheet) else None
        if sheet is None:
            self.part(region)

    def part(self, region: int) -> bool:
        """A freeform region cut in two, with a sheet over either part; whether it could be."""
        own = np.flatnonzero(self.labels == region)
        origin = self._origin.get(region, region)
        if len(own) < 2 * _LEAST_PART or self._parts[origin] + 2 > _MOST_PARTS:
            return False
        used, facets = np.unique(self._scan.facets[own], return_inverse=True)
        narrow = facets.reshape(-1, 3).astype(np.int64)
        one = parted(self._scan.vertices[used], narrow)
        if one is None:  # a band of single facets
            one = parted(self._scan.vertices[used], narrow, least_way=2)
        if one is None or min(one.sum(), (~one).sum()) < _LEAST_PART:
            return False
        other = len(self.over)
        self.labels[own[~one]] = other
        self.over.append(None)
        self._origin[other] = origin
        self._parts[origin] += 1
        self.lay(region)
        self.lay(other)
        return True

    def allow(self, region: int) -> bool:
        """A freeform region that cannot be cut covered by what comes no nearer than flat facets would, and then by what is better than many of
        them; whether that has not been allowed yet."""
        sheet = self.over[region]
        if not isinstance(sheet, Sheet) or sheet.last >= _ALLOWED:
            return False
        self.over[region] = replace(sheet, last=sheet.last + 1)
        return True

    def _is_blend(self, sheet: Sheet) -> bool:
        if self._deepest:
            return sheet.chord <= _DEEPER * self._deepest
        return len(sheet.facets) >= _MANY and sheet.turn <= _GENTLE


def covers_of(scan: PreparedScan, found: Segmentation) -> Covers:
    """What is to lie over the regions of a mesh."""
    rounds = [
        (k, r.surface) for k, r in enumerate(found.regions) if r.surface is not None and r.surface.kind != "plane"
    ]
    chords = (float(np.abs(distances(s, scan.centroids[found.labels == k])).max()) for k, s in rounds)
    out = Covers(found.labels.astype(np.int64), [r.surface for r in found.regions], scan, max(chords, default=0.0))
    for k, region in enumerate(found.regions):
        if region.surface is None:
            out.lay(k)
    return out
