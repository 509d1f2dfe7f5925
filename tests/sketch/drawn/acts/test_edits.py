"""Pieces that are trimmed, extended, split, copied, mirrored, set off and rounded: lengths and areas by closed forms, and what holds afterwards."""

from __future__ import annotations

import math

import pytest
from pydantic import TypeAdapter

from contour.recipe.problem import ContourError
from contour.recipe.values import Value
from contour.sketch.drawn.acts.done import AnyAct, worked
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.profiles import profiles_of
from tests.sketch.drawn.acts.kit import Sheet, spot


def cross() -> Sheet:
    """A line along x from -20 to 20, one along y at 5, one at -8."""
    s = Sheet()
    s.do("line", start=spot(-20, 0), end=spot(20, 0))
    s.do("line", start=spot(5, -10), end=spot(5, 10))
    s.do("line", start=spot(-8, -10), end=spot(-8, 10))
    return s


def test_a_line_is_trimmed_at_an_end_and_stays_on_what_trimmed_it():
    s = cross()
    line = s.of("line")[0]
    s.do("trim", entity=line, at=[15, 0])
    assert s.length(line) == pytest.approx(25) and len(s.of("line")) == 3
    on = [c for c in s.drawing.constraints if c.kind == "on-curve"]
    assert len(on) == 1 and on[0].of[1] == s.of("line")[1]


def test_a_line_trimmed_in_the_middle_is_two_that_lie_on_one():
    s = cross()
    line = s.of("line")[0]
    first, second = s.do("trim", entity=line, at=[0, 0])
    assert first == line and s.length(first) == pytest.approx(12) and s.length(second) == pytest.approx(15)
    assert any(c.kind == "collinear" for c in s.drawing.constraints)


def test_what_nothing_crosses_is_trimmed_away_with_its_points():
    s = Sheet()
    s.do("line", start=spot(0, 0), end=spot(9, 0))
    s.do("trim", entity=s.of("line")[0], at=[4, 0])
    assert not s.drawing.entities


def test_a_circle_trimmed_by_a_line_is_the_arc_on_the_other_side():
    s = Sheet()
    s.do("circle", by="centre", spots=[spot(0, 0), spot(10, 0)])
    s.do("line", start=spot(-20, 6), end=spot(20, 6))
    circle = s.of("circle")[0]
    s.do("trim", entity=circle, at=[0, 10])
    s.do("trim", entity=s.of("line")[0], at=[-15, 6])
    s.do("trim", entity=s.of("line")[0], at=[15, 6])
    half = math.acos(0.6)
    assert s.of("arc") == [circle]  # the same piece, so that what was made of it keeps it
    assert s.area() == pytest.approx(math.pi * 100 - (half * 100 - 6 * 8))


def test_an_ellipse_and_a_spline_are_trimmed():
    s = Sheet()
    s.do("ellipse", spots=[spot(0, 0), spot(10, 0), spot(0, 4)])
    s.do("line", start=spot(0, -9), end=spot(0, 9))
    s.do("trim", entity=s.of("ellipse")[0], at=[-10, 0])
    for y in (-8, 8):
        s.do("trim", entity=s.of("line")[0], at=[0, y])
    assert s.area() == pytest.approx(math.pi * 40 / 2)
    s = Sheet()
    s.do("spline", by="control", spots=[spot(-3, 0), spot(-1, 4), spot(1, 4), spot(3, 0)])
    s.do("line", start=spot(0, -1), end=spot(0, 9))
    s.do("line", start=spot(-3, 0, point=s.of("point")[0]), end=spot(0, 0, on=[s.of("line")[0]]))
    s.do("trim", entity=s.of("spline")[0], at=[2.5, 1])
    assert s.solution.solved
    assert s.area() == pytest.approx(6, rel=2e-3)  # by a cubic through points of it


def test_lines_and_arcs_go_on_to_what_lies_ahead():
    s = Sheet()
    s.do("line", start=spot(0, 0), end=spot(6, 0))
    s.do("line", start=spot(15, -5), end=spot(15, 5))
    s.do("line", start=spot(25, -5), end=spot(25, 5))
    line = s.of("line")[0]
    s.do("extend", entity=line, at=[5, 0])
    assert s.length(line) == pytest.approx(15)
    s = Sheet()
    s.do("arc", by="centre", spots=[spot(0, 0), spot(10, 0), spot(10, 10)])
    s.do("line", start=spot(0, -20), end=spot(0, 20))
    s.do("extend", entity=s.of("arc")[0], at=[7, 7])
    arc = s.drawing.entities[s.of("arc")[0]]
    assert s.drawing.point(arc.end) == pytest.approx((0, 10))
    with pytest.raises(ContourError) as error:
        s.do("extend", entity=s.of("line")[0], at=[0, 19])
    assert error.value.problem.code == "no-match"


