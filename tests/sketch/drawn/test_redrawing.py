"""What was brought in, redrawn: everything that a drawing stated is found again on its solid, and nothing is left to move."""

from __future__ import annotations

import pytest

from benchmarks.redrawing import redrawn, solid_of
from contour.recipe.problem import ContourError
from contour.simulate.stated_drawings import stated_drawings
from contour.sketch.drawn.acts.done import worked
from contour.sketch.drawn.acts.redrawing import Redraw
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.settling import settling
from contour.sketch.drawn.stated import is_round, stated
from contour.sketch.drawn.text import Arc, Circle, Drawing, Ellipse, Line, Point, Spline

STATED = {name: (drawing, sizes) for name, drawing, sizes in stated_drawings()}


@pytest.mark.parametrize("name", STATED)
def test_every_stated_size_is_found_again_and_nothing_is_free(name):
    drawing, sizes = STATED[name]
    found = redrawn(solid_of(drawing))
    assert (found.solution.solved, found.solution.dof, found.solution.redundant) == (True, 0, ())
    reads = found.solution.sizes
    assert [s for s in sizes if min(abs(r - s) for r in reads) > 1e-6] == []
    values = {**found.kept.lengths, **found.kept.angles}
    assert {v.mark for v in values.values()} == {"solid"}
    own = [e for e in found.kept.entities.values() if not e.linked and e.kind != "point"]
    assert len(own) == sum(e.kind != "point" for e in drawing.entities.values())


def test_sizes_that_drive_are_those_of_the_print():
    found = redrawn(solid_of(STATED["gusset"][0]))
    drive = sorted(round(v, 4) for v, s in zip(found.solution.sizes, found.kept.sizes, strict=True) if not s.reference)
    assert drive == [9, 10, 10, 18, 22, 35, 80]


def test_inches_are_stated_as_such():
    found = redrawn(solid_of(STATED["inch cover"][0]))
    texts = {v.text for v in found.kept.lengths.values()}
    assert {"3.5 inch", "2 inch", "0.375 inch", "0.25 inch"} <= texts
    assert all("mm" not in t for t in texts)


@pytest.mark.parametrize(
    ("mm", "system", "text"),
    [
        (12.0, "mm", "12 mm"),
        (9.525, "mm", "0.375 inch"),
        (19.05, "mm", "0.75 inch"),
        (12.7, "mm", "12.7 mm"),
        (12.7, "inch", "0.5 inch"),
        (25.4 / 3, "inch", "8.46666667 mm"),
        (12.35, "mm", "12.35 mm"),
    ],
)
def test_lengths_are_stated_the_likelier_way(mm, system, text):
    assert stated(mm, system) == text


def test_what_is_round():
    assert [is_round(v) for v in (12.0, 9.525, 12.01, 12.003)] == [True, True, True, False]
    assert [is_round(v, angle=True) for v in (35.0, 22.5, 35.2)] == [True, True, False]


def test_a_changed_size_moves_what_it_sizes_and_only_that():
    kept = redrawn(solid_of(STATED["plate"][0])).kept
    name = next(n for n, v in kept.lengths.items() if v.text == "96 mm")
    wider = kept.model_copy(
        update={"lengths": {**kept.lengths, name: kept.lengths[name].model_copy(update={"text": "100 mm"})}}
    )
    found = worked(wider, [])
    assert found.solution.solved and found.solution.dof == 0
    lines = [e for e in found.kept.entities.values() if isinstance(e, Line) and not e.linked]
    xs = [found.kept.entities[p].at[0] for e in lines for p in (e.start, e.end)]
    assert max(xs) - min(xs) == pytest.approx(100)


def test_free_curves_and_ellipses_stay_where_they_are():
    """No size tells where their points lie: these are held."""
    entities = {
        "a": Point(at=(0, 0)),
        "b": Point(at=(30, 5)),
        "c": Point(at=(60, 0)),
        "m": Point(at=(30, 40)),
        "t": Point(at=(45, 40)),
        "s": Spline(through=("a", "b", "c")),
        "l": Line(start="a", end="c"),
        "o": Ellipse(centre="m", major="t", minor=6.0),
    }
    found = worked(KeptDrawing(entities=entities, made=20), [Redraw(act="redraw", of=("s", "l", "o"))])
    free = {n: k for n, k in found.solution.free.items() if n in found.chosen}
    assert found.solution.solved and set(free.values()) == {0}


def test_an_open_piece_of_arcs_alone_is_settled_too():
    entities = {
        "m": Point(at=(3, 4)),
        "a": Point(at=(8, 4)),
        "b": Point(at=(3, 9)),
        "r": Arc(centre="m", start="a", end="b"),
        "k": Point(at=(20, 4)),
        "c": Circle(centre="k", radius=2.5),
    }
    constraints, sizes, also = settling(Drawing(entities=entities), ["r", "c"])
    assert {d.kind for d in sizes} >= {"radius", "diameter"}
    assert any(c.kind == "fixed" for c in constraints)
    assert all(d.reference for d in also)


def test_points_alone_are_nothing_to_redraw():
    with pytest.raises(ContourError, match="nothing to redraw"):
        worked(KeptDrawing(entities={"p": Point(at=(0, 0))}), [Redraw(act="redraw", of=("p",))])
