"""Fillets and chamfers on edges of a solid: gated, named by their edges, and when they fail told which edge, and how much it takes.

What the kernel says of a failed fillet (its faulty contours) is only where the search begins: each contour is then tried by
itself, and the largest size that works is found by halving.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from contour.geometry.vectors import triple
from contour.recipe.problem import ContourError, Where
from contour.solid.apart import holds_apart
from contour.solid.evolving import begins_at_first, set_evenly
from contour.solid.face_geometry import face_kinds, middle_of
from contour.solid.facts import face_spot
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import NamedShape, edge_faces, edges, faces, owners_of, shape_map, solids
from contour.solid.topology.edges import edge_names, edges_named
from contour.solid.topology.history import OperationHistory
from contour.solid.topology.labels import edge_label
from contour.solid.topology.names import inherit_names
from contour.solid.topology.rows import is_border, is_smooth

__all__ = ["Bevel", "Blended", "Rounding", "chamfer", "edges_of_face", "fillet", "length_of"]

_BUDGET_S = 20.0  # for finding out how much an edge takes
_HALVINGS = 8
_ONE_S = 10.0  # for one size of it
_SWEEP = 6.0  # a blend of size r changes at most this times r² of material per mm of edge; the kernel's wrong ones change more


@dataclass(frozen=True, slots=True)
class Rounding:
    """Edges to be rounded with one radius, mm, or one that changes evenly to another at the far end. turned: the far end is the one whose corner's name
    comes first · places: where each stands in the step's parameters."""

    names: tuple[str, ...]
    radius: float
    places: tuple[str, ...] = ()
    end: float | None = None
    turned: bool = False

    @property
    def largest(self) -> float:
        """mm."""
        return max(self.radius, self.end or 0.0)


@dataclass(frozen=True, slots=True)
class Bevel:
    """Edges to be chamfered: `first` mm on one face; on the other `second` mm, or what an angle to the first face comes to (radians),
    or the same. side: name of the face that the
    first distance lies on, where one is wanted; flipped: it lies on the other one."""

    names: tuple[str, ...]
    first: float
    second: float | None = None
    angle: float | None = None
    side: str = ""
    flipped: bool = False
    places: tuple[str, ...] = ()

    @property
    def largest(self) -> float:
        """The larger of its two distances, mm, between faces square to each other."""
        return max(self.first, self.second or 0.0, self.first * np.tan(self.angle) if self.angle else 0.0)


@dataclass(frozen=True, slots=True)
class Blended:
    """made: the new solid · swallowed: kind of each face that is gone, and a place that was on it · blends: how many faces are new · volume: mm³ more or less."""

    made: NamedShape
    swallowed: tuple[tuple[str, tuple[float, float, float]], ...]
    blends: int
    volume: float


@dataclass(slots=True)
class _Try:
    """One way of asking the kernel; `size` mm is what the largest that works is looked for of."""

    size: float
    build: Callable[[NamedShape, Sequence[str], float], Any]  # edges by name, factor on the size
    names: tuple[str, ...]
    places: tuple[str, ...]
    doing: str


def edges_of_face(named: NamedShape, name: str) -> list[str]:
    """Names of the edges all around a face that are edges to be felt: not those along which it runs into its neighbour, nor where
    an open body ends."""
    face = faces(named.shape)[named.names.index(name)]
    all_names = edge_names(named)
    place = shape_map(named.shape, TopAbs_ShapeEnum.TopAbs_EDGE)
    around = edge_faces(named.shape)
    own = {place.FindIndex(e) - 1 for e in edges(face)}
    listed = edges(named.shape)

    def felt(k: int) -> bool:
        owners = owners_of(around, around.FindIndex(listed[k]))
        return len(owners) > 1 and not is_smooth(listed[k], owners)

    return [all_names[k] for k in sorted(own) if felt(k)]


def length_of(edge: TopoDS_Edge) -> float:
    """mm."""
    return float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(edge)))


def _fillet_maker(named: NamedShape, names: Sequence[str], rounding: Rounding, factor: float) -> Any:
    maker = BRepFilletAPI_MakeFillet(named.shape)
    for edge in edges_named(named, names):
        if maker.Contour(edge) == 0:  # else it runs on from another one that has been added
            _add_rounding(maker, named, edge, rounding, factor)
    return maker


