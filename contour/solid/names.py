"""Names of faces and edges that last: from the step that made them, through booleans by the kernel's history."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.recipe.problem import ContourError
from contour.solid.shape import NamedShape, edge_faces, edges, faces

__all__ = ["edge_names", "inherit_names", "names_by_face"]


def names_by_face(shape: TopoDS_Shape, given: Iterable[tuple[TopoDS_Shape, str]]) -> tuple[str, ...]:
    """Names in the order of ``faces(shape)`` from (face, name) pairs; every face must have one."""
    pairs = list(given)
    out = []
    for face in faces(shape):
        name = next((n for f, n in pairs if f.IsSame(face)), None)
        if name is None:
            raise ContourError("body-broken", "a face of the new body came from nowhere", need="a name for every face")
        out.append(name)
    return tuple(out)


def inherit_names(passes: Sequence[tuple[Any, TopoDS_Shape]], parents: Sequence[NamedShape]) -> NamedShape:
    """Names after operations in a row, each given with its result and telling its history.

    A face that came from several keeps all names, joined by ``+``. Fragments of one face are told apart at the very
    end, by the neighbours that only they have; where that fails they get the same name with ``?`` and stay ambiguous
    on purpose: a reference to one of them is reported, never settled by position.
    """
    known: list[tuple[TopoDS_Face, frozenset[str]]] = [
        (face, frozenset([name]))
        for parent in parents
        for face, name in zip(faces(parent.shape), parent.names, strict=True)
    ]
    result = parents[0].shape
    for operation, result in passes:
        gone = operation.IsRemoved if hasattr(operation, "IsRemoved") else operation.IsDeleted
        result_faces = faces(result)
        sources: list[set[str]] = [set() for _ in result_faces]
        for face, names in known:
            if gone(face):
                continue
            heirs = list(operation.Modified(face)) or [face]
            for i, candidate in enumerate(result_faces):
                if any(candidate.IsSame(h) for h in heirs):
                    sources[i] |= names
        known = [(f, frozenset(s)) for f, s in zip(result_faces, sources, strict=True)]
    base = ["+".join(sorted(names)) for _, names in known]
    if not all(base):
        raise ContourError("body-broken", "a face of the result came from nowhere", need="a history for every face")
    return NamedShape(result, tuple(_told_apart(result, [f for f, _ in known], base)))


def _told_apart(shape: TopoDS_Shape, shape_faces: list[TopoDS_Face], base: list[str]) -> list[str]:
    groups: dict[str, list[int]] = {}
    for i, name in enumerate(base):
        groups.setdefault(name, []).append(i)
    if all(len(g) == 1 for g in groups.values()):
        return base
    around = edge_faces(shape)
    out = list(base)
    for name, group in groups.items():
        if len(group) == 1:
            continue
        beside = []
        for i in group:
            names = set()
            for edge in edges(shape_faces[i]):
                for other in around.FindFromKey(edge):
                    k = next(k for k, f in enumerate(shape_faces) if f.IsSame(other))
                    if k != i:
                        names.add(base[k])
            beside.append(names)
        common = set.intersection(*beside)
        own = ["&".join(sorted(b - common)) for b in beside]
        for i, key in zip(group, own, strict=True):
            out[i] = f"{name}~({key})" if own.count(key) == 1 else f"{name}~({key})?"
    return out


def edge_names(named: NamedShape) -> list[tuple[str, TopoDS_Edge]]:
    """Every edge as the sorted pair of its faces' names; edges with the same pair share the name (ambiguous)."""
    listed = faces(named.shape)
    around = edge_faces(named.shape)
    out = []
    for i in range(1, around.Size() + 1):
        pair = sorted(
            {named.names[next(k for k, f in enumerate(listed) if f.IsSame(o))] for o in around.FindFromIndex(i)}
        )
        out.append(("|".join(pair), TopoDS.Edge(around.FindKey(i))))
    return out
