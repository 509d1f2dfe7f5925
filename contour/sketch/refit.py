"""Loops of known structure fitted to polylines: every piece gets its points by nearness to where it was."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from contour.geometry.frames import PlaneFrame
from contour.outline.along import path_distance, placed_along
from contour.outline.assumed import unseen_along
from contour.outline.pieces import CODES, Chain, Outline, shape_chains, shape_pieces, whole_ellipse
from contour.outline.shape import Held
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, entity_points
from contour.sketch.taken import TakenLoop, TakenPiece

__all__ = ["refit_loops"]

Array = NDArray[np.float64]
_STIFF = 400


def _entity(piece: TakenPiece) -> Entity:
    if piece.kind == "ellipse" and piece.ellipse is None:  # made one by hand: it runs where the piece ran
        return Entity(piece.id, "free", piece.start, piece.end, None, tuple(piece.points) or (piece.start, piece.end))
    return Entity(piece.id, piece.kind, piece.start, piece.end, piece.mid, tuple(piece.points), piece.ellipse)


def _problem(frame: PlaneFrame, piece: TakenPiece, message: str, got: str) -> ContourError:
    spot = piece.mid or ((piece.start[0] + piece.end[0]) / 2, (piece.start[1] + piece.end[1]) / 2)
    x, y, z = frame.to_space(np.array(spot))
    return ContourError(
        "outline-changed",
        message,
        where=Where(entity=piece.id, point=(float(x), float(y), float(z))),
        got=got,
        need="a section that still has this piece",
        remedy="put the value back, take the section again, or detach the piece",
    )


def _sharing(lines: list[Array], path: Array, limit: float, edge: float) -> list[Array]:
    """The polylines that share a path among them, nearest first: what runs beside one of them, as the other side of a thin wall does, has no
    stretch of it for its own."""
    rows = sorted(((float(np.median(path_distance(p, path))), k) for k, p in enumerate(lines)), key=lambda row: row)
    taken: set[int] = set()
    out = []
    for away, k in rows:
        own = set((placed_along(lines[k], path) / (2 * edge)).astype(int).tolist())
        if away < limit and len(own - taken) > 0.5 * len(own):
            taken |= own
            out.append(lines[k])
    return out


def _stiff(path: Array) -> Array:
    """(n, 2) along a path, so many that what is fitted to them stays there whatever its neighbours do."""
    along = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1)))
    at = np.linspace(0.0, along[-1], _STIFF)
    return np.column_stack([np.interp(at, along, path[:, k]) for k in (0, 1)])


def _bridged_runs(
    loop: TakenLoop, lines: list[tuple[Array, bool]], frame: PlaneFrame, edge: float
) -> tuple[list[Array], list[Array]]:
    """The points of every piece of a loop that was closed over gaps, along it; assumed pieces have their own. And the polylines they are of.

    Raises ContourError (outline-changed)."""
    paths = [entity_points(_entity(p)) for p in loop.pieces]
    whole = np.vstack(paths)
    limit = max(4 * edge, 0.08 * float(np.ptp(whole, axis=0).max()))
    near = _sharing([points for points, _ in lines if len(points) >= 4], whole, limit, edge)
    if not near:
        raise _problem(frame, loop.pieces[0], "the section no longer has this loop", f"{len(lines)} other loops")
    points = np.vstack(near)
    away = np.stack([path_distance(points, p) for p in paths])
    owner = np.where(away.min(axis=0) < limit, away.argmin(axis=0), -1)
    runs = []
    for k, (piece, path) in enumerate(zip(loop.pieces, paths, strict=True)):
        run = points[owner == k]
        runs.append(_stiff(path) if piece.assumed else run[np.argsort(placed_along(run, path), kind="stable")])
    return runs, near


def _runs_of(loop: TakenLoop, lines: list[tuple[Array, bool]], frame: PlaneFrame, edge: float) -> list[Array]:
    """The points of every piece of a loop, in order, from the polyline that the loop belongs to. Raises ContourError (outline-changed)."""
    paths = [entity_points(_entity(p)) for p in loop.pieces]
    whole = np.vstack(paths)
    size = float(np.ptp(whole, axis=0).max())
    limit = max(4 * edge, 0.08 * size)
    best: tuple[float, Array, bool] | None = None
    for points, closed in lines:
        if len(points) < 4:
            continue
        away = path_distance(points, whole)
        back = path_distance(whole, np.vstack([points, points[:1]]) if closed else points)
        score = float(np.median(away) + np.median(back))
        if np.median(away) < limit and np.median(back) < limit and (best is None or score < best[0]):
            best = (score, points, closed)
    if best is None:
        raise _problem(frame, loop.pieces[0], "the section no longer has this loop", f"{len(lines)} other loops")
    _, points, closed = best
    if loop.closed and not closed and not loop.full:
        raise _problem(frame, loop.pieces[0], "the loop is open now: the scan has a hole there", "an open polyline")
    if len(loop.pieces) == 1:
        return [points]
    owner = np.argmin(np.stack([path_distance(points, p) for p in paths]), axis=0)
    # Start where a piece begins, so that no piece's run is cut by the polyline's own start.
    turns = np.flatnonzero(owner != np.roll(owner, 1))
    if loop.closed and len(turns):
        points, owner = np.roll(points, -turns[0], axis=0), np.roll(owner, -turns[0])
    runs = [points[owner == k] for k in range(len(loop.pieces))]
    ways, back_ways = (
        sum(float(np.linalg.norm(r[end] - p.start)) for r, p in zip(runs, loop.pieces, strict=True) if len(r))
        for end in (0, -1)
    )
    return [r[::-1] for r in runs] if back_ways < ways else runs


def _chain_of(loop: TakenLoop, runs: list[Array], frame: PlaneFrame, edge: float) -> Chain:
    data: list[Array] = []
    near: list[Array | None] = []
    count = len(runs)
    for k, (run, piece) in enumerate(zip(runs, loop.pieces, strict=True)):
        if len(run) < 2:
            raise _problem(frame, piece, f"{piece.kind} {piece.id} has no scan points left", f"{len(run)} points")
        ends = np.minimum(np.linalg.norm(run - run[0], axis=1), np.linalg.norm(run - run[-1], axis=1))
        inner = run[ends > 0.7 * edge] if count > 1 else run
        data.append(inner if len(inner) >= 4 else run)
        follows = runs[(k + 1) % count]
        if loop.bridged:  # over a gap there is nothing half-way
            near.append(np.array(piece.end))
            continue
        near.append((run[-1] + follows[0]) / 2 if len(follows) and (loop.closed or k + 1 < count) else None)
    whole = count == 1 and (loop.closed or loop.full) and loop.pieces[0].kind == "arc"
    return Chain([CODES[p.kind] for p in loop.pieces], data, near, (runs[0][0], runs[-1][-1]), loop.closed, whole)


def refit_loops(
    loops: Sequence[TakenLoop], lines: list[tuple[Array, bool]], frame: PlaneFrame, sigma: float, edge: float
) -> list[Outline]:
    """Loops of known structure fitted to the polylines that they belong to; loops with relations between them are fitted together.

    Raises ContourError (outline-changed) with the piece, (degenerate) for relations that the scan speaks against.
    Polylines (n, 2), sigma, edge (the mean length of a facet's side): mm.
    """
    found = [
        _bridged_runs(loop, lines, frame, edge) if loop.bridged else (_runs_of(loop, lines, frame, edge), list[Array]())
        for loop in loops
    ]
    chains = [_chain_of(loop, runs, frame, edge) for loop, (runs, _) in zip(loops, found, strict=True)]
    names = [(p.id, n) for n, loop in enumerate(loops) for p in loop.pieces]
    at = {id: k for k, (id, _) in enumerate(names)}
    held = [
        Held(r.kind, at[r.first], at[r.second])
        for loop in loops
        for r in loop.relations
        if r.first in at and r.second in at
    ]
    out: list[Outline] = []
    tied = {n for h in held for n in (names[h.first][1], names[h.second][1])}
    together = shape_chains(
        [chains[n] for n in sorted(tied)],
        sigma_mm=sigma,
        edge_mm=edge,
        held=_counted(held, [n for _, n in names], tied),
        known=True,
    )
    of_tied = dict(zip(sorted(tied), together, strict=True))
    for n, (loop, chain) in enumerate(zip(loops, chains, strict=True)):
        if loop.pieces[0].kind == "ellipse" and len(loop.pieces) == 1 and (loop.closed or loop.full):
            oval = whole_ellipse(chain.data[0])
            if oval is None:
                raise _problem(frame, loop.pieces[0], "the loop is no ellipse any more", "no ellipse fits")
            outline = oval[0]
        else:
            outline = of_tied[n] if n in of_tied else shape_pieces(chain, sigma_mm=sigma, edge_mm=edge, known=True)
        for fitted, piece in zip(outline.pieces, loop.pieces, strict=True):
            if fitted.kind != piece.kind:
                raise _problem(frame, piece, f"{piece.id} is no {piece.kind} any more", f"a {fitted.kind}")
            if fitted.rms > max(4 * sigma, 0.5 * edge):
                raise _problem(
                    frame, piece, f"{piece.kind} {piece.id} no longer fits the scan", f"rms {fitted.rms:.3f} mm"
                )
        seen = found[n][1]
        if seen:
            marked = (replace(p, assumed=unseen_along(p, seen, edge + 3 * sigma)) for p in outline.pieces)
            outline = replace(outline, pieces=tuple(marked))
        out.append(outline)
    return out


def _counted(held: Sequence[Held], loop_of: list[int], tied: set[int]) -> list[Held]:
    """Relations with the pieces of loops that none speaks of left out of the count."""
    place = {k: n for n, k in enumerate(k for k, loop in enumerate(loop_of) if loop in tied)}
    return [Held(h.kind, place[h.first], place[h.second]) for h in held]
