"""Loops of known structure fitted to polylines: every piece gets its points by nearness to where it was."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.geometry.frames import PlaneFrame
from contour.outline.pieces import Chain, Outline, shape_chains, shape_pieces, whole_ellipse
from contour.outline.shape import Held
from contour.outline.split import ARC, ELLIPSE, FREE, LINE
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, entity_points
from contour.sketch.taken import TakenLoop, TakenPiece

__all__ = ["refit_loops"]

Array = NDArray[np.float64]
_CODES = {"line": LINE, "arc": ARC, "ellipse": ELLIPSE, "free": FREE}


def _entity(piece: TakenPiece) -> Entity:
    if piece.kind == "ellipse" and piece.ellipse is None:  # made one by hand: it runs where the piece ran
        return Entity(piece.id, "free", piece.start, piece.end, None, tuple(piece.points) or (piece.start, piece.end))
    return Entity(piece.id, piece.kind, piece.start, piece.end, piece.mid, tuple(piece.points), piece.ellipse)


def _path_distance(points: Array, path: Array) -> Array:
    """Distance of points (n, 2) to a polyline (m, 2)."""
    a, d = path[:-1], np.diff(path, axis=0)
    t = np.einsum("nmd,md->nm", points[:, None] - a[None], d) / ((d * d).sum(axis=1) + 1e-300)
    foot = a + np.clip(t, 0, 1)[..., None] * d
    return np.asarray(np.linalg.norm(points[:, None] - foot, axis=2).min(axis=1))


def _problem(frame: PlaneFrame, piece: TakenPiece, message: str, got: str) -> ContourError:
    spot = piece.mid or ((piece.start[0] + piece.end[0]) / 2, (piece.start[1] + piece.end[1]) / 2)
    x, y, z = frame.to_space(np.array(spot))
    return ContourError(
        "outline-changed",
        message,
        where=Where(entity=piece.id, point=(float(x), float(y), float(z))),
        got=got,
        need="a section that still has this piece",
        remedy="put the value back, or take the outline again",
    )


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
        away = _path_distance(points, whole)
        back = _path_distance(whole, np.vstack([points, points[:1]]) if closed else points)
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
    owner = np.argmin(np.stack([_path_distance(points, p) for p in paths]), axis=0)
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
        near.append((run[-1] + follows[0]) / 2 if len(follows) and (loop.closed or k + 1 < count) else None)
    whole = count == 1 and (loop.closed or loop.full) and loop.pieces[0].kind == "arc"
    return Chain([_CODES[p.kind] for p in loop.pieces], data, near, (runs[0][0], runs[-1][-1]), loop.closed, whole)


def refit_loops(
    loops: Sequence[TakenLoop], lines: list[tuple[Array, bool]], frame: PlaneFrame, sigma: float, edge: float
) -> list[Outline]:
    """Loops of known structure fitted to the polylines that they belong to; loops with relations between them are fitted together.

    Raises ContourError (outline-changed) with the piece, (degenerate) for relations that the scan speaks against.
    Polylines (n, 2), sigma, edge (the mean length of a facet's side): mm.
    """
    chains = [_chain_of(loop, _runs_of(loop, lines, frame, edge), frame, edge) for loop in loops]
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
    )
    of_tied = dict(zip(sorted(tied), together, strict=True))
    for n, (loop, chain) in enumerate(zip(loops, chains, strict=True)):
        if loop.pieces[0].kind == "ellipse" and len(loop.pieces) == 1 and (loop.closed or loop.full):
            oval = whole_ellipse(chain.data[0])
            if oval is None:
                raise _problem(frame, loop.pieces[0], "the loop is no ellipse any more", "no ellipse fits")
            outline = oval[0]
        else:
            outline = of_tied[n] if n in of_tied else shape_pieces(chain, sigma_mm=sigma, edge_mm=edge)
        for fitted, piece in zip(outline.pieces, loop.pieces, strict=True):
            if fitted.kind != piece.kind:
                raise _problem(frame, piece, f"{piece.id} is no {piece.kind} any more", f"a {fitted.kind}")
            if fitted.rms > max(4 * sigma, 0.5 * edge):
                raise _problem(
                    frame, piece, f"{piece.kind} {piece.id} no longer fits the scan", f"rms {fitted.rms:.3f} mm"
                )
        out.append(outline)
    return out


def _counted(held: Sequence[Held], loop_of: list[int], tied: set[int]) -> list[Held]:
    """Relations with the pieces of loops that none speaks of left out of the count."""
    place = {k: n for n, k in enumerate(k for k, loop in enumerate(loop_of) if loop in tied)}
    return [Held(h.kind, place[h.first], place[h.second]) for h in held]
