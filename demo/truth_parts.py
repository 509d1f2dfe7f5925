"""Truth models beside the demo's own: a turned part, a casting with draft, a drilled block and a bent foot, so that methods are
tried on faces, radii and angles unlike each other."""

from __future__ import annotations

import math
from collections.abc import Callable

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from contour.solid.mass import volume
from contour.solid.shape import edges, solids

__all__ = ["TRUTH_PARTS", "davit_foot", "hawse_casting", "rudder_spindle", "valve_block"]


def _axis(x: float, y: float, z: float, dx: float = 0.0, dy: float = 0.0, dz: float = 1.0) -> gp_Ax2:
    return gp_Ax2(gp_Pnt(x, y, z), gp_Dir(dx, dy, dz))


def _cylinder(at: gp_Ax2, r: float, h: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCylinder(at, r, h).Shape()


def _cone(at: gp_Ax2, r1: float, r2: float, h: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCone(at, r1, r2, h).Shape()


def _box(x: float, y: float, z: float, dx: float, dy: float, dz: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeBox(gp_Pnt(x, y, z), dx, dy, dz).Shape()


def _one(shape: TopoDS_Shape) -> TopoDS_Shape:
    unify = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
    unify.Build()
    return solids(unify.Shape())[0]


def _plus(*parts: TopoDS_Shape) -> TopoDS_Shape:
    out = parts[0]
    for p in parts[1:]:
        out = BRepAlgoAPI_Fuse(out, p).Shape()
    return _one(out)


def _less(base: TopoDS_Shape, *parts: TopoDS_Shape) -> TopoDS_Shape:
    out = base
    for p in parts:
        out = BRepAlgoAPI_Cut(out, p).Shape()
    return _one(out)


def _places(edge: TopoDS_Edge) -> tuple[float, ...]:
    """Middle of an edge; of a circle its centre and its radius."""
    curve = BRepAdaptor_Curve(edge)
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        c = curve.Circle().Location()
        return c.X(), c.Y(), c.Z(), curve.Circle().Radius()
    m = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    return m.X(), m.Y(), m.Z(), 0.0


def _near(shape: TopoDS_Shape, places: tuple[tuple[float, ...], ...]) -> list[TopoDS_Edge]:
    """Edges by their middle (x, y, z), circles by centre and radius (x, y, z, r)."""
    listed = list(edges(shape))
    found = []
    for p in places:
        gap, best = min((math.dist(_places(e), (*p, 0.0)[:4]), k) for k, e in enumerate(listed))
        if gap > 1e-3:
            raise ValueError(f"no edge at {p}: nearest {gap:.3f} mm away")
        found.append(listed[best])
    return found


def _filleted(shape: TopoDS_Shape, radius: float, *places: tuple[float, ...]) -> TopoDS_Shape:
    tool = BRepFilletAPI_MakeFillet(shape)
    for e in _near(shape, places):
        tool.Add(radius, e)
    return solids(tool.Shape())[0]


def _chamfered(shape: TopoDS_Shape, size: float, *places: tuple[float, ...]) -> TopoDS_Shape:
    tool = BRepFilletAPI_MakeChamfer(shape)
    for e in _near(shape, places):
        tool.Add(size, e)
    return solids(tool.Shape())[0]


def rudder_spindle() -> TopoDS_Shape:
    """Turned: shafts of 24, 36 and 28, a cone of 12 degrees, rounded shoulders of 4 and 2.5, a ball end of 11, a bore of 10."""
    body = _plus(
        _cylinder(_axis(0, 0, 0), 12, 30),
        _cylinder(_axis(0, 0, 30), 18, 22),
        _cone(_axis(0, 0, 52), 14 + 18 * math.tan(math.radians(12)), 14, 18),
        _cylinder(_axis(0, 0, 70), 9, 16),
        BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 92), 11.0).Shape(),
    )
    body = _less(body, _cylinder(_axis(0, 0, -1), 5, 41))
    body = _filleted(body, 4.0, (0, 0, 30, 12.0))
    body = _filleted(body, 2.5, (0, 0, 70, 9.0))
    return _chamfered(body, 2.0, (0, 0, 0, 12.0))


def _drafted(x: float, y: float, z: float, dx: float, dy: float, dz: float, draft_deg: float) -> TopoDS_Shape:
    """A block that narrows upwards by the draft on every side."""
    inset = dz * math.tan(math.radians(draft_deg))
    rings = []
    for height, t in ((z, 0.0), (z + dz, inset)):
        spots = ((x + t, y + t), (x + dx - t, y + t), (x + dx - t, y + dy - t), (x + t, y + dy - t))
        rings.append([gp_Pnt(px, py, height) for px, py in spots])
    low, high = rings
    sewing = BRepBuilderAPI_Sewing(1e-6)
    # Each ring anticlockwise seen from outside, so that the shell faces outwards.
    for ring in (low[::-1], high, *([low[k], low[k - 3], high[k - 3], high[k]] for k in range(4))):
        polygon = BRepBuilderAPI_MakePolygon()
        for spot in ring:
            polygon.Add(spot)
        polygon.Close()
        sewing.Add(BRepBuilderAPI_MakeFace(polygon.Wire()).Face())
    sewing.Perform()
    shell = TopoDS.Shell(sewing.SewedShape())
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    return solid if volume(solid) > 0 else BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell.Reversed())).Solid()


