"""Profiles moved along a helix about an axis in their plane: turned and pushed evenly, nearer or farther as they go where it tapers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from contour.geometry.frames import PlaneFrame
from contour.geometry.rigid import moved, placement
from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Profile, entity_points
from contour.solid.placed import moved_face
from contour.solid.revolve import LaidAxis, side_of
from contour.solid.shape import NamedShape
from contour.solid.skin import Wall, places_along, skin
from contour.solid.topology.names import together
from contour.solid.wires import profile_face

__all__ = ["coil"]

Array = NDArray[np.float64]
_EACH_TURN = 32  # sections of a turn: the helix is met to 1e-9 of its radius
_FEWEST = 17
_MOST_TURNS = 400


def coil(
    profiles: Sequence[Profile],
    frame: PlaneFrame,
    axis: LaidAxis,
    *,
    turns: float,
    pitch: float,
    left: bool = False,
    taper_deg: float = 0.0,
    prefix: str,
) -> NamedShape:
    """The solid that profiles sweep on their way along a helix.

    turns: more than none, fractions too · pitch: mm along the axis in each turn, negative against it · taper_deg: of its half cone, growing along
    the way it goes. Faces are named ``prefix.side[entity]``, ``prefix.start[profile]`` and ``prefix.end[profile]``.
    Raises ContourError (bad-params), (self-crossing) where turns overlap or the outline meets the axis, (body-broken).
    """
    if not 0 < turns <= _MOST_TURNS:
        raise ContourError(
            "bad-params",
            "the number of turns cannot be",
            where=Where(param="turns"),
            got=f"{turns:g}",
            need=f"more than 0, up to {_MOST_TURNS}",
            remedy="type another number of turns, or another pitch",
        )
    side = side_of(profiles, frame, axis)
    _require_apart(profiles, frame, axis, side, turns=turns, pitch=pitch, taper_deg=taper_deg)
    count = max(_FEWEST, int(np.ceil(turns * _EACH_TURN)) + 1)
    at = np.linspace(0.0, 1.0, count)
    ways = [_placed(t, axis, side, turns, pitch, taper_deg, left=left) for t in at]
    made = [_swept(p, frame, ways, at, prefix) for p in profiles]
    return made[0] if len(made) == 1 else together(made)


def _placed(
    t: float, axis: LaidAxis, side: Array, turns: float, pitch: float, taper_deg: float, *, left: bool
) -> Array:
    """Where the sketch's plane has come to at a share of the way, (4, 4)."""
    rise = t * turns * pitch
    angle = t * turns * 2 * np.pi * (-1 if left else 1) * (1 if pitch >= 0 else -1)
    r = Rotation.from_rotvec(angle * axis.direction).as_matrix()
    out = np.tan(np.radians(taper_deg)) * abs(rise)
    return placement(r, axis.origin - r @ axis.origin + rise * axis.direction + r @ (out * side))


def _swept(profile: Profile, frame: PlaneFrame, ways: list[Array], at: Array, prefix: str) -> NamedShape:
    face, keyed = profile_face(profile, frame)
    walls = []
    for entity, edge in keyed:
        places = places_along(edge)
        walls.append(Wall(f"{prefix}.side[{entity}]", np.stack([moved(m, places) for m in ways], axis=1), at))
    caps = [(f"{prefix}.{n}[{profile.id}]", moved_face(face, m)) for n, m in (("start", ways[0]), ("end", ways[-1]))]
    return skin(walls, caps, doing="going along the helix")


def _require_apart(
    profiles: Sequence[Profile],
    frame: PlaneFrame,
    axis: LaidAxis,
    side: Array,
    *,
    turns: float,
    pitch: float,
    taper_deg: float,
) -> None:
    """Raises ContourError (self-crossing) where a turn would lie in the next one, or the outline on the axis."""
    spots = np.vstack([frame.to_space(entity_points(e)) for p in profiles for e in p.outer.entities]) - axis.origin
    far, along = spots @ side, spots @ axis.direction
    least = float(far.min()) + min(0.0, np.tan(np.radians(taper_deg)) * abs(turns * pitch))
    if least < 1e-6:
        raise ContourError(
            "self-crossing",
            "the outline meets the axis on its way",
            where=Where(param="axis" if far.min() < 1e-6 else "taper"),
            got=f"{least:.3f} mm from the axis",
            need="an outline apart from the axis",
            remedy="move the outline outwards, or choose another axis or taper",
        )
    wide = float(np.ptp(along))
    if turns > 1 and abs(pitch) < wide - 1e-9 and abs(np.tan(np.radians(taper_deg)) * pitch) < float(np.ptp(far)):
        raise ContourError(
            "self-crossing",
            "the turns overlap",
            where=Where(param="pitch"),
            got=f"a pitch of {abs(pitch):g} mm, an outline of {wide:.3f} mm along the axis",
            need=f"a pitch of at least {wide:.3f} mm",
            remedy="type a larger pitch, or draw a narrower outline",
        )
