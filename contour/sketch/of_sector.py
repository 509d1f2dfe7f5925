"""Outlines of one sector of what repeats around an axis: their two ends are held to be one end, turned, so that sectors laid side by side meet."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from contour.outline.assumed import assumed_whole
from contour.outline.lines import Lines
from contour.outline.pieces import Outline
from contour.outline.section import SectionLoop, loop_of
from contour.outline.turned import SectorEnds, ends_of_sector, going_on
from contour.recipe.problem import ContourError
from contour.sketch.refit import refit_loops
from contour.sketch.taken import LoopRelation, TakenLoop, TakenPiece, taken_pieces

__all__ = ["HeldLoop", "sector_ends", "sectors_held"]

_PRICE = 1.1  # an arc has to lie so much nearer to the scan than a line


@dataclass(frozen=True, slots=True)
class HeldLoop:
    """A loop, and what its pieces are held to from the start; ids count through all loops."""

    loop: SectionLoop
    relations: tuple[LoopRelation, ...] = ()


def sector_ends(outline: Outline, *, meeting: bool = False) -> SectorEnds | None:
    """Both ends of an outline of one sector, by what of it was not scanned; None of any other. meeting: they may meet on the axis."""
    if not outline.closed:
        return None
    ends = [(np.array(p.start), np.array(p.end)) for p in outline.pieces]
    return ends_of_sector(ends, [p.kind == "line" and assumed_whole(p) for p in outline.pieces], meeting=meeting)


def sectors_held(
    loops: Sequence[SectionLoop],
    lines: Lines,
    sigma_mm: float,
    edge_mm: float,
    *,
    near_mm: float,
    meeting: bool = False,
) -> list[HeldLoop]:
    """Loops of a section, those of one sector with their ends held.

    lines: the cut's polylines (n, 2), mm, and whether each is closed · near_mm: ends farther off than that are let be, and so are those that cannot be held ·
    meeting: it is known to be a sector, and its ends may meet on the axis.
    """
    out = []
    first = 1
    for loop in loops:
        ends = sector_ends(loop.outline, meeting=meeting)
        near = ends is not None and ends.off < near_mm
        out.append(_held(loop, ends, lines, sigma_mm, edge_mm, first) if ends is not None and near else HeldLoop(loop))
        first += len(loop.outline.pieces)
    return out


def _held(loop: SectionLoop, ends: SectorEnds, lines: Lines, sigma: float, edge: float, first: int) -> HeldLoop:
    """What goes on over a seam is one piece to either side of it, and half of it is often too short to tell what it is: found as lines or unlike each
    other, they are tried as arcs as well, and these taken where they lie clearly nearer to the scan."""
    relation = LoopRelation(kind="turned", first=f"e{first + ends.first}", second=f"e{first + ends.second}")
    own = taken_pieces(loop.outline, first)
    best: tuple[float, Outline] | None = None
    for price, pieces in _structures(own, ends):
        taken = TakenLoop(closed=True, pieces=pieces, relations=[relation])
        try:
            (outline,) = refit_loops([taken], lines, loop.frame, sigma, edge)
        except ContourError:
            continue
        off = price * float(np.sqrt(np.mean([p.rms**2 for p in outline.pieces])))
        if best is None or off < best[0]:
            best = off, outline
    if best is None:  # its sides go on unlike each other: it stays as it was found
        return HeldLoop(loop)
    marked = [replace(p, assumed=was.assumed) for p, was in zip(best[1].pieces, loop.outline.pieces, strict=True)]
    return HeldLoop(loop_of(replace(best[1], pieces=tuple(marked)), loop.frame, loop.line), (relation,))


def _structures(own: list[TakenPiece], ends: SectorEnds) -> Iterator[tuple[float, list[TakenPiece]]]:
    """(price, pieces): every choice of lines or arcs beside the seam."""
    pairs = going_on(ends.first, ends.second, len(own))
    for kinds in itertools.product(("line", "arc"), repeat=len(pairs)):
        pieces = list(own)
        for pair, kind in zip(pairs, kinds, strict=True):
            for k in pair:
                pieces[k] = _as_line(own[k]) if kind == "line" else _as_arc(own[k], ends.middle)
        yield _PRICE ** kinds.count("arc"), pieces


def _as_line(p: TakenPiece) -> TakenPiece:
    return p if p.kind == "line" else TakenPiece(id=p.id, kind="line", start=p.start, end=p.end)


def _as_arc(p: TakenPiece, about: NDArray[np.float64]) -> TakenPiece:
    """About the axis, where it is none yet."""
    if p.kind == "arc":
        return p
    arms = np.array([p.start, p.end]) - about
    way = arms.sum(axis=0)
    mid = about + way / max(float(np.linalg.norm(way)), 1e-12) * np.linalg.norm(arms, axis=1).mean()
    return TakenPiece(id=p.id, kind="arc", start=p.start, end=p.end, mid=(float(mid[0]), float(mid[1])))
