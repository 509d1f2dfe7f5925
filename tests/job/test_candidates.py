"""What a value could be: each kind of proposal, what is left out, and in which order."""

import numpy as np
import pytest

from contour.geometry.frames import plane_frame
from contour.job.build.result import BuildResult, StepState, ValueState
from contour.job.questions.candidates import candidates_for
from contour.recipe.evidence.reading import Reading, Take
from contour.recipe.recipe import NamedValue, Recipe
from contour.recipe.values import Value
from contour.sketch.entities import Sketch
from tests.steps.helpers import region_facts

UP = (0.0, 0.0, 1.0)


def plane(id: str, height: float, axis=UP, u: float = 0.001, status: str = "ok") -> StepState:
    facts = region_facts(
        **{
            "kind": "plane",
            "origin": (0, 0, height),
            "middle": (3, 4, height),
            "axis": axis,
            "facets": 8412,
            "rms": 0.02,
            "u": u,
        }
    )
    return StepState(id=id, kind="region", name=id.title(), status=status, key="k", facts=facts)  # type: ignore[arg-type]


def bore(id: str, diameter: float) -> StepState:
    facts = region_facts(kind="cylinder", diameter=diameter, facets=900, rms=0.02, u=0.004)
    return StepState(id=id, kind="region", name=id.title(), status="ok", key="k", facts=facts)


def reading(name: str, *takes: float, unit="mm") -> Reading:
    return Reading(id=name, name=name, takes=tuple(Take(value=t, unit=unit) for t in takes))


SKETCH = StepState(id="sketch", kind="sketch", name="Sketch", status="ok", key="sk")


def ask(steps=(), readings=(), values=(), place="distance", text=10.0, unit="mm", kind="extrude", **more):
    recipe = Recipe(name="x", unit=unit, evidence=tuple(readings), values=tuple(v for v, _ in values))
    result = BuildResult(steps=(SKETCH, *steps), values={v.id: s for v, s in values})
    params = {"sketch": {"id": "sketch"}, "plane": {"id": "base"}}
    frame = plane_frame(np.zeros(3), np.array(UP), np.array([1.0, 0, 0]))
    return candidates_for(
        recipe, result, kind=kind, params=params, place=place, value=text, sketch=lambda _: Sketch(frame, ()), **more
    )


def test_the_scan_says_how_far_a_region_is():
    found = ask([plane("top", 10.032)])
    assert (found[0].label, found[0].mark, found[0].u) == ("to Top", "scan", 0.001)
    assert found[0].text == "10.032 mm"
    assert "8,412 facets" in found[0].note


def test_a_hole_that_stands_on_a_fitted_one_may_be_as_wide_however_far_that_is_from_what_it_begins_with():
    steps = [bore("eye", 10.17), bore("other", 10.17)]
    result = BuildResult(steps=tuple(steps), values={})
    params = {"by": "axes", "face": {"body": "b", "name": "top"}, "axes": [{"id": "eye"}]}
    found = candidates_for(
        Recipe(name="x"), result, kind="hole", params=params, place="diameter", value=6.0, sketch=lambda _: None
    )
    assert [(c.text, c.mark) for c in found] == [("eye.diameter", "scan"), ("10.15 mm", "intent")]
    assert found[0].value == 10.17 and found[0].u == pytest.approx(0.008)


@pytest.mark.parametrize(
    "state",
    [
        plane("side", 10, axis=(1, 0, 0)),
        plane("tilted", 10, axis=(0, 0.1, 0.995)),
        plane("far", 40),
        plane("off", 10, status="failed"),
        bore("eye", 10),
    ],
)
def test_what_does_not_lie_square_and_near_is_left_out(state):
    assert not any(c.mark == "scan" for c in ask([state]))


def test_the_other_way_is_measured_the_other_way():
    (first, *_) = ask([plane("under", -2.004)], place="back", text=2.0)
    assert first.value == pytest.approx(2.004)


def test_an_offset_is_measured_from_its_region():
    steps = [plane("base", 5), plane("top", 9.51)]
    found = ask(steps, place="offset", text=4.4, kind="sketch")
    assert found[0].value == pytest.approx(4.51)


def test_readings_come_by_their_name_so_that_they_are_followed():
    found = ask(
        readings=[
            reading("plate_t", 10.02, 10.04),
            reading("length", 120.0),
            reading("empty"),
            reading("tilt", 3.0, unit="deg"),
        ]
    )
    caliper = [c for c in found if c.mark == "caliper"]
    assert [(c.text, c.value) for c in caliper] == [("plate_t", pytest.approx(10.03))]
    assert caliper[0].u == pytest.approx(0.01)


def test_rounding_stays_within_what_was_measured():
    found = ask([plane("top", 12.031)], text=12.0)
    assert [c.text for c in found if c.mark == "intent"] == ["12.05 mm"]
    loose = ask([plane("top", 12.031, u=0.02)], text=12.0)
    assert [c.text for c in loose if c.mark == "intent"] == ["12 mm"]


def test_rounding_in_inches_goes_by_fractions():
    found = ask(readings=[reading("rim", 12.69, 12.71)], text=12.7, unit="inch")
    assert [c.text for c in found if c.mark == "intent"] == ["0.5 inch"]


def test_a_typed_figure_alone_is_rounded():
    assert [c.text for c in ask(text=9.98)] == ["10 mm"]


def test_values_of_the_same_size_are_offered_under_their_name():
    value = NamedValue(id="v", name="skin", value=Value(text="10.05 mm"))
    found = ask(values=[(value, ValueState(value=10.05, length=1, angle=0, mark="assumed"))])
    assert found[-1].text == "skin"
    own = ask(values=[(value, ValueState(value=10.05, length=1, angle=0, mark="assumed"))], kind=None, own="skin")
    assert all(c.text != "skin" for c in own)


def test_a_named_value_may_follow_a_bore():
    found = ask([bore("worn_bore", 18.02)], kind=None, text=18.0)
    assert (found[0].text, found[0].u) == ("worn_bore.diameter", 0.008)


def test_angles_have_readings_only_and_tolerances_nothing():
    angles = ask(readings=[reading("tilt", 3.0, 3.1, unit="deg")], dimension="angle", text=3.0)
    assert [c.text for c in angles] == ["tilt"]
    assert ask([plane("top", 10)], place="tolerance") == []