def test_two_pieces_meet_in_a_corner_however_far_apart_they_end():
    s = Sheet()
    s.do("line", start=spot(0, 0), end=spot(20, 0))
    s.do("line", start=spot(30, 10), end=spot(30, 40))
    a, b = s.of("line")
    s.do("meet", of=[a, b])
    assert s.length(a) == pytest.approx(30) and s.length(b) == pytest.approx(40)
    assert s.drawing.entities[a].end == s.drawing.entities[b].start and len(s.of("point")) == 3
    # What crosses is cut, on the side that is nearer.
    s.do("line", start=spot(-4, 25), end=spot(33, 25))
    s.do("meet", of=[b, s.of("line")[2]])
    assert s.length(b) == pytest.approx(25) and s.length(s.of("line")[2]) == pytest.approx(34)
    s = Sheet()
    s.do("arc", by="centre", spots=[spot(0, 0), spot(10, 0), spot(0, 10)])
    s.do("line", start=spot(-30, 6), end=spot(-20, 6))
    s.do("meet", of=[s.of("arc")[0], s.of("line")[0]])
    arc = s.drawing.entities[s.of("arc")[0]]
    assert s.drawing.point(arc.end) == pytest.approx((-8, 6))
    s.do("line", start=spot(0, 50), end=spot(20, 50))
    s.do("line", start=spot(0, 60), end=spot(20, 60))
    with pytest.raises(ContourError) as error:
        s.do("meet", of=s.of("line")[-2:])
    assert error.value.problem.code == "no-match"


def test_arcs_and_parts_of_ellipses_become_whole():
    s = Sheet()
    s.do("arc", by="centre", spots=[spot(0, 0), spot(10, 0), spot(0, 10)])
    s.do("complete", of=s.of("arc"))
    assert s.area() == pytest.approx(math.pi * 100) and len(s.of("point")) == 1


def test_pieces_are_split_where_they_were_pointed_at():
    s = cross()
    first, second = s.do("split", entity=s.of("line")[0], at=[0, 1])
    assert s.length(first) == pytest.approx(20) and s.length(second) == pytest.approx(20)
    s = Sheet()
    s.do("circle", by="centre", spots=[spot(0, 0), spot(10, 0)])
    s.do("split", entity=s.of("circle")[0], at=[10, 0])
    assert len(s.of("arc")) == 2 and s.area() == pytest.approx(math.pi * 100)
    with pytest.raises(ContourError):
        s.do("split", entity=s.of("arc")[0], at=[10, 0])


def rectangle(width: str | None = "40", height: str | None = "20") -> Sheet:
    s = Sheet()
    s.do("rectangle", by="corner", spots=[spot(0, 0), spot(40, 20)], width=width, height=height)
    return s


def test_a_moved_copy_has_the_sizes_of_what_it_is_a_copy_of():
    s = rectangle()
    made = s.do("move", of=s.of("line"), by=[100, 0], copy=True)
    assert len(made) == 4
    s.do("change-size", demand="d:0", value="50 mm")
    areas = [r.area for r in profiles_of(s.drawing).regions]
    assert areas == pytest.approx([1000, 1000]) and s.solution.solved


def test_what_is_turned_in_place_stays_turned_and_what_is_scaled_scaled():
    s = rectangle()
    s.do("relate", kind="perpendicular", of=s.of("line")[:2])
    s.do("relate", kind="parallel", of=s.of("line")[::2])
    s.do("relate", kind="parallel", of=s.of("line")[1::2])
    s.do("move", of=s.of("line"), about=[0, 0], turn="30 deg")
    along = s.drawing.point(s.of("point")[1])
    assert along == pytest.approx((40 * math.cos(math.pi / 6), 20)) and s.area() == pytest.approx(800)
    s.do("move", of=s.of("line"), about=[0, 0], scale=1.5)
    assert s.area() == pytest.approx(800 * 2.25)


def test_a_mirror_image_follows_and_shares_what_lies_on_the_line():
    s = Sheet()
    s.do("line", start=spot(0, -30), end=spot(0, 30), construction=True)
    axis = s.of("line")[0]
    s.do("relate", kind="fixed", of=s.of("point"))
    s.do("line", start=spot(0, 0, on=[axis]), end=spot(20, 0))
    corner, tip = s.of("point")[2:]
    s.do("arc", by="three", spots=[spot(20, 0, point=tip), spot(0, 20, on=[axis]), spot(15, 15)])
    pieces = [s.of("line")[1], s.of("arc")[0]]
    s.do("mirror", of=pieces, line=axis)
    assert s.solution.solved
    arc = s.drawing.entities[pieces[1]]
    r = math.dist(s.drawing.point(arc.centre), s.drawing.point(arc.start))
    whole = s.area()
    assert whole > 0.5 * math.pi * r * r * 0.5
    s.do("pull", point=tip, to=[24, 0])
    right = s.drawing.point(tip)
    assert any(s.drawing.point(p) == pytest.approx((-right[0], right[1]), abs=1e-6) for p in s.of("point"))


