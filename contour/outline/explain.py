"""Outlines: a section's polyline explained by few lines, arcs and free pieces that meet exactly.

Steps: thin and weigh the points, split by dynamic programming (closed loops start at a corner), take back pieces
that are only softened corners, fit all pieces together, and let neighbours meet in a point.
"""

from __future__ import annotations

import itertools

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.fit.budget import UNLIMITED, Budget
from contour.outline.along import path_distance
from contour.outline.at_corners import cut_or_filleted, with_fillets
from contour.outline.ellipses import fit_ellipse, turn_around
from contour.outline.flats import with_flats
from contour.outline.piece_fit import PieceFit, corner_of, fit_piece, piece_gap
from contour.outline.pieces import Chain, Outline, Piece, piece_path, shape_pieces, whole_circle, whole_ellipse
from contour.outline.seam import begun_at
from contour.outline.split import ARC, ELLIPSE, FREE, LINE, PRICES, split_chain

__all__ = ["default_outline_tolerance", "fit_outline", "unexplained"]

Array = NDArray[np.float64]
Loose = frozenset[tuple[float, ...]]
_MOST_POINTS = 700
_SHOWN = 1e-9  # what a point that only shows the way weighs
# Neighbouring points of a cut lie on sides of the same facets and share their noise: there are fewer of them than it looks, and chance
# bends a side more often. Cuts of known parts and softened loops are split best with so much more of it.
_SHARED = 1.3
# How far off, in a facet's sides, an outline is looked at again, with how much smaller a side, and how much nearer it has to come.
_STRAYS, _CLOSER, _MUCH_NEARER = 0.9, 1.6, 0.6
_LEAST_TURN = np.radians(80.0)  # what of an ellipse must be there for it to be told


def default_outline_tolerance(noise_mm: float, size_mm: float) -> float:
    """Three sigma of the scan; for noiseless meshes a twentieth of a millimetre, so that facetted arcs stay arcs.

    mm.
    """
    return max(3.0 * noise_mm, min(0.05, 0.001 * size_mm), 1e-4)


@nb.njit(cache=True, nogil=True)
def _paced(ring, chords, spacing):  # type: ignore[no-untyped-def]
    """Points of a polyline (n, 2) no closer than 0.6 of the spacing; chords beyond 2.5 of it get points put in."""
    most = len(ring) + 1
    for c in chords:
        if c > 2.5 * spacing:
            most += int(np.ceil(c / (1.5 * spacing)))
    out = np.empty((most, 2))
    out[0] = ring[0]
    n = 1
    for i in range(len(chords)):
        p = ring[i + 1]
        long = chords[i] > 2.5 * spacing
        if long:
            if out[n - 1, 0] != ring[i, 0] or out[n - 1, 1] != ring[i, 1]:
                out[n] = ring[i]
                n += 1
            steps = int(np.ceil(chords[i] / (1.5 * spacing)))
            for k in range(1, steps):
                out[n] = ring[i] + (p - ring[i]) * k / steps
                n += 1
        # The ends of a long chord are corners of the mesh: thinning them away would bend the chord.
        dx, dy = p[0] - out[n - 1, 0], p[1] - out[n - 1, 1]
        if long or np.sqrt(dx * dx + dy * dy) >= 0.6 * spacing:
            out[n] = p
            n += 1
    return out[:n].copy()


def _evened(points: Array, closed: bool) -> tuple[Array, float]:
    """Points no closer than the usual chord (or what keeps the count in bounds); long chords get points put in."""
    ring = np.vstack([points, points[:1]]) if closed else points
    chords = np.linalg.norm(np.diff(ring, axis=0), axis=1)
    length = float(chords.sum())
    # A plane that runs along the mesh's rows crosses two sides of it close to each other, again and again: two chords together tell.
    pairs = chords + np.roll(chords, -1) if closed else chords[:-1] + chords[1:]
    usual = max(float(np.median(chords)), float(np.median(pairs)) / 2) if len(pairs) else length
    spacing = max(usual, length / _MOST_POINTS, 1e-9)
    spacing = min(spacing, length / 24)
    out = _paced(np.ascontiguousarray(ring), chords, spacing)
    if closed:
        if len(out) > 3 and np.linalg.norm(out[-1] - out[0]) < 0.6 * spacing:
            out = out[:-1]
    elif len(out) > 2:
        out[-1] = ring[-1]
    return out, spacing


def _turning(points: Array, reach: int) -> Array:
    """Angle between the chords before and after each point of a loop, radians."""
    a = points - np.roll(points, reach, axis=0)
    b = np.roll(points, -reach, axis=0) - points
    cross = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return np.abs(np.arctan2(cross, np.einsum("ij,ij->i", a, b)))


