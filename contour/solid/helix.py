"""Profiles moved along a helix about an axis in their plane: turned and pushed evenly, nearer or farther as they go where it tapers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

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
from contour.solid.turns import Contact, contact_of, let_in
from contour.solid.wires import profile_face

__all__ = ["Coiling", "coil", "coil_onto"]

Array = NDArray[np.float64]
_EACH_TURN = 32  # sections of a turn: the helix is met to 1e-9 of its radius
_EACH_SINGLE = 64  # of a wall of a turn or less, to the same
_FEWEST = 17
_MOST_TURNS = 400


@dataclass(frozen=True, slots=True)
class Coiling:
    """turns: more than none, fractions too · pitch: mm along the axis in each turn, negative against it · taper_deg: of its half cone, growing along
    the way it goes."""

    turns: float
    pitch: float
    left: bool = False
    taper_deg: float = 0.0

    @property
    def shift(self) -> tuple[float, float]:
        """How a turn changes a profile's place: (away from the axis, along it), mm."""
        return (float(np.tan(np.radians(self.taper_deg))) * abs(self.pitch), self.pitch)


def coil(profiles: Sequence[Profile], frame: PlaneFrame, axis: LaidAxis, way: Coiling, *, prefix: str) -> NamedShape:
    """The solid that profiles sweep on their way along a helix. Turns that meet in whole walls are one, without these walls.

    Faces are named ``prefix.side[entity]``, ``prefix.start[profile]`` and ``prefix.end[profile]``; where turns meet in walls, ``prefix.side[entity-k]``.
    Raises ContourError (bad-params), (self-crossing) where turns overlap or the outline meets the axis, (body-broken).
    """
    _require_turns(way.turns)
    side = side_of(profiles, frame, axis)
    _require_off_axis(profiles, frame, axis, side, way)
    contact = contact_of(profiles, frame, axis, side, way.shift, way.turns)
    try:
        made = [_swept(p, _Along(frame, axis, side, way), contact, (0.0, way.turns), prefix) for p in profiles]
    except ContourError as error:
        raise _touching(error, contact) from None
    return made[0] if len(made) == 1 else together(made)


def _touching(error: ContourError, contact: Contact) -> ContourError:
    """What is said where turns that only touch in corners do not make a body by themselves."""
    if contact.kind != "edges" or error.problem.code != "body-broken":
        return error
    return ContourError(
        "self-crossing",
        "the turns touch each other in an edge only, which is no solid connection",
        where=Where(param="pitch", point=contact.at),
        got=error.problem.got,
        need="turns that meet in walls, or not at all, or a body that carries them",
        remedy="add it to a body, or type a pitch a little larger",
    )


