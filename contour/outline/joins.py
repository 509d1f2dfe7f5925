"""How two open ends of an outline may be joined over a gap in the scan: what each way assumes, and what it costs.

Of two ends that one line or arc explains together the gap lies within one piece. Else both pieces go on until they meet; or an arc touches
both; or a straight line joins them. What assumes least is proposed: by the length that nothing is seen of, times how bold it is.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.outline.ellipses import fit_ellipse
from contour.outline.piece_fit import PieceFit, corner_of, direction_at, fit_piece, on_piece, piece_gap
from contour.outline.split import ARC, ELLIPSE, FREE, LINE

__all__ = ["End", "How", "Join", "end_of", "ways_to_join"]

Array = NDArray[np.float64]
How = Literal["one piece", "meet", "square", "arc", "line"]

_BOLD: dict[How, float] = {"one piece": 0.4, "meet": 0.8, "square": 1.1, "arc": 1.3, "line": 2.2}
_FARTHEST = 4.0  # times the gap, and some facets, that two pieces may go on before they meet
_MOST_TURN = np.radians(200.0)  # that an arc goes on over a gap
_MOST_ROUND = np.radians(240.0)  # the same where nothing but this arc was seen: a hole or a stud is round
_TOUCHING = np.radians(12.0)  # that an arc's direction may differ from those it joins
_NEARLY = float(np.cos(np.radians(5.0)))
_STEPS = 13


@dataclass(frozen=True, slots=True)
class End:
    """An open end: at (2,) mm · out (2,): the unit direction in which the outline would go on · piece: the one that ends there · turned: beyond it the
    scan turns off, and may go on square to the piece, as parts do: the end of that, at the corner."""

    at: Array
    out: Array
    piece: PieceFit
    turned: End | None = None


@dataclass(frozen=True, slots=True)
class Join:
    """how · cost mm · path (k, 2): from the first end to the second, mm, what is assumed · corner (2,): where both pieces meet, of "meet"."""

    how: How
    cost: float
    path: Array
    corner: Array | None = None

    @property
    def length(self) -> float:
        return float(np.linalg.norm(np.diff(self.path, axis=0), axis=1).sum())


def _along(piece: PieceFit, begin: Array, way: Array, to: Array, most: float = _MOST_TURN) -> Array | None:
    """The way (k, 2) along a piece from a place to another ahead of it; None where it would have to go back, or round by more than `most` (radians)."""
    if piece.kind != ARC:
        return np.linspace(begin, to, 2) if (to - begin) @ way > -1e-9 else None
    centre, radius = piece.p[:2], piece.p[2]
    a, b = (np.arctan2(*(p - centre)[::-1]) for p in (begin, to))
    turn = 1.0 if np.cross([*(begin - centre), 0.0], [*way, 0.0])[2] >= 0 else -1.0
    sweep = (turn * (b - a)) % (2 * np.pi)
    if sweep > most:
        return None
    angles = a + turn * np.linspace(0, sweep, _STEPS)
    return np.asarray(centre + radius * np.column_stack([np.cos(angles), np.sin(angles)]))


def _length(path: Array) -> float:
    return float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())


def _one_oval(a: End, b: End, sigma: float) -> Join | None:
    """Both ends lie on one ellipse; each alone may pass for an arc."""
    if not {a.piece.kind, b.piece.kind} <= {ARC, ELLIPSE}:
        return None
    found = fit_ellipse(np.vstack([a.piece.points, b.piece.points]), near_mm=4 * sigma)
    if found is None or found[1] > 1.6 * sigma:
        return None
    x, y, long, short, angle = found[0]
    u, v = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    centre = np.array([x, y])
    first, last = (np.arctan2((p - centre) @ v / short, (p - centre) @ u / long) for p in (a.at, b.at))
    way = -long * np.sin(first) * u + short * np.cos(first) * v
    turn = 1.0 if way @ a.out >= 0 else -1.0
    sweep = (turn * (last - first)) % (2 * np.pi)
    t = first + turn * np.linspace(0, sweep, 2 * _STEPS)
    path = centre + long * np.outer(np.cos(t), u) + short * np.outer(np.sin(t), v)
    if sweep > _MOST_TURN or (path[-1] - path[-2]) @ b.out > 0:
        return None
    return Join("one piece", _BOLD["one piece"] * _length(path), path)


def _one_piece(a: End, b: End, sigma: float) -> Join | None:
    """Both ends lie on one line or one arc, which goes from the one to the other; or on one ellipse."""
    if a.piece.kind != b.piece.kind or a.piece.kind not in (LINE, ARC):
        return _one_oval(a, b, sigma)
    both = fit_piece(
        a.piece.kind, np.vstack([a.piece.points, b.piece.points[::-1] if _runs_out(b) else b.piece.points])
    )
    worst = max(
        float(np.sqrt(np.mean(piece_gap(both, e.piece.points) ** 2))) - max(e.piece.rms, 0.7 * sigma) for e in (a, b)
    )
    if a.piece.kind == LINE and worst > 0.6 * sigma and _goes_on(a, b, sigma):
        straight = np.array([a.at, b.at])
        return Join("one piece", _BOLD["one piece"] * _length(straight), straight)
    if both.kind != a.piece.kind or worst > 0.6 * sigma:
        return _one_oval(a, b, sigma)
    begin, to = on_piece(both, a.at), on_piece(both, b.at)
    most = _MOST_ROUND if np.array_equal(a.piece.points, b.piece.points) else _MOST_TURN
    path = _along(both, begin, a.out, to, most)
    back = _along(both, to, b.out, begin, most)
    if path is None or back is None or abs(_length(path) - _length(back)) > 0.01 * _length(path) + sigma:
        return None
    return Join("one piece", _BOLD["one piece"] * _length(path), path)


def _goes_on(a: End, b: End, sigma: float) -> bool:
    """Whether two lines are one that is bent by no more than a short one, ending in a softened corner, may lean."""
    aside = max(abs(float(piece_gap(a.piece, b.at[None])[0])), abs(float(piece_gap(b.piece, a.at[None])[0])))
    chord = b.at - a.at
    ahead = float(chord @ a.out) > 0 and float(chord @ b.out) < 0
    return ahead and float(a.out @ b.out) < -_NEARLY and aside < 3 * sigma + 0.04 * float(np.linalg.norm(chord))


def _runs_out(end: End) -> bool:
    """Whether the points of a piece run towards its open end."""
    return bool(np.linalg.norm(end.piece.points[-1] - end.at) < np.linalg.norm(end.piece.points[0] - end.at))


def _meeting(a: End, b: End, edge: float, sigma: float) -> Join | None:
    """Both pieces go on until they meet."""
    gap = float(np.linalg.norm(b.at - a.at))
    best: Join | None = None
    for near in (0.5 * (a.at + b.at), a.at + gap * a.out, b.at + gap * b.out, a.at, b.at):
        corner = corner_of(a.piece, b.piece, near)
        if corner is None:
            continue
        # Softened corners, and ends that the scan has bent, lie a little beyond the meeting place.
        slack = edge + 3 * sigma
        paths = []
        for end in (a, b):
            path = _along(end.piece, end.at, end.out, corner)
            if path is None and np.linalg.norm(corner - end.at) < slack:
                path = np.array([end.at, corner])
            paths.append(path)
        first, second = paths
        if first is None or second is None:
            continue
        length = _length(first) + _length(second)
        if length <= _FARTHEST * gap + 4 * edge and (best is None or length < best.cost / _BOLD["meet"]):
            best = Join("meet", _BOLD["meet"] * length, np.vstack([first, second[::-1]]), corner)
    return best


def _touching_arc(a: End, b: End) -> Join | None:
    """The arc that begins at one end in its direction and arrives at the other in its."""
    chord = b.at - a.at
    gap = float(np.linalg.norm(chord))
    if gap < 1e-9:
        return None
    across = float(a.out[0] * chord[1] - a.out[1] * chord[0])
    leaving = float(np.arctan2(across, a.out @ chord))
    arriving = -b.out
    turn_in = float(np.arctan2(chord[0] * arriving[1] - chord[1] * arriving[0], chord @ arriving))
    if abs(leaving - turn_in) > _TOUCHING or not np.radians(5) < abs(leaving) < np.pi - 0.2:
        return None
    half = 0.5 * (leaving + turn_in)
    radius = gap / (2 * np.sin(abs(half)))
    u = chord / gap
    centre = 0.5 * (a.at + b.at) + np.sign(half) * radius * np.cos(half) * np.array([-u[1], u[0]])
    begin = np.arctan2(*(a.at - centre)[::-1])
    angles = begin + np.linspace(0, 2 * half, _STEPS)
    path = centre + radius * np.column_stack([np.cos(angles), np.sin(angles)])
    path[0], path[-1] = a.at, b.at
    # Beyond a quarter turn it is bolder the more it turns: a straight end assumes less than a round one.
    return Join("arc", _BOLD["arc"] * _length(path) * max(1.0, 4 * abs(half) / np.pi), path)


def _straight(a: End, b: End) -> Join:
    chord = b.at - a.at
    gap = float(np.linalg.norm(chord))
    u = chord / max(gap, 1e-12)
    # A line that goes back over what it comes from assumes more than one that goes on.
    kinks = max(0.0, -float(a.out @ u)) + max(0.0, float(b.out @ u))
    return Join("line", _BOLD["line"] * gap * (1 + kinks), np.linspace(a.at, b.at, _STEPS))


def _square(a: End, b: End, edge: float, sigma: float) -> Join | None:
    """One or both pieces end in a square corner, and what stands square to them goes on to the other end."""
    best: Join | None = None
    for first, second in ((a.turned, b), (a, b.turned), (a.turned, b.turned)):
        if first is None or second is None:
            continue
        on = first.piece.kind == second.piece.kind == LINE and _goes_on(first, second, sigma)
        join = _meeting(first, second, edge, sigma) if not on else None
        if not on and join is None:
            continue
        middle = np.array([first.at, second.at]) if join is None else join.path
        path = np.vstack([a.at[None][: first is not a], middle, b.at[None][: second is not b]])
        cost = _BOLD["square"] * _length(path)
        if best is None or cost < best.cost:
            best = Join("square", cost, path)
    return best


def ways_to_join(a: End, b: End, *, sigma_mm: float, edge_mm: float) -> list[Join]:
    """All ways in which the gap between two ends may be bridged, the least bold first; a straight line is always one of them.

    sigma_mm: what the scan strays from a piece · edge_mm: side of its facets, on which its borders are ragged.
    """
    found = [_one_piece(a, b, sigma_mm), _touching_arc(a, b), _straight(a, b)]
    if FREE not in (a.piece.kind, b.piece.kind):
        found += [_meeting(a, b, edge_mm, sigma_mm), _square(a, b, edge_mm, sigma_mm)]
    return sorted((j for j in found if j is not None), key=lambda j: j.cost)


def end_of(piece: PieceFit, at: Array, last: bool) -> End:
    """The open end of a chain at one of its pieces, its points in the chain's order; last: at the chain's end, else at its beginning."""
    place = on_piece(piece, at)
    way = direction_at(piece, place)
    if way is None:
        step = piece.points[-1] - piece.points[-3] if last else piece.points[2] - piece.points[0]
        way = step / max(float(np.linalg.norm(step)), 1e-12)
    return End(place, way if last else -way, piece)
