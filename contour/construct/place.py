"""A plane, axis or point in space with its standard uncertainties, and how uncertainties pass on.

Reference for passing on: JCGM 100:2008, 5.1.2, with the sensitivities found by moving each input by its own standard
uncertainty.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from contour.geometry.surfaces import Surface
from contour.geometry.vectors import Vec3, square_to, triple, unit

__all__ = ["Array", "Place", "Shape", "place_of_surface", "spread"]

Array = NDArray[np.float64]
Shape = Literal["plane", "axis", "point"]


@dataclass(frozen=True, slots=True)
class Place:
    """shape plane: `direction` its unit normal; axis: its unit direction; point: no meaning. mm, scan frame.

    u: mm, of a plane along its normal at `origin`, of an axis across itself there, of a point along each direction ·
    u_tilt: radians, of the direction about each axis across it · radius, u_radius: mm, of a round place ·
    reach: mm, how far it is to be drawn from its origin · span: mm, of a cylinder, from where to where along its axis, counted from its origin.
    """

    shape: Shape
    origin: Vec3
    direction: Vec3 = (0.0, 0.0, 1.0)
    u: float = 0.0
    u_tilt: float = 0.0
    radius: float = 0.0
    u_radius: float = 0.0
    reach: float = 0.0
    span: tuple[float, float] = (0.0, 0.0)

    @property
    def kind(self) -> str:
        return self.shape

    @property
    def at(self) -> Array:
        return np.array(self.origin)

    @property
    def along(self) -> Array:
        return np.array(self.direction)


def place_of_surface(surface: Surface, *, middle: Array, reach: float, u: dict[str, float]) -> Place:
    """What a fitted surface stands for: its plane, axis or centre, abreast of the middle of its facets, where its position is
    best known. `u` as :meth:`contour.fit.covariance.Covariance.as_json` gives it.

    middle (3,) and reach, mm.
    """
    o, a = np.array(surface.origin), np.array(surface.axis)
    sure = Place(
        "axis",
        triple(o),
        triple(a),
        u=u.get("position", 0.0),
        u_tilt=u.get("direction", 0.0),
        radius=surface.radius,
        u_radius=u.get("radius", 0.0),
        reach=reach,
    )
    if surface.kind == "plane":
        return replace(sure, shape="plane", origin=triple(middle - ((middle - o) @ a) * a))
    if surface.kind == "sphere":
        return replace(sure, shape="point", direction=(0.0, 0.0, 1.0))
    if surface.kind == "torus":
        return sure
    return replace(sure, origin=triple(o + ((middle - o) @ a) * a))


def _tilted(p: Place, about: Array, angle: float) -> Place:
    return replace(p, direction=triple(unit(p.along + angle * np.cross(about, p.along))))


def moved_by_u(p: Place) -> list[Place]:
    """The place moved by each of its standard uncertainties in turn."""
    out = []
    ways: tuple[Array, ...]
    if p.shape == "plane":
        ways = (p.along,)
    elif p.shape == "axis":
        ways = square_to(p.along)
    else:
        ways = tuple(np.eye(3))
    if p.u:
        out += [replace(p, origin=triple(p.at + p.u * w)) for w in ways]
    if p.u_tilt and p.shape != "point":
        out += [_tilted(p, w, p.u_tilt) for w in square_to(p.along)]
    if p.u_radius:
        out.append(replace(p, radius=p.radius + p.u_radius))
    return out


def spread(of: Callable[[Sequence[Place]], float | Array], places: Sequence[Place]) -> Array:
    """Standard uncertainty of each number that `of` makes from places that know nothing of each other.

    (k,) in the units of `of`, which returns one number or k of them.
    """
    base = np.atleast_1d(np.asarray(of(places), np.float64))
    total = np.zeros_like(base)
    for i, p in enumerate(places):
        for q in moved_by_u(p):
            total += (np.atleast_1d(np.asarray(of([*places[:i], q, *places[i + 1 :]]))) - base) ** 2
    return np.sqrt(total)


def with_spread(make: Callable[[Sequence[Place]], Place], places: Sequence[Place]) -> Place:
    """What `make` makes of the places, with the uncertainty that follows from theirs."""
    made = make(places)
    a, b = square_to(made.along)

    def numbers(given: Sequence[Place]) -> Array:
        p = make(given)
        off = p.at - made.at
        if made.shape == "plane":  # how far the other plane lies from this one's origin
            position = [float(off @ p.along)]
        elif made.shape == "axis":
            position = [float((off - (off @ p.along) * p.along) @ w) for w in (a, b)]
        else:
            position = [float(x) for x in off]
        return np.array([float(p.along @ a), float(p.along @ b), *position])

    u = spread(numbers, places)
    tilt = float(u[:2].max()) if made.shape != "point" else 0.0
    return replace(made, u=float(u[2:].max()), u_tilt=tilt)
