"""How far a shape reaches along the axes, exactly, without searching every freeform face of a thread for it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from contour.solid.shape import edges, faces, measured

__all__ = ["bounds"]

Array = NDArray[np.float64]

_PLAIN = {getattr(GeomAbs_SurfaceType, f"GeomAbs_{kind}") for kind in ("Plane", "Cylinder", "Cone", "Sphere", "Torus")}
_GRID = 13
_ROUNDS = 8


@measured
def bounds(shape: TopoDS_Shape) -> Array:
    """(2, 3): lowest and highest corner, mm.

    A freeform face reaches beyond its edges only where its normal runs along an axis. It is searched where that can be and its poles lie outside what the
    rest of the shape spans, by ever finer grids: the kernel's own search takes a third of a second a face, and tells of places that were trimmed away.
    """
    box, free = Bnd_Box(), []
    for edge in edges(shape):
        BRepBndLib.AddOptimal_s(edge, box, False, False)
    for face in faces(shape):
        if BRepAdaptor_Surface(face).GetType() in _PLAIN:
            BRepBndLib.AddOptimal_s(face, box, False, False)
        else:
            free.append(face)
    if box.IsVoid():
        # A ball has no edge that says anything, a vertex by itself neither.
        BRepBndLib.AddOptimal_s(shape, box, False, False)
        return _corners(box)
    for face in free:
        around = Bnd_Box()
        BRepBndLib.Add_s(face, around, False)
        out = _sticks_out(_corners(around), _corners(box))
        if out.any():
            for place in _farthest(face, out):
                box.Add(gp_Pnt(*map(float, place)))
    return _corners(box)


def _corners(box: Bnd_Box) -> Array:
    box.SetGap(0.0)
    low, high = box.CornerMin(), box.CornerMax()
    return np.array([[low.X(), low.Y(), low.Z()], [high.X(), high.Y(), high.Z()]])


def _sticks_out(inner: Array, outer: Array) -> NDArray[np.bool_]:
    """(3,): along which axes."""
    return (inner[0] < outer[0] - 1e-7) | (inner[1] > outer[1] + 1e-7)


def _farthest(face: TopoDS_Face, axes: NDArray[np.bool_]) -> list[Array]:
    """Places (3,) of the face that lie farthest both ways along these axes, mm, where its normal may run along them."""
    surface = BRepAdaptor_Surface(face)
    whole = np.array(
        [[surface.FirstUParameter(), surface.LastUParameter()], [surface.FirstVParameter(), surface.LastVParameter()]]
    )
    _, normals = _grid(surface, whole, _GRID)
    found = []
    for axis in np.flatnonzero(axes & _may_face(normals)):
        for way in (-1.0, 1.0):
            at, place = _climbed(surface, whole, way * np.eye(3)[axis], None)
            if not _on(face, at):
                # Trimmed away: then the farthest of what is left.
                at, place = _climbed(surface, whole, way * np.eye(3)[axis], face)
                if not _on(face, at):
                    continue
            found.append(place)
    return found


def _climbed(surface: BRepAdaptor_Surface, whole: Array, along: Array, only: TopoDS_Face | None) -> tuple[Array, Array]:
    """(parameters, place) of what lies farthest along a direction; `only` of places that this face has kept, if any of the first grid are."""
    over, n = whole, _GRID
    for _ in range(_ROUNDS):
        places, _ = _grid(surface, over, n)
        us, vs = np.linspace(over[:, 0], over[:, 1], n).T
        height = places @ along
        if only is not None:
            kept = np.array([[_on(only, np.array([u, v])) for v in vs] for u in us])
            height = np.where(kept, height, -np.inf)
        i, j = np.unravel_index(int(np.argmax(height)), (n, n))
        at, place = np.array([us[i], vs[j]]), places[i, j]
        step = np.diff(over, axis=1)[:, 0] / (n - 1)
        over = np.clip(np.column_stack([at - step, at + step]), whole[:, :1], whole[:, 1:])
        n = 5
    return at, place


def _on(face: TopoDS_Face, at: Array) -> bool:
    """Whether the place at these parameters belongs to the face."""
    found = BRepClass_FaceClassifier()
    found.Perform(face, gp_Pnt2d(float(at[0]), float(at[1])), 1e-9)
    return found.State() in (TopAbs_State.TopAbs_IN, TopAbs_State.TopAbs_ON)


def _grid(surface: BRepAdaptor_Surface, over: Array, n: int) -> tuple[Array, Array]:
    """Places and unit normals, each (n, n, 3), over a rectangle of parameters (2, 2); a normal is nothing where the surface has none."""
    at, along_u, along_v = gp_Pnt(), gp_Vec(), gp_Vec()
    places, normals = np.empty((n, n, 3)), np.zeros((n, n, 3))
    for i, u in enumerate(np.linspace(over[0, 0], over[0, 1], n)):
        for j, v in enumerate(np.linspace(over[1, 0], over[1, 1], n)):
            surface.D1(float(u), float(v), at, along_u, along_v)
            places[i, j] = (at.X(), at.Y(), at.Z())
            across = along_u.Crossed(along_v)
            size = across.Magnitude()
            if size > 1e-12:
                normals[i, j] = (across.X() / size, across.Y() / size, across.Z() / size)
    return places, normals


def _may_face(normals: Array) -> NDArray[np.bool_]:
    """(3,): whether the normal may run along each axis somewhere: by a grid, as near as it turns from place to place."""
    turns = [np.sum(normals[1:] * normals[:-1], axis=-1), np.sum(normals[:, 1:] * normals[:, :-1], axis=-1)]
    # Between four places it may turn by half a step each way, and bend as much again on the way.
    near = 2.0 * max(float(np.arccos(np.clip(t, -1, 1)).max()) for t in turns)
    return np.abs(normals).max(axis=(0, 1)) > np.cos(min(near, np.pi / 2))
