"""The sketch that a solved drawing makes: its pieces as entities, its closed regions as faces that share them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from contour.geometry.frames import PlaneFrame
from contour.outline.ellipses import Ellipse
from contour.recipe.problem import Problem
from contour.sketch.drawn.profiles import Piece, Profiles, region_names
from contour.sketch.drawn.text import Drawing, Line, Spline
from contour.sketch.drawn.text import Ellipse as DrawnEllipse
from contour.sketch.drawn.traces import Trace, traces_of, traces_shown
from contour.sketch.entities import Entity, EntityKind, Face, LoopName, Point2, Sketch, Way

__all__ = ["sketch_of"]

Array = NDArray[np.float64]
_CLOSED = 1e-9
_PER_SPAN = (
    16  # points of a spline between two of its own: the curve through them strays by less than a micrometre of it
)


def sketch_of(
    drawing: Drawing,
    profiles: Profiles,
    frame: PlaneFrame,
    *,
    given: Sequence[LoopName] = (),
    refused: Problem | None = None,
) -> Sketch:
    """Everything that is drawn as entities on a frame: pieces that bound regions under their own ids, loose ones too.

    given: names that regions have had, with the pieces they had then.
    """
    traces = {t.entity: t for t in traces_of(drawing)}
    entities: dict[str, Entity] = {}

    def taken(walk: tuple[Piece, ...]) -> tuple[Way, ...]:
        ways = []
        for piece in walk:
            ahead = piece.first <= piece.last
            if piece.id not in entities:
                first, last = sorted((piece.first, piece.last))
                entities[piece.id] = _entity(drawing, traces[piece.entity], piece.id, first, last)
            ways.append((piece.id, ahead))
        return tuple(ways)

    names = region_names(profiles.regions, given)
    faces = tuple(
        Face(name, taken(r.outer), tuple(taken(island) for island in r.islands))
        for name, r in zip(names, profiles.regions, strict=True)
    )
    bounding = {piece.entity for r in profiles.regions for walk in (r.outer, *r.islands) for piece in walk}
    for k, piece in enumerate(profiles.loose):
        alone = piece.entity not in bounding and sum(p.entity == piece.entity for p in profiles.loose) == 1
        name = piece.entity if alone else f"{piece.entity}:loose{k}"
        entities[name] = _entity(drawing, traces[piece.entity], name, piece.first, piece.last)
    loops = tuple(LoopName(f.name, tuple(i for i, _ in f.outer)) for f in faces)
    shown = [t for t in traces_shown(drawing) if drawing.entities[t.entity].construction]
    helpers = tuple(_entity(drawing, t, t.entity, 0.0, 1.0) for t in shown)
    return Sketch(frame, tuple(entities.values()), loops, faces, refused, helpers)


def _entity(drawing: Drawing, trace: Trace, name: str, first: float, last: float) -> Entity:
    drawn = drawing.entities[trace.entity]
    start, mid, end = (_pair(trace.place(np.array([t]))[0]) for t in (first, (first + last) / 2, last))
    if trace.closed and abs(last - first - 1.0) < _CLOSED:
        end = start
    if isinstance(drawn, Line):
        return Entity(name, "line", start, end)
    if isinstance(drawn, Spline):
        count = _PER_SPAN * max(len(drawn.through), len(drawn.control))
        path = trace.place(np.linspace(first, last, max(int(count * abs(last - first)), 8) + 1))
        return Entity(name, "free", start, end, points=(start, *map(_pair, path[1:-1]), end))
    kind: EntityKind = "ellipse" if isinstance(drawn, DrawnEllipse) else "arc"
    shape = _ellipse(drawing, drawn) if isinstance(drawn, DrawnEllipse) else None
    return Entity(name, kind, start, end, mid, ellipse=shape)


def _ellipse(drawing: Drawing, e: DrawnEllipse) -> Ellipse:
    centre, tip = np.array(drawing.point(e.centre)), np.array(drawing.point(e.major))
    half, turn = float(np.linalg.norm(tip - centre)), float(np.arctan2(*(tip - centre)[::-1]))
    if half >= e.minor:
        return float(centre[0]), float(centre[1]), half, e.minor, turn
    return float(centre[0]), float(centre[1]), e.minor, half, turn + np.pi / 2


def _pair(p: Array) -> Point2:
    return float(p[0]), float(p[1])
