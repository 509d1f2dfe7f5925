"""The text form: read, refused with the place, written as it was read."""

from __future__ import annotations

import json
from typing import Any

import pytest

from contour.recipe.problem import ContourError
from contour.sketch.drawn.text import Line, read_drawing
from tests.sketch.drawn.kit import line, point

SOUND: dict[str, Any] = {
    "entities": {
        "a": point(0, 0),
        "b": {"kind": "point", "at": [4.0, 1.0], "construction": True},
        "k": line("a", "b"),
        "r": {"kind": "circle", "centre": "a", "radius": 2.0},
        "s": {"kind": "spline", "through": ["a", "b"], "start": "b", "at": [0.0, 1.0]},
    },
    "constraints": [{"kind": "horizontal", "of": ["k"]}],
    "dimensions": [{"kind": "length", "of": ["k"], "value": "20 mm", "name": "w"}],
}


def test_a_drawing_is_written_as_it_was_read() -> None:
    drawing = read_drawing(json.dumps(SOUND))
    assert drawing.text() == json.loads(json.dumps(SOUND))
    assert read_drawing(drawing.text()) == drawing
    k = drawing.entities["k"]
    assert isinstance(k, Line) and (k.start, k.end) == ("a", "b")


def changed(**parts: Any) -> dict[str, Any]:
    return {**SOUND, **{key: {**SOUND[key], **value} if key == "entities" else value for key, value in parts.items()}}


@pytest.mark.parametrize(
    ("data", "code", "where"),
    [
        ("{", "file-not-understood", None),
        (b"\xff\xfe", "file-not-understood", None),
        ("[1]", "bad-params", "the drawing"),
        ({}, "bad-params", "entities"),
        (changed(entities={"a": point(float("nan"), 0)}), "bad-params", "a"),
        (changed(entities={"a": point(float("inf"), 0)}), "bad-params", "a"),
        (changed(entities={"a": point(1e9, 0)}), "bad-params", "a"),
        (changed(entities={"z": {"kind": "blob"}}), "bad-params", "z"),
        (changed(entities={"z": {"kind": "circle", "centre": "a", "radius": -1}}), "bad-params", "z"),
        (changed(entities={"z": line("a", "nowhere")}), "ref-lost", "z"),
        (changed(entities={"z": line("a", "k")}), "ref-lost", "z"),
        (changed(entities={"z": {"kind": "spline"}}), "bad-params", "z"),
        (changed(entities={"z": {"kind": "spline", "through": ["a"], "control": ["b"]}}), "bad-params", "z"),
        (changed(entities={"z": {"kind": "spline", "through": ["a", "b"], "at": [1.0, 0.0]}}), "bad-params", "z"),
        (changed(constraints=[{"kind": "vertical", "of": ["k"]}, {"kind": "round", "of": ["k"]}]), "bad-params", "c:1"),
        (changed(constraints=[{"kind": "vertical", "of": ["q"]}]), "ref-lost", "c:0"),
        (changed(dimensions=[{"kind": "length", "of": ["q"], "value": 3}]), "ref-lost", "d:0"),
        (changed(dimensions=[{"kind": "length", "of": [], "value": 3}]), "bad-params", "d:0"),
        (changed(entities={f"p{k}": point(k, 0) for k in range(5001)}), "bad-params", "entities"),
    ],
)
def test_what_is_wrong_is_named_with_its_place(data: Any, code: str, where: str | None) -> None:
    with pytest.raises(ContourError) as error:
        read_drawing(data)
    problem = error.value.problem
    assert (problem.code, problem.where.entity) == (code, where)
    assert problem.got is not None and problem.need and problem.remedy