def coil_onto(
    profiles: Sequence[Profile],
    frame: PlaneFrame,
    axis: LaidAxis,
    way: Coiling,
    bodies: Sequence[NamedShape],
    *,
    adds: bool,
    prefix: str,
) -> list[NamedShape]:
    """What bodies have to be joined with (adds), or what has to be taken from them, one after the other, for the same result as with :func:`coil`.

    Where the profile lies on a round face of theirs it goes on a little past it; where turns meet in corners they are given in halves, first those of every
    other turn: edges that lie on each other then do so as a whole. Faces as of :func:`coil`; of halves ``prefix.side[entity-k]``.
    """
    _require_turns(way.turns)
    side = side_of(profiles, frame, axis)
    _require_off_axis(profiles, frame, axis, side, way)
    contact = contact_of(profiles, frame, axis, side, way.shift, way.turns)
    standing = list(profiles)
    if way.taper_deg == 0:
        rise = way.turns * way.pitch
        standing = [let_in(p, frame, axis, side, bodies, rise=rise, adds=adds) for p in profiles]
    along = _Along(frame, axis, side, way)
    if contact.kind != "edges":
        made = [_swept(p, along, contact, (0.0, way.turns), prefix) for p in standing]
        return [made[0] if len(made) == 1 else together(made)]
    halves = list(pairwise([*np.arange(0.0, way.turns - 1e-6, 0.5), way.turns]))
    apart = Contact("apart")
    return [
        _swept(p, along, apart, halves[k], prefix, number=k)
        for turn in (0, 1)
        for k in range(len(halves))
        if (k // 2) % 2 == turn
        for p in standing
    ]


@dataclass(frozen=True, slots=True, eq=False)
class _Along:
    frame: PlaneFrame
    axis: LaidAxis
    side: Array
    way: Coiling

    def at(self, turn: float) -> Array:
        """Where the sketch's plane has come to after so many turns, (4, 4)."""
        way, axis = self.way, self.axis
        rise = turn * way.pitch
        angle = turn * 2 * np.pi * (-1 if way.left else 1) * (1 if way.pitch >= 0 else -1)
        r = Rotation.from_rotvec(angle * axis.direction).as_matrix()
        out = turn * way.shift[0]
        return placement(r, axis.origin - r @ axis.origin + rise * axis.direction + r @ (out * self.side))


def _swept(
    profile: Profile, along: _Along, contact: Contact, span: tuple[float, float], prefix: str, number: int | None = None
) -> NamedShape:
    """One profile from turn to turn. number: of a part of the way."""
    face, keyed = profile_face(profile, along.frame)
    first, last = span
    lower, upper = ({pair[k] for pair in contact.pairs} for k in (1, 0))
    cuts = [first, last]
    if contact.kind == "faces":
        # Where a turn begins or ends beside another one, that one's walls are parted too.
        whole = range(int(last) + 1)
        cuts = sorted({round(c, 9) for k in whole for c in (float(k), last - k) if 0 <= c <= last})
    walls = []
    for entity, edge in keyed:
        places = places_along(edge)
        for k, (a, b) in enumerate(pairwise(cuts)):
            if (entity in upper and b <= last - 1 + 1e-6) or (entity in lower and a >= 1 - 1e-6):
                continue
            each = _EACH_TURN if b - a > 1 + 1e-6 else _EACH_SINGLE
            count = max(_FEWEST, int(np.ceil((b - a) * each - 1e-6)) + 1)
            spots = np.stack([moved(along.at(t), places) for t in np.linspace(a, b, count)], axis=1)
            which = number if number is not None else k if len(cuts) > 2 else None
            walls.append(Wall(f"{prefix}.side[{_numbered(entity, which)}]", spots, np.linspace(0.0, 1.0, count)))
    caps = [
        (f"{prefix}.{n}[{_numbered(profile.id, number)}]", moved_face(face, along.at(t)))
        for n, t in (("start", first), ("end", last))
    ]
    return skin(walls, caps, doing="going along the helix")


def _numbered(name: str, number: int | None) -> str:
    return name if number is None else f"{name}-{number}"


def _require_turns(turns: float) -> None:
    if not 0 < turns <= _MOST_TURNS:
        raise ContourError(
            "bad-params",
            "the number of turns cannot be",
            where=Where(param="turns"),
            got=f"{turns:g}",
            need=f"more than 0, up to {_MOST_TURNS}",
            remedy="type another number of turns, or another pitch",
        )


def _require_off_axis(
    profiles: Sequence[Profile], frame: PlaneFrame, axis: LaidAxis, side: Array, way: Coiling
) -> None:
    """Raises ContourError (self-crossing) where the outline would lie on the axis."""
    spots = np.vstack([frame.to_space(entity_points(e)) for p in profiles for e in p.outer.entities]) - axis.origin
    far = float((spots @ side).min())
    least = far + min(0.0, way.shift[0] * way.turns)
    if least < 1e-6:
        raise ContourError(
            "self-crossing",
            "the outline meets the axis on its way",
            where=Where(param="axis" if far < 1e-6 else "taper"),
            got=f"{least:.3f} mm from the axis",
            need="an outline apart from the axis",
            remedy="move the outline outwards, or choose another axis or taper",
        )
