"""Threads on round faces, as what they are: the face's own place is taken by crests, flanks and roots that wind about its axis.

Nothing is cut or joined. A thread's section square to its axis is the same at every height, only turned: rows of such sections are skinned, end on circles
where the thread fades out, and are sewn to the faces around. Profile: ISO 68-1 (60 degrees; flats of P/8 at the major, P/4 at the minor diameter).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Cylinder, gp_Pln
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Wire

from contour.geometry.curves import Oval
from contour.geometry.surfaces import Surface
from contour.geometry.vectors import square_to
from contour.recipe.problem import ContourError, Where
from contour.solid.boolean import common_volume
from contour.solid.face_geometry import array, direction, edge_curve, face_surface, pnt
from contour.solid.mass import volume
from contour.solid.primitives import turned
from contour.solid.shape import NamedShape, edges, faces
from contour.solid.skin import Wall, closed_by, wall_border, wall_face

__all__ = ["DEPTH", "Fade", "Ridge", "Stretch", "stretch_of", "threaded"]

Array = NDArray[np.float64]
Fade = Literal["none", "in", "out"]
DEPTH = 5 / 8 * math.sqrt(3) / 2  # of the basic profile, in pitches
_SLOPE = math.tan(math.radians(30))
_SECTIONS = 25  # of a turn: a helix is met to 4e-6 of its radius
_ALONG_ARC, _ALONG_FLANK = 9, 13  # places along a crest or root, and along a flank
_STEP = 0.16  # radians between them at most: where the thread fades out they lie on a circle, which has to be met as closely as it is sewn
_LARGE_MM = 20.0  # above this radius there are more of each, for the same reason
_SAME = 1e-6  # mm
_AGREES = 2e-4  # of the volume that a thread takes or adds


@dataclass(frozen=True, slots=True)
class Ridge:
    """A thread's form, mm. outer, inner: radii of its basic profile · pitch: from crest to crest · starts · left: hand."""

    outer: float
    inner: float
    pitch: float
    starts: int = 1
    left: bool = False

    @property
    def lead(self) -> float:
        return self.pitch * self.starts


@dataclass(frozen=True, slots=True, eq=False)
class Stretch:
    """The round face that a thread lies on. at, axis (3,): on its axis, and along it · radius · low, high: where it ends along the axis from `at`, mm · inside:
    it is a hole's · free: whether the flat face at each end looks away from it, so that the thread can begin there."""

    name: str
    at: Array
    axis: Array
    radius: float
    low: float
    high: float
    inside: bool
    free: tuple[bool, bool]


def stretch_of(body: NamedShape, name: str) -> Stretch:
    """The whole round of a cylindrical face. Raises ContourError (wrong-kind) for other faces, and for one that something interrupts."""
    face = faces(body.shape)[body.names.index(name)]
    s = face_surface(face)
    if s is None or s.kind != "cylinder":
        raise ContourError(
            "wrong-kind",
            "a thread lies on a cylinder",
            where=Where(param="face"),
            got=s.kind if s is not None else "a freeform face",
            need="the round face of a shaft or a hole",
            remedy="choose another face",
        )
    heights = _ring_heights(face, s)
    if heights is None:
        raise ContourError(
            "wrong-kind",
            "the round face is interrupted",
            where=Where(param="face"),
            got="a border that is not all round",
            need="a whole cylinder between two circles",
            remedy="put the thread before what cuts into its face",
        )
    low, high = heights
    ends = []
    for height, out in ((low, -1.0), (high, 1.0)):
        flat = _flat_end(body, face, s, height)
        other = face_surface(flat[1]) if flat is not None else None
        ends.append(other is not None and out * float(other.along @ s.along) > 0)
    return Stretch(name, s.at, s.along, s.radius, low, high, s.outward < 0, (ends[0], ends[1]))


def _ring_heights(face: TopoDS_Face, s: Surface) -> tuple[float, float] | None:
    """Where a cylinder's two borders lie along its axis; none where they are not whole circles square to it."""
    at: list[float] = []
    around: dict[float, float] = {}
    for edge in edges(face):
        curve = edge_curve(edge)
        if curve is None:
            return None
        if not isinstance(curve, Oval):
            continue  # its seam
        centre = np.array(curve.centre) - s.at
        if abs(abs(float(np.array(curve.axis) @ s.along)) - 1) > 1e-9 or abs(curve.long - s.radius) > 1e-6:
            return None
        at.append(float(centre @ s.along))
    for height in at:
        around[round(height, 5)] = height
    return (min(around.values()), max(around.values())) if len(around) == 2 else None


