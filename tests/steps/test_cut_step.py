import pytest

from contour.recipe.problem import ContourError
from contour.solid.gate import check_solid
from contour.solid.shape import bounds
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, cylinder_region, plane_region, run, shape_of, volume_of

BLOCK = prism([*rectangle(40, 30), circle(15, 15, 6)], 10, prefix="old")


def cut(keep: str = "back", offset: str = "0 mm", region=None, **more):
    params = {"body": {"id": "b"}, "plane": {"id": "r"}, "offset": {"text": offset}, "keep": keep}
    return run("cut", params, {"body": body(BLOCK), "plane": region or plane_region((25, 0, 0), (1, 0, 0))}, **more)


def test_back_and_front_are_the_two_sides_of_the_normal():
    back, front = cut("back"), cut("front")
    assert bounds(shape_of(back, "b").shape)[1, 0] == pytest.approx(25, abs=1e-6)
    assert bounds(shape_of(front, "b").shape)[0, 0] == pytest.approx(25, abs=1e-6)
    assert volume_of(front, "b") == pytest.approx(15 * 30 * 10)


def test_both_sides_are_two_bodies_that_make_the_whole():
    both = cut("both")
    assert list(both.puts) == ["b", "newstep0"]
    assert volume_of(both, "b") + volume_of(both, "newstep0") == pytest.approx(volume_of(cut("back"), "b") + 4500)
    for id in both.puts:
        shape = shape_of(both, id)
        assert check_solid(shape.shape).valid
        assert sum(n == "newstep0.cut" for n in shape.names) == 1


def test_a_cut_through_a_bore_keeps_the_names_of_the_rest():
    made = shape_of(cut("back", "-10 mm"), "b")
    assert "old.side[c1]" in made.names
    assert sum(n.startswith("newstep0.cut") for n in made.names) == 2


def test_the_offset_goes_along_the_normal():
    assert volume_of(cut("front", "5 mm"), "b") == pytest.approx(10 * 30 * 10)
    assert volume_of(cut("front", "-0.5 inch + 2.7 mm"), "b") == pytest.approx(
        25 * 30 * 10 - 36 * 3.14159265 * 10 * 0.5, rel=1e-4
    )


def test_a_tilted_plane():
    made = cut("back", region=plane_region((30, 15, 5), (1, 0, 0.2)))
    assert volume_of(made, "b") == pytest.approx(30 * 30 * 10 - 36 * 3.14159265 * 10, rel=1e-6)


@pytest.mark.parametrize(("offset", "code"), [("30 mm", "no-section"), ("-30 mm", "no-section")])
def test_a_plane_that_misses_is_refused(offset, code):
    with pytest.raises(ContourError) as caught:
        cut("back", offset)
    assert caught.value.problem.code == code


def test_a_cylinder_is_no_plane():
    with pytest.raises(ContourError) as caught:
        cut(region=cylinder_region((0, 0, 0), (0, 0, 1), 5))
    assert caught.value.problem.code == "wrong-kind"
