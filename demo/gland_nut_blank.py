"""The gland nut's blank: a half section whose sizes are readings, on the photo it was measured in, turned about its axis, with the hexagon put on
and its thread cut."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import TypeAdapter

from contour.job.build.scope import Scope
from contour.recipe.recipe import Recipe, Step
from contour.sketch.drawn.acts.done import AnyAct, worked
from contour.sketch.drawn.kept import KeptDrawing

__all__ = ["blank_steps"]

_ACTS: TypeAdapter[list[AnyAct]] = TypeAdapter(list[AnyAct])


def _drawn(recipe: Recipe, acts: list[dict[str, Any]]) -> dict[str, Any]:
    """Parameters of a sketch by acts as a hand would do them; its sizes name readings."""
    found = worked(KeptDrawing(), _ACTS.validate_python(acts), lookup=Scope(recipe).lookup, unit=recipe.unit)
    params = found.kept.model_dump(mode="json", by_alias=True)
    for value in params["lengths"].values():
        value["mark"] = "caliper"
    return params


def _at(x: float, y: float, **more: Any) -> dict[str, Any]:
    return {"at": (x, y), **more}


def _relate(kind: str, *of: str) -> dict[str, Any]:
    return {"act": "relate", "kind": kind, "of": of, "value": None}


def _size(kind: str, *of: str, value: str) -> dict[str, Any]:
    return {"act": "size", "kind": kind, "of": of, "value": value}


def _half(recipe: Recipe) -> dict[str, Any]:
    """From the head's end along the axis: l3 is the axis, l8 the bore, l10 the crests of the thread, l11 the head's end."""
    level = {"relations": [{"kind": "horizontal"}], "construction": True}
    return _drawn(
        recipe,
        [
            {"act": "line", "start": _at(0, 0), "end": _at(48, 0), **level},
            {"act": "rectangle", "by": "corner", "spots": [_at(0, 11), _at(48, 18)]},
            _relate("fixed", "p1"),
            _relate("vertical", "p1", "p4"),
            _relate("vertical", "p2", "p5"),
            _size("distance", "l8", "l3", value="bore_d / 2"),
            _size("distance", "l10", "l3", value="major_d / 2"),
            _size("length", "l10", value="head_l + neck_l + thread_len"),
        ],
    )


def _hexagon(recipe: Recipe) -> dict[str, Any]:
    """Around the axis, with the bore left open."""
    return _drawn(
        recipe,
        [
            {"act": "polygon", "spots": [_at(0, 0), _at(26, 0)], "sides": 6, "across": "hex_af"},
            {"act": "circle", "by": "centre", "spots": [_at(0, 0, point="p1"), _at(11, 0)], "diameter": "bore_d"},
            _relate("fixed", "p1"),
            _relate("horizontal", "p1", "p2"),
        ],
    )


def blank_steps(
    recipe: Recipe, picture: str, zero: tuple[float, float], id_of: Callable[[str], str]
) -> tuple[Step, ...]:
    """Steps on top of a job that has the readings. zero: the pixel of its photo at which the head's end meets the nut's axis."""
    half, turned, hexagon, head, thread = (id_of(f"blank {n}") for n in ("half", "turned", "hexagon", "head", "thread"))
    photo = {"picture": picture, "px": zero, "at": (0.0, 0.0), "turn": 0.0}
    end = {"body": turned, "name": f"{turned[:8]}.side[l11]", "kind": "plane"}
    return (
        Step(id=half, kind="sketch", name="Half section", params=_half(recipe) | {"pictures": [photo]}),
        Step(
            id=turned,
            kind="revolve",
            name="Blank",
            params={"sketch": {"id": half}, "axis": {"sketch": half, "entity": "l3"}},
        ),
        Step(
            id=hexagon,
            kind="sketch",
            name="Hexagon",
            params=_hexagon(recipe) | {"plane": end, "origin": (0.0, 0.0, 0.0), "u_axis": (0.0, 1.0, 0.0)},
        ),
        Step(
            id=head,
            kind="extrude",
            name="Head",
            # The end looks out of the nut: against it the head goes over the blank.
            params={
                "sketch": {"id": hexagon},
                "distance": {"text": "-head_l", "mark": "photo"},
                "operation": "add",
                "bodies": [{"id": turned}],
            },
        ),
        Step(
            id=thread,
            kind="threaded",
            name="Thread",
            params={
                "face": {"body": turned, "name": f"{turned[:8]}.side[l10]", "kind": "cylinder"},
                "size": "typed",
                "major": {"text": "major_d", "mark": "caliper"},
                "pitch": {"text": "pitch", "mark": "caliper"},
                "length": {"text": "thread_len", "mark": "caliper"},
            },
        ),
    )
