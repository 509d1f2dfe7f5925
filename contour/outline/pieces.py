"""The pieces of an outline: what they are, and how chains of known kinds are fitted to their points and cut off where they meet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import make_lsq_spline

from contour.outline.arcs import arc_points
from contour.outline.ellipses import Ellipse, ellipse_path, fit_ellipse, is_oval, through_points
from contour.outline.mirror import mirrored
from contour.outline.piece_fit import PieceFit, corner_of, fit_piece, joint, on_piece
from contour.outline.shape import Held, regularise
from contour.outline.split import ARC, ELLIPSE, FREE, LINE, fit_circle
from contour.outline.turned import end_to_end
from contour.recipe.problem import ContourError, Where

__all__ = [
    "CODES",
    "Chain",
    "Outline",
    "Piece",
    "Span",
    "piece_length",
    "piece_path",
    "shape_chains",
    "shape_pieces",
    "whole_circle",
    "whole_ellipse",
]

Array = NDArray[np.float64]
PieceKind = Literal["line", "arc", "ellipse", "free"]
CODES: Mapping[PieceKind, int] = {"line": LINE, "arc": ARC, "ellipse": ELLIPSE, "free": FREE}  # as splitting calls them
Span = tuple[tuple[float, float], tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Piece:
    """One piece in plane coordinates, mm. mid, centre and radius belong to arcs; mid, centre and ellipse to ellipses; points to free
    pieces. assumed: stretches of it, from and to, under which the scan has nothing."""

    kind: PieceKind
    start: tuple[float, float]
    end: tuple[float, float]
    rms: float
    mid: tuple[float, float] | None = None
    centre: tuple[float, float] | None = None
    radius: float | None = None
    points: tuple[tuple[float, float], ...] = ()
    ellipse: Ellipse | None = None
    assumed: tuple[Span, ...] = ()


@dataclass(frozen=True, slots=True)
class Outline:
    """The pieces of one polyline in order; `tangent` lists (piece, next piece) that meet without a kink. Not `explained`: there was no
    time to look for pieces."""

    pieces: tuple[Piece, ...]
    closed: bool
    tangent: tuple[tuple[int, int], ...] = ()
    explained: bool = True


def piece_path(piece: Piece, step_deg: float = 3.0) -> Array:
    """Points along a piece from start to end, (n, 2)."""
    if piece.ellipse is not None and piece.mid is not None:
        ends = (np.array(p) for p in (piece.start, piece.mid, piece.end))
        return ellipse_path(piece.ellipse, *ends, step_deg=step_deg)
    if piece.mid is not None:
        return arc_points(piece.start, piece.mid, piece.end, step_deg=step_deg)
    return np.array(piece.points or (piece.start, piece.end))


def piece_length(piece: Piece) -> float:
    """How long a piece is, mm; never 0, so that shares of it can be told."""
    return max(float(np.linalg.norm(np.diff(piece_path(piece), axis=0), axis=1).sum()), 1e-6)


def _xy(p: Array) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _free_points(data: Array, start: Array, end: Array, edge: float) -> Array:
    """Points of a smooth curve through a free piece: a cubic least-squares spline, knots some four facets apart."""
    path = np.vstack([start, data, end])
    t = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    keep = np.concatenate([[True], np.diff(t) > 1e-9])
    path, t = path[keep], t[keep]
    spans = int(np.clip(round(t[-1] / (4 * edge)), 1, max(1, (len(t) - 4) // 2)))
    knots = np.concatenate([[0] * 4, t[-1] * np.arange(1, spans) / spans, [t[-1]] * 4])
    weight = np.ones(len(t))
    weight[[0, -1]] = 1e4  # the ends are joints and must be met
    try:
        curve = make_lsq_spline(t, path, knots, k=3, w=weight)
    except (ValueError, np.linalg.LinAlgError):
        return path[np.unique(np.linspace(0, len(path) - 1, 8).astype(int))]
    out = np.asarray(curve(np.linspace(0, t[-1], 2 * spans + 3)))
    if not np.isfinite(out).all():  # points that repeat can leave the spline without a solution
        out = path[np.unique(np.linspace(0, len(path) - 1, 8).astype(int))]
    out[0], out[-1] = start, end
    return out


@dataclass(frozen=True, slots=True)
class Chain:
    """Pieces of known kinds with their points: kinds[i] explains data[i] (n, 2); near[i] lies between piece i and the next (None at an
    open end); ends are the chain's own ends, used when it is open. whole: one piece that goes all the way round."""

    kinds: list[int]
    data: list[Array]
    near: list[Array | None]
    ends: tuple[Array, Array]
    closed: bool
    whole: bool = False


