"""Holes, threads and hollow bodies against closed forms: 200 placements drilled, all common threads in and out, 100 hollowed prisms."""

from __future__ import annotations

import math
import time
from collections.abc import Iterator
from typing import Any

import numpy as np
from shapely.geometry import Polygon

from contour.geometry.frames import plane_frame
from contour.metrology.standards.threads import Thread, threads
from contour.recipe.problem import ContourError
from contour.sketch.entities import Entity, Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.drilled import Bore, Mouth, drilled
from contour.solid.extrude import extrude
from contour.solid.face_geometry import face_surface
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.mouths import foot, into
from contour.solid.primitives import cone
from contour.solid.shape import NamedShape, faces
from contour.solid.shelled import shelled
from contour.solid.threaded import DEPTH, Fade, Ridge, stretch_of, threaded

__all__ = ["run"]

_UP = np.array([0.0, 0.0, 1.0])
_HOLES, _SHELLS, _WIDE = 200, 100, 120


def run() -> Iterator[tuple[str, str]]:
    yield _holes()
    yield _threads()
    yield _wide_threads()
    yield _shells()


def _prism(entities: list[Entity], height: float, prefix: str, z: float = 0.0) -> NamedShape:
    frame = plane_frame(np.array([0.0, 0.0, z]), _UP, np.array([1.0, 0.0, 0.0]))
    return extrude(find_profiles(Sketch(frame, tuple(entities))), frame, start_mm=0, end_mm=height, prefix=prefix)


def _lines(corners: Any) -> list[Entity]:
    return [
        Entity(f"e{k}", "line", tuple(map(float, a)), tuple(map(float, b)))
        for k, (a, b) in enumerate(zip(corners, [*corners[1:], corners[0]], strict=True))
    ]


def _on_face(rng: np.random.Generator) -> tuple[NamedShape, str, np.ndarray]:
    """A body, a face of it, and a place there: flat, drafted, round, or on the edge of a flat one."""
    kind = int(rng.integers(4))
    if kind == 0:
        return (
            _prism(_lines([(0, 0), (80, 0), (80, 60), (0, 60)]), 25, "b"),
            "b.end[e0]",
            np.array([*rng.uniform(20, 60, 2), 25.0]),
        )
    if kind == 1:
        frame = plane_frame(np.zeros(3), _UP, np.array([1.0, 0.0, 0.0]))
        made = find_profiles(Sketch(frame, tuple(_lines([(0, 0), (80, 0), (80, 60), (0, 60)]))))
        body = extrude(made, frame, start_mm=0, end_mm=30, draft_deg=float(rng.uniform(-8, 8)), prefix="b")
        return body, "b.side[e0]", np.array([rng.uniform(25, 55), 0.0, rng.uniform(12, 18)])
    if kind == 2:
        body = cone(np.zeros(3), np.array([1.0, 0, 0]), (0.0, 80.0), (20.0, 20.0), prefix="b")
        return (
            body,
            "b.side[wall]",
            np.array([rng.uniform(20, 60), *(20 * np.array([math.cos(a := rng.uniform(0, 6)), math.sin(a)]))]),
        )
    return (
        _prism(_lines([(0, 0), (80, 0), (80, 60), (0, 60)]), 25, "b"),
        "b.end[e0]",
        np.array([rng.uniform(20, 60), 0.0, 25.0]),
    )


def _holes() -> tuple[str, str]:
    rng = np.random.default_rng(22)
    right, refused, named = 0, 0, 0
    for _ in range(_HOLES):
        body, name, at = _on_face(rng)
        name = name if name in body.names else next(n for n in body.names if n.startswith(name.split("[")[0]))
        face = faces(body.shape)[body.names.index(name)]
        place = foot(face, at)
        way = into(face, place)
        d, depth = float(rng.uniform(2, 9)), float(rng.uniform(3, 9))
        mouth = Mouth(place, way, "1", "points[0]")
        try:
            made = drilled(body, Bore(d, depth), [mouth], prefix="h")
        except ContourError:
            refused += 1
            continue
        by_name = dict(zip(made.names, faces(made.shape), strict=True))
        wall = next((face_surface(f) for n, f in by_name.items() if n.startswith("h.side[bore-1]")), None)
        floor = next((face_surface(f) for n, f in by_name.items() if n.startswith("h.side[floor-1]")), None)
        if wall is None or floor is None:
            continue
        off_axis = float(np.linalg.norm(np.cross(wall.at - place, way)))
        end = float((floor.at - place) @ way)
        right += max(off_axis, abs(2 * wall.radius - d), abs(end - depth)) < 1e-6 and check_solid(made.shape).closed
        kept = [drilled(body, Bore(d * f, depth), [mouth], prefix="h").names for f in np.linspace(0.8, 1.1, 10)]
        named += all(any(n.startswith("h.side[bore-1]") for n in names) for names in kept)
    return (
        f"{_HOLES} holes on flat, drafted and round faces and across edges: size, axis and depth to 1e-6 (wanted all)",
        f"{right} right, {refused} refused; wall called the same through 10 changes in {named}",
    )


def _common() -> list[Thread]:
    coarse = [t for t in threads() if t.series == "ISO coarse" and 3 <= t.major <= 36]
    inch = [t for t in threads() if t.series == "UNC" and 2.8 < t.major < 25.5]
    return coarse + inch


def _section(t: Thread, *, inside: bool) -> float:
    """Area of a full thread's section square to its axis, mm²."""
    crest, root = (t.minor, t.major) if inside else (t.major, t.major - 2 * DEPTH * t.pitch)
    flat = t.pitch / 4 if inside else t.pitch / 8
    flank = abs(crest - root) / 2 * math.tan(math.radians(30))
    corners = np.cumsum([0, flat, flank, t.pitch - flat - 2 * flank, flank]) / t.pitch
    q = np.linspace(0, 1, 40001)
    r = np.interp(q, corners, np.array([crest, crest, root, root, crest]) / 2)
    return math.pi * float(np.trapezoid(r * r, q))


