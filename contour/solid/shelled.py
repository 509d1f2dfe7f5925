"""Bodies hollowed out: faces removed, the others given a thickness inwards or outwards, one for all or some with their own.

The kernel offsets faces and closes them at the removed ones. Convex rounds that are no larger than the wall would have no inside: the hollow is that of
the body without them, taken from the body with them. Nothing is passed on before places in and around it lie on the right side.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.solid.agreement import sides
from contour.solid.boolean import combine
from contour.solid.edge_blends import edges_of_face
from contour.solid.face_geometry import face_surface
from contour.solid.gate import require_solid
from contour.solid.mass import volume
from contour.solid.mouths import foot, place_on
from contour.solid.shape import NamedShape, edges, faces, listed
from contour.solid.shifted import face_middle
from contour.solid.taken_off import without_faces
from contour.solid.topology.labels import face_label
from contour.solid.walls import in_walls, require_as_wanted

__all__ = ["shelled"]

Array = NDArray[np.float64]


def shelled(
    body: NamedShape,
    removed: Sequence[str],
    thickness: float,
    others: Mapping[str, float],
    *,
    outward: bool,
    prefix: str,
    labels: Mapping[str, str] | None = None,
) -> NamedShape:
    """The body as walls, open where faces are removed. thickness: mm; others: that of single faces, by name.

    Faces of the hollow are called ``prefix.wall[face]``, rims as the removed faces. Raises ContourError (bad-params) for a wall of nothing,
    (body-broken) with the place, or the face, where it cannot be.
    """
    for name, mm in [("", thickness), *others.items()]:
        if mm < 1e-3:
            raise ContourError(
                "bad-params",
                "a wall has no thickness",
                where=Where(param="thickness" if not name else "more"),
                got=f"{mm:g} mm",
                need="at least 0.001 mm",
                remedy="type a thickness",
            )
    walls = {n: others.get(n, thickness) for n in body.names if n not in removed}
    _require_no_thread(body, walls, labels)
    small = [] if outward else _small_rounds(body, walls)
    try:
        if small:
            made = _without_rounds(body, removed, walls, small, prefix)
        else:
            made = _walled(body, removed, walls, outward=outward, prefix=prefix)
        _require_hollow(body, made, outward=outward)
        _require_right(body, made, walls, outward=outward, freed=small)
    except ContourError as error:
        raise _blamed(error, body, walls, labels, outward=outward) from None
    return made


def _require_no_thread(body: NamedShape, walls: Mapping[str, float], labels: Mapping[str, str] | None) -> None:
    """Raises ContourError (body-broken) for a real thread among the walls: nothing runs along its flanks inside, and the kernel looks for it for minutes."""
    for name, face in zip(body.names, faces(body.shape), strict=True):
        if name in walls and ".thread[" in name:
            raise ContourError(
                "body-broken",
                "a thread has no wall behind it",
                where=Where(param="faces", entity=face_label(name, labels), point=triple(place_on(face))),
                got=face_label(name, labels),
                need="plain faces",
                remedy="move the thread's step below this one, or have the thread only noted",
            )


def _small_rounds(body: NamedShape, walls: Mapping[str, float]) -> list[str]:
    """Convex rounds with no inside at this wall."""
    out = []
    for name, face in zip(body.names, faces(body.shape), strict=True):
        s = face_surface(face)
        if name not in walls or s is None or s.outward < 0:
            continue
        size = {"cylinder": s.radius, "sphere": s.radius, "torus": s.minor}.get(s.kind)
        if size is not None and size <= walls[name] + 1e-6 and _blends(body, name, face):
            out.append(name)
    return out


def _blends(body: NamedShape, name: str, face: TopoDS_Face) -> bool:
    """Whether it runs on into others without an edge to be felt, as a round does and a pin does not."""
    return len(edges_of_face(body, name)) < len([e for e in edges(face) if not BRep_Tool.IsClosed_s(e, face)])


def _walled(
    body: NamedShape, removed: Sequence[str], walls: Mapping[str, float], *, outward: bool, prefix: str
) -> NamedShape:
    way = 1.0 if outward else -1.0
    base = max(walls.values(), key=list(walls.values()).count)
    maker = BRepOffset_MakeOffset()
    maker.Initialize(
        body.shape,
        way * base,
        1e-6,
        BRepOffset_Mode.BRepOffset_Skin,
        False,
        False,
        GeomAbs_JoinType.GeomAbs_Intersection,
        False,
        True,
    )
    own = list(zip(body.names, faces(body.shape), strict=True))
    for name, face in own:
        if name in removed:
            maker.AddFace(face)
        elif abs(walls[name] - base) > 1e-9:
            maker.SetOffsetOnFace(face, way * walls[name])
    try:
        maker.MakeThickSolid()
        done = maker.IsDone()
    except Exception:  # the kernel throws whatever it met: what matters is that there is no result
        done = False
    if not done or maker.Shape().IsNull():
        gone = [face for name, face in own if name in removed]
        raise ContourError(
            "body-broken",
            "the kernel cannot make walls here",
            where=Where(param="thickness", point=triple(place_on(gone[0])) if gone else None),
            got="no result from the kernel",
            need="walls that fit into each other",
            remedy="type another thickness, or take small rounds off first",
        )
    shape = maker.Shape()
    require_solid(shape, doing="hollowing", pieces=1)
    return NamedShape(shape, _named(body, removed, shape, maker, prefix))


def _named(
    body: NamedShape, removed: Sequence[str], shape: TopoDS_Shape, maker: BRepOffset_MakeOffset, prefix: str
) -> tuple[str, ...]:
    made = faces(shape)
    out = [""] * len(made)
    for name, face in zip(body.names, faces(body.shape), strict=True):
        kept = [k for k, f in enumerate(made) if f.IsSame(face)]
        for k in kept:
            out[k] = name
        if name in removed:
            continue
        for heir in listed(maker.Generated(face)):
            for k, f in enumerate(made):
                if not out[k] and f.IsSame(heir):
                    out[k] = f"{prefix}.wall[{name}]"
    gone = [(n, f) for n, f in zip(body.names, faces(body.shape), strict=True) if n in removed]
    for k, f in enumerate(made):
        if out[k]:
            continue
        if not gone:
            out[k] = f"{prefix}.rim"
            continue
        # What closes a wall lies in the face that was removed there, or leads from it.
        spots = face_middle(f)
        away, name = min((float(np.linalg.norm(spots - foot(g, spots))), n) for n, g in gone)
        out[k] = name if away < 1e-6 else f"{prefix}.rim[{name}]"
    # Several pieces of a rim are told apart by nothing: a reference to one of them is reported.
    return tuple(n if out.count(n) == 1 else f"{n}?" for n in out)


def _without_rounds(
    body: NamedShape, removed: Sequence[str], walls: Mapping[str, float], small: Sequence[str], prefix: str
) -> NamedShape:
    """The hollow of the body without its small rounds, taken from the body with them."""
    sharp = without_faces(body, small, prefix=prefix)
    if sharp is None:
        raise ContourError(
            "body-broken",
            "small rounds cannot be taken off to make room for the wall",
            got=f"{len(small)} rounds no larger than the wall",
            need="rounds larger than the wall",
            remedy="hollow the body before it is rounded, or type a thinner wall",
        )
    held = {n: walls.get(n, max(walls.values())) for n in sharp.names if n not in removed}
    shell = _walled(sharp, removed, held, outward=False, prefix=prefix)
    hollow = combine(sharp, shell, "subtract", what="the walls")
    return combine(body, hollow, "subtract", what="the hollow")


def _require_hollow(body: NamedShape, made: NamedShape, *, outward: bool) -> None:
    """Raises ContourError (body-broken) where walls fill all there is."""
    whole, left = volume(body.shape), volume(made.shape)
    if not outward and left > whole * (1 - 1e-6):
        raise ContourError(
            "body-broken",
            "the walls leave no hollow",
            where=Where(param="thickness"),
            got="walls that fill the body",
            need="room between them",
            remedy="type a thinner wall",
        )


def _require_right(
    body: NamedShape, made: NamedShape, walls: Mapping[str, float], *, outward: bool, freed: Sequence[str]
) -> None:
    """Raises ContourError (body-broken) at a place where there is material that should not be, or none where there should."""
    kept = [(n, f) for n, f in zip(body.names, faces(body.shape), strict=True) if n in walls]

    def wanted(places: Array) -> Iterator[int]:
        for p, within in zip(places, sides(body.shape, places), strict=True):
            # Outside what was there, or within what is left hollow whole, there is nothing.
            yield 0 if within == 0 else -1 if (within > 0) == outward else in_walls(p, kept, walls, freed=freed)

    remedy = "type another thickness, or take small rounds off first"
    require_as_wanted(made.shape, wanted, what="the walls come out", remedy=remedy)


def _blamed(
    error: ContourError,
    body: NamedShape,
    walls: Mapping[str, float],
    labels: Mapping[str, str] | None,
    *,
    outward: bool,
) -> ContourError:
    """The error with the face that is bent more tightly than its wall is thick, where there is one: that is what walls fail at."""
    tight: list[tuple[float, str, TopoDS_Face]] = []
    for name, face in zip(body.names, faces(body.shape), strict=True):
        s = face_surface(face)
        if name in walls and s is not None and s.kind in ("cylinder", "sphere", "torus"):
            size = s.minor if s.kind == "torus" else s.radius
            # Into the material of what bulges, out of it of what is hollow.
            if (s.outward > 0) != outward and size <= walls[name]:
                tight.append((size, name, face))
    if error.problem.code != "body-broken":
        return error
    if not tight:
        return error.at(param="thickness")
    size, name, face = min(tight, key=lambda row: row[0])
    problem = error.problem
    where = problem.where.model_copy(
        update={"point": problem.where.point or triple(face_middle(face)), "entity": face_label(name, labels)}
    )
    got = f"a radius of {size:g} mm at {face_label(name, labels)}, a wall of {walls[name]:g} mm"
    return ContourError.of(problem.model_copy(update={"where": where, "got": got}))
