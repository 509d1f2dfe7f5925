"""What files bring into a drawing, and take out again."""

from __future__ import annotations

import pytest

from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.done import worked
from contour.sketch.drawn.acts.filing import Lift, PutIn
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.text import Line, Point
from contour.sketch.drawn.under import UnderSheet, UnderText

ROUGH = {
    "p1": Point(at=(0, 0)),
    "p2": Point(at=(40, 0.02)),
    "p3": Point(at=(40, 30)),
    "l1": Line(start="p1", end="p2"),
    "l2": Line(start="p2", end="p3"),
    "l3": Line(start="p3", end="p1"),
}


def words(name, *texts):
    return UnderSheet(name=name, texts=[UnderText(at=(0, 0), text=t, height=3) for t in texts])


def test_entities_come_in_under_new_names_with_the_relations_that_nearly_hold():
    found = worked(KeptDrawing(), [PutIn(act="put-in", entities=ROUGH, within=0.05)])
    again = worked(found.kept, [PutIn(act="put-in", entities=ROUGH)])
    assert len(again.kept.entities) == 12 and len(again.chosen) == 3
    assert not set(again.chosen) & set(found.chosen)
    assert {(c.kind, len(c.of)) for c in found.kept.constraints} == {("horizontal", 1), ("vertical", 1)}
    assert again.kept.constraints == found.kept.constraints
    first, second = (found.kept.entities[n] for n in ("p1", "p2"))
    assert first.at[1] == pytest.approx(second.at[1])
    assert len(found.profiles.regions) == 1


def test_a_sheet_lies_under_the_drawing_once_and_is_lifted():
    kept = worked(KeptDrawing(), [PutIn(act="put-in", under=words("a.dxf", "old"))]).kept
    kept = worked(kept, [PutIn(act="put-in", under=words("b.svg", "boss"))]).kept
    kept = worked(kept, [PutIn(act="put-in", under=words("a.dxf", "new"))]).kept
    assert [(s.name, s.texts[0].text) for s in kept.under] == [("b.svg", "boss"), ("a.dxf", "new")]
    assert not kept.entities
    kept = worked(kept, [Lift(act="lift", name="b.svg")]).kept
    assert [s.name for s in kept.under] == ["a.dxf"]
    with pytest.raises(ContourError, match="no such sheet"):
        worked(kept, [Lift(act="lift", name="b.svg")])


def test_nothing_is_no_file():
    with pytest.raises(ContourError, match="nothing is put in"):
        worked(KeptDrawing(), [PutIn(act="put-in")])


def test_what_refers_to_what_is_not_there_is_refused():
    with pytest.raises(ContourError, match="needs a point") as error:
        worked(KeptDrawing(), [PutIn(act="put-in", entities={"l1": ROUGH["l1"]})])
    assert error.value.problem.code == "ref-lost"