def test_rows_fields_and_rings():
    s = Sheet()
    s.do("circle", by="centre", spots=[spot(0, 0), spot(2, 0)], diameter="4")
    s.do("row", of=s.of("circle"), count=4, step=[10, 0], rows=3, row_step=[0, 15])
    assert len(s.of("circle")) == 12
    s.do("change-size", demand="d:0", value="5")
    assert {round(s.drawing.entities[c].radius, 9) for c in s.of("circle")} == {2.5}
    s = Sheet()
    s.do("circle", by="centre", spots=[spot(20, 0), spot(22, 0)])
    s.do("ring", of=s.of("circle"), count=6, about=[0, 0])
    centres = [s.drawing.point(s.drawing.entities[c].centre) for c in s.of("circle")]
    assert {round(math.hypot(*c), 6) for c in centres} == {20.0} and len(set(centres)) == 6
    s = Sheet()
    s.do("circle", by="centre", spots=[spot(20, 0), spot(22, 0)])
    s.do("ring", of=s.of("circle"), count=3, about=[0, 0], over="90 deg")
    assert s.drawing.point(s.drawing.entities[s.of("circle")[2]].centre) == pytest.approx((0, 20))


def test_a_closed_outline_is_set_off_with_its_corners():
    s = rectangle()
    s.do("set-off", of=s.of("line"), distance="3 mm")  # left of each side, counter-clockwise: inwards
    regions = profiles_of(s.drawing).regions
    assert s.solution.solved
    assert sorted(r.area for r in regions) == pytest.approx([800 - 34 * 14, 34 * 14])
    s.do("change-size", demand="d:2", value="4 mm")
    assert min(r.area for r in profiles_of(s.drawing).regions) == pytest.approx(32 * 12)


def test_a_slot_is_set_off_as_a_slot():
    s = Sheet()
    s.do("slot", by="straight", spots=[spot(0, 0), spot(40, 0), spot(10, 6)], length="40", width="12 mm")
    s.do("set-off", of=[*s.of("line"), *s.of("arc")], distance="-2 mm")
    assert s.solution.solved
    outer = sum(r.area for r in profiles_of(s.drawing).regions)
    assert outer == pytest.approx(40 * 16 + math.pi * 64, rel=1e-6)


def test_a_formula_that_comes_out_negative_sets_off_to_the_other_side():
    s = rectangle()
    s.do("set-off", of=s.of("line"), distance="1 mm - 4 mm")
    assert s.solution.solved and sum(r.area for r in profiles_of(s.drawing).regions) == pytest.approx(46 * 26)


def test_copies_of_copies_end_somewhere():
    s = rectangle()
    with pytest.raises(ContourError) as error:
        s.do("row", of=s.of("line"), count=100, step=[50, 0], rows=100, row_step=[0, 50])
    assert "that many" in str(error.value) and len(s.drawing.entities) == 8


def test_circles_are_set_off_outwards_and_have_to_have_room():
    s = Sheet()
    s.do("circle", by="centre", spots=[spot(0, 0), spot(5, 0)])
    s.do("set-off", of=s.of("circle"), distance="2")
    assert s.drawing.entities[s.of("circle")[1]].radius == pytest.approx(7)
    with pytest.raises(ContourError):
        s.do("set-off", of=s.of("circle")[:1], distance="-6")


def test_a_rounded_corner_keeps_the_size_it_was_drawn_with():
    s = rectangle()
    corner = s.of("point")[1]
    s.do("round", corner=corner, radius="5 mm")
    assert s.solution.solved and s.solution.dof == 2
    assert s.area() == pytest.approx(800 - 25 * (1 - math.pi / 4))
    s.do("change-size", demand="d:0", value="60")
    assert s.area() == pytest.approx(1200 - 25 * (1 - math.pi / 4))


def test_four_rounded_corners_and_a_cut_off_one():
    s = rectangle(None, None)
    for corner in s.of("point")[:4]:
        s.do("round", corner=corner, radius="4")
    assert s.solution.solved
    assert s.area() == pytest.approx(800 - 4 * 16 * (1 - math.pi / 4), rel=1e-3)
    s = rectangle()
    s.do("cut-off", corner=s.of("point")[0], length="6")
    assert s.solution.solved and s.area() == pytest.approx(800 - 18)


