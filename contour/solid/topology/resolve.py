"""Which face, edge or corner a lasting name means now: by the name, by common ancestors, by neighbours; never by position.

No kernel in here: it works on the rows of ``topology.json`` (see :mod:`contour.solid.topology.rows`) alone, so that a reference can
be explained without opening the shape.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from contour.recipe.problem import ContourError
from contour.recipe.reference import ChainRef, EdgeRef, FaceRef, VertexRef

__all__ = [
    "candidates",
    "chain_of",
    "edge_faces_named",
    "is_exact",
    "resolve_edges",
    "resolve_face",
    "resolve_vertex",
    "roots",
    "split_name",
]

Row = Mapping[str, Any]


def split_name(text: str, sign: str) -> list[str]:
    """A name split at a sign, where no bracket is open.

    >>> split_name("a.fillet[x|y]|b.side[e1]", "|")
    ['a.fillet[x|y]', 'b.side[e1]']
    """
    parts, depth, begin = [], 0, 0
    for i, c in enumerate(text):
        depth += (c in "([") - (c in ")]")
        if c == sign and depth == 0:
            parts.append(text[begin:i])
            begin = i + 1
    return [*parts, text[begin:]]


def roots(name: str) -> frozenset[str]:
    """The faces a face descends from, without what told fragments apart.

    >>> sorted(roots("a.end[p1]~(b.side[e2])+c.side[e4]?"))
    ['a.end[p1]', 'c.side[e4]']
    """
    return frozenset(split_name(part, "~")[0].rstrip("?") for part in split_name(name, "+"))


def _all_roots(names: Iterable[str]) -> frozenset[str]:
    return frozenset(r for n in names for r in roots(n))


def _ambiguous(what: str, pieces: int, got: str) -> ContourError:
    return ContourError(
        "ref-ambiguous",
        f"the {what} is in {pieces} pieces now",
        got=got,
        need=f"one {what.split()[-1]}",
        remedy="choose which of them is meant",
    )


def _lost(what: str, got: str) -> ContourError:
    return ContourError(
        "ref-lost",
        f"the {what} is no longer there",
        got=got,
        need="one that descends from it",
        remedy=f"choose the {what.split()[-1]} again",
    )


def is_exact(name: str, names: Sequence[str]) -> bool:
    """Whether just one thing has the very name, and nothing has to be told apart."""
    return not name.endswith("?") and names.count(name) == 1


def _told_by(around: Sequence[frozenset[str]], ref: Iterable[str]) -> int | None:
    """The one among several whose own neighbours (those not common to all) hold all that the reference knows of them."""
    common = frozenset.intersection(*around)
    own = [a - common for a in around]
    told = _all_roots(ref) & frozenset().union(*own)
    hits = [i for i, o in enumerate(own) if told and told <= o]
    return hits[0] if len(hits) == 1 else None


def resolve_face(ref: FaceRef, faces: Sequence[Row]) -> int:
    """Place of the face in `faces` (each with name, kind, and the names beside it) that the reference means.

    Raises ContourError (ref-lost) when nothing descends from it, (ref-ambiguous) when several do and their
    neighbours do not settle it.
    """
    names = [f["name"] for f in faces]
    if is_exact(ref.name, names):
        return names.index(ref.name)
    own = roots(ref.name)
    what = f"{ref.kind or 'picked'} face"
    kin = [i for i, f in enumerate(faces) if own & roots(f["name"]) and (not ref.kind or faces[i]["kind"] == ref.kind)]
    if not kin:
        raise _lost(what, ref.name)
    if len(kin) == 1 and (own <= roots(faces[kin[0]]["name"]) or own >= roots(faces[kin[0]]["name"])):
        return kin[0]
    told = _told_by([_all_roots(faces[i]["beside"]) for i in kin], ref.beside)
    if told is not None:
        return kin[told]
    raise _ambiguous(what, len(kin), ref.name)


@dataclass(frozen=True, slots=True)
class _EdgeName:
    """pair: roots of the faces on both sides (one for a seam) · told: what told it apart from its like."""

    pair: tuple[frozenset[str], ...]
    told: str


def _edge_name(name: str) -> _EdgeName:
    base, *told = split_name(name, "@")
    return _EdgeName(tuple(roots(part) for part in split_name(base, "|")), told[0] if told else "")


def _lies_between(edge: Row, pair: Sequence[frozenset[str]], face_roots: Sequence[frozenset[str]]) -> bool:
    sides = [face_roots[f] for f in edge["faces"]]
    if len(sides) != len(pair):
        return False
    return any(all(a & b for a, b in zip(order, pair, strict=True)) for order in (sides, sides[::-1]))


def edge_faces_named(edge: Row, faces: Sequence[Row]) -> list[str]:
    """Names of the faces at an edge's ends."""
    return [faces[f]["name"] for f in edge["ends"]]


