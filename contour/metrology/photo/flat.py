"""Straightening: from pixels of a photo to pixels of a flat plane seen square on.

A photo's pixel is where a straight ray lands after the lens has bent it outwards or inwards (one radial term); the plane's
perspective is a homography. Both are known from four picked corners of a rectangle, the lens from its sides, which are
straight. Reference: Hartley and Zisserman, Multiple View Geometry, 4.1 (DLT) and 7.4 (radial distortion).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates
from scipy.optimize import minimize_scalar

from contour.recipe.problem import ContourError

__all__ = ["Flat", "FlatPixels", "aspect_of", "flat_of", "homography", "lens_of"]

Array = NDArray[np.float64]
_LONGEST = 4000


def homography(source: Array, target: Array) -> Array:
    """(3, 3) that takes points (n >= 4, 2) to others, least squares on normalised coordinates."""

    def normalised(p: Array) -> tuple[Array, Array]:
        middle, size = p.mean(axis=0), float(np.abs(p - p.mean(axis=0)).mean()) or 1.0
        t = np.array([[1 / size, 0, -middle[0] / size], [0, 1 / size, -middle[1] / size], [0, 0, 1]])
        return (p - middle) / size, t

    a, ta = normalised(source)
    b, tb = normalised(target)
    rows = []
    for (x, y), (u, v) in zip(a, b, strict=True):
        rows.append([-x, -y, -1, 0, 0, 0, u * x, u * y, u])
        rows.append([0, 0, 0, -x, -y, -1, v * x, v * y, v])
    _, _, vt = np.linalg.svd(np.array(rows))
    h = np.linalg.inv(tb) @ vt[-1].reshape(3, 3) @ ta
    return np.asarray(h / h[2, 2])


def _mapped(h: Array, p: Array) -> Array:
    q = np.column_stack([p, np.ones(len(p))]) @ h.T
    return np.asarray(q[:, :2] / q[:, 2:])


@dataclass(frozen=True, slots=True)
class Flat:
    """How a photo of (w, h) pixels lies flat: `bend` is the lens's term, `h` takes straight pixels to flat ones, and the
    flat picture has `size` pixels."""

    photo: tuple[int, int]
    bend: float
    h: Array
    size: tuple[int, int]
    inverse: Array = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "inverse", np.linalg.inv(self.h))

    @property
    def _middle(self) -> Array:
        return (np.array(self.photo, float) - 1) / 2

    @property
    def _reach(self) -> float:
        return float(np.hypot(*self.photo)) / 2

    def bent(self, p: Array) -> Array:
        """Where straight rays (n, 2) land in the photo."""
        d = (p - self._middle) / self._reach
        return np.asarray(self._middle + d * (1 + self.bend * (d**2).sum(axis=1, keepdims=True)) * self._reach)

    def straight(self, p: Array) -> Array:
        """The rays behind pixels (n, 2) of the photo."""
        d = (p - self._middle) / self._reach
        u = d.copy()
        for _ in range(12):
            u = d / (1 + self.bend * (u**2).sum(axis=1, keepdims=True))
        return np.asarray(self._middle + u * self._reach)

    def to_flat(self, p: Array) -> Array:
        return _mapped(self.h, self.straight(np.asarray(p, float)))

    def to_photo(self, p: Array) -> Array:
        return self.bent(_mapped(self.inverse, np.asarray(p, float)))

    def bands(self, photo: NDArray[np.uint8], longest: int, rows: int = 64) -> Iterator[NDArray[np.uint8]]:
        """The flat picture of photo pixels (h, w, 3), at most `longest` pixels long, some rows at a time: (rows, w, 3), white
        outside the photo. A pixel that stands for several of the flat picture is their mean."""
        wide, high = self.shown_size(longest)
        scale = self.size[0] / wide
        fine = math.ceil(scale - 1e-9)
        inside = (np.arange(fine) + 0.5) / fine - 0.5
        x = ((np.arange(wide)[:, None] + inside) * scale + (scale - 1) / 2).ravel()
        for first in range(0, high, rows):
            count = min(rows, high - first)
            y = ((np.arange(first, first + count)[:, None] + inside) * scale + (scale - 1) / 2).ravel()
            at = self.to_photo(np.column_stack([np.tile(x, len(y)), np.repeat(y, len(x))]))
            where = [at[:, 1].reshape(len(y), len(x)), at[:, 0].reshape(len(y), len(x))]
            layers = [
                map_coordinates(photo[..., k], where, output=np.float32, order=1, cval=255)
                for k in range(photo.shape[2])
            ]
            fine_rows = np.stack(layers, axis=-1).reshape(count, fine, wide, fine, photo.shape[2])
            yield (fine_rows.mean(axis=(1, 3)) + 0.5).clip(0, 255).astype(np.uint8)

    def shown_size(self, longest: int) -> tuple[int, int]:
        """(width, height) of the flat picture when it may be `longest` pixels long."""
        scale = min(1.0, longest / max(self.size))
        return max(round(scale * self.size[0]), 1), max(round(scale * self.size[1]), 1)


@dataclass(frozen=True, slots=True)
class FlatPixels:
    """The flat picture to look for edges in: brightness at places of it, read from the photo itself, so that it is never made
    as a whole. `photo`: (h, w) uint8, mapped from disk as a rule."""

    photo: NDArray[np.uint8]
    flat: Flat

    @property
    def shape(self) -> tuple[int, int]:
        return self.flat.size[1], self.flat.size[0]

    def at(self, x: Array, y: Array) -> Array:
        """Brightness 0 to 1 at places of the flat picture, of any shape; outside the photo it is white."""
        p = self.flat.to_photo(np.column_stack([np.ravel(x), np.ravel(y)]))
        found = map_coordinates(self.photo, [p[:, 1], p[:, 0]], output=np.float32, order=1, cval=255)
        return np.asarray(found.reshape(np.shape(x)) / 255.0, np.float64)


def aspect_of(corners: Array, photo: tuple[int, int]) -> float:
    """Width over height of a rectangle by its four corners (top left, then clockwise) in a photo of square pixels whose
    optical axis passes its middle. Reference: Zhang and He, Whiteboard scanning (2006), section 4.

    Where the perspective is too weak to tell, the mean sides do. corners (4, 2), pixels.
    """
    m1, m2, m4, m3 = (np.array([*(c - (np.array(photo) - 1) / 2), 1.0]) for c in corners)
    sides = [np.linalg.norm(corners[(k + 1) % 4] - corners[k]) for k in range(4)]
    plain = float((sides[0] + sides[2]) / (sides[1] + sides[3]))
    k2 = np.cross(m1, m4) @ m3 / (np.cross(m2, m4) @ m3)
    k3 = np.cross(m1, m4) @ m2 / (np.cross(m3, m4) @ m2)
    n2, n3 = k2 * m2 - m1, k3 * m3 - m1
    if abs(n2[2]) < 1e-3 or abs(n3[2]) < 1e-3:
        return plain
    square = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
    # A focal length of less than half or more than ten picture widths is noise, not a camera.
    if not (0.3 * max(photo)) ** 2 < square < (10 * max(photo)) ** 2:
        return plain
    a = n2[0] ** 2 + n2[1] ** 2 + square * n2[2] ** 2
    b = n3[0] ** 2 + n3[1] ** 2 + square * n3[2] ** 2
    return float(math.sqrt(a / b))


def lens_of(sides: list[Array], photo: tuple[int, int]) -> float:
    """The lens's term by points along lines that are straight in truth: the one that leaves them straightest.

    Each side (n, 2), pixels.
    """
    if not sides or min(len(s) for s in sides) < 5:
        return 0.0

    def crooked(bend: float) -> float:
        flat = Flat(photo, bend, np.eye(3), photo)
        total = 0.0
        for side in sides:
            p = flat.straight(side)
            q = p - p.mean(axis=0)
            total += float(np.linalg.svd(q, compute_uv=False)[1] ** 2)
        return total

    found = minimize_scalar(crooked, bounds=(-0.4, 0.4), method="bounded", options={"xatol": 1e-5})
    return float(found.x)


def flat_of(
    photo: tuple[int, int],
    *,
    corners: Array | None = None,
    aspect: float | None = None,
    bend: float = 0.0,
    turn_deg: float = 0.0,
) -> Flat:
    """The straightening by a rectangle's corners (top left, then clockwise, photo pixels), or by a turn alone.

    The flat picture shows what the photo does, up to half the rectangle's size around it, at the photo's resolution.
    Raises ContourError (bad-params) for corners that are no rectangle seen in perspective. corners (4, 2).
    """
    if corners is None:
        a = math.radians(turn_deg)
        r = np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]])
        box = np.array([[0, 0], [photo[0] - 1, 0], [photo[0] - 1, photo[1] - 1], [0, photo[1] - 1]], float) @ r.T
        low = box.min(axis=0)
        size = np.ceil(np.ptp(box, axis=0)).astype(int) + 1
        h = np.eye(3)
        h[:2, :2], h[:2, 2] = r, -low
        return Flat(photo, bend, h, (int(size[0]), int(size[1])))
    c = np.asarray(corners, float)
    turns = [
        float(np.cross(np.append(c[(k + 1) % 4] - c[k], 0), np.append(c[(k + 2) % 4] - c[(k + 1) % 4], 0))[2])
        for k in range(4)
    ]
    if not (all(t > 1 for t in turns) or all(t < -1 for t in turns)):
        raise ContourError(
            "bad-params",
            "the four corners do not go once around a rectangle",
            need="top left, then clockwise",
            got="corners in another order",
            remedy="drag the corners onto those of a card, a plate or the part",
        )
    lens = Flat(photo, bend, np.eye(3), photo)
    straight = lens.straight(c)
    shape = aspect if aspect is not None else aspect_of(straight, photo)
    sides = [float(np.linalg.norm(c[(k + 1) % 4] - c[k])) for k in range(4)]
    wide = max(sides[0], sides[2])
    high = max(sides[1], sides[3])
    wide = max(wide, high * shape)
    high = wide / shape
    target = np.array([[0, 0], [wide, 0], [wide, high], [0, high]])
    h = homography(straight, target)
    # As far as the photo reaches, but not beyond half a rectangle more on each side.
    edge = np.linspace(0, 1, 9)
    x, y = (photo[0] - 1) * edge, (photo[1] - 1) * edge
    rim = np.vstack(
        [
            np.column_stack([a, b])
            for a, b in ((x, 0 * x), (x, 0 * x + photo[1] - 1), (0 * y, y), (0 * y + photo[0] - 1, y))
        ]
    )
    rays = lens.straight(rim)
    w = np.column_stack([rays, np.ones(len(rays))]) @ h[2]
    inside = np.sign(w) == np.sign(h[2] @ np.append(straight.mean(axis=0), 1))
    seen = _mapped(h, rays[inside]) if inside.any() else target
    low = np.maximum(seen.min(axis=0), [-0.5 * wide, -0.5 * high])
    top = np.minimum(seen.max(axis=0), [1.5 * wide, 1.5 * high])
    scale = min(1.0, _LONGEST / float((top - low).max()))
    shift = np.array([[scale, 0, -scale * low[0]], [0, scale, -scale * low[1]], [0, 0, 1]])
    size = np.ceil(scale * (top - low)).astype(int) + 1
    return Flat(photo, bend, shift @ h, (int(size[0]), int(size[1])))