def _weights(points: Array, spacing: float) -> Array:
    chords = np.linalg.norm(np.diff(points, axis=0), axis=1)
    w = np.zeros(len(points))
    w[:-1] += chords / 2
    w[1:] += chords / 2
    return np.clip(w / spacing, 1e-3, None)


def _split_loop(
    points: Array, trust: Array, spacing: float, edge: float, options: dict[str, float]
) -> tuple[Array, Array, list, float]:
    """Split a closed loop; trust (n,): factors on the points' weights. Starts at the sharpest corner, then once more from a joint of the first
    split: whatever piece the first start cut in two is whole the second time. (Chain, trust, pieces, cost.)"""
    reach = max(1, int(round(1.5 * edge / spacing)))
    start = int(np.argmax(_turning(points, reach)))
    best: tuple[float, Array, Array, list] | None = None
    for _ in range(2):
        # The rounded corner itself belongs to nobody: it may be skipped at both ends.
        chain, own = np.roll(points, -start, axis=0), np.roll(trust, -start)
        chain, own = np.vstack([chain, chain[:1]]), np.append(own, own[0])
        pieces, cost = split_chain(
            chain, own * _weights(chain, spacing), end_skip_mm=options["corner_mm"] / 2, closed=True, **options
        )
        if best is None or cost < best[0] - 1e-9:
            best = (cost, chain, own, pieces)
        if len(pieces) < 2:
            break
        middle = min(pieces[1:], key=lambda p: abs(p[1] - len(chain) / 2))
        before = pieces[pieces.index(middle) - 1]
        start = (start + (before[2] + middle[1] + 1) // 2) % len(points)
    assert best is not None
    return best[1], best[2], best[3], best[0]


def _own_points(
    chain: Array, pieces: list[tuple[int, int, int]], spacing: float, edge: float, loose: Loose
) -> list[Array]:
    """Each piece's points without its ends, where the scan is rounded and least to be trusted, and without those that only show the way."""
    out = []
    trim = max(1, int(round(0.5 * edge / spacing)))
    for _, a, b in pieces:
        k = trim if b - a + 1 >= 6 + 2 * trim else (1 if b - a + 1 >= 6 else 0)
        own = chain[a + k : b + 1 - k]
        if loose:
            seen = own[[tuple(p) not in loose for p in own.tolist()]]
            own = seen if len(seen) >= 4 else own
        out.append(own)
    return out


def _fits(
    chain: Array, pieces: list[tuple[int, int, int]], spacing: float, edge: float, loose: Loose
) -> list[PieceFit]:
    own = _own_points(chain, pieces, spacing, edge, loose)
    return [fit_piece(k, d) for (k, _, _), d in zip(pieces, own, strict=True)]


def _drop_softened(
    chain: Array, pieces: list[tuple[int, int, int]], fits: list[PieceFit], closed: bool, edge: float, smallest: float
) -> list[tuple[int, int, int]]:
    """Take back arcs and stubs that are nothing but a corner the scanner rounded off."""
    keep = []
    n = len(pieces)
    for i, (kind, a, b) in enumerate(pieces):
        length = float(np.linalg.norm(np.diff(chain[a : b + 1], axis=0), axis=1).sum())
        inner = closed or 0 < i < n - 1
        if n > 3 and inner and length < 3.0 * edge and kind != FREE:
            before, after = fits[i - 1], fits[(i + 1) % n]
            middle = chain[(a + b) // 2]
            corner = corner_of(before, after, middle)
            small = kind == LINE or fits[i].kind == LINE or fits[i].p[2] < smallest
            if corner is not None and small and np.linalg.norm(corner - middle) < 0.9 * edge:
                continue
            astray = max(abs(float(piece_gap(f, middle[None])[0])) for f in (before, after))
            if small and kind == LINE and length < 2.0 * edge and astray < 0.3 * edge:
                continue  # a stub between two pieces that pass it closely anyway
        keep.append((kind, a, b))
    return keep if len(keep) >= 2 else pieces


def _merge_alike(
    chain: Array,
    pieces: list[tuple[int, int, int]],
    closed: bool,
    spacing: float,
    edge: float,
    sigma: float,
    loose: Loose,
) -> tuple[Array, list[tuple[int, int, int]]]:
    """Join neighbours that one line or arc explains as well; a loop is turned so that no piece spans its seam."""
    if closed and len(pieces) > 2 and pieces[0][0] == pieces[-1][0] != FREE:
        chain, pieces = begun_at(chain, pieces, len(pieces) - 1)
    i = 0
    while len(pieces) > 2 and i < len(pieces) - 1:
        (kind, a, b), (other, c, d) = pieces[i], pieces[i + 1]
        if kind == other and kind != FREE:
            first, second = _own_points(chain, [(kind, a, b), (kind, c, d)], spacing, edge, loose)
            both = _own_points(chain, [(kind, a, d)], spacing, edge, loose)[0]
            apart = sum(len(x) * (fit_piece(kind, x).rms / sigma) ** 2 for x in (first, second))
            if len(both) * (fit_piece(kind, both).rms / sigma) ** 2 < apart + 25.0:
                pieces = [*pieces[:i], (kind, a, d), *pieces[i + 2 :]]
                continue
        i += 1
    return chain, pieces


def _made_ellipses(
    chain: Array, pieces: list[tuple[int, int, int]], spacing: float, edge: float, sigma: float, loose: Loose
) -> list[tuple[int, int, int]]:
    """Runs of arcs and free pieces that one ellipse explains for less."""
    i = 0
    while i < len(pieces):
        best: tuple[float, int] | None = None
        for j in range(i, len(pieces)):
            run = pieces[i : j + 1]
            if run[-1][0] not in (ARC, FREE):
                break
            if j == i and run[0][0] == ARC:
                continue
            data = _own_points(chain, [(ELLIPSE, run[0][1], run[-1][2])], spacing, edge, loose)[0]
            found = fit_ellipse(data, near_mm=3 * sigma)
            if found is None or found[1] > 1.5 * sigma or abs(turn_around(found[0], data)) < _LEAST_TURN:
                continue
            paid = sum(PRICES[k] for k, _, _ in run)
            parts = zip(run, _fits(chain, run, spacing, edge, loose), strict=True)
            # A free piece bends after every point: what it does not miss it has paid for.
            paid += sum(len(f.points) * ((f.rms / sigma) ** 2 if k == ARC else 1.0) for (k, _, _), f in parts)
            gain = paid - PRICES[ELLIPSE] - len(data) * (found[1] / sigma) ** 2
            if gain > 0 and (best is None or gain > best[0]):
                best = gain, j
        if best is not None:
            pieces = [*pieces[:i], (ELLIPSE, pieces[i][1], pieces[best[1]][2]), *pieces[best[1] + 1 :]]
        i += 1
    return pieces


def unexplained(points: Array, closed: bool) -> Outline:
    """A polyline as it is, thinned: what is left where no budget is. points (n, 2), mm."""
    even, _ = _evened(points, closed)
    path = np.vstack([even, even[:1]]) if closed else even
    cuts = (0, len(path) // 2, len(path) - 1) if closed and len(path) > 4 else (0, len(path) - 1)
    spots = [(float(x), float(y)) for x, y in path]
    pieces = (
        Piece("free", spots[a], spots[b], 0.0, points=tuple(spots[a : b + 1])) for a, b in itertools.pairwise(cuts)
    )
    return Outline(tuple(pieces), closed and len(cuts) > 2, explained=False)


def fit_outline(
    points: Array,
    *,
    closed: bool,
    tolerance_mm: float,
    edge_mm: float,
    budget: Budget = UNLIMITED,
    assumed: NDArray[np.bool_] | None = None,
    looks: int = 3,
) -> Outline:
    """Explain a polyline (n, 2) by lines, arcs and free pieces; by itself as a free piece where the budget is spent.

    What the scan rounds at a corner is left out of its pieces. Where that leaves an outline far off the polyline, the corner was none but short pieces of
    their own: it is looked at again with a smaller facet side, as long as it comes much nearer by that.

    tolerance_mm: how far the data may stray from a piece (three sigma); larger means fewer pieces. edge_mm: facet
    side of the scan, the scale on which its corners are rounded. Radii below 1.6 facet sides are taken for corners. assumed (n,): points that
    nobody has seen, and that only show where the outline goes on. looks: at the most.
    """
    points = np.asarray(points, dtype=np.float64)
    seen = points if assumed is None else points[~assumed]
    best, off, edge = None, np.inf, edge_mm
    for _ in range(looks):
        made = _explained(points, closed, tolerance_mm, edge, budget, assumed)
        away = _farthest(seen, made)
        if best is None or away < _MUCH_NEARER * off:
            best, off = made, away
        if budget.spent or not made.explained or off <= max(_STRAYS * edge_mm, tolerance_mm):
            break
        edge /= _CLOSER
    assert best is not None
    return best


def _farthest(points: Array, outline: Outline) -> float:
    """Of points (n, 2) from the outline, mm."""
    paths = [piece_path(p) for p in outline.pieces]
    return float(np.min([path_distance(points, path) for path in paths], axis=0).max(initial=0.0))


def _explained(
    points: Array, closed: bool, tolerance_mm: float, edge_mm: float, budget: Budget, assumed: NDArray[np.bool_] | None
) -> Outline:
    sigma = tolerance_mm / 3
    even, spacing = _evened(points, closed)
    if len(even) < 4:
        return Outline(
            (
                Piece(
                    "line",
                    (float(points[0][0]), float(points[0][1])),
                    (float(points[-1][0]), float(points[-1][1])),
                    0.0,
                ),
            ),
            False,
        )
    only = np.zeros(len(even), bool)
    if assumed is not None and assumed.any():
        only = assumed[cKDTree(points).query(even)[1]]
    trust = np.where(only, _SHOWN, 1.0)
    loose: Loose = frozenset(map(tuple, even[only].tolist()))
    # Facets that are long because the surface is flat say nothing of how far corners were rounded: chords do.
    length = float(np.linalg.norm(np.diff(even, axis=0), axis=1).sum())
    if length < 1e-6:
        return unexplained(points, closed)
    edge = min(edge_mm, 2.2 * spacing, length / 24)
    smallest = 1.6 * edge
    extent = float(np.ptp(even, axis=0).max())
    options = {
        "sigma_mm": _SHARED * sigma,
        "corner_mm": 3.4 * edge,
        "smallest_mm": 0.8 * edge,
        "largest_mm": 20 * extent,
        "edge_mm": edge,
    }
    whole = whole_circle(even[~only], closed, even)
    if closed:
        chain, own, pieces, cost = _split_loop(even, trust, spacing, edge, options)
        weight = float((own * _weights(chain, spacing)).sum())
        # A circle is one thing to a person: two arcs must be better by a whole piece's price.
        if whole is not None and weight * (whole[1] / options["sigma_mm"]) ** 2 <= cost:
            # Thinning evens the points out; all of them are as round only as a rule.
            return (whole_circle(np.asarray(points if assumed is None else points[~assumed]), True, points) or whole)[0]
        if (oval := whole_ellipse(even[~only], 4 * sigma)) is not None and PRICES[ELLIPSE] + weight * (
            oval[1] / options["sigma_mm"]
        ) ** 2 <= cost:
            return oval[0]
    else:
        chain = even
        pieces, _ = split_chain(chain, _weights(chain, spacing), end_skip_mm=0.0, closed=False, **options)
    if budget.spent:
        return unexplained(points, closed)
    if not pieces:
        pieces = [(FREE, 0, len(chain) - 1)]
    if closed and len(pieces) == 1:
        # One piece round a loop that is no circle: cut it where it is, so that it has two ends to join.
        kind, a, b = pieces[0]
        pieces = [(kind, a, (a + b) // 2), (kind, (a + b) // 2, b)]
    for _ in range(3):
        fits = _fits(chain, pieces, spacing, edge, loose)
        fewer = _drop_softened(chain, pieces, fits, closed, edge, smallest)
        if len(fewer) == len(pieces):
            break
        pieces = fewer
    chain, pieces = _merge_alike(chain, pieces, closed, spacing, edge, sigma, loose)
    fits = _fits(chain, pieces, spacing, edge, loose)
    for _ in range(2):
        before = len(pieces)
        pieces = with_fillets(chain, pieces, fits, closed, edge, sigma)
        if not closed or len(pieces) < 3 or not pieces[0][0] == pieces[-1][0] == LINE:
            break
        # The corner at the loop's seam has not been looked at: once more from another joint.
        chain, pieces = begun_at(chain, pieces, 1)
        fits = [*fits[1:], *fits[:1]] if before == len(pieces) else _fits(chain, pieces, spacing, edge, loose)
    fits = _fits(chain, pieces, spacing, edge, loose)
    pieces = cut_or_filleted(chain, pieces, fits, closed, edge, sigma)
    chain, pieces = with_flats(chain, pieces, closed, edge, _SHARED * sigma)
    if not budget.spent:
        pieces = _made_ellipses(chain, pieces, spacing, edge, sigma, loose)
    while True:
        if budget.spent:
            return unexplained(points, closed)
        data = _own_points(chain, pieces, spacing, edge, loose)
        near: list[Array | None] = []
        for i, (_, _, b) in enumerate(pieces):
            if i + 1 < len(pieces):
                near.append(chain[(b + pieces[i + 1][1]) // 2])
            else:
                near.append(chain[0] if closed else None)
        kinds = [k for k, _, _ in pieces]
        outline = shape_pieces(Chain(kinds, data, near, (chain[0], chain[-1]), closed), sigma_mm=sigma, edge_mm=edge)
        chords = [np.hypot(p.end[0] - p.start[0], p.end[1] - p.start[1]) for p in outline.pieces]
        stubs = [i for i, c in enumerate(chords) if c < 0.8 * edge and kinds[i] == LINE]
        if len(pieces) <= 3 or not stubs:
            return outline
        # Its neighbours nearly meet already: what is left of this piece is rounding.
        del pieces[stubs[0]]
