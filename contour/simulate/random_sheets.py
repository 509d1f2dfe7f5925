"""Drawings of every kind of entity, at random: for what must keep all of them, as files and copies do."""

from __future__ import annotations

import math

import numpy as np

from contour.sketch.drawn.text import Arc, Circle, Drawing, Ellipse, Entity, Line, Point, Spline

__all__ = ["random_sheet"]

_PER_KIND = 3


def random_sheet(rng: np.random.Generator, *, size: float = 100.0) -> Drawing:
    """A chain of lines and arcs that share their ends, circles, ellipses and parts of them, splines of both kinds, loose points, and some of
    it construction. size: mm that it reaches over."""
    out: dict[str, Entity] = {}

    def add(entity: Entity) -> str:
        name = f"n{len(out) + 1}"
        out[name] = entity
        return name

    def point(at: np.ndarray | None = None) -> str:
        p = rng.uniform(0, size, 2) if at is None else at
        return add(Point(at=(float(p[0]), float(p[1]))))

    def some() -> bool:
        return bool(rng.random() < 0.2)

    last = point()
    for _ in range(2 * _PER_KIND):
        if rng.random() < 0.5:
            after = point()
            add(Line(start=last, end=after, construction=some()))
        else:
            entity = out[last]
            assert isinstance(entity, Point)
            centre = rng.uniform(0, size, 2)
            way = np.array(entity.at) - centre
            a = float(rng.uniform(0.2, 6.0))
            turned = np.array([[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]]) @ way
            after = point(centre + turned)
            add(Arc(centre=point(centre), start=last, end=after))
        last = after
    for _ in range(_PER_KIND):
        add(Circle(centre=point(), radius=float(rng.uniform(1, size / 4)), construction=some()))
        m = rng.uniform(0, size, 2)
        tip = m + rng.uniform(2, size / 4, 2)
        whole = Ellipse(centre=point(m), major=point(tip), minor=float(rng.uniform(1, size / 4)))
        add(whole)
        axis = tip - m
        side = np.array([-axis[1], axis[0]]) / np.linalg.norm(axis) * whole.minor
        first = float(rng.uniform(0, 6))
        ends = [m + math.cos(t) * axis + math.sin(t) * side for t in (first, first + float(rng.uniform(0.3, 5.5)))]
        part = Ellipse(centre=point(m), major=point(tip), minor=whole.minor)
        add(part.model_copy(update={"start": point(ends[0]), "end": point(ends[1])}))
        count = int(rng.integers(3, 9))
        add(Spline(control=tuple(point() for _ in range(count))))
        handles = [point() if rng.random() < 0.5 else None for _ in range(2)]
        add(Spline(through=tuple(point() for _ in range(count)), start=handles[0], end=handles[1]))
        point()
    return Drawing(entities=out)
