"""A stretch of many pieces becomes few that say the same, joined where it was joined."""

from __future__ import annotations

import math

import numpy as np
import pytest

from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.done import worked
from contour.sketch.drawn.acts.fewer import Fewer
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.text import Arc, Circle, Entity, Line, Point


def strokes(places, *, closed: bool) -> dict[str, Entity]:
    out: dict[str, Entity] = {f"p{k}": Point(at=(float(x), float(y))) for k, (x, y) in enumerate(places)}
    last = len(places) if closed else len(places) - 1
    return out | {f"l{k}": Line(start=f"p{k}", end=f"p{(k + 1) % len(places)}") for k in range(last)}


def slot(steps: int = 24) -> np.ndarray:
    """40 long between the centres of its ends, 16 wide, its ends in short strokes."""
    t = np.linspace(-math.pi / 2, math.pi / 2, steps + 1)
    right = np.column_stack([40 + 8 * np.cos(t), 8 * np.sin(t)])
    left = np.column_stack([-8 * np.cos(t), -8 * np.sin(t)])
    return np.vstack([right, left])


def asked(entities, within="0.1 mm", of=None):
    names = of or tuple(n for n, e in entities.items() if e.kind != "point")
    return worked(KeptDrawing(entities=entities, made=900), [Fewer(act="fewer", of=names, within=within)])


def test_a_slot_of_strokes_is_two_lines_and_two_arcs():
    found = asked(strokes(slot(), closed=True))
    own = [e for e in found.kept.entities.values() if e.kind != "point"]
    assert sorted(e.kind for e in own) == ["arc", "arc", "line", "line"]
    (region,) = found.profiles.regions
    assert region.area == pytest.approx(40 * 16 + math.pi * 64, rel=2e-3)
    assert found.solution.solved
    assert sum(c.kind == "tangent" for c in found.kept.constraints) == 4


def test_what_joins_a_stretch_goes_on_joining_it():
    t = np.linspace(0, math.pi, 31)
    entities = strokes(np.column_stack([20 * np.cos(t), 20 * np.sin(t)]), closed=False)
    entities["base"] = Line(start="p0", end="p30")
    found = asked(entities, of=tuple(f"l{k}" for k in range(30)))
    own = {n: e for n, e in found.kept.entities.items() if e.kind != "point"}
    (arc,) = [e for e in own.values() if isinstance(e, Arc)]
    assert set(own) == {"base", *found.chosen} and {arc.start, arc.end} == {"p0", "p30"}
    radius = math.dist(found.kept.entities[arc.centre].at, found.kept.entities["p0"].at)
    assert radius == pytest.approx(20, abs=0.1)


def test_a_ring_of_strokes_is_a_circle():
    t = np.linspace(0, math.tau, 48, endpoint=False)
    found = asked(strokes(np.column_stack([5 + 9 * np.cos(t), 9 * np.sin(t)]), closed=True))
    (ring,) = [e for e in found.kept.entities.values() if e.kind != "point"]
    assert isinstance(ring, Circle) and ring.radius == pytest.approx(9, abs=0.05)


def test_where_no_fewer_explain_it_everything_stays():
    square = strokes([(0, 0), (30, 0), (30, 20), (0, 20)], closed=True)
    with pytest.raises(ContourError, match="no fewer") as error:
        asked(square)
    assert error.value.problem.remedy


def test_refusals():
    entities = strokes(slot(), closed=True)
    with pytest.raises(ContourError, match="room to stray"):
        asked(entities, within="0")
    linked = {n: e.model_copy(update={"linked": True}) for n, e in entities.items()}
    with pytest.raises(ContourError, match="brought in") as error:
        asked(linked)
    assert error.value.problem.code == "not-allowed"


def test_of_several_stretches_each_is_explained_by_itself():
    t = np.linspace(0, math.pi, 31)
    arcs = [np.column_stack([x + 9 * np.cos(t), 9 * np.sin(t)]) for x in (0, 40)]
    entities: dict[str, Entity] = {}
    for k, places in enumerate(arcs):
        for name, e in strokes(places, closed=False).items():
            ends = {f: f"{k}{getattr(e, f)}" for f in ("start", "end")} if isinstance(e, Line) else {}
            entities[f"{k}{name}"] = e.model_copy(update=ends)
    renamed = {("a" if n[0] == "0" else "b") + n[1:]: e for n, e in entities.items()}
    fixed = {
        n: e.model_copy(
            update={f: ("a" if getattr(e, f)[0] == "0" else "b") + getattr(e, f)[1:] for f in ("start", "end")}
        )
        if isinstance(e, Line)
        else e
        for n, e in renamed.items()
    }
    found = asked(fixed)
    assert [e.kind for e in found.kept.entities.values() if e.kind != "point"] == ["arc", "arc"]
