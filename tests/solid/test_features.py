"""Volumes against closed forms, names across edits, files read back."""

import subprocess
import sys

import numpy as np
import pytest

from contour.exchange.step import write_step
from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.simulate.body_pairs import random_pair
from contour.sketch.entities import Entity, Sketch, find_profiles
from contour.solid.agreement import sides
from contour.solid.boolean import combine, common_volume
from contour.solid.extent import bounds
from contour.solid.extrude import extrude
from contour.solid.face_geometry import face_kinds
from contour.solid.from_file import read_shape_file
from contour.solid.gate import check_solid
from contour.solid.mass import volume
from contour.solid.shape import faces, read_shape, write_shape
from contour.solid.tessellate import tessellate
from contour.solid.topology.edges import edge_names
from tests.conftest import circle, prism, rectangle


@pytest.mark.parametrize(
    ("distance", "symmetric", "low", "high"),
    [(10, False, 0, 10), (-10, False, -10, 0), (10, True, -5, 5), (-10, True, -5, 5)],
)
def test_an_extrusion_has_the_volume_and_place_it_should(distance, symmetric, low, high):
    body = prism([*rectangle(40, 30), circle(15, 15, 6)], distance, symmetric=symmetric)
    facts = check_solid(body.shape)
    assert facts.volume == pytest.approx((1200 - np.pi * 36) * 10, rel=1e-9)
    assert (facts.solids, facts.faces, facts.closed, facts.valid, facts.free_edges) == (1, 7, True, True, 0)
    assert bounds(body.shape)[:, 2] == pytest.approx([low, high], abs=1e-6)


def test_faces_are_named_by_entity():
    body = prism([*rectangle(40, 30), circle(15, 15, 6)], 10)
    kinds = dict(zip(body.names, face_kinds(body.shape), strict=True))
    assert kinds == {
        "s1.side[e1]": "plane",
        "s1.side[e2]": "plane",
        "s1.side[e3]": "plane",
        "s1.side[e4]": "plane",
        "s1.side[c1]": "cylinder",
        "s1.start[p1]": "plane",
        "s1.end[p1]": "plane",
    }
    assert "s1.side[e1]|s1.side[e2]" in edge_names(body)


def test_arcs_and_free_pieces_are_extruded_where_they_are():
    half = [Entity("e1", "line", (0.0, 0.0), (20.0, 0.0)), Entity("e2", "arc", (20.0, 0.0), (0.0, 0.0), (10.0, 10.0))]
    assert volume(prism(half, 4).shape) == pytest.approx(np.pi * 50 * 4, rel=1e-9)
    x = np.linspace(0, 20, 101)
    wave = tuple((float(a), float(b)) for a, b in zip(x, 5 + np.sin(x), strict=True))
    free = [
        Entity("e1", "free", wave[-1], wave[0], None, wave[::-1]),
        Entity("e2", "line", wave[0], (0.0, 0.0)),
        Entity("e3", "line", (0.0, 0.0), (20.0, 0.0)),
        Entity("e4", "line", (20.0, 0.0), wave[-1]),
    ]
    area = 100 + (1 - np.cos(20))  # integral of 5 + sin
    assert volume(prism(free, 3).shape) == pytest.approx(3 * area, rel=2e-4)


def test_extrusion_on_a_tilted_plane():
    sketch = Sketch(plane_frame(np.array([1, 2, 3.0]), np.array([1, 1, 1.0])), tuple(rectangle(10, 5)))
    body = extrude(find_profiles(sketch), sketch.frame, start_mm=0, end_mm=2, prefix="s")
    assert volume(body.shape) == pytest.approx(100)


def test_no_distance_is_refused():
    with pytest.raises(ContourError, match="distance"):
        prism(rectangle(1, 1), 0.0)


def test_adding_and_subtracting_change_the_volume_by_the_overlap():
    block = prism(rectangle(40, 30), 10)
    pin = prism([circle(20, 15, 5)], 20, prefix="s2")
    added, cut = combine(block, pin, "add"), combine(block, pin, "subtract")
    assert volume(added.shape) == pytest.approx(12000 + np.pi * 250, rel=1e-9)
    assert volume(cut.shape) == pytest.approx(12000 - np.pi * 250, rel=1e-9)
    assert common_volume(block, pin) == pytest.approx(np.pi * 250, rel=1e-9)
    assert volume(block.shape) == pytest.approx(12000)  # the inputs are not touched


def test_coplanar_neighbours_become_one_face_with_both_names():
    whole = combine(prism(rectangle(40, 30), 10), prism(rectangle(20, 30, at=(40, 0)), 10, prefix="s2"), "add")
    assert check_solid(whole.shape).faces == 6
    assert "s1.end[p1]+s2.end[p1]" in whole.names


@pytest.mark.parametrize(
    ("second", "operation", "code"),
    [
        (lambda: prism(rectangle(5, 5, at=(100, 0)), 5, prefix="s2"), "subtract", "unchanged"),
        (lambda: prism(rectangle(5, 5, at=(10, 10)), 5, z=2, prefix="s2"), "add", "unchanged"),
        (lambda: prism(rectangle(5, 5, at=(100, 0)), 5, prefix="s2"), "add", "body-broken"),
        (lambda: prism(rectangle(60, 60, at=(-5, -5)), 30, z=-5, prefix="s2"), "subtract", "body-broken"),
    ],
)
def test_a_boolean_that_does_nothing_or_breaks_is_refused(second, operation, code):
    with pytest.raises(ContourError) as caught:
        combine(prism(rectangle(40, 30), 10), second(), operation)
    assert caught.value.problem.code == code


