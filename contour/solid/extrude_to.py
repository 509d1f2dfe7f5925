"""Extrusions that end at a surface."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from contour.geometry.frames import PlaneFrame
from contour.geometry.surfaces import Surface
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Profile
from contour.solid.boolean import combine
from contour.solid.extrude import extrude
from contour.solid.halves import beyond_plane, within_cylinder
from contour.solid.pieces import pieces
from contour.solid.shape import NamedShape

__all__ = ["extrude_to", "way_to"]


def way_to(profiles: Sequence[Profile], frame: PlaneFrame, target: Surface, way: float) -> float:
    """The way that leads to a surface, +1 along the frame's normal or -1 against it: `way`, where that one does."""
    spots = np.array([frame.to_space(np.array(e.start)) for p in profiles for e in p.outer.entities])
    if target.kind == "plane":
        facing = float(target.along @ frame.normal)
        heights = ((target.at - spots) @ target.along) * np.sign(facing)
    else:
        to = spots.mean(axis=0) - target.at
        off = to - (to @ target.along) * target.along
        # From inside a cylinder every way leads to its wall.
        heights = -off @ frame.normal[:, None] if float(np.linalg.norm(off)) > target.radius else np.array([way])
    return way if float((way * heights).max()) > 0 else -way


def extrude_to(
    profiles: Sequence[Profile],
    frame: PlaneFrame,
    target: Surface,
    *,
    way: float,
    start_mm: float,
    offset_mm: float,
    draft_deg: float = 0.0,
    prefix: str,
) -> NamedShape:
    """The prism that ends at a surface, a plane or a cylinder: exact for a parallel plane, trimmed for tilted planes and cylinders.

    way: +1 along the frame's normal, -1 against it · start_mm: height it begins at · offset_mm: how far beyond the surface it ends.
    Raises ContourError (too-tilted, unchanged, bad-params), the parameters called as the extrude step calls them.
    """
    n, offset, start = frame.normal, offset_mm, start_mm
    spots = np.array([frame.to_space(np.array(e.start)) for p in profiles for e in p.outer.entities])
    middle = spots.mean(axis=0)
    size = float(np.ptp(spots, axis=0).max())
    if target.kind == "plane":
        facing = float(target.along @ n)
        if abs(facing) < 0.05:
            raise ContourError(
                "too-tilted",
                "the plane it should end at runs along the extrusion",
                where=Where(param="until_region"),
                got=f"{np.degrees(np.arccos(abs(facing))):.1f} deg off",
                need="less than 87 deg",
                remedy="choose another region or face",
            )
        heights = ((target.at - spots) @ target.along) / facing
        if abs(facing) > 1 - 1e-10:
            return extrude(
                profiles,
                frame,
                start_mm=start,
                end_mm=float(heights.mean()) + way * offset,
                draft_deg=draft_deg,
                prefix=prefix,
            )
        far = float(heights.max() if way > 0 else heights.min()) + way * (abs(offset) + size + 1)
        if float((way * heights).max()) <= 0:
            raise _behind("until_region", float(heights.mean()))
        prism = extrude(profiles, frame, start_mm=start, end_mm=far, draft_deg=draft_deg, prefix=prefix)
        side = target.along * np.sign(facing) * way
        at = target.at + side * offset * abs(facing)
        tool = beyond_plane(at, side, 4 * (size + abs(far) + abs(start)) + 10, middle, f"{prefix}.end[until]")
        return combine(prism, tool, "subtract", what="what lies beyond the plane")
    to = middle - target.at
    apart = float(np.linalg.norm(to - (to @ target.along) * target.along))
    inside = apart < target.radius
    reach = float(np.linalg.norm(to)) + size + 2 * target.radius + abs(offset) + 10
    prism = extrude(profiles, frame, start_mm=start, end_mm=way * reach, draft_deg=draft_deg, prefix=prefix)
    radius = target.radius + (offset if inside else -offset)
    if radius <= 0.001:
        raise ContourError(
            "bad-params",
            "the offset leaves nothing of the cylinder",
            where=Where(param="until_offset"),
            got=f"radius {radius:.3f} mm",
            need="some radius left",
            remedy="type a smaller offset",
        )
    bar = within_cylinder(target.at, target.along, radius, 4 * reach, f"{prefix}.end[until]")
    made = combine(prism, bar, "intersect" if inside else "subtract", what="what lies beyond the cylinder")
    return _nearest_piece(made, middle) if not inside else made


def _nearest_piece(made: NamedShape, at: Any) -> NamedShape:
    """A bar cuts a long prism in two: what lies behind it goes."""
    found = pieces(made)
    return min(found, key=lambda p: p[1](at))[0] if len(found) > 1 else made


def _behind(place: str, height: float) -> ContourError:
    return ContourError(
        "unchanged",
        "what it should end at lies the other way",
        where=Where(param=place),
        got=f"{height:+.3f} mm along the arrow",
        need="a place along the arrow",
        remedy="choose another region or face",
    )
