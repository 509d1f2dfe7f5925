"""Linked geometry in a drawing: nothing asked moves it, acts respect it, it is let go, it follows what it came from, and says what it lost."""

from __future__ import annotations

import numpy as np
import pytest
from pydantic import ValidationError

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.sketch.drawn.acts.done import worked
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.linked import Link, LinkedPiece, entity_pieces, refreshed
from contour.sketch.drawn.profiles import profiles_of
from contour.sketch.drawn.solution import solved
from contour.sketch.entities import Entity, Sketch
from tests.sketch.drawn.acts.kit import _ACT, spot

LEVEL = plane_frame(np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
SQUARE = [(0, 0), (30, 0), (30, 20), (0, 20)]
FACE = {"way": "face", "part": {"body": "b", "name": "top"}}


def sides(corners=SQUARE) -> list[dict]:
    around = zip(corners, [*corners[1:], corners[0]], strict=True)
    return [{"key": f"side{k}", "kind": "line", "points": [a, b]} for k, (a, b) in enumerate(around)]


def acted(kept: KeptDrawing, *acts: dict):
    return worked(kept, [_ACT.validate_python(a) for a in acts])


def linked(pieces: list[dict] | None = None) -> KeptDrawing:
    return acted(KeptDrawing(), {"act": "bring-in", "link": FACE, "pieces": pieces or sides()}).kept


def drawn(kept: KeptDrawing, kind: str) -> list[str]:
    return [n for n, e in kept.entities.items() if e.kind == kind]


def test_pieces_share_their_corners_bound_nothing_and_cannot_move():
    kept = linked()
    assert len(drawn(kept, "line")) == 4 and len(drawn(kept, "point")) == 4
    found = acted(kept)
    assert found.solution.dof == 0 and not found.profiles.regions
    asked = acted(kept, {"act": "construction", "of": drawn(kept, "line"), "on": False})
    assert [r.area for r in asked.profiles.regions] == pytest.approx([600])


def test_what_is_drawn_settles_on_it_and_contradictions_name_what_was_asked():
    kept = linked()
    first = drawn(kept, "line")[0]
    line = acted(kept, {"act": "line", "start": spot(2, 7), "end": spot(20, 9)}).kept
    new = drawn(line, "line")[-1]
    on = acted(line, {"act": "relate", "kind": "collinear", "of": [new, first]})
    assert on.solution.solved
    ends = [on.kept.entities[p].at for p in (on.kept.entities[new].start, on.kept.entities[new].end)]
    assert [y for _, y in ends] == pytest.approx([0, 0], abs=1e-9)
    assert on.kept.entities[first] == kept.entities[first]
    wrong = acted(kept, {"act": "size", "kind": "length", "of": [first], "value": "31 mm"})
    assert not wrong.solution.solved and wrong.solution.conflicts == (("d:0",),)
    said_twice = acted(kept, {"act": "size", "kind": "length", "of": [first], "value": "30 mm"})
    assert said_twice.solution.solved and said_twice.solution.redundant == ("d:0",)


@pytest.mark.parametrize(
    "act", [{"act": "move", "by": [1, 0]}, {"act": "extend", "at": [29, 0]}, {"act": "split", "at": [10, 0]}]
)
def test_acts_that_would_change_it_are_refused_by_its_name(act):
    kept = linked()
    first = drawn(kept, "line")[0]
    wall = acted(kept, {"act": "line", "start": spot(40, -5), "end": spot(40, 5)}).kept
    of = {"of": [first]} if act["act"] == "move" else {"entity": first}
    with pytest.raises(ContourError) as refused:
        acted(wall, {**act, **of})
    assert refused.value.problem.code == "not-allowed" and "detach" in (refused.value.problem.remedy or "")


def test_copies_of_it_are_pieces_of_the_drawing():
    kept = linked()
    lines = drawn(kept, "line")
    made = acted(kept, {"act": "move", "of": lines, "by": [100, 0], "copy": True})
    assert [r.area for r in made.profiles.regions] == pytest.approx([600])
    assert not any(made.kept.entities[n].linked for n in made.chosen)
    inset = acted(kept, {"act": "set-off", "of": lines, "distance": "3 mm"})
    assert [r.area for r in inset.profiles.regions] == pytest.approx([24 * 14])


def test_detached_it_is_free_and_the_others_keep_their_corners():
    kept = linked()
    first, second, *_ = drawn(kept, "line")
    free = acted(kept, {"act": "detach", "of": [first]})
    assert first not in free.kept.links[0].pieces.values() and len(free.kept.links[0].pieces) == 3
    assert free.solution.dof == 0  # both its ends are still its neighbours'
    both = acted(kept, {"act": "detach", "of": [first, second]})
    assert both.solution.dof == 2
    gone = acted(kept, {"act": "detach", "of": drawn(kept, "line")})
    assert gone.kept.links == [] and gone.solution.dof == 8


def test_what_is_removed_is_forgotten():
    kept = linked()
    left = acted(kept, {"act": "remove", "of": drawn(kept, "line")[:3]})
    assert list(left.kept.links[0].pieces) == ["side3"]


def test_it_follows_its_source_and_what_hangs_on_it_follows():
    kept = linked()
    corner = kept.entities[drawn(kept, "line")[1]].end  # at 30, 20
    hung = acted(
        kept, {"act": "circle", "by": "centre", "spots": [spot(30, 20, point=corner), spot(34, 20)], "diameter": "8 mm"}
    ).kept
    wider = sides([(0, 0), (35, 0), (35, 22), (0, 22)])
    drawing = acted(hung).solution.drawing
    now, problems = refreshed(drawing, [(hung.links[0], [LinkedPiece.model_validate(p) for p in wider])], LEVEL)
    assert not problems
    circle = drawn(hung, "circle")[0]
    there = solved(now).drawing
    assert there.point(there.entities[circle].centre) == pytest.approx((35, 22))


def test_what_is_gone_or_of_another_kind_stays_and_is_told_with_its_place():
    kept = linked()
    drawing = acted(kept).solution.drawing
    pieces = [LinkedPiece.model_validate(p) for p in sides()[1:]]
    round_ = LinkedPiece(key="side1", kind="circle", points=((3, 3),), size=2.0)
    new = LinkedPiece(key="side9", kind="line", points=((0, 0), (1, 1)))
    now, problems = refreshed(drawing, [(kept.links[0], [round_, *pieces[1:], new])], LEVEL)
    assert now == drawing
    assert [p.code for p in problems] == ["ref-lost", "ref-lost", "outline-changed"]
    assert problems[0].where.entity == drawn(kept, "line")[0] and problems[0].where.point == (0, 0, 0)
    assert problems[1].got == "a circle" and problems[2].got.startswith("1 that is")


def test_brought_in_again_it_keeps_its_ids_and_gains_what_is_new():
    kept = linked()
    corners = [(0, 0), (30, 0), (30, 25), (15, 30), (0, 25)]
    again = acted(kept, {"act": "bring-in", "link": FACE, "pieces": sides(corners)}).kept
    assert len(again.links) == 1 and len(again.links[0].pieces) == 5
    assert set(kept.links[0].pieces.values()) <= set(again.links[0].pieces.values())
    assert acted(again).solution.solved


def test_another_sketch_on_a_parallel_plane_comes_in_exactly_and_on_a_leaning_one_by_its_places():
    other = Sketch(
        plane_frame(np.array([5.0, 0, 9]), np.array([0, 0, -1.0]), np.array([1.0, 0, 0])),
        (
            Entity("e1", "line", (0, 0), (10, 0)),
            Entity("e2", "arc", (10, 0), (0, 10), mid=(7.0710678118654755, 7.0710678118654755)),
            Entity("e3", "arc", (4, 0), (4, 0), mid=(0, 0)),
        ),
    )
    line, arc, ring = entity_pieces(other, LEVEL)
    assert line.points[1] == pytest.approx((15, 0))
    assert arc.kind == "arc" and arc.points[0] == pytest.approx((5, 0))
    assert arc.points[1] == pytest.approx((5, -10)) and arc.points[2] == pytest.approx((15, 0))  # seen from behind
    assert ring.kind == "circle" and ring.size == pytest.approx(2)
    leaning = plane_frame(np.zeros(3), np.array([0, 1.0, 1.0]), np.array([1.0, 0, 0]))
    assert [p.kind for p in entity_pieces(other, leaning)] == ["line", "spline", "spline"]


@pytest.mark.parametrize(
    "wrong",
    [
        {"way": "edge", "part": {"body": "b", "name": "top"}},
        {"way": "cut"},
        {"way": "cut", "body": {"id": "b"}, "sketch": {"id": "s"}},
        {"way": "sketch", "body": {"id": "b"}},
    ],
)
def test_a_link_has_exactly_its_source(wrong):
    with pytest.raises(ValidationError):
        Link.model_validate(wrong)


def test_a_piece_has_the_points_of_its_kind():
    for kind, points in (("arc", [(0, 0)]), ("spline", [(0, 0), (1, 1)]), ("circle", [(0, 0)])):
        with pytest.raises(ValidationError):
            LinkedPiece(key="k", kind=kind, points=points)


def test_two_pieces_of_one_name_are_refused():
    twice = [*sides(), sides()[0]]
    with pytest.raises(ContourError, match="one name"):
        acted(KeptDrawing(), {"act": "bring-in", "link": FACE, "pieces": twice})


def test_profiles_of_what_is_drawn_ignore_a_cluttered_face():
    holes = [{"key": f"h{k}", "kind": "circle", "points": [(3 + 4 * k, 5)], "size": 1.5} for k in range(6)]
    kept = linked([*sides(), *holes])
    box = acted(kept, {"act": "rectangle", "by": "corner", "spots": [spot(2, 2), spot(28, 18)]})
    assert [r.area for r in profiles_of(box.solution.drawing).regions] == pytest.approx([26 * 16])
