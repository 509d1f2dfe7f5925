"""Pieces of one surface found as one: touching regions are fitted jointly, and every region takes the simplest kind that holds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from contour.fit.primitives import NOISY, face_side, guess, plausible, refine
from contour.fit.segment.labels import FREE, borders, depth_of
from contour.geometry.surface_rows import gap_all
from contour.mesh.prepare import PreparedScan

__all__ = [
    "Draft",
    "core_of",
    "fit_facets",
    "inside_share",
    "merge_across_holes",
    "merge_meeting",
    "merge_touching",
    "refit",
    "simplest_kinds",
]

_SAMPLE, _PAIR_SAMPLE = 3000, 1000
_SIMPLE_FIRST = (1, 2, 4, 3, 5)
# A simpler kind is taken when its residual is not larger than this times that of the better one: a plane is what people make
# first, a ball hardly ever where a band of a cone or a bead would do.
_AS_GOOD = (0.0, 1.3, 1.12, 1.06, 1.03)
_AS_GOOD_NARROW = (0.0, 1.3, 1.2, 1.2, 1.03)
_AS_GOOD_SLIGHT, _SLIGHT = (
    (0.0, 1.3, 1.5, 1.9, 1.03),
    np.radians(20.0),
)  # a tube that turns less than this rounds nothing


@dataclass(slots=True)
class Draft:
    """A segmentation while it is made. labels (n,) i64, -1 none · codes (k,) kind of every label, 0 for one that is gone ·
    values (k, 9) · rms (k,) · sigma, tolerance: mm · sigmas (n,): of each facet, mm · cosine: of the angle that normals may be off · follows (k,): the region
    whose axis or roundness a narrow face follows, -1 for all that are fitted by themselves."""

    scan: PreparedScan
    labels: NDArray[np.int64]
    codes: NDArray[np.int64]
    values: NDArray[np.float64]
    rms: NDArray[np.float64]
    sigma: float
    sigmas: NDArray[np.float64]
    tolerance: float
    cosine: float
    smallest: float
    largest: float
    protected: NDArray[np.uint8]
    follows: NDArray[np.int64] = field(init=False)

    def __post_init__(self) -> None:
        self.follows = np.full(len(self.codes), -1)

    def facets_by_label(self) -> list[NDArray[np.int64]]:
        order = np.argsort(self.labels, kind="stable")
        ends = np.searchsorted(self.labels[order], np.arange(len(self.codes) + 1))
        return [order[ends[k] : ends[k + 1]] for k in range(len(self.codes))]

    def new_label(self, code: int) -> int:
        """A label that nothing has; there is room for some thousands."""
        used = int(self.labels.max()) + 1
        free = used + int(np.argmax(self.codes[used:] == 0))
        self.codes[free], self.protected[free], self.rms[free], self.follows[free] = code, 0, 0.0, -1
        self.values[free] = 0.0
        return free


def thinned(ids: NDArray[np.int64], most: int = _SAMPLE) -> NDArray[np.int64]:
    """At most `most` of the ids (k,), spread evenly over them."""
    return ids if len(ids) <= most else np.ascontiguousarray(ids[np.linspace(0, len(ids) - 1, most).astype(np.int64)])


def fit_facets(
    draft: Draft, code: int, facets: NDArray[np.int64], begin: NDArray[np.float64] | None = None
) -> tuple[NDArray[np.float64], float] | None:
    """(values, rms) of one kind fitted to the centroids of facets; none when it cannot be that kind."""
    scan = draft.scan
    ids = thinned(facets)
    p = np.zeros(9)
    if begin is not None:
        p[:] = begin
    elif not guess(code, p, scan.centroids, scan.smooth_normals, ids, len(ids), NOISY):
        return None
    else:
        refine(code, p, scan.centroids, ids, len(ids), 12, 0.0)
    rms = refine(code, p, scan.centroids, ids, len(ids), 12, 2 * draft.sigma)
    if not np.isfinite(p).all() or not plausible(code, p, draft.smallest, draft.largest):
        return None
    face_side(code, p, scan.centroids, scan.smooth_normals, ids, len(ids))
    return p, float(rms)


def inside_share(draft: Draft, code: int, p: NDArray[np.float64], facets: NDArray[np.int64]) -> float:
    """Share of facets that lie on a surface and face its way.

    p (n,) parameters of the surface of kind `code`; facets: ids (k,).
    """
    ids = thinned(facets, 1500)
    d, g = gap_all(code, p, np.ascontiguousarray(draft.scan.centroids[ids]))
    turn = (g * draft.scan.smooth_normals[ids]).sum(axis=1) * p[8]
    return float(((np.abs(d) < draft.tolerance) & (turn > draft.cosine)).mean())


def core_of(facets: NDArray[np.int64], depth: NDArray[np.int32], least: int, few: int = 40) -> NDArray[np.int64]:
    """The facets of a region away from its border; all of them where it has hardly an inside.

    facets: ids (k,); depth (n,), rings to the border.
    """
    for rings in range(least, 0, -1):
        inner = facets[depth[facets] >= rings]
        if len(inner) >= max(few, 0.15 * len(facets)):
            return inner
    return facets


def refit(draft: Draft, rings: int = 4) -> None:
    """Every surface fitted again to its facets away from borders."""
    depth = depth_of(draft.labels, draft.scan.across, rings + 1)
    for k, facets in enumerate(draft.facets_by_label()):
        if draft.codes[k] in (0, FREE) or draft.follows[k] >= 0:
            continue
        if len(facets) < 6:
            draft.codes[k] = 0
            draft.labels[facets] = -1
            continue
        found = fit_facets(draft, int(draft.codes[k]), core_of(facets, depth, rings), draft.values[k])
        if found is not None:
            draft.values[k], draft.rms[k] = found


def _joint(
    draft: Draft, i: int, j: int, own: list[NDArray[np.int64]], depth: NDArray[np.int32]
) -> tuple[int, NDArray[np.float64], float] | None:
    """One surface for two regions, or none. Their borders, where edges are rounded, have no say."""
    a, b = core_of(own[i], depth, 3, 20), core_of(own[j], depth, 3, 20)
    if draft.codes[i] == draft.codes[j] == 1:  # two planes that face elsewhere need no fit
        turn = draft.values[i, 3:6] @ draft.values[j, 3:6] * draft.values[i, 8] * draft.values[j, 8]
        if turn < 0.9:
            return None
    if draft.follows[i] >= 0 and draft.follows[i] == draft.follows[j] and draft.codes[i] == draft.codes[j]:
        # Pieces of one narrow face: their softened edges say nothing about where it lies.
        p = draft.values[i] if len(a) >= len(b) else draft.values[j]
        d, _ = gap_all(int(draft.codes[i]), p, np.ascontiguousarray(draft.scan.centroids[np.concatenate([a, b])]))
        return (int(draft.codes[i]), p.copy(), float(draft.rms[i])) if np.median(np.abs(d)) < draft.tolerance else None
    both = np.concatenate([thinned(a, _PAIR_SAMPLE), thinned(b, _PAIR_SAMPLE)])
    best = max(draft.rms[i], draft.rms[j], 0.5 * draft.sigma)
    own_kinds = {int(draft.codes[i]), int(draft.codes[j])}
    # A slender taper grows as cylinders of slightly different radius around it.
    kinds = sorted(own_kinds | ({3} if own_kinds == {2} else set()), key=_SIMPLE_FIRST.index)
    for code in kinds:
        larger = i if (draft.codes[i] == code) and (draft.codes[j] != code or len(a) >= len(b)) else j
        starts = (draft.values[larger], None) if code in own_kinds else (None,)
        for begin in starts:
            found = fit_facets(draft, code, both, begin)
            if found is None:
                continue
            p, rms = found
            if min(inside_share(draft, code, p, a), inside_share(draft, code, p, b)) < 0.88:
                continue
            if rms < 1.25 * best or all(_no_worse(draft, code, p, k, core) for k, core in ((i, a), (j, b))):
                return code, p, rms
    return None


def _no_worse(draft: Draft, code: int, p: NDArray[np.float64], k: int, core: NDArray[np.int64]) -> bool:
    """Whether a surface lies as near to most of a region as the region's own: some foreign facets spoil an rms, not a median."""
    points = np.ascontiguousarray(draft.scan.centroids[thinned(core, _PAIR_SAMPLE)])
    own = np.median(np.abs(gap_all(int(draft.codes[k]), draft.values[k], points)[0]))
    return bool(np.median(np.abs(gap_all(code, p, points)[0])) < 1.3 * max(own, 0.25 * draft.sigma))