def shape_pieces(chain: Chain, *, sigma_mm: float, edge_mm: float, known: bool = False) -> Outline:
    """Fit the pieces of one chain to their points together and let neighbours meet. known: as :func:`shape_chains` says."""
    return shape_chains([chain], sigma_mm=sigma_mm, edge_mm=edge_mm, known=known)[0]


def _as_known(kind: int, points: NDArray[np.float64]) -> PieceFit:
    fit = fit_piece(kind, points)
    if kind == ELLIPSE and fit.kind == ARC:
        x, y, r = map(float, fit.p)
        return PieceFit(ELLIPSE, np.empty(0), points, (x, y, r, r, 0.0))
    return fit


def _ends(fits: Sequence[PieceFit], near: Sequence[Array | None]) -> list[tuple[Array, Array]]:
    """Where the pieces of a closed chain begin and end, on themselves; near[i] lies between piece i and the next. Raises ContourError (degenerate)."""
    spots = [p for p in near if p is not None]
    if len(spots) != len(fits):
        raise ContourError(
            "degenerate",
            "an open outline is no sector",
            where=Where(param="relations"),
            got="open ends",
            need="a closed outline",
            remedy="take it back",
        )
    corners = [corner_of(f, fits[(k + 1) % len(fits)], spots[k]) for k, f in enumerate(fits)]
    meets = [at if c is None else c for c, at in zip(corners, spots, strict=True)]
    return [(on_piece(f, meets[k - 1]), on_piece(f, meets[k])) for k, f in enumerate(fits)]


def shape_chains(
    chains: Sequence[Chain], *, sigma_mm: float, edge_mm: float, held: Sequence[Held] = (), known: bool = False
) -> list[Outline]:
    """Fit several chains at once, so that relations may hold between them; held: by places counted through all chains.

    known: what refits a sketch, whose structure is given: only values move, and an ellipse stays one that has become round. Raises ContourError (degenerate) for relations that the points
    speak against.
    """
    fits = [(_as_known if known else fit_piece)(k, d) for c in chains for k, d in zip(c.kinds, c.data, strict=True)]
    begins = np.cumsum([0, *(len(c.kinds) for c in chains)]).tolist()
    near = [at for c in chains for at in ([None] if c.whole else c.near)]
    following = [b + (i + 1) % len(c.kinds) for c, b in zip(chains, begins, strict=False) for i in range(len(c.kinds))]
    of_chain = [n for n, c in enumerate(chains) for _ in c.kinds]
    mirrors = [
        mirrored(h.first, h.second, begins[of_chain[h.first]], chains[of_chain[h.first]].near)
        for h in held
        if h.kind == "symmetric" and of_chain[h.first] == of_chain[h.second]
    ]
    turns = []
    for h in held:
        if h.kind == "turned" and of_chain[h.first] == of_chain[h.second]:
            begin, whole = begins[of_chain[h.first]], chains[of_chain[h.first]]
            ends = _ends(fits[begin : begin + len(whole.kinds)], whole.near)
            turns.append(end_to_end(h.first, h.second, [f.kind for f in fits], ends, begin))
    tangent = regularise(
        fits,
        near,
        sigma_mm=sigma_mm,
        edge_mm=edge_mm,
        held=[h for h in held if h.kind not in ("symmetric", "turned")],
        following=following,
        mirrors=mirrors,
        turns=turns,
    )
    out = []
    for chain, begin in zip(chains, begins, strict=False):
        own = fits[begin : begin + len(chain.kinds)]
        if chain.whole and own[0].kind == ARC:
            out.append(Outline((_circle_piece(own[0].p[:2], float(own[0].p[2]), chain.data[0][0], own[0].rms),), True))
            continue
        pairs = tuple((i - begin, j - begin) for i, j in tangent if begin <= i < begin + len(own))
        out.append(Outline(_meeting_pieces(own, chain, sigma_mm, edge_mm), chain.closed, pairs))
    return out


def _apart(points: Array) -> float:
    """How far neighbours among points (n, 2) usually lie apart, mm."""
    if len(points) < 3:
        return 0.0
    steps = points[1:] - points[:-1]
    return float(np.sqrt(np.median(np.einsum("ij,ij->i", steps, steps))))