def _flat_end(
    body: NamedShape, face: TopoDS_Face, s: Surface, height: float
) -> tuple[str, TopoDS_Face, TopoDS_Wire] | None:
    """The flat face square to the axis that the whole circle at a height is a border of, with that border."""
    for name, other in zip(body.names, faces(body.shape), strict=True):
        flat = face_surface(other)
        if other.IsSame(face) or flat is None or flat.kind != "plane" or abs(float(flat.along @ s.along)) < 1 - 1e-9:
            continue
        if abs(float((flat.at - s.at) @ s.along) - height) > _SAME:
            continue
        for wire in _wires(other):
            curves = [edge_curve(e) for e in edges(wire)]
            if curves and all(
                isinstance(c, Oval)
                and abs(c.long - s.radius) < _SAME
                and np.linalg.norm(np.cross(np.array(c.centre) - s.at, s.along)) < 1e-5
                for c in curves
            ):
                return name, other, wire
    return None


def _wires(face: TopoDS_Face) -> list[TopoDS_Wire]:
    out = []
    walk = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    while walk.More():
        out.append(TopoDS.Wire(walk.Current()))
        walk.Next()
    return out


def threaded(
    body: NamedShape,
    on: Stretch,
    ridge: Ridge,
    *,
    low: float,
    high: float,
    fades: tuple[Fade, Fade],
    fade_mm: float,
    built: bool,
    prefix: str,
) -> NamedShape:
    """The body with a thread on a stretch of a round face.

    low, high: from where to where along its axis, mm · fades: how it begins and ends: "none" in a flat end as it is, "in" from a circle that a mating thread
    passes, "out" in the face · fade_mm: over so much · built: it rises from the face; else it is cut into it, and where the face is further out than the
    crest (of a hole: further in) that is brought to it first.
    Faces are ``prefix.thread[crest1-1]``, flank, root and back of the first start in the first turn, and so on; what is left of the round face keeps its name.
    Raises ContourError (bad-params) for what does not fit, (self-crossing) where something of the body is in the way, (body-broken).
    """
    _require_room(on, ridge, low, high, fades, fade_mm)
    crest, root = _radii(on, ridge, built=built)
    ends = tuple(_end_radius(f, on, root) for f in fades)
    rows = _Rows(on, ridge, crest, root, low, high, fades, (ends[0], ends[1]), fade_mm)
    _require_clear(body, on, rows, built=built)
    turns = rows.walls(prefix)
    given: list[tuple[str, TopoDS_Face]] = [(w.name, wall_face(w)) for turn in turns for w in turn]
    face = faces(body.shape)[body.names.index(on.name)]
    instead: dict[str, tuple[str, TopoDS_Face]] = {}
    for k, (height, edge, fade) in enumerate(((low, on.low, fades[0]), (high, on.high, fades[1]))):
        if abs(height - edge) > _SAME:
            rest = _tube(on, min(height, edge), max(height, edge))
            taken = any(n == on.name for n, _ in given)
            given.append((f"{prefix}.rest[{on.name}]" if taken else on.name, rest))
        elif fade != "out":
            surface = face_surface(face)
            assert surface is not None
            flat = _flat_end(body, face, surface, edge)
            assert flat is not None
            name, was, border = flat
            new = (
                wall_border(turns[0 if k == 0 else -1], 0 if k == 0 else -1)
                if fade == "none"
                else _circle(on, edge, ends[k])
            )
            held = instead.get(name)
            instead[name] = (name, _with_border(was if held is None else held[1], border, new, on, ends[k]))
    kept = [instead.get(n, (n, f)) for n, f in zip(body.names, faces(body.shape), strict=True) if n != on.name]
    made, facts = closed_by([*kept, *given], doing="threading")
    change, want = facts.volume - volume(body.shape), rows.change()
    if abs(change - want) > _AGREES * abs(want) + 1e-6 * volume(body.shape):
        raise ContourError(
            "body-broken",
            "the thread comes out with a volume that cannot be",
            got=f"{change:+.4f} mm³",
            need=f"{want:+.4f} mm³",
            remedy="change its length a little",
        )
    return made


def _radii(on: Stretch, ridge: Ridge, *, built: bool) -> tuple[float, float]:
    """(where its crests come to, where its roots lie): of a hole the crests are the inner ones."""
    crest, root = (ridge.inner, ridge.outer) if on.inside else (ridge.outer, ridge.inner)
    if not built:
        crest = max(crest, on.radius) if on.inside else min(crest, on.radius)
    deep = (root - crest) if on.inside else (crest - root)
    wrong = (on.radius > root + _SAME) if on.inside else (on.radius < root - _SAME)
    if deep < 0.2 * (ridge.outer - ridge.inner) or (built and wrong):
        least, most = sorted((2 * ridge.inner, 2 * ridge.outer))
        raise ContourError(
            "bad-params",
            "the thread does not fit this face",
            where=Where(param="face"),
            got=f"a diameter of {2 * on.radius:.3f} mm",
            need=f"{least:.3f} to {most:.3f} mm",
            remedy="choose another thread, or give the face its diameter first",
        )
    return crest, root