def test_a_corner_between_a_line_and_an_arc_is_rounded():
    s = Sheet()
    s.do("arc", by="three", spots=[spot(10, 0), spot(-10, 0), spot(0, 10)])
    arc = s.drawing.entities[s.of("arc")[0]]
    s.do("line", start=spot(-10, 0, point=arc.end), end=spot(10, 0, point=arc.start))
    s.do("relate", kind="fixed", of=[arc.centre, arc.end])
    s.do("relate", kind="horizontal", of=s.of("line"))
    s.do("round", corner=arc.start, radius="2")
    assert s.solution.solved
    # The fillet's centre lies 2 above the chord and 8 from the middle.
    centre = s.drawing.point(s.drawing.entities[s.of("arc")[-1]].centre)
    assert centre == pytest.approx((math.sqrt(64 - 4), 2), abs=1e-6)


@pytest.mark.parametrize("radius", ["25", "0", "-1"])
def test_a_corner_without_room_is_refused(radius):
    s = rectangle()
    with pytest.raises(ContourError) as error:
        s.do("round", corner=s.of("point")[0], radius=radius)
    assert error.value.problem.where.entity == s.of("point")[0]


def test_sizes_are_renamed_in_the_formulas_that_name_them():
    s = rectangle()
    s.do("change-size", demand="d:0", name="wide")
    s.do("change-size", demand="d:1", value="wide / 4")
    s.do("change-size", demand="d:0", name="width")
    assert s.drawing.dimensions[1].value == "width / 4" and s.area() == pytest.approx(400)


def test_a_size_keeps_where_its_value_comes_from_under_another_name():
    does = TypeAdapter(list[AnyAct])
    sides = {
        "act": "rectangle",
        "by": "corner",
        "spots": [spot(0, 0), spot(40, 20)],
        "width": "40 mm",
        "height": "20 mm",
    }
    first = worked(KeptDrawing(), does.validate_python([sides])).kept
    value = Value(text="40 mm", mark="caliper", note="large jaws")
    kept = first.model_copy(update={"lengths": {**first.lengths, first.sizes[0].name: value}})
    acts = [{"act": "change-size", "demand": "d:0", "name": name} for name in ("wide", "width")]
    after = worked(kept, does.validate_python(acts)).kept
    assert after.sizes[0].name == "width" and after.lengths["width"] == value
    assert set(after.lengths) == {"width", *(s.name for s in kept.sizes[1:])}


def test_a_size_that_only_read_holds_what_it_reads():
    s = rectangle(None, None)
    s.do("size", kind="length", of=[s.of("line")[0]])
    assert s.solution.dof == 4 and s.solution.sizes == pytest.approx((40,))
    s.do("change-size", demand="d:0", reference=False)
    assert s.solution.dof == 3 and s.drawing.dimensions[0].value == "40 mm"


def test_what_was_copied_is_pasted_with_its_sizes_and_relations():
    s = rectangle()
    text = s.drawing.text()
    s.do("paste", entities=text["entities"], constraints=text["constraints"], sizes=text["dimensions"], by=[100, 0])
    assert s.solution.solved and s.solution.dof == 4
    areas = [r.area for r in profiles_of(s.drawing).regions]
    assert areas == pytest.approx([800, 800]) and len(s.of("line")) == 8
    # The pasted size is its own: the other plate stays.
    s.do("change-size", demand="d:2", value="50")
    assert sorted(r.area for r in profiles_of(s.drawing).regions) == pytest.approx([800, 1000])
    with pytest.raises(ContourError) as error:
        s.do("paste", entities={"l1": {"kind": "line", "from": "a", "to": "b"}})
    assert error.value.problem.code == "ref-lost"


def test_what_is_taken_away_takes_what_hangs_on_it():
    s = rectangle()
    corner = s.of("point")[0]
    s.do("remove", of=[corner])
    assert len(s.of("line")) == 2 and len(s.of("point")) == 3
    assert all("l" + "0" not in c.of for c in s.drawing.constraints)
    assert len(s.drawing.dimensions) == 1
    again = s.do("line", start=spot(0, 0), end=spot(9, 9))
    assert not set(again) & {corner, "l101"}


def test_a_contradiction_leaves_everything_as_drawn_and_is_taken_back_by_releasing_it():
    s = rectangle()
    s.do("size", kind="length", of=[s.of("line")[2]], value="50")
    assert not s.solution.solved and s.area() == pytest.approx(800)
    assert any("d:2" in c for c in s.solution.conflicts)
    s.do("change-size", demand="d:2", reference=True)
    assert s.solution.solved and s.solution.sizes[2] == pytest.approx(40)
    s.do("release", demands=["d:2"])
    assert len(s.drawing.dimensions) == 2
    with pytest.raises(ContourError):
        s.do("release", demands=["d:9"])
