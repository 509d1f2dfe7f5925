"""A drawing on a plane becomes a sketch whose regions are extruded: closed-form areas and volumes, names that last, refusals that say why."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pydantic import TypeAdapter

from contour.geometry.frames import plane_frame
from contour.present.links import pieces_of_body
from contour.products.sketch import KIND as SKETCH
from contour.recipe.problem import ContourError
from contour.sketch.chosen import chosen_profiles, every_profile
from contour.sketch.drawn.acts.done import AnyAct, worked
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.linked import entity_pieces
from contour.sketch.entities import Entity, Sketch
from tests.conftest import circle, prism, rectangle
from tests.steps.helpers import body, plane_region, run, volume_of


def points(**at: tuple[float, float]) -> dict[str, Any]:
    return {name: {"kind": "point", "at": list(p)} for name, p in at.items()}


def lines(*rows: str) -> dict[str, Any]:
    """ "l1:a-b" as a line from a to b."""
    out = {}
    for row in rows:
        name, ends = row.split(":")
        a, b = ends.split("-")
        out[name] = {"kind": "line", "from": a, "to": b}
    return out


RECTANGLE = points(a=(0, 0), b=(41, 1), c=(40, 19), d=(0, 20)) | lines("l1:a-b", "l2:b-c", "l3:c-d", "l4:d-a")
SQUARED = [
    {"kind": "horizontal", "of": ["l1"]},
    {"kind": "horizontal", "of": ["l3"]},
    {"kind": "vertical", "of": ["l2"]},
    {"kind": "vertical", "of": ["l4"]},
    {"kind": "fixed", "of": ["a"]},
]
SIZED = {
    "sizes": [{"kind": "length", "of": ["l1"], "name": "width"}, {"kind": "length", "of": ["l2"], "name": "height"}],
    "lengths": {"width": {"text": "50 mm", "mark": "caliper"}, "height": {"text": "width / 2"}},
}
PLATE = {"entities": RECTANGLE, "constraints": SQUARED, **SIZED}


def sketch(params: dict[str, Any], products: dict[str, Any] | None = None, **given: Any):
    return run("sketch", params, products or {}, **given)


def extruded(product: Any, **more: Any) -> float:
    out = run("extrude", {"sketch": {"id": "s"}, "distance": {"text": "10 mm"}, **more}, {"sketch": product})
    return volume_of(out, "newstep0")


def test_sizes_drive_what_is_drawn_and_may_name_one_another():
    out = sketch(PLATE)
    assert out.facts.solved and out.facts.dof == 0 and out.facts.unsettled == 0
    assert out.facts.area == pytest.approx(50 * 25, rel=1e-9)
    assert extruded(out.product) == pytest.approx(50 * 25 * 10, rel=1e-9)


def test_a_reference_size_drives_nothing_and_keeps_the_value_it_had():
    sizes = [*SIZED["sizes"][:1], SIZED["sizes"][1] | {"reference": True}]
    out = sketch(PLATE | {"sizes": sizes})
    assert out.facts.solved and out.facts.dof == 1
    assert out.facts.area == pytest.approx(50 * 19, rel=0.06)  # as it is drawn, not 25 high


def test_on_a_tilted_plane_at_a_height_and_turned():
    normal = np.array([1.0, 2.0, 2.0]) / 3
    out = sketch(
        PLATE | {"plane": {"id": "r"}, "offset": {"text": "2 mm"}, "turn": {"text": "30 deg"}},
        {"plane": plane_region((1, 1, 1), normal)},
    )
    assert out.facts.normal == pytest.approx(normal)
    assert (np.array(out.facts.origin) - [1, 1, 1]) @ normal == pytest.approx(2)
    level = sketch(PLATE | {"plane": {"id": "r"}}, {"plane": plane_region((1, 1, 1), normal)})
    assert np.dot(out.facts.u_axis, level.facts.u_axis) == pytest.approx(math.cos(math.radians(30)))
    assert extruded(out.product) == pytest.approx(50 * 25 * 10, rel=1e-9)


def test_a_circle_inside_is_an_island_and_its_inside_can_be_chosen():
    ring = PLATE | {"entities": RECTANGLE | points(m=(20, 10)) | {"k": {"kind": "circle", "centre": "m", "radius": 5}}}
    out = sketch(ring)
    assert out.facts.profiles == 1
    assert out.facts.area == pytest.approx(1250 - math.pi * 25, rel=2e-3)  # of what is shown by chords
    assert extruded(out.product) == pytest.approx((1250 - math.pi * 25) * 10, rel=1e-9)
    plate, disc = sorted(every_profile(out.product), key=lambda p: -p.area)
    assert extruded(out.product, profiles=[disc.id]) == pytest.approx(math.pi * 25 * 10, rel=1e-9)
    both = extruded(out.product, profiles=[disc.id, plate.id])
    assert both == pytest.approx(1250 * 10, rel=1e-9)


CROSSED = RECTANGLE | points(e=(20, -5), f=(20, 30)) | lines("l5:e-f")


def test_neighbours_across_a_crossing_line_are_one_body_or_one_of_them_is_chosen():
    out = sketch(PLATE | {"entities": CROSSED})
    assert [p.area for p in chosen_profiles(out.product)] == pytest.approx([1250])
    assert extruded(out.product) == pytest.approx(12500, rel=1e-9)
    parts = every_profile(out.product)
    assert sum(p.area for p in parts) == pytest.approx(1250) and len(parts) == 2
    volumes = [extruded(out.product, profiles=[p.id]) for p in parts]
    assert sum(volumes) == pytest.approx(12500, rel=1e-9) and min(volumes) > 100


def test_a_stub_that_bounds_nothing_cuts_no_side_in_two():
    stub = RECTANGLE | points(e=(20, 0), f=(20, 8)) | lines("l5:e-f")
    out = sketch({"entities": stub | points(b=(40, 0))})
    assert out.facts.loose == 1
    (profile,) = chosen_profiles(out.product)
    assert sorted(e.id for e in profile.outer.entities) == ["l1", "l2", "l3", "l4"]


def test_pieces_are_called_by_what_they_lie_between_and_names_last():
    out = sketch(PLATE | {"entities": CROSSED})
    pieces = {e.id for p in every_profile(out.product) for e in p.outer.entities}
    assert {"l2", "l4", "l1:l4-l5", "l1:l5-l2", "l3:l2-l5", "l3:l5-l4"} < pieces
    named = [{"name": f.name, "of": [i for i, _ in f.outer]} for f in out.product.faces]
    more = CROSSED | points(g=(-5, 10), h=(60, 10)) | lines("l6:g-h")
    again = sketch(PLATE | {"entities": more, "named": named})
    assert {n["name"] for n in named} < {f.name for f in again.product.faces}
    assert len(again.product.faces) == 4


def test_a_contradiction_is_refused_by_name_and_what_is_drawn_stays():
    sizes = [*SIZED["sizes"], {"kind": "length", "of": ["l3"], "name": "top"}]
    out = sketch(PLATE | {"sizes": sizes, "lengths": SIZED["lengths"] | {"top": {"text": "60 mm"}}})
    assert not out.facts.solved
    problem = next(p for p in out.problems if p.code == "no-solution")
    assert "top" in problem.got and "width" in problem.got
    assert (41, 1) in [e.start for e in out.product.entities]
    with pytest.raises(ContourError) as error:
        extruded(out.product)
    assert error.value.problem.code == "no-solution"


def test_an_open_drawing_says_where_it_nearly_closes():
    out = sketch(
        {"entities": points(a=(0, 0), b=(40, 0), c=(40, 20), d=(0.3, 0.2)) | lines("l1:a-b", "l2:b-c", "l3:c-d")}
    )
    (problem,) = out.problems
    assert problem.code == "open-end" and "0.361 mm" in problem.got
    assert problem.where.point == pytest.approx((0.15, 0.1, 0), abs=0.2)


def test_splines_ellipses_and_arcs_are_extruded_to_closed_forms():
    oval = points(m=(0, 0), t=(0, 9)) | {"o": {"kind": "ellipse", "centre": "m", "major": "t", "minor": 4}}
    assert extruded(sketch({"entities": oval}).product) == pytest.approx(math.pi * 36 * 10, rel=1e-6)
    half = (
        points(m=(0, 0), a=(5, 0), b=(-5, 0))
        | lines("l:b-a")
        | {"k": {"kind": "arc", "centre": "m", "from": "a", "to": "b"}}
    )
    assert extruded(sketch({"entities": half}).product) == pytest.approx(math.pi * 12.5 * 10, rel=1e-9)
    # A parabola's arc: the cubic over four control points that are those of a raised quadratic.
    arc = points(a=(-3, 0), p=(-1, 4), q=(1, 4), b=(3, 0)) | lines("l:b-a")
    arc["s"] = {"kind": "spline", "control": ["a", "p", "q", "b"]}
    assert extruded(sketch({"entities": arc}).product) == pytest.approx(10 * 12, rel=1e-5)


def test_what_it_makes_is_kept_and_read_again(tmp_path: Path):
    out = sketch(PLATE | {"entities": CROSSED})
    SKETCH.save(out.product, tmp_path)
    again = SKETCH.load(tmp_path)
    assert again.faces == out.product.faces and again.entities == out.product.entities
    assert json.loads((tmp_path / "sketch.json").read_text())["faces"]


@pytest.mark.parametrize(
    ("params", "said"),
    [
        ({"entities": {"a": {"kind": "point", "at": [float("nan"), 0]}}}, "finite"),
        ({"entities": {"a]": {"kind": "point", "at": [0, 0]}}}, "is no id"),
        ({"entities": RECTANGLE, "sizes": SIZED["sizes"][:1]}, "has no value"),
        ({"entities": RECTANGLE, "sizes": [SIZED["sizes"][0]] * 2, "lengths": SIZED["lengths"]}, "two sizes"),
        ({"entities": RECTANGLE, "constraints": [{"kind": "horizontal", "of": ["gone"]}]}, "not drawn"),
    ],
)
def test_bad_drawings_are_refused(params, said):
    with pytest.raises((ContourError, ValueError)) as error:
        sketch(params)
    assert said in str(error.value)


def test_values_in_a_circle_are_refused_with_the_ring():
    with pytest.raises(ContourError) as error:
        sketch(PLATE | {"lengths": {"width": {"text": "height * 2"}, "height": {"text": "width / 2"}}})
    assert error.value.problem.code == "value-cycle"


# -- what is brought in from a body and from another sketch

TOP = {"body": "b", "name": "s1.end[p1]"}


def _brought(width: float, hung: dict[str, Any]):
    """The top of a block of this width, with a circle hung on one of its corners."""
    return sketch(
        hung,
        {"links[0].part": body(prism(rectangle(width, 20), 10)), "plane": plane_region((0, 0, 10), (0, 0, 1))},
        **{"links__0.part": TOP["name"]},
    )


def _hung_on_the_top() -> dict[str, Any]:
    frame = plane_frame(np.array([0, 0, 10.0]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    pieces = pieces_of_body(prism(rectangle(30, 20), 10), "face", frame, [TOP["name"]])
    link = {"way": "face", "part": TOP}
    told = [p.model_dump(mode="json") for p in pieces]
    brought = [{"act": "bring-in", "link": link, "pieces": told}]
    kept = worked(KeptDrawing(), [TypeAdapter(AnyAct).validate_python(a) for a in brought]).kept
    corner = next(n for n, e in kept.entities.items() if e.kind == "point" and e.at == pytest.approx((30, 20)))
    circle = {"act": "circle", "by": "centre", "diameter": "8 mm"}
    circle["spots"] = [{"at": [30, 20], "point": corner}, {"at": [34, 20]}]
    kept = worked(kept, [TypeAdapter(AnyAct).validate_python(circle)]).kept
    return {**kept.model_dump(mode="json", by_alias=True, exclude_none=True), "plane": {"id": "r"}}


def test_what_hangs_on_a_face_that_was_brought_in_follows_the_body():
    hung = _hung_on_the_top()
    for width in (30.0, 47.0):
        out = _brought(width, hung)
        assert out.facts.solved and not out.problems and out.facts.profiles == 1
        ring = next(e for e in out.product.entities if e.kind == "arc")
        assert ring.circle()[0] == pytest.approx((width, 20)) and ring.circle()[1] == pytest.approx(4)
        assert len(out.facts.linked) == 8


def test_a_face_that_lost_an_edge_leaves_the_piece_where_it_was_and_says_so():
    out = sketch(
        _hung_on_the_top(),
        {
            "links[0].part": body(prism([*rectangle(30, 20)[:2], Entity("e9", "line", (30, 20), (0, 0))], 10)),
            "plane": plane_region((0, 0, 10), (0, 0, 1)),
        },
        **{"links__0.part": TOP["name"]},
    )
    assert sorted(p.code for p in out.problems) == ["outline-changed", "ref-lost", "ref-lost"]
    assert out.facts.solved and out.facts.profiles == 1


def test_a_silhouette_and_a_cut_of_a_body_and_another_sketch():
    frame = plane_frame(np.array([0, 0, 5.0]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    block = prism([*rectangle(30, 20), circle(10, 10, 4)], 10)
    other = Sketch(frame, tuple(rectangle(7, 7)))
    for way, at, source in (
        ("cut", "body", body(block)),
        ("silhouette", "body", body(block)),
        ("sketch", "sketch", other),
    ):
        pieces = entity_pieces(other, frame) if way == "sketch" else pieces_of_body(block, way, frame)
        act = {"act": "bring-in", "link": {"way": way, at: {"id": "b"}}, "pieces": [p.model_dump() for p in pieces]}
        kept = worked(KeptDrawing(), [TypeAdapter(AnyAct).validate_python(act)]).kept
        names = [n for n, e in kept.entities.items() if e.kind != "point"]
        asked = {"act": "construction", "of": names, "on": False}
        kept = worked(kept, [TypeAdapter(AnyAct).validate_python(asked)]).kept
        params = {**kept.model_dump(mode="json", by_alias=True, exclude_none=True), "offset": {"text": "5 mm"}}
        out = sketch(params, {f"links[0].{at}": source})
        true = 49 if way == "sketch" else 600 - math.pi * 16
        assert max(p.area for p in every_profile(out.product)) == pytest.approx(true, rel=1e-3), way  # by chords
