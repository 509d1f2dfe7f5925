"""Solids from profiles against closed forms: revolves by Pappus' theorem, faces of prisms moved by their own area."""

from __future__ import annotations

import math
import time
from collections.abc import Iterator

import numpy as np
from shapely.geometry import Polygon

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.entities import Sketch, find_profiles
from contour.solid.extrude import extrude
from contour.solid.gate import check_solid
from contour.solid.revolve import axis_in_plane, revolve
from contour.solid.shifted import shifted

__all__ = ["run"]

_EACH = 100


def run() -> Iterator[tuple[str, str]]:
    yield from _told("revolves, random outline, axis and angle", _revolved)
    yield from _told("an end face of a prism moved", _moved)


def _told(what: str, one) -> Iterator[tuple[str, str]]:  # type: ignore[no-untyped-def]
    rng = np.random.default_rng(5)
    off, bad, refused, took = [], 0, 0, []
    for _ in range(_EACH):
        begun = time.perf_counter()
        try:
            shape, volume = one(rng)
        except ContourError:
            refused += 1
            continue
        took.append(time.perf_counter() - begun)
        found = check_solid(shape)
        bad += not (found.closed and found.valid)
        off.append(abs(found.volume / volume - 1))
    yield (
        f"{_EACH} {what}: volume (wanted within 1e-6, closed and valid 100 %)",
        f"worst {max(off):.1e}; {bad} open or invalid, {refused} refused; median {1000 * np.median(took):.0f} ms",
    )


def _flat():  # type: ignore[no-untyped-def]
    return plane_frame(np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))


def _revolved(rng: np.random.Generator):  # type: ignore[no-untyped-def]
    p = star_outline(rng)
    turned = rng.uniform(0, 2 * np.pi)
    along, across = np.array([np.cos(turned), np.sin(turned)]), np.array([-np.sin(turned), np.cos(turned)])
    origin = across * (float((p @ across).min()) - rng.uniform(0.01, 20))
    far = float((np.array(Polygon(p).centroid.coords[0]) - origin) @ across)
    degrees = 360.0 if rng.random() < 0.3 else float(rng.uniform(5, 360))
    frame = _flat()
    axis = axis_in_plane(frame, np.append(origin, 0.0), np.append(along, 0.0))
    profiles = find_profiles(Sketch(frame, tuple(entities_of(p))))
    made = revolve(profiles, frame, axis, start_deg=0.0, end_deg=degrees, prefix="b")
    return made.shape, math.radians(degrees) * far * Polygon(p).area


def _moved(rng: np.random.Generator):  # type: ignore[no-untyped-def]
    p = star_outline(rng)
    frame = _flat()
    prism = extrude(find_profiles(Sketch(frame, tuple(entities_of(p)))), frame, start_mm=0.0, end_mm=6.0, prefix="b")
    by = float(rng.uniform(-5, 8))
    made = shifted(prism, {prism.names.index("b.end[p1]"): by}, prefix="s")
    return made.shape, Polygon(p).area * (6.0 + by)