def _meeting_pieces(fits: list[PieceFit], chain: Chain, sigma_mm: float, edge_mm: float) -> tuple[Piece, ...]:
    """Fitted pieces cut off where they meet."""
    count, closed, near, ends = len(fits), chain.closed, chain.near, chain.ends
    # What lies between two points of the line nobody has seen: a corner may.
    reach = [max(3.0 * edge_mm + 10 * sigma_mm, 1.5 * _apart(f.points)) for f in fits]
    meets: list[Array] = []
    for i in range(count if closed else count - 1):
        at = near[i]
        assert at is not None
        k = (i + 1) % count
        meets.append(joint(fits[i], fits[k], at, max(reach[i], reach[k])))
    if closed and count == 2 and np.linalg.norm(meets[0] - meets[1]) < edge_mm:
        # Both places where they cross are one: each end stays where the scan has it.
        meets = [joint(fits[0], fits[1], at, 0.0) for at in near if at is not None]
    pieces = []
    for i, f in enumerate(fits):
        start = meets[i - 1] if closed or i > 0 else on_piece(f, ends[0])
        end = meets[i] if closed or i < count - 1 else on_piece(f, ends[1])
        rms = f.rms
        if f.kind == LINE:
            pieces.append(Piece("line", _xy(start), _xy(end), rms))
        elif f.kind == ARC:
            pieces.append(_arc_piece(f, start, end, rms))
        elif f.ellipse is not None:
            # Where a tangent neighbour misses it by a hair, they still have to share a point.
            oval = through_points(f.ellipse, np.array([start, end]))
            middle = on_piece(PieceFit(ELLIPSE, f.p, f.points, oval), f.points[len(f.points) // 2])
            pieces.append(_ellipse_piece(oval, start, middle, end, rms))
        else:
            points = _free_points(f.points, start, end, edge_mm)
            away = np.linalg.norm(f.points[:, None] - points[None], axis=2).min(axis=1)
            pieces.append(
                Piece(
                    "free",
                    _xy(start),
                    _xy(end),
                    float(np.sqrt(np.mean(np.minimum(away, sigma_mm) ** 2))),
                    points=tuple(_xy(p) for p in points),
                )
            )
    return tuple(pieces)


def _circle_piece(centre: Array, radius: float, toward: Array, rms: float) -> Piece:
    """A whole circle that begins in the direction of a point."""
    d = toward - centre
    start = centre + radius * d / np.linalg.norm(d)
    return Piece("arc", _xy(start), _xy(start), rms, _xy(2 * centre - start), _xy(centre), radius)


def _arc_piece(f: PieceFit, start: Array, end: Array, rms: float) -> Piece:
    centre, radius = f.p[:2], float(f.p[2])
    a = np.arctan2(*(start - centre)[::-1])
    b = np.arctan2(*(end - centre)[::-1])
    run = f.points - centre
    turn = np.cross(np.c_[run[:-1], np.zeros(len(run) - 1)], np.c_[run[1:], np.zeros(len(run) - 1)])[:, 2].sum()
    sweep = (b - a) % (2 * np.pi) if turn >= 0 else -((a - b) % (2 * np.pi))
    middle = a + sweep / 2
    mid = centre + radius * np.array([np.cos(middle), np.sin(middle)])
    return Piece("arc", _xy(start), _xy(end), rms, _xy(mid), _xy(centre), radius)


def _ellipse_piece(e: Ellipse, start: Array, mid: Array, end: Array, rms: float) -> Piece:
    return Piece("ellipse", _xy(start), _xy(end), rms, _xy(mid), (e[0], e[1]), None, (), e)


def whole_ellipse(points: Array, near_mm: float | None = None) -> tuple[Outline, float] | None:
    """The ellipse that explains the points of a loop all by itself, with its rms; None when there is none. Nearly a circle (a bore cut a little
    aslant), it is told as one.

    points (n, 2), mm.
    """
    found = fit_ellipse(points, near_mm=near_mm, round_too=True)
    if found is None:
        return None
    e, rms = found
    if not is_oval(e):
        circle = whole_circle(points, True)
        return None if circle is None else (circle[0], rms)
    along = e[2] * np.array([np.cos(e[4]), np.sin(e[4])])
    return Outline(
        (_ellipse_piece(e, np.array(e[:2]) + along, np.array(e[:2]) - along, np.array(e[:2]) + along, rms),), True
    ), rms


def whole_circle(points: Array, closed: bool, way: Array | None = None) -> tuple[Outline, float] | None:
    """The circle that explains a closed loop all by itself, with its rms; None when there is none.

    points (n, 2), mm. way (k, 2): the whole loop, where its points are not all that is known of how it runs: it goes round.
    """
    circle = fit_circle(points) if closed and len(points) >= 6 else None
    if circle is None:
        return None
    centre, radius, rms = circle
    around = (points if way is None else way) - centre
    angle = np.arctan2(around[:, 1], around[:, 0])
    if abs(float(np.sum((np.roll(angle, -1) - angle + np.pi) % (2 * np.pi) - np.pi))) < np.pi:
        return None  # there and back along an arc
    return Outline((_circle_piece(centre, radius, points[0], rms),), True), rms
