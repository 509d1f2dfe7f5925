"""Numbers for faces of solids from files, which nothing has named: a new version of a file keeps those of what did not change.

Matched by what stays when a file is exported again, in passes from the surest on: the very same face where it was; then the same
surface and size, moved; then the same kind of face among the same neighbours, resized. Whatever could be two faces is none.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence
from typing import Any

__all__ = ["carried_numbers"]

Row = Mapping[str, Any]  # as contour.solid.facts.face_facts gives it: kind, area, centre, axis, diameter, beside
_SHARED = 0.5  # of neighbours known on both sides that have to be the same


def _where(row: Row) -> Hashable:
    return (row["kind"], *(round(x, 3) for x in row["centre"]), round(row["area"], 2))


def _size(row: Row) -> Hashable:
    return (
        row["kind"],
        round(row.get("diameter") or 0.0, 3),
        row.get("inside"),
        round(row["area"], 2),
        len(row["beside"]),
    )


def _place(row: Row) -> Hashable:
    return (row["kind"], *(round(x, 2) for x in row["centre"]))


def _surface(row: Row) -> Hashable:
    """Where the surface lies, however its borders run."""
    if row["kind"] == "plane":
        n = row["axis"]
        return ("plane", *(round(x, 5) for x in n), round(sum(a * b for a, b in zip(n, row["centre"], strict=True)), 3))
    if row["kind"] == "cylinder":
        return (
            "cylinder",
            *(round(abs(x), 5) for x in row["axis"]),
            round(row["diameter"], 3),
            *(round(x, 2) for x in row["origin"]),
        )
    return (row["kind"], *(round(x, 2) for x in row["centre"]))


def _unique(rows: Sequence[Row], left: Sequence[int], by: Callable[[Row], Hashable]) -> dict[Hashable, int]:
    groups: dict[Hashable, list[int]] = {}
    for i in left:
        groups.setdefault(by(rows[i]), []).append(i)
    return {k: g[0] for k, g in groups.items() if len(g) == 1}


def carried_numbers(old: Sequence[Row], numbers: Sequence[int], new: Sequence[Row]) -> list[int]:
    """Numbers for the faces of a new version from those of the one before; what is new goes on after the highest.

    Rows are of all bodies of a file, one after the other, `beside` by place in them.
    """
    found: dict[int, int] = {}  # place in new -> place in old
    taken: set[int] = set()

    def take(pairs: Sequence[tuple[int, int]]) -> None:
        for i, k in pairs:
            if i not in found and k not in taken:
                found[i] = k
                taken.add(k)

    for by in (_where, _surface, _place, _size):
        free_old = _unique(old, [k for k in range(len(old)) if k not in taken], by)
        free_new = _unique(new, [i for i in range(len(new)) if i not in found], by)
        take([(i, free_old[key]) for key, i in free_new.items() if key in free_old])
    while pairs := _by_neighbours(old, new, found, taken):
        take(pairs)
    top = max(numbers, default=-1)
    out = []
    for i in range(len(new)):
        if i in found:
            out.append(numbers[found[i]])
        else:
            top += 1
            out.append(top)
    return out


def _by_neighbours(
    old: Sequence[Row], new: Sequence[Row], found: Mapping[int, int], taken: set[int]
) -> list[tuple[int, int]]:
    """Faces whose known neighbours are mostly those of one face of the same kind, and of no other as much."""
    out = []
    for i, row in enumerate(new):
        around = {found[b] for b in row["beside"] if b in found}
        if i in found or not around:
            continue
        score = []
        for k, other in enumerate(old):
            if k in taken or other["kind"] != row["kind"]:
                continue
            known = {b for b in other["beside"] if b in taken}
            score.append((len(around & known) / max(len(around | known), 1), k))
        score.sort(reverse=True)
        if score and score[0][0] >= _SHARED and (len(score) == 1 or score[1][0] < score[0][0]):
            out.append((i, score[0][1]))
    wanted = [k for _, k in out]
    return [(i, k) for i, k in out if wanted.count(k) == 1]
