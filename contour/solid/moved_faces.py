"""Faces about to move: which neighbours follow a moved face and stay tangent to it, and where every face will be."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_Surface
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.geometry.frames import plane_frame
from contour.geometry.surfaces import Surface, offset
from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError
from contour.solid.contacts import FOLLOWS, Contact, ball, contact_of, one_surface
from contour.solid.face_geometry import face_surface, middle_of, normal_at, touch
from contour.solid.shape import edge_faces, edges, faces, owners_of, shape_map

__all__ = ["MOVABLE", "Work", "differs", "move", "moves_as_one", "neighbourhood_of", "rolling_faces"]

Array = NDArray[np.float64]
MOVABLE = ("plane", "cylinder", "cone", "sphere", "torus")  # kinds of faces that can be moved
Freedom = Callable[[Surface, float], Surface]
_ROUNDS, _STEP_MM, _ASTRAY_MM = 30, 1e-6, 1e5
_THIN_MM = 1e-3  # rounds of a smaller radius are none
_TANGENT_COS = math.cos(math.radians(1.0))


@dataclass(slots=True)
class Work:
    """A private copy of the shape with what each part of it is to become."""

    shape: TopoDS_Shape
    faces: list[TopoDS_Face]
    old: list[Surface | None]  # none for a freeform face
    new: list[Surface | None]
    surfaces: list[Geom_Surface]  # as they will be
    edges: list[TopoDS_Edge]
    beside: list[list[int]]  # faces of each edge
    seam: list[bool]
    touching: list[tuple[int, int, Contact | None]] = field(default_factory=list)  # faces that meet smoothly, and how
    spots: list[Array] = field(default_factory=list)  # of each vertex, as it will be


def _touching(work: Work) -> list[tuple[int, int, Contact | None]]:
    """Faces that meet smoothly, and how they touch where that can be followed."""
    found: dict[tuple[int, int], Contact | None] = {}
    for edge, beside in zip(work.edges, work.beside, strict=True):
        if len(beside) != 2 or BRep_Tool.Degenerated_s(edge):
            continue
        i, j = sorted(beside)
        p = np.array(middle_of(edge))
        a, b = (normal_at(work.faces[k], p) for k in (i, j))
        if (
            a is not None
            and b is not None
            and abs(float(a @ b)) > _TANGENT_COS
            and touch(work.old[i], work.old[j])
            and (i, j) not in found
        ):
            found[i, j] = contact_of(i, j, work.old, p)
    return [(i, j, contact) for (i, j), contact in sorted(found.items())]


def neighbourhood_of(
    shape: TopoDS_Shape, own: list[TopoDS_Face]
) -> tuple[list[TopoDS_Edge], list[list[int]], list[bool]]:
    """The edges of a shape, the faces (by number) at each, and which edges are the seam of one of them."""
    edge_list = edges(shape)
    owners = edge_faces(shape)
    face_map = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    beside = [[face_map.FindIndex(f) - 1 for f in owners_of(owners, owners.FindIndex(e))] for e in edge_list]
    seam = [any(BRep_Tool.IsClosed_s(e, own[k]) for k in b) for e, b in zip(edge_list, beside, strict=True)]
    return edge_list, beside, seam


def hold(where: str) -> ContourError:
    """The error of a face that cannot move because a tangent one stays; where: which one, in words."""
    return ContourError(
        "body-broken",
        f"a face tangent to this one holds it back ({where})",
        got=where,
        need="tangent faces that go along",
        remedy="seat the tangent faces as well, or leave this one out",
    )


def move(work: Work, moves: Mapping[int, float]) -> None:
    """Faces by signed distances, mm, + out of the material, into ``work.new``; and the rounds shifted so that everything that touched smoothly
    does so again: the axes of cylinders, middles and middle circles of tori, middles and radii of spheres.

    Raises ContourError (wrong-kind) for a freeform face, (body-broken) where one that cannot go along is in the way.
    """
    work.touching = work.touching or _touching(work)
    moves = _carried(work, moves)
    moved = set(moves)
    for k, d in moves.items():
        work.new[k] = _offset(work.old[k], d)
    touching = [(a, b, c) for a, b, c in work.touching if not one_surface(work.old[a], work.old[b])]
    reached = set(moved)
    while True:
        more = {k for a, b, _ in touching for k in (a, b) if (a in reached or b in reached) and _follows(work.old[k])}
        if more <= reached:
            break
        reached |= more
    contacts = []
    for a, b, contact in touching:
        if a not in reached and b not in reached:
            continue
        if contact is None:
            raise hold("it is neither flat nor a round that rolls along")
        contacts.append(contact)
    columns = [
        (k, column) for k in sorted({k for c in contacts for k in (c.a, c.b)}) for column in _freedoms(work, k, moved)
    ]
    if columns:
        _settle(work, contacts, columns)


def _carried(work: Work, moves: Mapping[int, float]) -> dict[int, float]:
    """The moves with those of the faces that are one with a moved one: they go along."""
    alike = _alike(work)
    out = dict(moves)
    while more := {b: out[a] for pair in alike for a, b in (pair, pair[::-1]) if a in out and b not in out}:
        out |= more
    if any(abs(out[a] - out[b]) > 1e-9 for a, b in alike if a in out):
        raise hold("both are one surface, or rounds of one radius")
    return out


def _alike(work: Work) -> list[tuple[int, int]]:
    """Faces that lie on one surface and meet, and rounds of one radius that run on into each other: a fillet around a corner."""
    return [
        (a, b)
        for a, b, contact in work.touching
        if one_surface(work.old[a], work.old[b]) or (contact is not None and contact.way == "runs on")
    ]


def moves_as_one(shape: TopoDS_Shape, moves: Mapping[int, float], weights: Mapping[int, float]) -> dict[int, float]:
    """The same moves with one for all faces that are one: the mean of theirs, weighted."""
    own = faces(shape)
    old = [face_surface(f) for f in own]
    work = Work(shape, own, old, list(old), [], *neighbourhood_of(shape, own))
    work.touching = _touching(work)
    group = {k: {k} for k in moves}
    for a, b in _alike(work):
        if a in group and b in group and group[a] is not group[b]:
            group[a] |= group[b]
            for k in group[b]:
                group[k] = group[a]
    out = {}
    for k, mates in group.items():
        share = {m: max(weights.get(m, 1.0), 1e-9) for m in mates}
        out[k] = sum(moves[m] * w for m, w in share.items()) / sum(share.values())
    return out


def _offset(surface: Surface | None, d: float) -> Surface:
    if surface is None or surface.kind not in MOVABLE:
        raise ContourError(
            "wrong-kind",
            "a freeform face cannot be moved",
            got=surface.kind if surface else "freeform",
            need="a plane, a cylinder, a cone, a sphere or a torus",
            remedy="leave this face out",
        )
    try:
        out = offset(surface, d)
    except ValueError:
        out = None
    if out is None or (out.kind not in ("plane", "cone") and ball(out) < _THIN_MM):
        raise ContourError(
            "body-broken",
            f"the {surface.kind} would vanish",
            got=f"{d:+.3f} mm",
            need="some radius left",
            remedy="move it less",
        )
    return out


def _follows(surface: Surface | None) -> bool:
    return surface is not None and surface.kind in FOLLOWS


def _freedoms(work: Work, k: int, moved: set[int]) -> list[Freedom]:
    """Ways in which a round may go along, each by one millimetre."""
    own = work.old[k]
    if own is None or not _follows(own):
        return []
    frame = plane_frame(own.at, own.along)

    def shift(way: Array) -> Freedom:
        return lambda s, by: replace(s, origin=triple(s.at + by * way))

    ways = [shift(frame.u), shift(frame.v)]
    if own.kind != "cylinder":
        ways.append(shift(own.along))
    if own.kind == "torus" or (own.kind == "sphere" and k not in moved):
        ways.append(lambda s, by: replace(s, radius=s.radius + by))
    return ways


def _settle(work: Work, contacts: list[Contact], columns: list[tuple[int, Freedom]]) -> None:
    """Newton's method on all contacts at once, by the smallest steps that do it."""
    now = list(work.new)
    begins = np.cumsum([0, *(len(c.misfit(work.old)) for c in contacts)])
    of = {k: [n for n, c in enumerate(contacts) if k in (c.a, c.b)] for k, _ in columns}
    r = np.zeros(begins[-1])
    for _ in range(_ROUNDS):
        r = np.concatenate([c.misfit(now) for c in contacts])
        if not np.abs(r).max() < _ASTRAY_MM or np.abs(r).max() < 1e-10:
            break
        jac = np.zeros((len(r), len(columns)))
        for column, (k, freedom) in enumerate(columns):
            was = now[k]
            assert was is not None
            now[k] = freedom(was, _STEP_MM)
            for n in of[k]:
                rows = slice(begins[n], begins[n + 1])
                jac[rows, column] = (contacts[n].misfit(now) - r[rows]) / _STEP_MM
            now[k] = was
        step = np.linalg.lstsq(jac, -r, rcond=1e-8)[0]
        for (k, freedom), by in zip(columns, step, strict=True):
            was = now[k]
            assert was is not None
            now[k] = freedom(was, float(by))
    if not np.abs(r).max() < 1e-6:
        raise hold("they cannot all go on touching")
    if any(s is not None and s.kind in FOLLOWS and min(s.radius, ball(s)) <= 0 for s in now):
        raise hold("nothing would be left of it")
    work.new = now


def differs(a: Surface | None, b: Surface | None) -> bool:
    """Whether two faces lie on different surfaces, by more than the kernel can see."""
    if a is None or b is None:
        return a is not b
    return bool(max(*np.abs(a.at - b.at), abs(a.radius - b.radius), abs(a.minor - b.minor)) > 1e-12)


def rolling_faces(shape: TopoDS_Shape) -> dict[int, Array]:
    """Cylinders that meet a neighbour smoothly: only their radius is their own. With each, how far its axis moves per
    millimetre of radius (3,) to stay tangent; those that cannot change alone are left out."""
    own = faces(shape)
    old = [face_surface(f) for f in own]
    neighbourhood = neighbourhood_of(shape, own)
    touching = _touching(Work(shape, own, old, list(old), [], *neighbourhood))
    out = {}
    for k in {k for a, b, _ in touching for k in (a, b)}:
        g = old[k]
        if g is None or g.kind != "cylinder":
            continue
        work = Work(shape, own, old, list(old), [], *neighbourhood, touching=touching)
        try:
            move(work, {k: 0.01 * g.outward})
        except ContourError:
            continue
        now = work.new[k]
        assert now
        out[k] = (now.at - g.at) / 0.01
    return out
