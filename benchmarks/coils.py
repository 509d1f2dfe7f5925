"""A hundred free profiles along a helix against closed forms: fractional turns, tapered ones, turns that touch; alone, on shafts, sunk into them and cut from them."""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Iterator

import numpy as np
from shapely.affinity import translate
from shapely.geometry import Polygon, box

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.star_outlines import entities_of, star_outline
from contour.sketch.entities import Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.gate import check_solid
from contour.solid.helix import Coiling, coil, coil_onto
from contour.solid.primitives import cone
from contour.solid.revolve import axis_in_plane
from contour.solid.shape import NamedShape

__all__ = ["run"]

_COUNT = 100
_UP = np.array([0.0, 1.0, 0.0])
_FRAME = plane_frame(np.zeros(3), np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
_NEAR = 1e-3  # of what it adds or takes


def run(count: int = _COUNT) -> Iterator[tuple[str, str]]:
    ends: Counter[str] = Counter()
    took, said = [], []
    for seed in range(count):
        begun = time.perf_counter()
        name, end = _tried(np.random.default_rng([25, seed]))
        took.append(time.perf_counter() - begun)
        ends[end.split(":")[0]] += 1
        if end != "right":
            said.append(f"{seed} {name}: {end}")
    yield (
        f"{count} free profiles along a helix, a third with touching turns, a third tapered: right to 0.1 % of their volume (wanted >= 97 %, 0 wrong)",
        f"{ends['right']} right, {ends['wrong']} wrong, {ends['refused']} refused, {ends['no place']} of these without a place; median {np.median(took):.1f} s",
    )
    for line in said:
        yield "  not right", line


def _tried(rng: np.random.Generator) -> tuple[str, str]:
    """(what it was, how it ended)."""
    outline, form = _outline(rng)
    high = float(np.ptp(outline[:, 1]))
    kind = ("alone", "on", "sunk", "cut")[int(rng.integers(4))]
    radius = float(rng.uniform(6, 20)) + (6 if form == "star" else 0)
    touching = rng.random() < 0.35
    taper = float(rng.uniform(-2, 2)) if not touching and kind in ("alone", "sunk") and rng.random() < 0.6 else 0.0
    turns, pitch = float(rng.uniform(0.3, 4)), high * (1.0 if touching else float(rng.uniform(1.05, 2)))
    drift = math.tan(math.radians(taper)) * turns * pitch
    least, most = outline[:, 0].min(), outline[:, 0].max()
    wide = most - least
    # Where the profile is to the shaft's surface: a sunk one stays in it, and out of it, on all its way.
    aside = {"alone": 0.0, "on": -least, "sunk": -least - wide * rng.uniform(0.3, 0.6), "cut": -most}[kind]
    if kind == "sunk" and abs(drift) > 0.25 * wide:
        taper = drift = 0.0
    outline = outline + [radius + aside, -outline[:, 1].mean()]
    way = Coiling(turns, pitch, left=bool(rng.random() < 0.5), taper_deg=taper)
    shaft = cone(np.array([0, -2 * high, 0]), _UP, (0.0, turns * pitch + 5 * high), (radius, radius), prefix="shaft")
    name = f"{form} {kind}{' touching' if touching else ''}{' tapered' if taper else ''}, {turns:.2f} turns"
    try:
        made = _made(outline, way, shaft, kind)
    except ContourError as error:
        where = error.problem.where
        return (
            name,
            f"{'refused' if where.point or where.entity or where.param else 'no place'}: {error.problem.message}",
        )
    found = check_solid(made.shape)
    truth = _truth(outline, way, radius, kind)
    got = found.volume - (0.0 if kind == "alone" else math.pi * radius**2 * (turns * pitch + 5 * high))
    if not (found.closed and found.valid and found.solids == 1) or abs(abs(got) / truth - 1) > _NEAR:
        return name, f"wrong: {abs(got) / truth - 1:+.1e}"
    return name, "right"


def _outline(rng: np.random.Generator) -> tuple[np.ndarray, str]:
    """(corners, what it is): one that turns of it can touch in a corner, in a wall, or in no more than a corner and a side."""
    w, h = rng.uniform(1, 3, 2)
    form = ("star", "triangle", "rectangle", "trapezoid", "vee")[int(rng.integers(5))]
    corners = {
        "triangle": [(0, -w / 2), (h, rng.uniform(-0.4, 0.4) * w), (0, w / 2)],
        "rectangle": [(0, -w / 2), (h, -w / 2), (h, w / 2), (0, w / 2)],
        "trapezoid": [(0, -w / 2), (h, -w / 4), (h, w / 4), (0, w / 2)],
        "vee": [(0, -w / 9), (h, -w / 2), (h, w / 2), (0, w / 9)],
    }
    return (np.array(corners[form]) if form in corners else star_outline(rng)), form


def _made(outline: np.ndarray, way: Coiling, shaft: NamedShape, kind: str) -> NamedShape:
    profiles = find_profiles(Sketch(_FRAME, tuple(entities_of(outline))))
    axis = axis_in_plane(_FRAME, np.zeros(3), _UP)
    if kind == "alone":
        return coil(profiles, _FRAME, axis, way, prefix="c")
    for tool in coil_onto(profiles, _FRAME, axis, way, [shaft], adds=kind != "cut", prefix="c"):
        shaft = combine(shaft, tool, "subtract" if kind == "cut" else "add", what="the coil")
    return shaft


def _truth(outline: np.ndarray, way: Coiling, radius: float, kind: str) -> float:
    """What it adds or takes, mm³: the area that lies on the right side of the shaft, times the way of its middle, turn by turn."""
    part, total = Polygon(outline), 0.0
    nodes, weights = np.polynomial.legendre.leggauss(200)
    side = {"alone": box(0, -1e3, 1e3, 1e3), "cut": box(0, -1e3, radius, 1e3)}.get(kind, box(radius, -1e3, 1e3, 1e3))
    for t, w in zip((nodes + 1) / 2 * way.turns, weights / 2 * way.turns, strict=True):
        there = translate(part, t * way.shift[0], 0).intersection(side)
        total += w * 2 * math.pi * there.area * there.centroid.x
    return total