def _add_rounding(maker: Any, named: NamedShape, edge: TopoDS_Edge, rounding: Rounding, factor: float = 1.0) -> None:
    """Raises ContourError (wrong-kind) for a radius that should change along edges that close: they have no ends."""
    maker.Add(rounding.largest * factor, edge)
    if rounding.end is None:
        return
    contour = maker.Contour(edge)
    said_at = (rounding.places or ("",))[0].partition("edges[")[0] + "end_radius"
    if maker.Closed(contour):
        raise ContourError(
            "wrong-kind",
            "a radius cannot change along edges that run back into themselves",
            where=Where(param=said_at, point=middle_of(edge)),
            got="edges without ends",
            need="a run of edges with two ends",
            remedy="take the other radius out, or leave these edges to a list of their own",
        )
    radii = (rounding.radius * factor, rounding.end * factor)
    try:
        first = begins_at_first(named, maker, contour)
    except ContourError as error:
        raise error.at(param=said_at) from None
    if first == rounding.turned:
        radii = radii[::-1]
    set_evenly(maker, contour, *radii)


def _face_of_first(named: NamedShape, edge: TopoDS_Edge, bevel: Bevel) -> TopoDS_Face:
    """The face at an edge that the first distance lies on: the wanted one, else the first by name."""
    around = edge_faces(named.shape)
    place = shape_map(named.shape, TopAbs_ShapeEnum.TopAbs_FACE)
    owners = owners_of(around, around.FindIndex(edge))
    by_name = sorted(owners, key=lambda f: named.names[place.FindIndex(f) - 1])
    first = next((f for f in by_name if named.names[place.FindIndex(f) - 1] == bevel.side), by_name[0])
    others = [f for f in by_name if not f.IsSame(first)]
    return TopoDS.Face(others[0] if bevel.flipped and others else first)


def _chamfer_maker(named: NamedShape, names: Sequence[str], bevel: Bevel, factor: float, maker: Any = None) -> Any:
    maker = BRepFilletAPI_MakeChamfer(named.shape) if maker is None else maker
    for edge in edges_named(named, names):
        if maker.Contour(edge):
            continue
        if bevel.angle is not None:
            maker.AddDA(bevel.first * factor, bevel.angle, edge, _face_of_first(named, edge, bevel))
        elif bevel.second is not None:
            maker.Add(bevel.first * factor, bevel.second * factor, edge, _face_of_first(named, edge, bevel))
        else:
            maker.Add(bevel.first * factor, edge)
    return maker


def _result(maker: Any, before: float, allowed: float, pieces: int) -> TopoDS_Shape | None:
    """The shape a maker gives, if it is a good one: "done" and "valid" alone prove nothing."""
    try:
        maker.Build()
        if not maker.IsDone():
            return None
        shape = maker.Shape()
    except Exception:  # the kernel throws whatever it likes
        return None
    facts = check_solid(shape)
    sound = facts.closed and facts.valid and facts.solids == pieces and facts.volume > 0
    return shape if sound and abs(facts.volume - before) <= allowed else None


def _not_edges(named: NamedShape, tries: Sequence[_Try], labels: Any) -> None:
    """Raises ContourError (wrong-kind) for an edge that has no two faces, or along which they run into one another."""
    around = edge_faces(named.shape)
    for attempt in tries:
        found = edges_named(named, attempt.names)
        for edge, name, place in zip(found, attempt.names, attempt.places, strict=True):
            owners = owners_of(around, around.FindIndex(edge))
            border = is_border(edge, owners)
            if border or is_smooth(edge, owners):
                what = "a border of an open body" if border else "smooth"
                raise ContourError(
                    "wrong-kind",
                    f"the {edge_label(name, labels)} is {what}: there is nothing to {attempt.doing}",
                    where=Where(param=place or None, point=middle_of(edge)),
                    got="one face" if border else "faces that run into one another there",
                    need="an edge to be felt",
                    remedy="leave this edge out",
                )


