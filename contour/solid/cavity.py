"""What a body holds: its openings closed by flat caps or by other bodies, its inside as a solid of its own; and where it leaks if they do not close it.

Caps stand outward on the chosen faces, so that the inside ends in these faces' planes; clefts up to a width can be filled beside them. What then lies within the joined solid are its inner shells.
A leak is looked for in a grid of the air: it lies where the widest way from the inside out is narrowest.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepClass3d import BRepClass3d
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Vec
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Shape
from scipy import ndimage

from contour.geometry.vectors import Vec3, triple
from contour.recipe.problem import ContourError, Where
from contour.solid.agreement import sides
from contour.solid.boolean import combine
from contour.solid.clefts import Cleft, clefts
from contour.solid.face_geometry import face_kind, face_surface
from contour.solid.gate import require_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape, faces, shape_map, solids
from contour.solid.shells import filled, shells
from contour.solid.tessellate import tessellate
from contour.solid.topology.names import together

__all__ = ["Leak", "inner_volume", "leak_of"]

Array = NDArray[np.float64]
_CAP_MM = 1.0
_CELLS = 160  # of the grid along the body's longest side
_AROUND = 16  # cells of air around it: outside there has to be more room than in any leak
_TOUCHING_MM = 1e-6
_NARROW_MM = 1.5  # what is no wider may be a gap that was never meant
_SLIVER = 1e-6  # of the largest: smaller insides are none


@dataclass(frozen=True, slots=True)
class Leak:
    """at: where the widest way out is narrowest, mm · wide: how wide it is there, mm."""

    at: Vec3
    wide: float


def inner_volume(
    body: NamedShape,
    openings: Sequence[str],
    caps: Sequence[NamedShape],
    *,
    prefix: str,
    near: Array | None = None,
    gap_mm: float = 0.0,
) -> NamedShape:
    """The solid that fills a body's inside, up to flat openings and to other bodies that close it. near (3,), mm: which of several insides; none: the largest.
    gap_mm: where it leaks, clefts up to so wide are filled.

    Faces are called as those of the body that they lie on, ``prefix.cap[face]`` at openings, ``prefix.gap<k>[face]`` at filled clefts. Raises ContourError
    (wrong-kind) for an opening that is not flat, (not-found) with the place where it leaks, (body-broken).
    """
    closing = [*(_cap(body, name, prefix) for name in openings), *caps]
    closed, apart = _joined(body, closing)
    chosen = _chosen(closed, apart, near)
    if chosen is None:
        found = clefts([body, *caps], max(gap_mm, _NARROW_MM), prefix=prefix)
        filled, waiting = closed, apart
        if fillings := [c.filling for c in found if c.width <= gap_mm]:
            filled, waiting = _joined(body, [*fillings, *closing])
        chosen = _chosen(filled, waiting, near)
        if chosen is None:
            narrow = _narrow_leak(body, found, closing, near)
            raise _leaking(narrow or leak_of(together([filled, *waiting]), near), closable=narrow is not None)
        closed = filled
    require_solid(chosen, doing="filling the inside", pieces=1)
    place = shape_map(closed.shape, TopAbs_ShapeEnum.TopAbs_FACE)
    return NamedShape(chosen, tuple(closed.names[place.FindIndex(f) - 1] for f in faces(chosen)))


def _joined(body: NamedShape, others: Sequence[NamedShape]) -> tuple[NamedShape, list[NamedShape]]:
    """(the body with all that it hangs together with, the others). Raises ContourError (body-broken)."""
    left = list(others)
    while True:
        waiting = []
        for other in left:
            if _gap(body, other) > _TOUCHING_MM:
                waiting.append(other)
                continue
            try:
                body = combine(body, other, "add", what="what closes it")
            except ContourError as error:
                # A filling may lie wholly in what is there by then.
                if error.problem.code != "unchanged":
                    raise
        if len(waiting) == len(left) or not waiting:
            return body, waiting
        left = waiting


def _gap(a: NamedShape, b: NamedShape) -> float:
    found = BRepExtrema_DistShapeShape(a.shape, b.shape)
    return float(found.Value()) if found.IsDone() else 0.0


def _chosen(closed: NamedShape, apart: Sequence[NamedShape], near: Array | None) -> TopoDS_Shape | None:
    """The largest inside of a solid, or the one that a place lies in; none while something that should close it stands apart."""
    if apart:
        return None
    found = [s for solid in solids(closed.shape) for s in _insides(solid)]
    sizes = [volume(s) for s in found]
    found = [s for s, mm3 in zip(found, sizes, strict=True) if mm3 > _SLIVER * max(sizes)]
    if near is not None:
        found = [s for s in found if int(sides(s, near[None])[0]) >= 0]
    return max(found, key=volume, default=None)


def _narrow_leak(
    body: NamedShape, found: Sequence[Cleft], closing: Sequence[NamedShape], near: Array | None
) -> Leak | None:
    """The narrowest cleft from which on all have to be filled: known to the micrometre, where a grid might overlook it."""
    widths = sorted({c.width for c in found})

    def closes(k: int) -> bool:
        return (
            _chosen(*_joined(body, [*(c.filling for c in found if c.width <= widths[k]), *closing]), near) is not None
        )

    if not widths or not closes(len(widths) - 1):
        return None
    # The more is filled the more is closed.
    k = bisect_left(range(len(widths) - 1), True, key=closes)
    return Leak(next(c for c in found if c.width == widths[k]).at, widths[k])


def _cap(body: NamedShape, name: str, prefix: str) -> NamedShape:
    """A flat lid on a face, outward, over all that its outer border encloses."""
    face = faces(body.shape)[body.names.index(name)]
    surface = face_surface(face)
    if surface is None or surface.kind != "plane":
        raise ContourError(
            "wrong-kind",
            "only flat faces are capped",
            where=Where(param="openings"),
            got=f"a {face_kind(face)} face",
            need="the flat face around an opening",
            remedy="close this one with a body, a primitive for one",
        )
    lid = BRepBuilderAPI_MakeFace(BRep_Tool.Surface_s(face), BRepTools.OuterWire_s(face), True).Face()
    made = BRepPrimAPI_MakePrism(lid, gp_Vec(*map(float, _CAP_MM * surface.along)))
    shape = made.Shape()
    low = made.FirstShape()
    names = tuple(
        f"{prefix}.cap[{name}]" if f.IsSame(low) else f"{prefix}.lid{k}[{name}]" for k, f in enumerate(faces(shape))
    )
    return NamedShape(shape, names)


def _insides(solid: TopoDS_Shape) -> list[TopoDS_Shape]:
    """Inner shells of a solid, each as the solid that fills it."""
    outer = BRepClass3d.OuterShell_s(TopoDS.Solid(solid))
    return [filled(shell) for shell in shells(solid) if not shell.IsSame(outer)]


def _leaking(found: Leak | None, *, closable: bool) -> ContourError:
    remedy = "cap the face there, or close it with a body"
    if found is None:
        remedy = "cap the faces around its openings, close them with bodies, or choose a hollow body"
    elif closable:
        remedy = f"close it with a body, or have gaps up to {np.ceil(round(found.wide * 100, 4)) / 100:g} mm closed"
    return ContourError(
        "not-found",
        "the inside is not closed" if found else "there is no inside",
        where=Where(param="openings", point=found.at if found else None),
        got=f"a way out, {found.wide:.2f} mm wide at its narrowest" if found else "a body without a hollow",
        need="openings that are all closed",
        remedy=remedy,
    )


def leak_of(body: NamedShape, near: Array | None = None) -> Leak | None:
    """Where the air within a body gets out; none where there is none within. near (3,), mm: a place inside; none: the roomiest that walls surround.

    The width is told to two cells of a grid of 160 along the longest side.
    """
    mesh = tessellate(body.shape, chord_mm=0.1, sides=False)
    solid, origin, cell = _grid(mesh.vertices, mesh.triangles)
    air = ~solid
    room = ndimage.distance_transform_edt(air) * cell
    seed = (
        _inside(air, room)
        if near is None
        else tuple(np.clip(np.round((near - origin) / cell), 0, np.array(air.shape) - 1).astype(int))
    )
    if seed is None or not air[seed]:
        return None
    # The widest way: as long as what is at least so roomy still hangs together with the outside.
    low, high = 0.0, float(room[seed])
    for _ in range(12):
        middle = (low + high) / 2
        parts, _count = ndimage.label(room >= middle)
        low, high = (middle, high) if parts[seed] == parts[0, 0, 0] and parts[seed] else (low, middle)
    joined, _count = ndimage.label(room > 0)
    if joined[seed] != joined[0, 0, 0]:
        return None
    way, _count = ndimage.label(room >= low)
    wide, _count = ndimage.label(room > high)
    within, without = wide == wide[seed], wide == wide[0, 0, 0]
    # The shortest way through narrow cells from what hangs together with the inside, where it is any wider, to what does with the outside.
    narrow = (way == way[seed]) & ~within & ~without
    there, back = _steps(within, narrow), _steps(without, narrow)
    both = np.where(narrow, there + back, np.inf)
    best = np.argwhere(both <= both.min())
    at = origin + cell * best.mean(axis=0)
    return Leak(triple(at), 2 * low)


def _steps(start: NDArray[np.bool_], through: NDArray[np.bool_]) -> Array:
    """How many cells it is from a set of cells to others, on ways through allowed ones; infinite where there is none."""
    out = np.full(start.shape, np.inf)
    reached, count = start.copy(), 0
    while True:
        count += 1
        further = ndimage.binary_dilation(reached, mask=reached | through) & ~reached
        if not further.any():
            return out
        out[further] = count
        reached |= further


def _grid(vertices: Array, triangles: NDArray[np.int32]) -> tuple[NDArray[np.bool_], Array, float]:
    """(which cells are material, the middle of the first cell, mm; the size of a cell): by counting triangles over each column."""
    low, high = vertices.min(axis=0), vertices.max(axis=0)
    cell = float((high - low).max()) / _CELLS
    # A hair off, so that columns do not run along walls.
    origin = low - _AROUND * cell + cell * np.array([0.0137, 0.0291, 0.0173])
    shape = tuple(np.ceil((high - origin) / cell + _AROUND).astype(int))
    flips = np.zeros(shape, np.int32)
    for a, b, c in vertices[triangles]:
        i0, j0 = np.ceil((np.minimum(np.minimum(a, b), c)[:2] - origin[:2]) / cell).astype(int)
        i1, j1 = np.floor((np.maximum(np.maximum(a, b), c)[:2] - origin[:2]) / cell).astype(int)
        if i1 < i0 or j1 < j0:
            continue
        x, y = np.meshgrid(
            origin[0] + cell * np.arange(i0, i1 + 1), origin[1] + cell * np.arange(j0, j1 + 1), indexing="ij"
        )
        area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        if abs(area) < 1e-15:
            continue
        v = ((x - a[0]) * (c[1] - a[1]) - (y - a[1]) * (c[0] - a[0])) / area
        w = ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) / area
        hit = (v >= 0) & (w >= 0) & (v + w <= 1)
        z = a[2] + v * (b[2] - a[2]) + w * (c[2] - a[2])
        k = np.clip(np.ceil((z - origin[2]) / cell).astype(int), 0, shape[2] - 1)
        rows, columns = np.nonzero(hit)
        np.add.at(flips, (rows + i0, columns + j0, k[hit]), 1)
    return (np.cumsum(flips, axis=2) % 2).astype(bool), origin, cell


def _inside(air: NDArray[np.bool_], room: Array) -> tuple[int, ...] | None:
    """The roomiest cell of the air that has material on all six sides."""
    surrounded = air.copy()
    for axis in range(3):
        for turned in (False, True):
            solid = np.flip(~air, axis) if turned else ~air
            seen = np.logical_or.accumulate(solid, axis=axis)
            surrounded &= np.flip(seen, axis) if turned else seen
    if not surrounded.any():
        return None
    return tuple(int(i) for i in np.unravel_index(int(np.argmax(np.where(surrounded, room, -1.0))), air.shape))