def hawse_casting() -> TopoDS_Shape:
    """Cast: a block with 3 degrees of draft and rounded edges of 5, a tapered boss, a drafted hollow, bores of 15 and 8."""
    body = _drafted(0, 0, 0, 90, 64, 26, 3.0)
    top = 26 * math.tan(math.radians(3))
    low, high = top / 2, 64 - top / 2
    body = _filleted(body, 5.0, *((x, y, 13) for x in (low, 90 - low) for y in (low, high)))
    boss = _cone(_axis(62, 32, 25), 15, 15 - 17 * math.tan(math.radians(3)), 17)
    body = _plus(body, boss)
    body = _filleted(body, 4.0, (62, 32, 26, 15 - math.tan(math.radians(3))))
    hollow = _drafted(12, 14, 8, 26, 36, 30, -4.0)
    return _less(
        body,
        hollow,
        _cylinder(_axis(62, 32, -1), 7.5, 60),
        _cylinder(_axis(78, 10, -1), 4, 60),
        _cylinder(_axis(78, 54, -1), 4, 60),
    )


def valve_block() -> TopoDS_Shape:
    """Milled: a block with a slope of 25 degrees, bores of 6.5, 9, 16 and 22 along two axes, a countersink, a ball seat of 7,
    rounded edges of 3 and 6."""
    body = _box(0, 0, 0, 86, 58, 34)
    cut = BRepBuilderAPI_MakePolygon()
    for px, pz in ((60, 40), (60 + 40 / math.tan(math.radians(65)), 0), (120, 0), (120, 40)):
        cut.Add(gp_Pnt(px, -1, pz))
    cut.Close()
    wedge = _swept(cut.Wire(), 60.0)
    body = _less(body, wedge)
    body = _filleted(body, 6.0, (0, 0, 17), (0, 58, 17))
    body = _filleted(body, 3.0, (0, 29, 34))
    return _less(
        body,
        _cylinder(_axis(20, 16, -1), 3.25, 60),
        _cylinder(_axis(20, 42, -1), 4.5, 60),
        _cone(_axis(20, 42, 30), 4.5, 8.5, 4.001),
        _cylinder(_axis(43, 29, -1), 8, 60),
        _cylinder(_axis(-1, 29, 15, 1, 0, 0), 4.5, 46),
        BRepPrimAPI_MakeSphere(gp_Pnt(60, 44, 35), 7.0).Shape(),
        _box(54, 6, 28, 14, 14, 10),
    )


def _swept(wire: TopoDS_Wire, along_y: float) -> TopoDS_Shape:
    face = BRepBuilderAPI_MakeFace(wire).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, along_y, 0)).Shape()


def davit_foot() -> TopoDS_Shape:
    """Welded: a round flange with a tube leaning by 35 degrees, a bead of 5 around it, four bores, a groove of round section."""
    flange = _cylinder(_axis(0, 0, 0), 44, 10)
    lean = math.radians(35)
    tube = _cylinder(_axis(0, 0, 5, math.sin(lean), 0, math.cos(lean)), 14, 52)
    body = _plus(flange, tube)
    body = _chamfered(body, 1.5, (0, 0, 0, 44.0))
    groove = BRepPrimAPI_MakeTorus(_axis(0, 0, 10), 36.0, 2.5).Shape()
    holes = [
        _cylinder(_axis(30 * math.cos(a), 30 * math.sin(a), -1), 3.5, 20)
        for a in (math.radians(45 + 90 * k) for k in range(4))
    ]
    tilted = _cylinder(_axis(0, 0, 5, math.sin(lean), 0, math.cos(lean)), 9.5, 80)
    down = _cylinder(_axis(0, 0, 5, -math.sin(lean), 0, -math.cos(lean)), 9.5, 30)
    return _less(body, groove, tilted, down, *holes)


TRUTH_PARTS: dict[str, Callable[[], TopoDS_Shape]] = {
    "rudder spindle": rudder_spindle,
    "hawse casting": hawse_casting,
    "valve block": valve_block,
    "davit foot": davit_foot,
}