def _end_radius(fade: Fade, on: Stretch, root: float) -> float:
    return on.radius if fade == "out" else root


def _require_room(on: Stretch, ridge: Ridge, low: float, high: float, fades: tuple[Fade, Fade], fade_mm: float) -> None:
    least = fade_mm * sum(f != "none" for f in fades) + 0.25 * ridge.pitch
    if low < on.low - _SAME or high > on.high + _SAME or high - low < least:
        raise ContourError(
            "bad-params",
            "the thread is longer than its face, or too short to begin and end",
            where=Where(param="length"),
            got=f"{high - low:.3f} mm",
            need=f"{least:.3f} to {on.high - on.low:.3f} mm",
            remedy="type another length",
        )


@dataclass(frozen=True, slots=True, eq=False)
class _Rows:
    """Sections of a thread square to its axis."""

    on: Stretch
    ridge: Ridge
    crest: float
    root: float
    low: float
    high: float
    fades: tuple[Fade, Fade]
    ends: tuple[float, float]
    fade_mm: float

    @property
    def finer(self) -> int:
        """By how many there are more of everything on a large face."""
        return 8 if self.on.radius > _LARGE_MM else 0

    def corners(self) -> tuple[Array, Array]:
        """(shares of a pitch where its profile turns, radii there), from the crest's beginning to the next one's."""
        p = self.ridge.pitch
        flat = p / 4 if self.on.inside else p / 8
        nominal = self.ridge.inner if self.on.inside else self.ridge.outer
        flat += 2 * abs(nominal - self.crest) * _SLOPE
        flank = abs(self.crest - self.root) * _SLOPE
        run = np.cumsum([0.0, flat, flank, p - flat - 2 * flank, flank]) / p
        return run, np.array([self.crest, self.crest, self.root, self.root, self.crest])

    def faded(self, height: Array) -> tuple[Array, Array]:
        """(how much of the thread is there at heights (m,), the radius of the circle it fades to)."""
        share = np.ones_like(height)
        for k, way in ((0, height - self.low), (1, self.high - height)):
            if self.fades[k] != "none":
                t = np.clip(way / self.fade_mm, 0.0, 1.0)
                share = np.minimum(share, t**3 * (10 - 15 * t + 6 * t**2))
        middle = (self.low + self.high) / 2
        return share, np.where(height < middle, self.ends[0], self.ends[1])

    def walls(self, prefix: str) -> list[list[Wall]]:
        """Turn by turn crest, flank, root and the flank behind it, of each start after the other.

        A face of many turns would be one that the kernel can hardly tell the sides of.
        """
        whole = self.high - self.low
        turns = max(1, math.ceil(whole / self.ridge.lead - 1e-9))
        each = whole / turns
        count = max(_SECTIONS + self.finer, math.ceil(8 * each / self.fade_mm) + 1)
        return [self._turn(self.low + k * each, self.low + (k + 1) * each, count, k + 1, prefix) for k in range(turns)]

    def _turn(self, low: float, high: float, count: int, number: int, prefix: str) -> list[Wall]:
        at = np.linspace(0.0, 1.0, count)
        height = low + at * (high - low)
        share, plain = self.faded(height)
        run, radii = self.corners()
        u, v = square_to(self.on.axis)
        out = []
        for start in range(self.ridge.starts):
            for k, what in enumerate(("crest", "flank", "root", "back")):
                least = math.ceil(2 * np.pi * (run[k + 1] - run[k]) / self.ridge.starts / _STEP) + 1
                q = np.linspace(run[k], run[k + 1], self.finer + max(least, _ALONG_FLANK if k % 2 else _ALONG_ARC))
                r = share * np.interp(q, run, radii)[:, None] + (1 - share) * plain
                hand = -1.0 if self.ridge.left else 1.0
                angle = 2 * np.pi * hand * (height / self.ridge.lead - ((q + start) / self.ridge.starts)[:, None])
                places = (
                    self.on.at
                    + (r * np.cos(angle))[..., None] * u
                    + (r * np.sin(angle))[..., None] * v
                    + height[None, :, None] * self.on.axis
                )
                out.append(Wall(f"{prefix}.thread[{what}{start + 1}-{number}]", places, at))
        return out

    def change(self) -> float:
        """By how much the body's volume changes, mm³: what sections hold beside the round face's circle, summed along the axis."""
        run, radii = self.corners()
        q = np.linspace(0.0, 1.0, 2001)
        r = np.interp(q, run, radii)
        height = np.linspace(self.low, self.high, 2001)
        share, plain = self.faded(height)
        # The mean of the squared radius over a pitch is a parabola in how much of the thread is there.
        mean, square = float(np.trapezoid(r, q)), float(np.trapezoid(r * r, q))
        held = share**2 * square + 2 * share * (1 - share) * plain * mean + ((1 - share) * plain) ** 2
        more = float(np.trapezoid(np.pi * (held - self.on.radius**2), height))
        return -more if self.on.inside else more


