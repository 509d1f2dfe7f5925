"""Which face a lasting name means now: by the name, by common ancestors, by neighbours; never by position.

No kernel in here: it works on names alone, so that a reference can be explained without opening the shape.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from contour.recipe.problem import ContourError
from contour.recipe.reference import FaceRef

__all__ = ["candidates", "face_label", "resolve_face", "roots"]


def _split(text: str, sign: str) -> list[str]:
    """Split where no bracket is open."""
    parts, depth, begin = [], 0, 0
    for i, c in enumerate(text):
        depth += (c in "([") - (c in ")]")
        if c == sign and depth == 0:
            parts.append(text[begin:i])
            begin = i + 1
    return [*parts, text[begin:]]


def roots(name: str) -> frozenset[str]:
    """The faces a face descends from, without what told fragments apart.

    >>> sorted(roots("a.end[e1]~(b.side[e2])+c.side[e4]?"))
    ['a.end[e1]', 'c.side[e4]']
    """
    return frozenset(_split(part, "~")[0].rstrip("?") for part in _split(name, "+"))


def _kin(name: str, faces: Sequence[Mapping[str, Any]]) -> list[int]:
    own = roots(name)
    return [i for i, f in enumerate(faces) if own & roots(f["name"])]


def _beside(names: Sequence[str]) -> frozenset[str]:
    return frozenset(r for n in names for r in roots(n))


def resolve_face(ref: FaceRef, faces: Sequence[Mapping[str, Any]]) -> int:
    """Place of the face in `faces` (each with name, kind, beside) that the reference means.

    Raises ContourError (ref-lost) when nothing descends from it, (ref-ambiguous) when several do and their
    neighbours do not settle it.
    """
    exact = [i for i, f in enumerate(faces) if f["name"] == ref.name]
    if len(exact) == 1 and not ref.name.endswith("?"):
        return exact[0]
    kin = [i for i in _kin(ref.name, faces) if not ref.kind or faces[i]["kind"] == ref.kind]
    if not kin:
        raise ContourError(
            "ref-lost",
            f"the {ref.kind or 'picked'} face is no longer there",
            got=face_label(ref.name),
            remedy="choose the face again",
        )
    if len(kin) == 1 and (
        roots(ref.name) <= roots(faces[kin[0]]["name"]) or roots(ref.name) >= roots(faces[kin[0]]["name"])
    ):
        return kin[0]
    around = [_beside(faces[i]["beside"]) for i in kin]
    common = frozenset.intersection(*around)
    own = [a - common for a in around]
    told = _beside(ref.beside) & frozenset().union(*own)
    hits = [i for i, o in zip(kin, own, strict=True) if told and told <= o]
    if len(hits) == 1:
        return hits[0]
    raise ContourError(
        "ref-ambiguous",
        f"the {ref.kind or 'picked'} face is in {len(kin)} pieces now",
        got=face_label(ref.name),
        need="one face",
        remedy="choose which of them is meant",
    )


def candidates(ref: FaceRef, faces: Sequence[Mapping[str, Any]], most: int = 6) -> list[int]:
    """Faces to offer for a reference that does not resolve: kin first, then the same kind near its old place."""
    own = roots(ref.name)

    def order(i: int) -> tuple[int, int, float]:
        f = faces[i]
        away = 0.0
        if ref.place is not None and f.get("centre") is not None:
            away = sum((a - b) ** 2 for a, b in zip(ref.place, f["centre"], strict=True))
        return (0 if own & roots(f["name"]) else 1, 0 if not ref.kind or f["kind"] == ref.kind else 1, away)

    return sorted(range(len(faces)), key=order)[:most]


def face_label(name: str, steps: Mapping[str, str] | None = None) -> str:
    """A name a person can read; `steps` maps the first eight characters of a step's id to its name.

    >>> face_label("ab12cd34.side[e4]+ff00ff00.end[e1]", {"ab12cd34": "Base plate", "ff00ff00": "Boss"})
    'Base plate, side e4 (and 1 more)'
    """
    first, *more = sorted(roots(name))
    step, _, part = first.partition(".")
    role, _, entity = part.partition("[")
    owner = step if steps is None else steps.get(step, "a deleted step")
    text = f"{owner}, {role}" + (f" {entity.rstrip(']')}" if role == "side" else "")
    return text + (f" (and {len(more)} more)" if more else "")