def _threads() -> tuple[str, str]:
    done, off, took, tried = 0, [], [], 0
    for t in _common():
        length = 1.5 * t.major
        outer = t.major / 2
        ridge = Ridge(outer, outer - DEPTH * t.pitch, t.pitch)
        for inside in (False, True):
            tried += 1
            if inside:
                side = 2.2 * t.major
                ring = Entity("c", "arc", (t.minor / 2, 0), (t.minor / 2, 0), (-t.minor / 2, 0))
                body = _prism(
                    [*_lines([(-side, -side), (side, -side), (side, side), (-side, side)]), ring], length, "b"
                )
                face, want = "b.side[c]", 4 * side * side * length - _section(t, inside=True) * length
            else:
                body = cone(np.zeros(3), _UP, (0.0, length), (outer, outer), prefix="b")
                face, want = "b.side[wall]", _section(t, inside=False) * length
            begun = time.perf_counter()
            try:
                on = stretch_of(body, face)
                made = threaded(
                    body,
                    on,
                    ridge,
                    low=on.low,
                    high=on.high,
                    fades=("none", "none"),
                    fade_mm=t.pitch,
                    built=False,
                    prefix="t",
                )
            except ContourError:
                continue
            took.append(time.perf_counter() - begun)
            found = check_solid(made.shape)
            taken = abs(volume(body.shape) - want)
            off.append(abs(found.volume - want) / taken)
            done += found.closed and found.valid and found.solids == 1
    return (
        f"{tried} threads, ISO coarse M3 to M36 and UNC #4 to 1, outside and inside: one closed valid solid (wanted all), volume of the thread (within 0.5 %)",
        f"{done} closed and valid; worst {100 * max(off):.4f} %; median {np.median(took):.2f} s (wanted at most 3)",
    )


def _wide_threads() -> tuple[str, str]:
    """In holes wider than the crests and on shafts thinner than them, several starts, either hand, every way to begin and end."""
    rng = np.random.default_rng(5)
    known = [t for t in threads() if t.major <= 42]
    done, said = 0, []
    for _ in range(_WIDE):
        t = known[int(rng.integers(len(known)))]
        inside, starts = bool(rng.integers(2)), int(rng.choice([1, 1, 2, 3]))
        deep, outer = DEPTH * t.pitch, t.major / 2
        radius = float(outer - deep * (rng.uniform(0.25, 1) if inside else rng.uniform(0, 0.75)))
        length = float(t.pitch * (2 + starts * rng.uniform(2.1, 5)))
        body = cone(np.zeros(3), _UP, (0.0, length), (radius, radius), prefix="b")
        if inside:
            block = cone(np.zeros(3), _UP, (-3.0, length), (2 * outer + 2, 2 * outer + 2), prefix="block")
            body = combine(block, body, "subtract")
        on = stretch_of(body, next(n for n in body.names if n.startswith("b.side[wall]")))
        low = on.low + (0.3 * t.pitch if rng.random() < 0.4 else 0.0)
        fades: tuple[Fade, Fade] = ("out", "in")
        if not inside and low == on.low:
            fades = ("in" if rng.integers(2) else "none", "in" if rng.integers(2) else "none")
        ridge = Ridge(outer, outer - deep, t.pitch, starts, bool(rng.integers(2)))
        over = float(t.pitch * rng.uniform(0.5, 1.5))
        try:
            made = threaded(body, on, ridge, low=low, high=on.high, fades=fades, fade_mm=over, built=False, prefix="t")
        except ContourError as error:
            said.append(error.problem.message)
            continue
        found = check_solid(made.shape)
        done += found.closed and found.valid and found.solids == 1
    return (
        f"{_WIDE} threads on faces of another diameter than their crests, up to three starts: one closed valid solid (wanted all)",
        f"{done}{'; ' + ', '.join(sorted(set(said))) if said else ''}",
    )


def _shells() -> tuple[str, str]:
    """Convex prisms of random corners: the hollow is the outline offset inwards, which a plane geometry library knows."""
    rng = np.random.default_rng(23)
    right, wrong, refused = 0, 0, 0
    for _ in range(_SHELLS):
        angles = np.sort(rng.uniform(0, 2 * np.pi, int(rng.integers(4, 9))))
        if np.diff(np.append(angles, angles[0] + 2 * np.pi)).max() > 2.6 or np.diff(angles).min() < 0.25:
            angles = np.arange(6) * np.pi / 3 + rng.uniform(-0.2, 0.2, 6)
        corners = np.column_stack([np.cos(angles), np.sin(angles)]) * rng.uniform(20, 40)
        height, t, low = float(rng.uniform(10, 30)), float(rng.uniform(0.8, 4)), float(rng.uniform(0.8, 4))
        body = _prism(_lines(corners), height, "b")
        top = next(n for n in body.names if ".end" in n)
        floor = next(n for n in body.names if ".start" in n)
        inner = Polygon(corners).buffer(-t, join_style="mitre", mitre_limit=50)
        want = Polygon(corners).area * height - inner.area * (height - low)
        try:
            made = shelled(body, [top], t, {floor: low}, outward=False, prefix="s")
        except ContourError:
            refused += 1
            continue
        good = abs(volume(made.shape) / want - 1) < 1e-6
        right += good
        wrong += not good
    return (
        f"{_SHELLS} hollowed prisms with a floor of its own: volume within 1e-6 (wanted 95 right, 0 wrong)",
        f"{right} right, {wrong} wrong, {refused} refused",
    )
