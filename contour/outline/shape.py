"""The shapes of an outline's pieces fitted together: tangent joints, parallel and square lines, exact meeting points."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.outline.mirror import Mirrored, mirror_rows
from contour.outline.piece_fit import PieceFit, corner_of, direction_at, piece_gap
from contour.outline.split import ARC, LINE
from contour.outline.turned import Turned, turned_rows
from contour.recipe.problem import ContourError, Where

__all__ = ["Held", "Relation", "regularise"]

Array = NDArray[np.float64]
# A step lower than so many facet sides has no straight stretch that the scan's rounding leaves alone; how far its riser leans then, times facet
# sides by its height, radians; and what its treads may be off being parallel.
_LOW, _LEANS, _PARALLEL = 5.0, 0.75, np.radians(1.5)


Relation = Literal["parallel", "square", "equal radius", "concentric", "symmetric", "turned"]


@dataclass(frozen=True, slots=True)
class Held:
    """What two pieces are held to on request, by their places among all that are fitted together. symmetric: the whole loop is its own
    mirror image, and takes the first to the second · turned: the loop is one sector, and these are its ends."""

    kind: Relation
    first: int
    second: int


def _thinned(points: Array, most: int = 60) -> Array:
    if len(points) <= most:
        return points
    return points[np.linspace(0, len(points) - 1, most).astype(int)]


def _tangencies(
    pieces: list[PieceFit], near: list[Array | None], following: Sequence[int], sigma: float
) -> list[tuple[int, int, float]]:
    """(i, j, sign) of neighbours whose directions agree at their joint within what the data can tell."""
    out = []
    for i, at in enumerate(near):
        j = following[i]
        a, b = pieces[i], pieces[j]
        if at is None or not {a.kind, b.kind} <= {LINE, ARC} or (a.kind == LINE and b.kind == LINE) or i == j:
            continue
        if following[j] == i and near[j] is not None:
            continue  # two pieces that make a loop touch each other in one place at most
        place = corner_of(a, b, at)
        place = at if place is None or np.linalg.norm(place - at) > 3.0 else place
        ta, tb = direction_at(a, place), direction_at(b, place)
        assert ta is not None and tb is not None
        kink = np.degrees(np.arccos(np.clip(ta @ tb, -1, 1)))
        if a.kind == LINE or b.kind == LINE:
            line, arc = (a, b) if a.kind == LINE else (b, a)
            n = np.array([np.cos(line.p[0]), np.sin(line.p[0])])
            h = n @ arc.p[:2] - line.p[1]
            miss, sign, radius = abs(abs(h) - arc.p[2]), float(np.sign(h)), arc.p[2]
        else:
            d = float(np.linalg.norm(a.p[:2] - b.p[:2]))
            inner = abs(a.p[2] - b.p[2])
            sign = 1.0 if abs(d - (a.p[2] + b.p[2])) < abs(d - inner) else -1.0
            miss, radius = abs(d - (a.p[2] + b.p[2] if sign > 0 else inner)), min(a.p[2], b.p[2])
        if kink < 16 and miss < max(6 * sigma, 0.04 * radius):
            out.append((i, j, sign))
    return out


def _squares(pieces: list[PieceFit], sigma: float, cut: set[int]) -> list[tuple[int, int, float]]:
    """(i, j, angle) of lines whose angle is a multiple of 90 degrees within what their lengths can tell; cut: lines that lie as they were cut, and say nothing."""
    lines = [i for i, p in enumerate(pieces) if p.kind == LINE and i not in cut]
    spread = np.zeros(len(pieces))
    for i in lines:
        ends = pieces[i].points
        length = float(np.hypot(*(ends[-1] - ends[0])))
        spread[i] = sigma * np.sqrt(12 / max(len(ends), 4)) / max(length, 1e-9)
    angle = np.array([p.p[0] if p.kind == LINE else 0.0 for p in pieces])
    out = []
    for n, i in enumerate(lines[1:], 1):
        before = np.array(lines[:n])
        turn = angle[i] - angle[before]
        nearest = np.round(turn / (np.pi / 2)) * np.pi / 2
        slack = np.minimum(np.maximum(np.radians(0.1), 3 * np.maximum(spread[i], spread[before])), np.radians(1.5))
        held = np.flatnonzero(np.abs(turn - nearest) < slack)
        if len(held):  # one link per line ties the whole family together
            out.append((i, int(before[held[0]]), float(nearest[held[0]])))
    return out


def _risers(
    pieces: list[PieceFit], near: list[Array | None], following: Sequence[int], edge: float
) -> list[tuple[int, int, float]]:
    """(i, j, angle) of risers of low steps with the tread before them: both ends of so short a line are rounded off by the scan, towards either tread,
    and it looks as if it leaned. It is square to treads that are parallel to each other."""
    out = []
    for before, at in enumerate(near):
        riser = following[before]
        after = following[riser]
        if at is None or near[riser] is None or len({before, riser, after}) < 3:
            continue
        a, b, c = pieces[before], pieces[riser], pieces[after]
        if not a.kind == b.kind == c.kind == LINE:
            continue
        high, lean = abs(_off(a, c)), _off_straight(b.p[0] - a.p[0] - np.pi / 2)
        if (
            abs(_off_straight(c.p[0] - a.p[0])) < _PARALLEL
            and 0 < high < _LOW * edge
            and abs(lean) < _LEANS * edge / high
        ):
            out.append((riser, before, float(b.p[0] - a.p[0] - lean)))
    return out


def _off(a: PieceFit, c: PieceFit) -> float:
    """How far the middle of a line's points lies off another line, mm."""
    return float(piece_gap(a, c.points.mean(axis=0)[None])[0])