def merge_touching(draft: Draft) -> int:
    """Joins touching regions that one surface explains as well; returns how many went."""
    return _merge(draft, lambda: borders(draft.labels, draft.scan.across), touching=True)


def merge_across_holes(draft: Draft, *, only_curved: bool = False) -> int:
    """Joins regions on either side of a hole in the scan that one surface explains as well: what the scanner did not see does not
    make two faces of one. Returns how many went.

    Curved pieces come first, and two regions stay apart where something passes between them through the hole: a groove cut
    through by a hole would otherwise give the flats beside it away.
    """
    rims = _rim_runs(draft)
    curved = _merge(draft, lambda: _meeting(draft, rims, (2, 3, 4, 5)), touching=False)
    if only_curved:
        return curved
    flat = _merge(draft, lambda: _meeting(draft, rims, (1,)), touching=False)
    # What is left of a wide round between two holes is as good as flat.
    return curved + flat + _merge(draft, lambda: _meeting(draft, rims, (1, 2, 3, 4, 5)), touching=False)


def merge_meeting(draft: Draft, neighbours: Callable[[], tuple[NDArray[np.int64], NDArray[np.int64]]]) -> int:
    """Joins regions that meet over what was not seen, where one surface explains both; returns how many went. neighbours: facets of the
    one and of the other, both ways round."""
    return _merge(draft, neighbours, touching=False)