def _blend(named: NamedShape, build: Callable[[], Any], tries: Sequence[_Try], prefix: str, labels: Any) -> Blended:
    before = volume(named.shape)
    pieces = len(solids(named.shape))
    _not_edges(named, tries, labels)
    try:
        maker = build()
    except ContourError:
        raise
    except Exception:  # the kernel throws already where it cannot begin at an edge
        lengths = sum(length_of(e) * t.size**2 for t in tries for e in edges_named(named, t.names))
        raise _why(named, tries, before, _SWEEP * lengths + 1e-6, pieces, labels) from None
    # With those that run on from the edges named: all that the maker has found belong to it.
    reach = sum(
        length_of(TopoDS.Edge(maker.Edge(c, k))) * max(t.size for t in tries) ** 2
        for c in range(1, maker.NbContours() + 1)
        for k in range(1, maker.NbEdges(c) + 1)
    )
    allowed = _SWEEP * reach + 1e-6
    shape = _result(maker, before, allowed, pieces)
    if shape is None:
        raise _why(named, tries, before, allowed, pieces, labels)
    made = inherit_names([(OperationHistory(maker), shape)], [named], made=prefix)
    kept = {root for n in made.names for root in (n, n.split("~")[0].rstrip("?"))}
    gone = [k for k, n in enumerate(named.names) if n not in kept and n.split("~")[0].rstrip("?") not in kept]
    kinds, listed = face_kinds(named.shape), faces(named.shape)
    swallowed = tuple((kinds[k], triple(face_spot(listed[k])[0])) for k in gone)
    blends = sum(n.startswith(prefix) for n in made.names)
    return Blended(made, swallowed, blends, volume(shape) - before)


def _works(
    attempt: _Try, named: NamedShape, names: Sequence[str], factor: float, gate: tuple[float, float, int]
) -> bool:
    def ask() -> bool:
        try:
            return _result(attempt.build(named, names, factor), *gate) is not None
        except Exception:  # adding an edge may throw already
            return False

    # Sizes that nobody has asked for are tried here: some of them end the process that tries them.
    return holds_apart(ask, limit_s=_ONE_S)


def _largest(ok: Callable[[float], bool], deadline: float) -> float:
    """The largest factor below one that works, by halving; 0 when none was found in time."""
    low, high = 0.0, 1.0
    for _ in range(_HALVINGS):
        if time.monotonic() > deadline:
            break
        middle = (low + high) / 2
        low, high = (middle, high) if ok(middle) else (low, middle)
    return low


def _why(
    named: NamedShape, tries: Sequence[_Try], before: float, allowed: float, pieces: int, labels: Any
) -> ContourError:
    """Which edge cannot take its size, and how much it takes; or how much all of them take together."""
    deadline = time.monotonic() + _BUDGET_S
    gate = (before, allowed, pieces)
    for attempt in tries:
        for name, place in zip(attempt.names, attempt.places, strict=True):
            if time.monotonic() > deadline:
                break
            if _works(attempt, named, [name], 1.0, gate):
                continue
            factor = _largest(lambda f, a=attempt, n=name: _works(a, named, [n], f, gate), deadline)  # type: ignore[misc]
            most = _said_mm(factor * attempt.size)
            return ContourError(
                "body-broken",
                f"the {edge_label(name, labels)} cannot take a {attempt.doing} of {attempt.size:g} mm",
                where=Where(param=place or None, point=middle_of(edges_named(named, [name])[0])),
                got=f"{attempt.size:g} mm",
                need=f"at most {most} mm" if factor else "a smaller size",
                remedy=f"make it {most} mm or less, or leave this edge out" if factor else "leave this edge out",
            )
    return _together(named, tries, gate, deadline, labels)