def _off_straight(angle: float) -> float:
    """What an angle is off the nearest multiple of a straight one, radians."""
    return float((angle + np.pi / 2) % np.pi - np.pi / 2)


def _relation_rows(
    pieces: list[PieceFit],
    starts: list[int],
    count: int,
    tangent: list[tuple[int, int, float]],
    square: list[tuple[int, int, float]],
    held: Sequence[Held],
) -> Iterator[tuple[Array, float]]:
    """Derivatives of each relation by all parameters, and what is left of it."""
    for i, j, sign in tangent:
        row = np.zeros(count)
        a, b = pieces[i], pieces[j]
        if a.kind == LINE or b.kind == LINE:
            k, m = (i, j) if a.kind == LINE else (j, i)
            line, arc = pieces[k], pieces[m]
            c, s = np.cos(line.p[0]), np.sin(line.p[0])
            miss = float(c * arc.p[0] + s * arc.p[1] - line.p[1] - sign * arc.p[2])
            row[starts[k]], row[starts[k] + 1] = -s * arc.p[0] + c * arc.p[1], -1
            row[starts[m]], row[starts[m] + 1], row[starts[m] + 2] = c, s, -sign
        else:
            gap = a.p[:2] - b.p[:2]
            apart = float(np.linalg.norm(gap)) + 1e-300
            bigger = 1.0 if a.p[2] >= b.p[2] else -1.0
            ra, rb = (-1.0, -1.0) if sign > 0 else (-bigger, bigger)
            miss = float(apart + ra * a.p[2] + rb * b.p[2])
            row[starts[i] : starts[i] + 2], row[starts[i] + 2] = gap / apart, ra
            row[starts[j] : starts[j] + 2], row[starts[j] + 2] = -gap / apart, rb
        yield row, miss
    for i, j, angle in square:
        row = np.zeros(count)
        row[starts[i]], row[starts[j]] = 1, -1
        yield row, float(pieces[i].p[0] - pieces[j].p[0] - angle)
    for relation in held:
        i, j = relation.first, relation.second
        a, b = pieces[i], pieces[j]
        for k in (2,) if relation.kind == "equal radius" else (0, 1):
            row = np.zeros(count)
            row[starts[i] + k], row[starts[j] + k] = 1, -1
            yield row, float(a.p[k] - b.p[k])


def _asked(pieces: list[PieceFit], held: Sequence[Held]) -> tuple[list[tuple[int, int, float]], list[Held]]:
    """(lines asked to be parallel or square, arcs asked to share a radius or a middle). Raises ContourError (degenerate)."""
    square, arcs = [], []
    for relation in held:
        a, b = pieces[relation.first], pieces[relation.second]
        wanted = LINE if relation.kind in ("parallel", "square") else ARC
        if not a.kind == b.kind == wanted:
            raise ContourError(
                "degenerate",
                f"'{relation.kind}' speaks of two {'lines' if wanted == LINE else 'arcs'}",
                where=Where(param="relations"),
                got=f"pieces {relation.first + 1} and {relation.second + 1}",
                need=f"two {'lines' if wanted == LINE else 'arcs'}",
                remedy="take it back",
            )
        if wanted == ARC:
            arcs.append(relation)
            continue
        turn = a.p[0] - b.p[0]
        shift = np.pi / 2 if relation.kind == "square" else 0.0
        square.append((relation.first, relation.second, float(np.round((turn - shift) / np.pi) * np.pi + shift)))
    return square, arcs