def _rim_runs(draft: Draft) -> list[NDArray[np.int64]]:
    """Per hole of the scan, the facets along its rim in order."""
    scan = draft.scan
    open_facets, open_side = np.nonzero(scan.across < 0)
    start = scan.facets[open_facets, open_side]
    end = scan.facets[open_facets, (open_side + 1) % 3]
    leaving = {int(v): k for k, v in enumerate(start)}
    unseen = np.ones(len(start), np.bool_)
    rims = []
    for first in range(len(start)):
        rim: list[int] = []
        k: int | None = first
        while k is not None and unseen[k]:
            unseen[k] = False
            rim.append(int(open_facets[k]))
            k = leaving.get(int(end[k]))
        if len(rim) > 3:
            rims.append(np.array(rim))
    return rims


def _meeting(
    draft: Draft, rims: list[NDArray[np.int64]], kinds: tuple[int, ...]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of facets, both ways round, for every two regions of these kinds that meet at holes with nothing passing between at any."""
    met: list[tuple[tuple[int, int], int, int]] = []
    parted: set[tuple[int, int]] = set()
    for rim in rims:
        labels = draft.labels[rim]
        begin = np.flatnonzero(labels != np.roll(labels, 1))
        runs = labels[begin].tolist()
        mine = [n for n, label in enumerate(runs) if label >= 0 and draft.codes[label] in kinds]
        for x, a in enumerate(mine):
            for b in mine[x + 1 :]:
                if runs[a] == runs[b]:
                    continue
                pair = (min(runs[a], runs[b]), max(runs[a], runs[b]))
                one, other = ({*side} - {*pair, -1} for side in (runs[a + 1 : b], runs[b + 1 :] + runs[:a]))
                if _passes(draft, rim, labels, one, other):
                    parted.add(pair)
                met.append((pair, int(rim[begin[a]]), int(rim[begin[b]])))
    open_pairs = [(a, b) for pair, a, b in met if pair not in parted]
    both = np.array(open_pairs + [(b, a) for a, b in open_pairs], np.int64).reshape(-1, 2)
    return both[:, 0], both[:, 1]


def _passes(draft: Draft, rim: NDArray[np.int64], labels: NDArray[np.int64], one: set[int], other: set[int]) -> bool:
    """Whether a region lies on both sides of the way between two others, or one on either side runs on to what lies on the other."""
    if one & other:
        return True
    points = {k: np.ascontiguousarray(draft.scan.centroids[rim[labels == k]]) for k in one | other}

    def runs_on(k: int, to: int) -> bool:
        code = int(draft.codes[k])
        if code in (0, FREE):
            return False
        return bool(np.median(np.abs(gap_all(code, draft.values[k], points[to])[0])) < 2 * draft.tolerance)

    return any(runs_on(x, y) or runs_on(y, x) for x in one for y in other)


def _runs_on(draft: Draft, i: int, j: int, facets: NDArray[np.int64], touching: bool) -> bool:
    """Whether both surfaces pass through the facets where the regions meet, turned alike: cheap, and no for every sharp edge."""
    reach, turn = (4.0, 0.94) if touching else (25.0, 0.7)
    points = np.ascontiguousarray(draft.scan.centroids[facets[:60]])
    d1, g1 = gap_all(int(draft.codes[i]), draft.values[i], points)
    d2, g2 = gap_all(int(draft.codes[j]), draft.values[j], points)
    alike = (g1 * g2).sum(axis=1) * draft.values[i, 8] * draft.values[j, 8]
    apart = np.median(np.maximum(np.abs(d1), np.abs(d2)))
    return bool(np.median(alike) > turn and apart < reach * draft.tolerance)


def _merge(
    draft: Draft, neighbours: Callable[[], tuple[NDArray[np.int64], NDArray[np.int64]]], *, touching: bool
) -> int:
    gone = 0
    refused: set[tuple[int, int]] = set()
    while True:
        own = draft.facets_by_label()
        depth = depth_of(draft.labels, draft.scan.across, 4)
        a, b = neighbours()
        if len(a) == 0:
            return gone
        la, lb = draft.labels[a], draft.labels[b]
        keep = (la >= 0) & (lb > la)
        keep &= (draft.codes[la] != FREE) & (draft.codes[lb] != FREE)
        if not keep.any():
            return gone
        size = len(draft.codes)
        at = a[keep]
        pairs, which, length = np.unique(la[keep] * size + lb[keep], return_inverse=True, return_counts=True)
        by_pair = np.split(at[np.argsort(which, kind="stable")], np.cumsum(length)[:-1])
        merged: set[int] = set()
        for k in np.argsort(-length):
            i, j = divmod(int(pairs[k]), size)
            if i in merged or j in merged or (i, j) in refused or draft.protected[i] or draft.protected[j]:
                continue
            found = _joint(draft, i, j, own, depth) if _runs_on(draft, i, j, by_pair[k], touching) else None
            if found is None:
                refused.add((i, j))
                continue
            draft.codes[i], draft.values[i], draft.rms[i] = found
            if draft.follows[j] != draft.follows[i]:
                draft.follows[i] = -1
            draft.labels[own[j]] = i
            draft.codes[j] = 0
            merged |= {i, j}
            refused = {pair for pair in refused if i not in pair}
            gone += 1
        if not merged:
            return gone


def _tube_turn(scan: PreparedScan, p: NDArray[np.float64], facets: NDArray[np.int64]) -> float:
    """How far a torus's facets go around its tube, radians, without the outermost tenth on either side."""
    w = scan.centroids[facets] - p[:3]
    h = w @ p[3:6]
    rho = np.linalg.norm(w - h[:, None] * p[3:6], axis=1)
    around = np.arctan2(h, rho - p[6])
    middle = np.arctan2(np.median(h), np.median(rho - p[6]))
    return float(np.ptp(np.percentile((around - middle + np.pi) % (2 * np.pi) - np.pi, (10, 90))) / 0.8)


def simplest_kinds(draft: Draft) -> int:
    """Every region takes the simplest kind whose residual is hardly larger than the present one's."""
    depth = depth_of(draft.labels, draft.scan.across, 4)
    changed = 0
    for k, facets in enumerate(draft.facets_by_label()):
        now = int(draft.codes[k])
        if now in (0, 1, FREE) or len(facets) < 20 or draft.protected[k]:
            continue
        core = core_of(facets, depth, 2)
        # The softened edges of a narrow face bend it: a chamfer would pass for a slight round.
        narrow = np.percentile(depth[facets], 80) < 3
        as_good = _AS_GOOD_NARROW if narrow else _AS_GOOD
        if narrow and now == 5 and _tube_turn(draft.scan, draft.values[k], facets) < _SLIGHT:
            as_good = _AS_GOOD_SLIGHT
        kept = fit_facets(draft, now, core, draft.values[k])
        best = max(kept[1] if kept else draft.rms[k], 0.5 * draft.sigma)
        # A narrow band of a cone passes for one of a ball: of the two the cone is what people make.
        others = (
            (*_SIMPLE_FIRST[: _SIMPLE_FIRST.index(now)], 3) if now == 4 else _SIMPLE_FIRST[: _SIMPLE_FIRST.index(now)]
        )
        for code in others:
            found = fit_facets(draft, code, core)
            if found is None or found[1] > as_good[code] * best or inside_share(draft, code, found[0], core) < 0.9:
                continue
            draft.codes[k], draft.values[k], draft.rms[k] = code, found[0], found[1]
            changed += 1
            break
    return changed
