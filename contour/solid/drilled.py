"""Holes as a drill makes them: a turned solid along each axis, widened at the mouth, taken from a body.

What stands on the mouth of a hole is drilled away as far as it reaches without air; what hangs free above it stays.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common

from contour.geometry.vectors import square_to, triple
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Point2
from contour.solid.agreement import sides
from contour.solid.boolean import combine
from contour.solid.extent import bounds
from contour.solid.halves import reach_of
from contour.solid.primitives import cone, turned
from contour.solid.shape import NamedShape, shape_list, solids
from contour.solid.topology.names import together

__all__ = ["Bore", "Mouth", "drilled"]

Array = NDArray[np.float64]
_AIR_MM = 0.02  # so far over its mouth material is looked for
_SPOKES = 16


@dataclass(frozen=True, slots=True)
class Bore:
    """Sizes of a hole, mm and degrees. depth: of its full diameter, from the mouth; none: through · tip: the drill point's angle; none: flat ·
    widened: diameter and depth of a counterbore · sunk: diameter at the mouth and angle of a countersink."""

    diameter: float
    depth: float | None = None
    tip: float | None = None
    widened: tuple[float, float] | None = None
    sunk: tuple[float, float] | None = None

    @property
    def mouth(self) -> float:
        """Its widest diameter."""
        return max(self.diameter, self.widened[0] if self.widened else 0.0, self.sunk[0] if self.sunk else 0.0)


@dataclass(frozen=True, slots=True, eq=False)
class Mouth:
    """Where a hole begins. at, way (3,): its middle, mm, and into the material, unit · key: what its faces are called by · param: what it came from."""

    at: Array
    way: Array
    key: str
    param: str


def drilled(body: NamedShape, bore: Bore, mouths: Sequence[Mouth], *, prefix: str) -> NamedShape:
    """The body with a hole at each mouth; faces ``prefix.side[bore-key]``, floor, point, shoulder, wide and sunk.

    Raises ContourError (bad-params) for sizes that cannot be, (unchanged) at a hole that meets no material, (body-broken).
    """
    _require_sizes(bore)
    tools = [_tool(body, bore, m, prefix) for m in mouths]
    for mouth in mouths:
        _require_material(body, bore, mouth)
    if len(tools) > 1 and not _meet(tools):
        return combine(body, together(tools), "subtract", what="the holes")
    for tool, mouth in zip(tools, mouths, strict=True):
        try:
            body = combine(body, tool, "subtract", what="the hole")
        except ContourError as error:
            raise error.at(param=mouth.param) from None
    return body


def _require_sizes(bore: Bore) -> None:
    r = bore.diameter / 2

    def refused(param: str, message: str, got: float, need: str, remedy: str) -> ContourError:
        where = Where(param=param)
        return ContourError("bad-params", message, where=where, got=f"{got:g} mm", need=need, remedy=remedy)

    if r < 5e-4:
        raise refused("diameter", "the hole has no width", 2 * r, "at least 0.001 mm", "type a diameter")
    if bore.depth is not None and bore.depth < 1e-4:
        raise refused("depth", "the hole has no depth", bore.depth, "at least 0.0001 mm", "type a depth above nothing")
    if bore.widened is not None:
        wide, deep = bore.widened
        if wide <= 2 * r:
            raise refused(
                "head_diameter",
                "the counterbore is no wider than the hole",
                wide,
                f"more than {2 * r:g} mm",
                "type a larger one",
            )
        if deep < 1e-4 or (bore.depth is not None and deep >= bore.depth):
            raise refused(
                "head_depth",
                "the counterbore has to end within the hole",
                deep,
                f"less than {bore.depth or 0:g} mm" if bore.depth else "some depth",
                "type another depth",
            )
    if bore.sunk is not None:
        wide, angle = bore.sunk
        if wide <= 2 * r:
            raise refused(
                "head_diameter",
                "the countersink is no wider than the hole",
                wide,
                f"more than {2 * r:g} mm",
                "type a larger one",
            )
        deep = (wide / 2 - r) / np.tan(np.radians(angle / 2))
        if bore.depth is not None and deep >= bore.depth:
            raise refused(
                "depth",
                "the countersink is deeper than the hole",
                bore.depth,
                f"more than {deep:.4g} mm",
                "type a deeper hole, or a smaller countersink",
            )


def _outline(bore: Bore, over: float, end: float) -> list[tuple[str, Point2, Point2]]:
    """Half a section of the hole, head to tail: x away from its axis, y along it from the mouth; `end`: of its full diameter."""
    r, wide = bore.diameter / 2, bore.mouth / 2
    spots: list[Point2] = [(0.0, -over), (wide, -over)]
    names = ["lid"]
    if bore.widened is not None:
        spots += [(wide, bore.widened[1]), (r, bore.widened[1])]
        names += ["wide", "shoulder"]
    elif bore.sunk is not None:
        if over > 0:
            spots.append((wide, 0.0))
            names.append("rim")
        spots.append((r, (wide - r) / float(np.tan(np.radians(bore.sunk[1] / 2)))))
        names.append("sunk")
    spots.append((r, end))
    names.append("bore")
    if bore.depth is not None and bore.tip is not None:
        spots.append((0.0, end + r / float(np.tan(np.radians(bore.tip / 2)))))
        names.append("point")
    else:
        spots.append((0.0, end))
        names.append("floor")
    names.append("axis")
    return [(n, a, b) for n, a, b in zip(names, spots, [*spots[1:], spots[0]], strict=True)]


def _tool(body: NamedShape, bore: Bore, mouth: Mouth, prefix: str) -> NamedShape:
    end = bore.depth if bore.depth is not None else reach_of(body.shape, mouth.at, mouth.way)[1] + 1.0
    if bore.widened is not None:
        end = max(end, bore.widened[1] + 0.5)
    outline = _outline(bore, _over(body, bore, mouth), max(end, 0.5))
    keyed = [(f"{name}-{mouth.key}", a, b) for name, a, b in outline]
    return turned(keyed, mouth.at, mouth.way, prefix=prefix)


def _over(body: NamedShape, bore: Bore, mouth: Mouth) -> float:
    """How far over its mouth a hole begins, mm: past what stands on the mouth."""
    r = bore.mouth / 2
    clear = 0.5 * r
    u, v = square_to(mouth.way)
    angles = 2 * np.pi * (np.arange(_SPOKES) + 0.5) / _SPOKES
    ring = np.cos(angles)[:, None] * u + np.sin(angles)[:, None] * v
    heights = (_AIR_MM, 0.5 * clear, clear)
    spots = np.vstack([mouth.at + share * r * ring - h * mouth.way for h in heights for share in (0.3, 0.7, 0.999)])
    if not (sides(body.shape, spots) > 0).any():
        # Nothing but air: a face of the tool in the plane of the body's own would only be a trap.
        return clear
    high = -reach_of(body.shape, mouth.at, mouth.way)[0]
    post = cone(mouth.at, -mouth.way, (0.0, high + 1.0), (r, r), prefix="post")
    op = BRepAlgoAPI_Common()
    op.SetArguments(shape_list([body.shape]))
    op.SetTools(shape_list([post.shape]))
    op.SetNonDestructive(True)
    op.Build()
    tops = [0.0]
    for piece in solids(op.Shape()):
        low, top = reach_of(piece, mouth.at, -mouth.way)
        if low < _AIR_MM:
            tops.append(top)
    return min(max(tops), high) + _AIR_MM


def _meet(tools: Sequence[NamedShape]) -> bool:
    """Whether boxes of two of them share anything."""
    boxes = [bounds(t.shape) for t in tools]
    return any(
        bool((np.maximum(a[0], b[0]) < np.minimum(a[1], b[1]) + 1e-6).all())
        for k, a in enumerate(boxes)
        for b in boxes[k + 1 :]
    )


def _require_material(body: NamedShape, bore: Bore, mouth: Mouth) -> None:
    """Raises ContourError (unchanged) where a hole takes nothing away."""
    u, v = square_to(mouth.way)
    r = bore.diameter / 2
    far = bore.depth if bore.depth is not None else reach_of(body.shape, mouth.at, mouth.way)[1]
    angles = 2 * np.pi * np.arange(_SPOKES) / _SPOKES
    ring = np.vstack([np.zeros(3), np.cos(angles)[:, None] * u + np.sin(angles)[:, None] * v])
    depths = far * np.array([0.001, 0.02, 0.1, 0.25, 0.5, 0.75, 0.98])
    spots = np.vstack([mouth.at + d * mouth.way + 0.9 * r * ring for d in depths if d > 0] or [mouth.at[None]])
    if (sides(body.shape, spots) > 0).any():
        return
    raise ContourError(
        "unchanged",
        "a hole meets no material",
        where=Where(param=mouth.param, point=triple(mouth.at)),
        got="air all along it",
        need="a place on the body",
        remedy="choose another place, or turn the hole round",
    )