def regularise(
    pieces: list[PieceFit],
    near: list[Array | None],
    *,
    sigma_mm: float,
    edge_mm: float = 0.0,
    held: Sequence[Held] = (),
    following: Sequence[int] | None = None,
    mirrors: Sequence[Mirrored] = (),
    turns: Sequence[Turned] = (),
) -> list[tuple[int, int]]:
    """Fit all pieces together with tangent joints and square lines held; returns the tangent pairs.

    `near[i]` is where piece i meets the next one (`following[i]`), None where the chain is open. Gauss-Newton with
    the relations as constraints. Pieces are changed in place; a fit that would get much worse than the free one is put back.
    near: each (2,), mm. edge_mm: the scale on which the scan rounds corners; 0 of a mesh whose corners are sharp.
    """
    starts: list[int] = []
    count = 0
    for piece in pieces:
        starts.append(count)
        count += len(piece.p)
    following = following or [(i + 1) % len(pieces) for i in range(len(pieces))]
    tangent, square = (
        _tangencies(pieces, near, following, sigma_mm),
        _squares(pieces, sigma_mm, {k for t in turns for k in t.ends}),
    )
    asked, arcs = _asked(pieces, held)
    risers = [r for r in _risers(pieces, near, following, edge_mm) if not any({r[0]} & {i, j} for i, j, _ in square)]
    square = [*asked, *square, *risers]
    if count == 0 or not (tangent or square or arcs or mirrors or turns):
        return []
    lines = [m.axis.copy() for m in mirrors]
    of_pieces, count = count, count + 2 * len(lines)
    kinds = [p.kind for p in pieces]

    def rows() -> list[tuple[Array, float]]:
        out = list(_relation_rows(pieces, starts, count, tangent, square, arcs))
        for k, (m, line) in enumerate(zip(mirrors, lines, strict=True)):
            out += mirror_rows(m.pairs, kinds, [p.p for p in pieces], starts, count, of_pieces + 2 * k, line)
        for turned in turns:
            out += turned_rows(turned, kinds, [p.p for p in pieces], starts, count)
        return out

    def take(step: NDArray[np.floating]) -> None:
        for i, piece in enumerate(pieces):
            piece.p = piece.p + step[starts[i] : starts[i] + len(piece.p)]
        for k, line in enumerate(lines):
            line += step[of_pieces + 2 * k : of_pieces + 2 * k + 2]

    before = [p.p.copy() for p in pieces]
    data = [_thinned(p.points) for p in pieces]
    weights = [np.sqrt(len(p.points) / max(len(d), 1)) / sigma_mm for p, d in zip(pieces, data, strict=True)]
    relations = len(rows())
    # Relations hold exactly; the small corner of the matrix lets those that say the same thing twice stand side by side.
    whole = np.zeros((count + relations, count + relations))
    for _ in range(12):
        whole[:] = 0.0
        right = np.zeros(count + relations)
        for i, piece in enumerate(pieces):
            if piece.kind not in (LINE, ARC) or len(data[i]) == 0:
                continue
            if piece.kind == LINE:
                c, s = np.cos(piece.p[0]), np.sin(piece.p[0])
                block = np.column_stack([data[i] @ np.array([-s, c]), -np.ones(len(data[i]))])
            else:
                d = data[i] - piece.p[:2]
                rho = np.hypot(d[:, 0], d[:, 1]) + 1e-300
                block = np.column_stack([-d / rho[:, None], -np.ones(len(d))])
            a, b = starts[i], starts[i] + len(piece.p)
            w = weights[i] ** 2
            whole[a:b, a:b] += w * (block.T @ block) + 1e-9 * w * np.eye(b - a)
            right[a:b] -= w * (block.T @ piece_gap(piece, data[i]))
        for k in range(of_pieces, count):
            whole[k, k] = 1e-9
        for k, (row, miss) in enumerate(rows()):
            whole[count + k, :count] = whole[:count, count + k] = row
            whole[count + k, count + k] = -1e-14
            right[count + k] = -miss
        step = np.linalg.solve(whole, right)[:count]
        take(step)
        if all(
            np.abs(step[k : k + len(p.p)]).max(initial=0) < 1e-7 * (1 + np.abs(p.p).max(initial=0))
            for k, p in zip(starts, pieces, strict=True)
        ):
            break
    # The relations exactly: faces made of pieces that are only nearly tangent cannot be moved later.
    for _ in range(3):
        held_rows = rows()
        left = np.array([miss for _, miss in held_rows])
        if np.abs(left).max(initial=0) < 1e-12:
            break
        take(np.asarray(np.linalg.lstsq(np.array([row for row, _ in held_rows]), -left, rcond=1e-10)[0]))
    worse = False
    rounded_off = {i for i, _, _ in risers}  # nothing but its middle follows the riser of a low step
    for i, piece in enumerate(pieces):
        if piece.kind not in (LINE, ARC) or i in rounded_off:
            continue
        now = np.sqrt(np.mean(piece_gap(piece, data[i]) ** 2))
        then = np.sqrt(np.mean(piece_gap(PieceFit(piece.kind, before[i], piece.points), data[i]) ** 2))
        worse |= (
            not np.isfinite(now) or now > max(2 * then, then + 3 * sigma_mm) or (piece.kind == ARC and piece.p[2] <= 0)
        )
    if worse and (held or mirrors or turns):
        raise ContourError(
            "degenerate",
            "the pieces cannot be held so and still follow the scan",
            where=Where(param="relations"),
            got="pieces off the scan",
            need="relations that the scan bears out",
            remedy="take one of the relations back, or change the pieces",
        )
    if worse:
        for piece, old in zip(pieces, before, strict=True):
            piece.p = old
        return []
    return [(i, j) for i, j, _ in tangent]
