"""Faces about to move: which neighbours follow a moved face and stay tangent to it, and where every face will be."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from typing import TypeGuard

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.Geom import Geom_Surface
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.geometry.frames import plane_frame
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError
from contour.solid.face_geometry import array, face_surface, normal_at, touch
from contour.solid.shape import edge_faces, edges, faces, owners_of, shape_map

__all__ = ["MOVABLE", "Work", "differs", "follow", "is_round", "neighbourhood_of", "rolling_faces"]

Array = NDArray[np.float64]
MOVABLE = ("plane", "cylinder")  # kinds of faces that can be moved
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
    tangent: list[tuple[int, int]] = field(default_factory=list)  # faces that meet smoothly
    spots: list[Array] = field(default_factory=list)  # of each vertex, as it will be


def is_round(surface: Surface | None) -> TypeGuard[Surface]:
    """Whether it is a cylinder, whose axis may follow and whose radius may change."""
    return surface is not None and surface.kind == "cylinder"


def _is_flat(surface: Surface | None) -> TypeGuard[Surface]:
    return surface is not None and surface.kind == "plane"


def tangent_pairs(work: Work) -> list[tuple[int, int]]:
    """Faces that meet smoothly."""
    found = set()
    for edge, beside in zip(work.edges, work.beside, strict=True):
        if len(beside) != 2 or BRep_Tool.Degenerated_s(edge):
            continue
        curve = BRepAdaptor_Curve(edge)
        p = array(curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2))
        a, b = (normal_at(work.faces[k], p) for k in beside)
        if (
            a is not None
            and b is not None
            and abs(float(a @ b)) > _TANGENT_COS
            and touch(*(work.old[k] for k in beside))
        ):
            found.add((min(beside), max(beside)))
    return sorted(found)


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


def follow(work: Work, moved: set[int]) -> None:
    """Shift the axes of rounds so that everything that was tangent is tangent again."""
    work.tangent = pairs = work.tangent or tangent_pairs(work)
    reached = set(moved)
    while True:
        more = {k for a, b in pairs for k in (a, b) if (a in reached or b in reached) and is_round(work.old[k])}
        if more <= reached:
            break
        reached |= more
    pairs = [(a, b) for a, b in pairs if a in reached or b in reached]
    if not pairs:
        return
    flat = [(a, b) for a, b in pairs if _is_flat(work.old[a]) and _is_flat(work.old[b])]
    if any(k in moved for pair in flat for k in pair):
        raise hold("two planes that are one")
    pairs = [pair for pair in pairs if pair not in flat]
    for a, b in pairs:
        if not all(is_round(work.old[k]) or _is_flat(work.old[k]) for k in (a, b)):
            raise hold("it is neither a plane nor a cylinder")
    free = sorted({k for pair in pairs for k in pair if is_round(work.old[k])})
    if not free:
        return
    shift = {k: np.zeros(3) for k in free}

    def misfit() -> Array:
        out = []
        for a, b in pairs:
            if _is_flat(work.old[a]):
                a, b = b, a
            was_a, was_b, now_a, now_b = work.old[a], work.old[b], work.new[a], work.new[b]
            assert was_a and was_b and now_a and now_b
            at = was_a.at + shift[a]
            if _is_flat(was_b):
                side = math.copysign(1.0, float((was_a.at - was_b.at) @ was_b.along))
                out.append(float((at - now_b.at) @ now_b.along) - side * now_a.radius)
            else:

                def apart(p: Array, q: Array, axis: Array) -> float:
                    d = p - q
                    return float(np.linalg.norm(d - (d @ axis) * axis))

                was = apart(was_a.at, was_b.at, was_a.along)
                outside = abs(was - was_a.radius - was_b.radius) < abs(was - abs(was_a.radius - was_b.radius))
                want = now_a.radius + now_b.radius if outside else abs(now_a.radius - now_b.radius)
                out.append(apart(at, was_b.at + shift[b], was_a.along) - want)
        return np.array(out)

    frames = {k: plane_frame(g.at, g.along) for k in free if (g := work.old[k])}
    columns = [(k, u) for k in free for u in (frames[k].u, frames[k].v)]
    for _ in range(30):
        r = misfit()
        if np.abs(r).max() < 1e-10:
            break
        jac = np.zeros((len(r), len(columns)))
        for c, (k, u) in enumerate(columns):
            shift[k] = shift[k] + 1e-6 * u
            jac[:, c] = (misfit() - r) / 1e-6
            shift[k] = shift[k] - 1e-6 * u
        step = np.linalg.lstsq(jac, -r, rcond=1e-8)[0]
        for c, (k, u) in enumerate(columns):
            shift[k] = shift[k] + step[c] * u
    if np.abs(misfit()).max() > 1e-6:
        raise hold("they cannot all stay tangent")
    for k in free:
        g = work.new[k]
        assert g
        work.new[k] = replace(g, origin=triple(g.at + shift[k]))


def differs(a: Surface | None, b: Surface | None) -> bool:
    """Whether two faces lie on different surfaces, by more than the kernel can see."""
    if a is None or b is None:
        return a is not b
    return bool(np.abs(a.at - b.at).max() > 1e-12 or abs(a.radius - b.radius) > 1e-12)


def rolling_faces(shape: TopoDS_Shape) -> dict[int, Array]:
    """Cylinders that meet a neighbour smoothly: only their radius is their own. With each, how far its axis moves per
    millimetre of radius (3,) to stay tangent; those that cannot change alone are left out."""
    own = faces(shape)
    old = [face_surface(f) for f in own]
    neighbourhood = neighbourhood_of(shape, own)
    pairs = tangent_pairs(Work(shape, own, old, list(old), [], *neighbourhood))
    out = {}
    for k in {k for pair in pairs for k in pair}:
        g, new = old[k], list(old)
        if not is_round(g):
            continue
        new[k] = replace(g, radius=g.radius + 0.01)
        work = Work(shape, own, old, new, [], *neighbourhood, tangent=pairs)
        try:
            follow(work, {k})
        except ContourError:
            continue
        now = work.new[k]
        assert now
        out[k] = (now.at - g.at) / 0.01
    return out