def slotted(width: float) -> tuple[str, ...]:
    """A block with a hole and a slot that splits its top, by the block's width."""
    block = prism(rectangle(width, 30), 10)
    holed = combine(block, prism([circle(8, 15, 4)], 40, z=-5, prefix="s2"), "subtract")
    return combine(holed, prism(rectangle(6, 50, at=(width / 2, -5)), 10, z=6, prefix="s3"), "subtract").names


def test_names_last_when_an_early_size_changes_both_ways():
    names = slotted(40)
    assert set(slotted(60)) == set(names) == set(slotted(34))
    assert len(set(names)) == len(names)
    assert not any("?" in n for n in names)
    tops = [n for n in names if n.startswith("s1.end")]
    assert len(tops) == 2  # the split top: told apart by the neighbours that only one half has


def test_fragments_that_nothing_tells_apart_stay_ambiguous():
    """A hole right through a tube: its two walls lie between the same faces."""
    tube = prism([circle(0, 0, 10), circle(0, 0, 6, "c2")], 20)
    frame = plane_frame(np.array([0, -20.0, 10]), np.array([0, 1.0, 0]), np.array([1.0, 0, 0]))
    hole = extrude(find_profiles(Sketch(frame, (circle(0, 0, 2),))), frame, start_mm=0, end_mm=40, prefix="s2")
    walls = [n for n in combine(tube, hole, "subtract").names if n.startswith("s2.")]
    assert len(walls) == 2 and len(set(walls)) == 1 and walls[0].endswith("?")


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_step_keeps_names_and_size(tmp_path, unit):
    body = prism([*rectangle(25.4, 50.8), circle(12, 20, 5)], 10)
    path = tmp_path / "out.step"
    write_step(path, [("Base Ø — block", body.shape, "#7a3b69")], unit=unit)
    text = path.read_text(errors="replace")
    assert ("CONVERSION_BASED_UNIT" in text) == (unit == "inch")
    assert "PRODUCT('Base" in text
    assert "COLOUR_RGB" in text
    back = check_solid(read_shape_file(path))
    assert back.volume == pytest.approx((25.4 * 50.8 - np.pi * 25) * 10, rel=1e-6)
    assert (back.solids, back.faces, back.closed, back.valid) == (1, 7, True, True)


def test_a_file_that_is_no_step_is_refused(tmp_path):
    (tmp_path / "x.step").write_text("hello")
    with pytest.raises(ContourError, match=r"x\.step"):
        read_shape_file(tmp_path / "x.step")


def test_bytes_and_back_keep_face_order(drilled_block):
    again = read_shape(write_shape(drilled_block.shape))
    assert face_kinds(again) == face_kinds(drilled_block.shape)
    assert volume(again) == pytest.approx(volume(drilled_block.shape), rel=1e-12)


def test_triangles_are_closed_outward_and_know_their_edges(drilled_block):
    mesh = tessellate(drilled_block.shape, chord_mm=0.01)
    a, b, c = (mesh.vertices[mesh.triangles[:, k]] for k in range(3))
    assert np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6 == pytest.approx(volume(drilled_block.shape), rel=2e-3)
    border = mesh.side_edge >= 0
    # every border side is shared by two faces, so senses cancel edge by edge
    assert mesh.side_sense[border].sum() == 0
    assert set(mesh.face) == set(range(7))


@pytest.mark.parametrize("seed", range(6))
def test_a_web_whose_edges_lie_on_a_boss_joins_it(seed):
    """The kernel leaves the edge behind in the middle of the boss's wall, where it closes nothing."""
    pair = random_pair("edge on a wall", seed)
    made = combine(pair.a.shape, pair.b.shape, "add")
    assert check_solid(made.shape).closed
    assert len(made.names) == len(faces(made.shape)) == len(set(made.names))
    low, high = bounds(made.shape)
    places = low + (high - low) * np.random.default_rng(seed).uniform(size=(4000, 3))
    deep = np.maximum(pair.a.depth(places), pair.b.depth(places))
    share = np.mean(deep > 0)
    assert volume(made.shape) == pytest.approx(share * np.prod(high - low), rel=0.06)
    clear = places[np.abs(deep) > 1e-3][:300]
    assert (sides(made.shape, clear) > 0).tolist() == (
        np.maximum(pair.a.depth(clear), pair.b.depth(clear)) > 0
    ).tolist()


def test_a_volume_is_found_where_the_middle_of_all_edges_lies_in_a_face():
    """An angle of two flat blocks, aslant: the kernel's integral from knot to knot never came back from it (a child that can be stopped asks)."""
    ask = (
        "from contour.simulate.body_pairs import random_pair\n"
        "from contour.solid.boolean import combine\n"
        "from contour.solid.mass import volume\n"
        "pair = random_pair('coincident', 1)\n"
        "print(volume(combine(pair.a.shape, pair.b.shape, 'add').shape), pair.a.volume, pair.b.volume)\n"
    )
    told = subprocess.run([sys.executable, "-c", ask], capture_output=True, text=True, timeout=120, check=True).stdout
    whole, a, b = map(float, told.split())
    # The second reaches 2/3 of the first's height into one half of it.
    assert whole == pytest.approx(a + b - a / 3, rel=1e-9)
