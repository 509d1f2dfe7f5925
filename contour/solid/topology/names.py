"""Names of faces: given by the step that made them, inherited through whatever happens to the shape later."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence

from OCP.BRep import BRep_Builder
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Shape

from contour.recipe.problem import ContourError, Where
from contour.solid.face_geometry import middle_of
from contour.solid.shape import NamedShape, edge_faces, edges, faces, owners_of, shape_map
from contour.solid.topology.edges import corner_names, edge_names
from contour.solid.topology.history import History

__all__ = ["beside_names", "inherit_names", "named_together", "names_by_face", "together"]

_FACE, _EDGE, _VERTEX = (TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_VERTEX)
_LONGEST = 600  # characters of what a face came from: beyond that a digest of it, which is as good to be told by


def names_by_face(shape: TopoDS_Shape, given: Iterable[tuple[TopoDS_Shape, str]]) -> tuple[str, ...]:
    """Names in the order of ``faces(shape)`` from (face, name) pairs; every face must have one.

    Raises ContourError (body-broken) for a face without a name.
    """
    lookup = shape_map(shape, _FACE)
    out = [""] * lookup.Size()
    for face, name in given:
        at = lookup.FindIndex(face)
        if at and not out[at - 1]:
            out[at - 1] = name
    _require_names(shape, out)
    return tuple(out)


def named_together(shapes: Sequence[TopoDS_Shape], given: Iterable[tuple[TopoDS_Shape, str]]) -> NamedShape:
    """Solids as one shape, named as :func:`names_by_face` does."""
    if len(shapes) == 1:
        return NamedShape(shapes[0], names_by_face(shapes[0], given))
    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    return NamedShape(whole, names_by_face(whole, given))


def together(parts: Sequence[NamedShape]) -> NamedShape:
    """Solids apart from each other as one shape; each keeps its names."""
    given = [(f, n) for p in parts for f, n in zip(faces(p.shape), p.names, strict=True)]
    return named_together([p.shape for p in parts], given)


def _require_names(shape: TopoDS_Shape, names: Sequence[str]) -> None:
    lost = [f for f, n in zip(faces(shape), names, strict=True) if not n]
    if lost:
        raise ContourError(
            "body-broken",
            "a face of the new body came from nowhere",
            where=Where(point=middle_of(edges(lost[0])[0])),
            got=f"{len(lost)} of {len(names)} faces without a history",
            need="a history for every face",
            remedy="change a value a little, and report it: this is a fault of the application",
        )


def _made_from(made: str, source: str) -> str:
    if len(source) > _LONGEST:
        source = "#" + hashlib.sha256(source.encode()).hexdigest()[:16]
    return f"{made}[{source}]"


def inherit_names(
    passes: Sequence[tuple[History, TopoDS_Shape]], parents: Sequence[NamedShape], *, made: str = ""
) -> NamedShape:
    """Names after operations in a row, each given with its result and telling its history.

    A face that came from several keeps all names, joined by ``+``. One that came out of an edge or a corner is called
    ``made[edge]``, and one that nothing tells of, where `made` is given, `made` alone. Fragments of one face are told
    apart at the very end, by the neighbours that only they have; where that fails they get the same name with ``?`` and
    stay ambiguous on purpose: a reference to one of them is reported, never settled by position.
    Raises ContourError (body-broken) for a face that came from nowhere.
    """
    shapes = [p.shape for p in parents]
    known = [(f, {n}) for p in parents for f, n in zip(faces(p.shape), p.names, strict=True)]
    for history, result in passes:
        lookup = shape_map(result, _FACE)
        sources: list[set[str]] = [set() for _ in range(lookup.Size())]
        for face, names in known:
            for heir in history.modified(face):
                at = lookup.FindIndex(heir)
                if at:
                    sources[at - 1] |= names
        if made:
            for shape in shapes:
                named = NamedShape(shape, tuple("+".join(sorted(n)) for _, n in _of(shape, known)))
                for at, name in _generated(history, named, lookup):
                    sources[at] = sources[at] or {_made_from(made, name)}
            sources = [s or {made} for s in sources]
        shapes = [result]
        known = list(zip(faces(result), sources, strict=True))
    base = ["+".join(sorted(names)) for _, names in known]
    _require_names(shapes[0], base)
    return NamedShape(shapes[0], tuple(_told_apart(shapes[0], base)))


def _of(shape: TopoDS_Shape, known: Sequence[tuple[TopoDS_Shape, set[str]]]) -> list[tuple[TopoDS_Shape, set[str]]]:
    lookup = shape_map(shape, _FACE)
    return [(f, n) for f, n in known if lookup.Contains(f)]


def _generated(history: History, named: NamedShape, lookup: object) -> list[tuple[int, str]]:
    """(place of the face in the result, name of the edge or corner it came out of); edges first."""
    out = []
    for kind, names in ((_EDGE, edge_names(named)), (_VERTEX, corner_names(named))):
        sources = shape_map(named.shape, kind)
        for i, name in enumerate(names, 1):
            for face in history.generated(sources.FindKey(i)) if name else []:
                at = lookup.FindIndex(face) if face.ShapeType() == _FACE else 0  # type: ignore[attr-defined]
                if at:
                    out.append((at - 1, name))
    return out


def beside_names(shape: TopoDS_Shape, names: Sequence[str]) -> list[set[str]]:
    """Names of each face's neighbours across its edges."""
    lookup = shape_map(shape, _FACE)
    around = edge_faces(shape)
    out: list[set[str]] = [set() for _ in names]
    for i in range(1, around.Size() + 1):
        owners = [lookup.FindIndex(TopoDS.Face(f)) - 1 for f in owners_of(around, i)]
        for k in owners:
            out[k] |= {names[o] for o in owners if o != k}
    return out


def _told_apart(shape: TopoDS_Shape, base: list[str]) -> list[str]:
    groups: dict[str, list[int]] = {}
    for i, name in enumerate(base):
        groups.setdefault(name, []).append(i)
    if all(len(g) == 1 for g in groups.values()):
        return base
    around = beside_names(shape, base)
    out = list(base)
    for name, group in groups.items():
        if len(group) == 1:
            continue
        common = set.intersection(*(around[i] for i in group))
        own = ["&".join(sorted(around[i] - common)) for i in group]
        for i, key in zip(group, own, strict=True):
            out[i] = f"{name}~({key})" if own.count(key) == 1 else f"{name}~({key})?"
    return out
