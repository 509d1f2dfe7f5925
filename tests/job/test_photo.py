"""Pictures in a recipe: edits, what marks come to, and what is said when they cannot."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image, ImageDraw
from pydantic import TypeAdapter

from contour.exchange.picture import grey
from contour.job.build.blobs import blobs_of
from contour.job.edits.apply import Edit, apply_edit
from contour.job.questions.photo import flat_picture, picture_facts
from contour.job.views.drawing import scan_drawing
from contour.recipe.evidence.picture import Picture, PictureLength, PictureMark
from contour.recipe.evidence.reading import Pin, Reading
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, dump_recipe, load_recipe
from contour.recipe.values import Value
from tests.shapes import sphere


def sheet() -> bytes:
    """400 by 300 white pixels with a black box from (100, 100) to (300, 200) and eight dark bars below it."""
    image = Image.new("RGB", (400, 300), "white")
    pen = ImageDraw.Draw(image)
    pen.rectangle((100, 100, 300, 200), fill="black")
    for k in range(8):
        pen.rectangle((60 + 35 * k, 230, 75 + 35 * k, 280), fill="black")
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def picture(**more: object) -> Picture:
    scale = PictureLength(a=(0, 10), b=(400, 10), length=Value(text="80 mm"))
    return Picture(
        id="p", name="x.png", blob="a" * 64, format="png", role="drawing", width=400, height=300, scale=scale, **more
    )  # type: ignore[arg-type]


def known(text: str) -> tuple[float, float]:
    if not text.endswith("mm"):
        raise ContourError("unknown-name", f"'{text}' is not known here")
    return float(text[:-2]), 0.02


def facts(*marks: PictureMark, **more: object):  # type: ignore[no-untyped-def]
    return picture_facts(picture(marks=marks, **more), lambda: grey(sheet()), known)


def mark(kind: str, *points: tuple[float, float], **more: object) -> PictureMark:
    return PictureMark(id="m", kind=kind, points=points, **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("made", "value", "dimension"),
    [
        (mark("distance", (100, 100), (300, 100)), 40.0, "length"),
        (mark("circle", (200, 150), (230, 190)), 20.0, "length"),
        (mark("angle", (100, 100), (300, 100), (100, 200)), 90.0, "angle"),
        (mark("count", (1, 1), (2, 2), (3, 3)), 3.0, "number"),
        (mark("trace", (100, 100), (300, 100), (300, 200), (100, 200), closed=True), 120.0, "length"),
        (mark("trace", (100, 100), (300, 100), (300, 200)), 60.0, "length"),
        (mark("repeat", (67.5, 255), (312.5, 255), count=8), 7.0, "length"),
    ],
)
def test_marks_come_to_what_they_are(made: PictureMark, value: float, dimension: str) -> None:
    (found,) = facts(made).marks
    assert found.dimension == dimension and found.value == pytest.approx(value, rel=3e-3)
    assert found.u is not None and (found.u > 0 or dimension == "number")


def test_points_on_edges_are_surer_than_points_by_hand() -> None:
    by_hand, on_edges = (facts(mark("distance", (100, 100), (300, 100), snapped=s)).marks[0] for s in (False, True))
    assert on_edges.u < by_hand.u


def test_a_repeat_held_against_a_wrong_step_drifts() -> None:
    drifts = {}
    for step in ("7 mm", "7.2 mm"):
        (found,) = facts(mark("repeat", (67.5, 255), (312.5, 255), count=8, step=Value(text=step))).marks
        drifts[step] = abs(found.drift) / found.u_drift
    assert drifts["7 mm"] < 2 < drifts["7.2 mm"]


def test_what_cannot_be_said_is_said() -> None:
    bare = picture_facts(
        picture().model_copy(update={"scale": None, "marks": (mark("distance", (0, 0), (9, 9)),)}),
        lambda: grey(sheet()),
        known,
    )
    assert bare.scale is None and bare.marks[0].value is None
    wrong = PictureLength(a=(0, 10), b=(400, 10), length=Value(text="no_such_name"))
    (problem,) = picture_facts(picture().model_copy(update={"scale": wrong}), lambda: grey(sheet()), known).problems
    assert problem.code == "unknown-name"
    (found,) = facts(mark("repeat", (10, 20), (390, 20), count=8)).marks  # nothing but white paper there
    assert found.problem is not None and found.problem.code == "fit-failed"


def test_a_second_length_speaks_for_or_against_the_scale() -> None:
    good = facts(check=PictureLength(a=(100, 100), b=(300, 100), length=Value(text="40 mm")))
    bad = facts(check=PictureLength(a=(100, 100), b=(300, 100), length=Value(text="42 mm")))
    assert abs(good.check_away) < 1 and bad.check_error == pytest.approx(-2 / 42, rel=1e-3) and bad.check_away < -2


def edit(recipe: Recipe, **fields: object) -> Recipe:
    return apply_edit(recipe, TypeAdapter(Edit).validate_python(fields))[0]


def test_edits_of_pictures_and_a_recipe_that_keeps_them() -> None:
    pinned = Reading(id="r", name="rim", pin=Pin(on="p", at=(5, 6, 0)))
    job = edit(Recipe(name="x", evidence=(pinned,)), op="add-picture", picture=picture().model_dump())
    corners = [[10, 10], [390, 12], [388, 290], [12, 288]]
    job = edit(job, op="set-picture", id="p", corners=corners, aspect=1.4, bend=0.01)
    job = edit(job, op="set-mark", picture="p", mark=mark("distance", (1, 2), (3, 4)).model_dump())
    job = edit(job, op="set-mark", picture="p", mark=mark("distance", (1, 2), (9, 9), name="wall").model_dump())
    (kept,) = load_recipe(dump_recipe(job)).pictures
    assert kept.aspect == 1.4 and [m.name for m in kept.marks] == ["wall"]
    assert blobs_of(job) == ("a" * 64,)
    assert flat_picture(kept).to_photo(flat_picture(kept).to_flat(np.array([[50.0, 60.0]]))) == pytest.approx(
        np.array([[50, 60]]), abs=1e-6
    )
    job = edit(job, op="set-picture", id="p", clear=["corners", "scale"])
    assert job.pictures[0].corners is None and job.pictures[0].scale is None and job.pictures[0].aspect == 1.4
    job = edit(job, op="drop-mark", picture="p", id="m")
    assert job.pictures[0].marks == ()
    job = edit(job, op="drop-picture", id="p")
    assert job.pictures == () and job.readings[0].pin is None


@pytest.mark.parametrize(
    ("fields", "code"),
    [
        ({"op": "set-picture", "id": "gone", "bend": 0.1}, "not-found"),
        ({"op": "drop-picture", "id": "gone"}, "not-found"),
        ({"op": "set-mark", "picture": "gone", "mark": {"id": "m", "kind": "count", "points": [[1, 1]]}}, "not-found"),
        ({"op": "add-picture", "picture": picture().model_dump()}, "bad-params"),
    ],
)
def test_edits_of_pictures_that_make_no_sense(fields: dict[str, object], code: str) -> None:
    job = Recipe(name="x", evidence=(picture(),))
    with pytest.raises(ContourError) as error:
        edit(job, **fields)
    assert error.value.problem.code == code


@pytest.mark.parametrize("along", ["x", "y", "z"])
def test_a_scan_drawn_along_an_axis_is_as_large_as_it_is(along: str) -> None:
    ball = sphere(24, 20.0)
    stretched = ball.vertices * {"x": [1, 2, 1], "y": [2, 1, 1], "z": [2, 1, 1]}[along]
    data, wide, high, mm_per_px = scan_drawing(stretched, ball.facets, along)  # type: ignore[arg-type]
    pixels = np.asarray(Image.open(io.BytesIO(data)).convert("L"))
    assert pixels.shape == (high, wide) and wide > high
    dark = np.argwhere(pixels < 200)
    size = (np.ptp(dark, axis=0) + 1) * mm_per_px
    # The outline is drawn on both sides of the rim, some pixels wide.
    assert size == pytest.approx([40, 80], abs=8 * mm_per_px)
