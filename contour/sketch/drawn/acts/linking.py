"""Geometry that is brought in from bodies and other sketches: it follows what it came from, and nothing asked moves it, until it is let go."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.pen import Act, Pen
from contour.sketch.drawn.linked import SAME_MM, Link, LinkedPiece, drawn_piece, put
from contour.sketch.drawn.text import Point

__all__ = ["BringIn", "Linking", "bring_in", "let_go"]


class BringIn(Act):
    """link: what it comes from · pieces: as they are seen on the plane. What was brought in from there before stays as it is, put where it is now."""

    act: Literal["bring-in"]
    link: Link
    pieces: tuple[LinkedPiece, ...] = Field(min_length=1, max_length=2000)


Linking = BringIn


def bring_in(pen: Pen, linking: BringIn) -> None:
    """Raises ContourError (bad-params) where two pieces have one name."""
    keys = [p.key for p in linking.pieces]
    if len(set(keys)) < len(keys):
        raise ContourError(
            "bad-params",
            "two of the pieces have one name",
            got=f"{len(keys)} pieces, {len(set(keys))} names",
            need="a name for each",
            remedy="ask for them again",
        )
    bare = linking.link.model_copy(update={"pieces": {}})
    k = next((k for k, old in enumerate(pen.links) if _same_source(old, bare)), len(pen.links))
    known = dict(pen.links[k].pieces) if k < len(pen.links) else {}
    corners: dict[tuple[float, float], str] = {}

    def corner(at: tuple[float, float]) -> str:
        near = next((name for q, name in corners.items() if math.dist(q, at) < SAME_MM), None)
        if near is None:
            near = corners[at] = pen.add(Point(at=at, linked=True))
        return near

    for piece in linking.pieces:
        name = known.get(piece.key)
        if name in pen.entities and put(pen.entities, name, piece):
            continue
        if name in pen.entities:
            pen.remove([name])
        entity = drawn_piece(piece, corner)
        known[piece.key] = corner(piece.points[0]) if entity is None else pen.add(entity)
    pen.links[k : k + 1] = [bare.model_copy(update={"pieces": known})]
    pen.chosen = [known[key] for key in keys]


def _same_source(a: Link, b: Link) -> bool:
    def said(link: Link) -> tuple[object, ...]:
        part = (link.part.owner, link.part.called) if link.part else None
        return link.way, part, link.body, link.sketch

    return said(a) == said(b)


def let_go(pen: Pen, names: Sequence[str]) -> None:
    """These follow nothing any more: they are drawn like everything else."""
    gone = {n for n in names if n in pen.entities and pen.entities[n].linked}
    held = {
        p
        for n, e in pen.entities.items()
        if e.linked and n not in gone and n not in pen.points_of(n)
        for p in pen.points_of(n)
    }
    for name in gone | {p for n in gone for p in pen.points_of(n)} - held:
        e = pen.entities[name]
        pen.entities[name] = e.model_copy(update={"linked": False})
    pen.links = [
        link.model_copy(update={"pieces": {k: n for k, n in link.pieces.items() if n not in gone}})
        for link in pen.links
    ]
