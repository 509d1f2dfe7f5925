"""Profiles of a sketch that something is made of: all of them, or those that were chosen, neighbours among them as one.

Faces of a drawing are joined along half-edges: where the next piece round a face has a chosen face on both sides, one goes on
round the other face (de Berg et al. 2008, ch. 2).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from shapely import unary_union
from shapely.geometry import Polygon

from contour.recipe.problem import ContourError, Where
from contour.sketch.entities import Entity, Face, Loop, Profile, Sketch, Way, entity_points, find_profiles

__all__ = ["chosen_profiles", "every_profile", "spot_within"]

_Ring = tuple[Way, ...]


def every_profile(sketch: Sketch) -> list[Profile]:
    """All that can be chosen. Raises ContourError as `chosen_profiles` does."""
    _require_whole(sketch)
    if sketch.faces is None:
        return find_profiles(sketch)
    pieces = {e.id: e for e in sketch.entities}
    return [_profile(pieces, f.name, f.outer, f.islands) for f in sketch.faces]


def chosen_profiles(sketch: Sketch, names: Sequence[str] | None = None) -> list[Profile]:
    """Profiles by their names; none: outermost regions are material, what lies in them is not, what lies in that is, and so on.

    Raises ContourError (no-profile, open-end, self-crossing, or why the sketch may not be used) with the entity and the place in space.
    """
    _require_whole(sketch)
    if sketch.faces is None:
        return _by_name(find_profiles(sketch), names)
    if not sketch.faces:
        raise ContourError(
            "no-profile",
            "nothing in the drawing closes" if sketch.entities else "nothing is drawn yet",
            got=f"{'one piece' if len(sketch.entities) == 1 else f'{len(sketch.entities)} pieces'}, around nothing",
            need="at least one closed region",
            remedy="draw what closes it; an open line makes a thin wall or a rib",
        )
    known = {f.name: f for f in sketch.faces}
    if names is None:
        return _joined(sketch, _outermost(sketch.faces))
    _require_known(names, list(known))
    return _joined(sketch, [known[n] for n in names])


def spot_within(profile: Profile) -> NDArray[np.float64]:
    """(2,): a point of the profile's own material, well away from its outlines, mm."""
    holes = unary_union([i.polygon for i in profile.islands])
    inside = profile.outer.polygon.difference(holes)
    # A profile as thin as its outline's chords may have nothing left between them.
    spot = (profile.outer.polygon if inside.is_empty else inside).representative_point()
    return np.array([spot.x, spot.y])


def _require_whole(sketch: Sketch) -> None:
    if sketch.refused is not None:
        raise ContourError.of(sketch.refused)


def _require_known(names: Sequence[str], known: Sequence[str]) -> None:
    lost = [n for n in names if n not in known]
    if lost or not names:
        raise ContourError(
            "no-profile",
            "the sketch has no such profile",
            where=Where(param="profiles"),
            got=", ".join(lost) or "none",
            need=f"some of {', '.join(known)}",
            remedy="choose the profiles again",
        )


def _by_name(profiles: list[Profile], names: Sequence[str] | None) -> list[Profile]:
    if names is None:
        return profiles
    known = {p.id: p for p in profiles}
    _require_known(names, list(known))
    return [known[n] for n in names]


def _outermost(faces: Sequence[Face]) -> list[Face]:
    """Faces of the groups that hang together and lie within an even number of others."""
    group = {f.name: f.name for f in faces}

    def root(name: str) -> str:
        while group[name] != name:
            name = group[name]
        return name

    owner: dict[str, str] = {}
    for f in faces:
        for piece, _ in f.outer:
            if piece in owner:
                group[root(f.name)] = root(owner[piece])
            owner[piece] = f.name
    within = {
        root(owner[piece]): root(f.name) for f in faces for island in f.islands for piece, _ in island if piece in owner
    }

    def depth(name: str) -> int:
        count = 0
        while name in within:
            name, count = within[name], count + 1
        return count

    return [f for f in faces if depth(root(f.name)) % 2 == 0]


def _joined(sketch: Sketch, faces: Sequence[Face]) -> list[Profile]:
    """One profile for each group of faces that share pieces, called as the first of them is."""
    after: dict[Way, Way] = {}
    owner: dict[Way, int] = {}
    for k, f in enumerate(faces):
        for ring in (f.outer, *f.islands):
            for way, following in zip(ring, (*ring[1:], ring[0]), strict=True):
                after[way] = following
                owner[way] = k
    back = {way: (way[0], not way[1]) for way in after}
    inner = {way for way in after if back[way] in after}
    group = list(range(len(faces)))
    for way in inner:
        a, b = sorted((group[owner[way]], group[owner[back[way]]]))
        group = [a if g == b else g for g in group]
    rings: dict[int, list[_Ring]] = {}
    left = dict.fromkeys(way for way in after if way not in inner)
    while left:
        begin = way = next(iter(left))
        walk: list[Way] = []
        while not walk or way != begin:
            walk.append(way)
            del left[way]
            way = after[way]
            while way in inner:
                way = after[back[way]]
        rings.setdefault(group[owner[begin]], []).append(tuple(walk))
    pieces = {e.id: e for e in sketch.entities}
    out = []
    for number in sorted(rings):
        outer, *islands = sorted(rings[number], key=lambda ring: -_signed_area(pieces, ring))
        out.append(_profile(pieces, faces[number].name, outer, tuple(islands)))
    return out


def _along(pieces: dict[str, Entity], ring: _Ring) -> list[Entity]:
    return [pieces[i] if ahead else pieces[i].reversed() for i, ahead in ring]


def _signed_area(pieces: dict[str, Entity], ring: _Ring) -> float:
    points = np.vstack([entity_points(e)[:-1] for e in _along(pieces, ring)])
    x, y = points.T
    return 0.5 * float(x @ np.roll(y, -1) - y @ np.roll(x, -1))


def _profile(pieces: dict[str, Entity], name: str, outer: _Ring, islands: tuple[_Ring, ...]) -> Profile:
    return Profile(_loop(pieces, name, outer), tuple(_loop(pieces, "", ring) for ring in islands))


def _loop(pieces: dict[str, Entity], name: str, ring: _Ring) -> Loop:
    """Loops are counter-clockwise, islands too."""
    entities = _along(pieces, ring)
    polygon = Polygon(np.vstack([entity_points(e)[:-1] for e in entities]))
    if not polygon.exterior.is_ccw:
        entities = [e.reversed() for e in reversed(entities)]
    return Loop(tuple(entities), polygon, name)