def _together(
    named: NamedShape, tries: Sequence[_Try], gate: tuple[float, float, int], deadline: float, labels: Any
) -> ContourError:
    """Each takes its size by itself: the first pair that does not, else all of them at a smaller size."""
    first = tries[0]
    others = f"{sum(len(t.names) for t in tries)} edges"
    factor = 0.0
    if len(tries) == 1:
        factor = _largest(lambda f: _works(first, named, first.names, f, gate), deadline)
    most = _said_mm(factor * first.size)
    return ContourError(
        "body-broken",
        f"each edge takes its {first.doing} by itself, but not all {others} together",
        where=Where(param=first.places[0] or None, point=middle_of(edges_named(named, first.names[:1])[0])),
        got=f"{first.size:g} mm",
        need=f"at most {most} mm for all" if factor else "sizes that leave room between them",
        remedy=f"make them {most} mm or less, or put some into a step of their own"
        if factor
        else "make them smaller, or put some into a step of their own",
    )


def _said_mm(size: float) -> str:
    """Rounded down to what a person would type."""
    step = 0.1 if size >= 1 else 0.01
    return f"{np.floor(size / step + 1e-9) * step:.{1 if step == 0.1 else 2}f}"


def _filled(places: Sequence[str], names: Sequence[str]) -> tuple[str, ...]:
    return tuple(places) if places else ("",) * len(names)


def _tries(
    items: Sequence[Rounding] | Sequence[Bevel],
    size: Callable[[Any], float],
    build: Callable[[NamedShape, Sequence[str], Any, float], Any],
    doing: str,
) -> list[_Try]:
    """How each item that has edges would be asked for by itself, at a share of its size."""
    return [
        _Try(
            size(item),
            lambda n, names, f, item=item: build(n, names, item, f),  # type: ignore[misc]
            item.names,
            _filled(item.places, item.names),
            doing,
        )
        for item in items
        if item.names
    ]


def fillet(named: NamedShape, roundings: Sequence[Rounding], *, prefix: str, labels: Any = None) -> Blended:
    """Edges rounded, all at once; a radius runs on along edges without a bend. New faces are ``prefix[edge]``.

    Raises ContourError (wrong-kind) for a smooth edge, (body-broken) with the edge that cannot take its radius, where it is, and
    the largest radius that works; (ref-lost) for a name no edge has. `labels`: names of steps for messages.
    """
    tries = _tries(roundings, lambda r: r.largest, _fillet_maker, "fillet")

    def build() -> Any:
        return _rounded(named, roundings, labels)

    return _blend(named, build, tries, prefix, labels)


def _rounded(named: NamedShape, roundings: Sequence[Rounding], labels: Any) -> Any:
    """The kernel's maker with every edge. Raises ContourError (bad-params) where one runs on from another with a radius of its own."""
    maker = BRepFilletAPI_MakeFillet(named.shape)
    given: dict[int, Rounding] = {}  # by contour
    for r in roundings:
        found = edges_named(named, r.names)
        for edge, name, place in zip(found, r.names, _filled(r.places, r.names), strict=True):
            contour = maker.Contour(edge)
            if contour and _differ(given[contour], r):
                raise ContourError(
                    "bad-params",
                    f"the {edge_label(name, labels)} runs on from another one, which has a radius of its own",
                    where=Where(param=place or None, point=middle_of(edge)),
                    got=f"{r.radius:g} mm beside {given[contour].radius:g} mm",
                    need="one radius along edges without a bend",
                    remedy="put both into one list, or leave one of them out",
                )
            if not contour:
                _add_rounding(maker, named, edge, r)
                given[maker.Contour(edge)] = r
    return maker


def _differ(a: Rounding, b: Rounding) -> bool:
    ends = abs(a.radius - b.radius) > 1e-9 or abs((a.end or a.radius) - (b.end or b.radius)) > 1e-9
    return ends or (a.end is not None and a.turned != b.turned)


def chamfer(named: NamedShape, bevels: Sequence[Bevel], *, prefix: str, labels: Any = None) -> Blended:
    """Edges chamfered, all at once; a chamfer runs on along edges without a bend. New faces are ``prefix[edge]``.

    Raises like :func:`fillet`.
    """
    tries = _tries(bevels, lambda b: b.largest, _chamfer_maker, "chamfer")

    def build() -> Any:
        maker = BRepFilletAPI_MakeChamfer(named.shape)
        for b in bevels:
            maker = _chamfer_maker(named, b.names, b, 1.0, maker)
        return maker

    return _blend(named, build, tries, prefix, labels)