def resolve_edges(ref: EdgeRef | ChainRef, edges: Sequence[Row], faces: Sequence[Row]) -> list[int]:
    """Places of the edges that the reference means. What was one edge between two faces may have been parted since (a boss
    stands across it): then all its pieces are meant, unless it had been told apart from others when it was picked.

    Raises ContourError (ref-lost) when no edge lies between what descends from its faces, (ref-ambiguous) when several do
    and their ends do not settle it.
    """
    name = ref.called
    names = [e["name"] for e in edges]
    if is_exact(name, names):
        return [names.index(name)]
    meant = _edge_name(name)
    face_roots = [roots(f["name"]) for f in faces]
    kin = [i for i, e in enumerate(edges) if _lies_between(e, meant.pair, face_roots)]
    if not kin:
        raise _lost("picked edge", name)
    if len(kin) == 1:
        return kin
    if not meant.told:
        known = frozenset().union(*meant.pair)
        if all(face_roots[f] <= known for i in kin for f in edges[i]["faces"]):
            return kin
    told = _told_by([_all_roots(edge_faces_named(edges[i], faces)) for i in kin], ref.ends)
    if told is not None:
        return [kin[told]]
    alike = [i for i in kin if "#" in meant.told and split_name(edges[i]["name"], "@")[-1] == meant.told]
    if len(alike) == 1:
        return alike
    raise _ambiguous("picked edge", len(kin), name)


def chain_of(seeds: Iterable[int], edges: Sequence[Row]) -> list[int]:
    """All edges that run on from the seeds without a bend, in order of their places."""
    found, open_ = set(seeds), list(seeds)
    while open_:
        for k in edges[open_.pop()]["next"]:
            if k not in found:
                found.add(k)
                open_.append(k)
    return sorted(found)


def resolve_vertex(ref: VertexRef, vertices: Sequence[Row], faces: Sequence[Row]) -> int:
    """Place of the corner that the reference means; raises ContourError (ref-lost, ref-ambiguous)."""
    names = [v["name"] for v in vertices]
    if is_exact(ref.vertex, names):
        return names.index(ref.vertex)
    wanted = [roots(part) for part in split_name(ref.vertex.rstrip("?"), "|")]
    face_roots = [roots(f["name"]) for f in faces]
    kin = [
        i
        for i, v in enumerate(vertices)
        if all(any(w & face_roots[f] for f in v["faces"]) for w in wanted) and v["name"]
    ]
    if not kin:
        raise _lost("picked corner", ref.vertex)
    if len(kin) == 1:
        return kin[0]
    raise _ambiguous("picked corner", len(kin), ref.vertex)


def candidates(
    own: frozenset[str],
    kind: str,
    place: Sequence[float] | None,
    rows: Sequence[Row],
    row_roots: Sequence[frozenset[str]],
    most: int = 6,
) -> list[int]:
    """Places to offer for a reference that does not resolve: kin (the more roots in common the better), then the same kind
    near its old place."""

    def order(i: int) -> tuple[int, int, float]:
        away = 0.0
        if place is not None and rows[i].get("centre") is not None:
            away = sum((a - b) ** 2 for a, b in zip(place, rows[i]["centre"], strict=True))
        return (-len(own & row_roots[i]), 0 if not kind or rows[i].get("kind", kind) == kind else 1, away)

    return sorted(range(len(rows)), key=order)[:most]