def _require_clear(body: NamedShape, on: Stretch, rows: _Rows, *, built: bool) -> None:
    """Raises ContourError (self-crossing) where the ring that the thread takes up is not all material, or, where it is built into the open, not all air."""
    for reach in (rows.crest, rows.root):
        near, far = sorted((on.radius, reach))
        if far - near < 1e-5:
            continue
        ring = [
            ("a", (near, rows.low), (far, rows.low)),
            ("b", (far, rows.low), (far, rows.high)),
            ("c", (far, rows.high), (near, rows.high)),
            ("d", (near, rows.high), (near, rows.low)),
        ]
        tube = turned(ring, on.at, on.axis, prefix="tube")  # type: ignore[arg-type]
        whole = volume(tube.shape)
        # Beyond the face lies material: outwards of a hole's, inwards of a shaft's.
        want = whole if (reach > on.radius) == on.inside else 0.0
        got = common_volume(tube, body)
        if abs(got - want) > 1e-5 * whole:
            raise ContourError(
                "self-crossing",
                "something is in the way of the thread",
                where=Where(param="face"),
                got=f"{abs(got - want):.3f} mm³ too {'little' if got < want else 'much'} material beside the face",
                need="solid material, as deep as the thread is" if want else "room, as high as the thread is",
                remedy="make the thread shorter, or choose another face",
            )


def _tube(on: Stretch, low: float, high: float) -> TopoDS_Face:
    """The part of the round face between two heights."""
    u, _ = square_to(on.axis)
    place = gp_Ax3(pnt(on.at), direction(on.axis), direction(u))
    return BRepBuilderAPI_MakeFace(gp_Cylinder(place, on.radius), 0.0, 2 * math.pi, low, high).Face()


def _circle(on: Stretch, height: float, radius: float) -> TopoDS_Wire:
    u, _ = square_to(on.axis)
    at = gp_Ax2(pnt(on.at + height * on.axis), direction(on.axis), direction(u))
    return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(at, radius)).Edge()).Wire()


def _with_border(face: TopoDS_Face, was: TopoDS_Wire, now: TopoDS_Wire, on: Stretch, radius: float) -> TopoDS_Face:
    """A flat face with another border in the place of one. Raises ContourError (bad-params) where that would leave it, or meet another border."""
    surface = face_surface(face)
    assert surface is not None
    outer = BRepTools.OuterWire_s(face)
    rest = [w for w in _wires(face) if not w.IsSame(was) and not w.IsSame(outer)]
    if outer.IsSame(was):
        first, others = now, rest
    else:
        first, others = outer, [*rest, now]
    for wire in [*rest, *([] if outer.IsSame(was) else [outer])]:
        away = [float(np.linalg.norm(np.cross(p - on.at, on.axis))) for p in _spots(wire)]
        if (max(away) > radius - _SAME) if outer.IsSame(was) else (min(away) < radius + _SAME):
            raise ContourError(
                "bad-params",
                "there is no room for the thread to begin at its end face",
                where=Where(param="lead_in"),
                got=f"another border {min(away) if not outer.IsSame(was) else max(away):.3f} mm from the axis",
                need=f"{radius:.3f} mm left free",
                remedy="switch the lead-in off, or move what is in the way",
            )
    maker = BRepBuilderAPI_MakeFace(gp_Pln(pnt(surface.at), direction(surface.along)), first, True)
    for wire in others:
        maker.Add(wire)
    fixed = ShapeFix_Face(maker.Face())
    fixed.FixOrientation()
    return TopoDS.Face(fixed.Face())


def _spots(wire: TopoDS_Wire) -> Sequence[Array]:
    out = []
    walk = BRepTools_WireExplorer(wire)
    while walk.More():
        curve = BRepAdaptor_Curve(walk.Current())
        first, last = curve.FirstParameter(), curve.LastParameter()
        out += [array(curve.Value(t)) for t in np.linspace(first, last, 33)]
        walk.Next()
    return out
