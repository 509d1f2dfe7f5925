"""Random solids of four to fifteen features, each with the faces that it is made of: what a modeller would put together from plates,
turned bodies, bosses, holes, pockets, grooves, fillets and chamfers, straight and aslant."""

from __future__ import annotations

import math

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from contour.solid.extent import bounds
from contour.solid.mass import volume
from contour.solid.shape import edges, free_edges, is_valid, solids

__all__ = ["random_part"]

_FEATURES = (
    "hole",
    "blind",
    "sunk",
    "boss",
    "cone boss",
    "pocket",
    "slot",
    "groove",
    "dome",
    "dimple",
    "aslant",
    "fillet",
    "fillet",
    "chamfer",
)


def _frame(at: tuple[float, float, float], towards: tuple[float, float, float]) -> gp_Ax2:
    return gp_Ax2(gp_Pnt(*at), gp_Dir(*towards))


def _one(shape: TopoDS_Shape) -> TopoDS_Shape | None:
    for _ in range(3):
        unify = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
        unify.Build()
        shape = unify.Shape()
    found = solids(shape)
    good = len(found) == 1 and is_valid(found[0]) and not free_edges(found[0]) and volume(found[0]) > 0
    return found[0] if good else None


def _prism(corners: list[tuple[float, float]], z: float, height: float) -> TopoDS_Shape:
    outline = BRepBuilderAPI_MakePolygon()
    for x, y in corners:
        outline.Add(gp_Pnt(x, y, z))
    outline.Close()
    face = BRepBuilderAPI_MakeFace(outline.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, height)).Shape()


def _base(rng: np.random.Generator) -> TopoDS_Shape:
    a, b, h = rng.uniform(30, 90), rng.uniform(25, 70), rng.uniform(8, 40)
    kind = rng.integers(4)
    if kind == 0:
        return BRepPrimAPI_MakeBox(gp_Pnt(-a / 2, -b / 2, 0), a, b, h).Shape()
    if kind == 1:
        return BRepPrimAPI_MakeCylinder(_frame((0, 0, 0), (0, 0, 1)), a / 2.5, h).Shape()
    if kind == 2:
        return _prism([(-a / 2, -b / 2), (a / 2, -b / 2), (a / 2, b / 6), (a / 5, b / 2), (-a / 2, b / 2)], 0, h)
    top = a / 2.5 * rng.uniform(0.5, 0.9)
    return BRepPrimAPI_MakeCone(_frame((0, 0, 0), (0, 0, 1)), a / 2.5, top, h).Shape()


def _tool(kind: str, rng: np.random.Generator, low: np.ndarray, high: np.ndarray) -> tuple[str, TopoDS_Shape]:
    """What is added or cut, and which of both."""
    size = high - low
    x, y = (float(rng.uniform(low[k] + 0.15 * size[k], high[k] - 0.15 * size[k])) for k in range(2))
    top, bottom = float(high[2]), float(low[2])
    r = float(rng.uniform(1.5, 0.16 * min(size[0], size[1])))
    deep = float(rng.uniform(0.25, 0.7)) * float(size[2])
    up = (0.0, 0.0, 1.0)
    if kind == "hole":
        return "cut", BRepPrimAPI_MakeCylinder(_frame((x, y, bottom - 5), up), r, size[2] + 10).Shape()
    if kind == "blind":
        drill = BRepPrimAPI_MakeCylinder(_frame((x, y, top - deep), up), r, deep + 5).Shape()
        tip = BRepPrimAPI_MakeCone(_frame((x, y, top - deep), (0, 0, -1)), r, 0, r * math.tan(math.radians(31))).Shape()
        return "cut", BRepAlgoAPI_Fuse(drill, tip).Shape()
    if kind == "sunk":
        drill = BRepPrimAPI_MakeCylinder(_frame((x, y, bottom - 5), up), r, size[2] + 10).Shape()
        sink = BRepPrimAPI_MakeCone(_frame((x, y, top), (0, 0, -1)), 1.8 * r, r, 0.8 * r).Shape()
        return "cut", BRepAlgoAPI_Fuse(drill, sink).Shape()
    if kind == "boss":
        return "add", BRepPrimAPI_MakeCylinder(_frame((x, y, top - 1), up), 1.5 * r, deep + 1).Shape()
    if kind == "cone boss":
        return "add", BRepPrimAPI_MakeCone(_frame((x, y, top - 0.5), up), 1.7 * r, 0.9 * r, deep).Shape()
    if kind == "pocket":
        w, v = 2.5 * r, 1.8 * r
        return "cut", BRepPrimAPI_MakeBox(gp_Pnt(x - w / 2, y - v / 2, top - 0.5 * deep), w, v, deep + 5).Shape()
    if kind == "slot":
        w, floor = 3 * r, top - 0.6 * deep
        middle = BRepPrimAPI_MakeBox(gp_Pnt(x - w / 2, y - 0.6 * r, floor), w, 1.2 * r, deep + 5).Shape()
        for end in (-w / 2, w / 2):
            round_end = BRepPrimAPI_MakeCylinder(_frame((x + end, y, floor), up), 0.6 * r, deep + 5).Shape()
            middle = BRepAlgoAPI_Fuse(middle, round_end).Shape()
        return "cut", middle
    if kind == "groove":
        return "cut", BRepPrimAPI_MakeTorus(_frame((x, y, top), up), 2 * r, 0.4 * r).Shape()
    if kind == "dome":
        return "add", BRepPrimAPI_MakeSphere(_frame((x, y, top - 0.3 * r), up), 1.4 * r).Shape()
    if kind == "dimple":
        return "cut", BRepPrimAPI_MakeSphere(_frame((x, y, top + 0.3 * r), up), 1.3 * r).Shape()
    tilt = (float(rng.uniform(-0.6, 0.6)), float(rng.uniform(-0.6, 0.6)), 1.0)
    at = (x - 40 * tilt[0], y - 40 * tilt[1], (top + bottom) / 2 - 40)
    return "cut", BRepPrimAPI_MakeCylinder(_frame(at, tilt), 0.8 * r, 100).Shape()


def _blended(shape: TopoDS_Shape, kind: str, rng: np.random.Generator) -> TopoDS_Shape:
    listed = edges(shape)
    size = float(rng.uniform(0.6, 3.0))
    make = BRepFilletAPI_MakeFillet(shape) if kind == "fillet" else BRepFilletAPI_MakeChamfer(shape)
    for k in rng.choice(len(listed), size=min(int(rng.integers(1, 4)), len(listed)), replace=False):
        make.Add(size, listed[int(k)])
    make.Build()
    return make.Shape()


def random_part(seed: int) -> TopoDS_Shape:
    """A valid closed solid, mm; the same for the same seed. Features that do not work out are left away, and others tried."""
    rng = np.random.default_rng(seed)
    shape = _one(_base(rng))
    assert shape is not None
    wanted, done = int(rng.integers(4, 16)), 1
    for _ in range(6 * wanted):
        if done >= wanted:
            break
        kind = str(rng.choice(_FEATURES))
        try:
            if kind in ("fillet", "chamfer"):
                made = _one(_blended(shape, kind, rng))
            else:
                low, high = bounds(shape)
                how, tool = _tool(kind, rng, low, high)
                operation = BRepAlgoAPI_Fuse if how == "add" else BRepAlgoAPI_Cut
                made = _one(operation(shape, tool).Shape())
        except Exception:  # the kernel refuses this one
            continue
        if made is not None and abs(volume(made) - volume(shape)) > 1e-3:
            shape, done = made, done + 1
    return shape
