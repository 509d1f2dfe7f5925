"""The caliper desk without a browser: edits of takes and sessions, derived values, readings held against the scan."""

from __future__ import annotations

import numpy as np
import pytest
from pydantic import TypeAdapter

from contour.job.build.result import BuildResult, StepState
from contour.job.edits.apply import Edit, apply_edit
from contour.job.questions.desk import desk_facts, standards_near
from contour.job.questions.uncertain import rests_on, value_uncertainties
from contour.metrology.reading import all_readings
from contour.products.region import RegionFacts
from contour.recipe.evidence.reading import Feature, Instrument, Reading, Session, Take
from contour.recipe.problem import ContourError
from contour.recipe.recipe import NamedValue, Recipe, Step
from contour.recipe.values import Value
from tests.steps.helpers import region_facts

TOOL = Instrument(id="tool", name="caliper", resolution_mm=0.01, limit_mm=0.02)
DAY = Session(id="day", name="day", instrument="tool")


def edit(recipe: Recipe, **fields: object) -> Recipe:
    return apply_edit(recipe, TypeAdapter(Edit).validate_python(fields))[0]


def reading(name: str, *values: float, **more: object) -> Reading:
    return Reading(id=name, name=name, takes=tuple(Take(value=v, session="day") for v in values), **more)  # type: ignore[arg-type]


def desk(*readings: Reading, **more: object) -> Recipe:
    return Recipe(name="x", evidence=readings, instruments=(TOOL,), sessions=(DAY,), **more)  # type: ignore[arg-type]


def value(name: str, text: str, dimension: str = "length") -> NamedValue:
    return NamedValue(id=name, name=name, dimension=dimension, value=Value(text=text))  # type: ignore[arg-type]


def test_takes_arrive_are_struck_and_counted_again() -> None:
    job = desk(reading("rim", 12.0))
    job = edit(job, op="add-take", id="rim", take={"value": 12.9, "unit": "mm", "session": "day"})
    job = edit(job, op="strike-take", id="rim", take=1, reason="burr")
    assert all_readings(job)["rim"].n == 1 and job.readings[0].takes[1].struck == "burr"
    job = edit(job, op="strike-take", id="rim", take=1, reason="")
    assert all_readings(job)["rim"].n == 2


def test_a_zero_found_later_is_put_right_for_the_whole_session() -> None:
    job = desk(reading("rim", 12.05, 12.06), reading("hub", 8.05, 8.06))
    job = edit(job, op="set-session", session={"id": "day", "name": "day", "instrument": "tool", "zero_mm": 0.05})
    means = {k: f.mean for k, f in all_readings(job).items()}
    assert means == {"rim": pytest.approx(12.005), "hub": pytest.approx(8.005)}


@pytest.mark.parametrize(
    ("fields", "code"),
    [
        ({"op": "add-take", "id": "none", "take": {"value": 1}}, "not-found"),
        ({"op": "add-take", "id": "rim", "take": {"value": 1, "session": "gone"}}, "not-found"),
        ({"op": "add-take", "id": "rim", "take": {"value": 30, "unit": "deg"}}, "mixed-dimensions"),
        ({"op": "strike-take", "id": "rim", "take": 7, "reason": "x"}, "not-found"),
        ({"op": "set-session", "session": {"id": "s", "name": "s", "instrument": "gone"}}, "not-found"),
        ({"op": "drop-instrument", "id": "day"}, "bad-params"),
        ({"op": "drop-instrument", "id": "tool"}, "bad-params"),
    ],
)
def test_edits_that_make_no_sense_change_nothing(fields: dict[str, object], code: str) -> None:
    with pytest.raises(ContourError) as error:
        edit(desk(reading("rim", 12.0)), **fields)
    assert error.value.problem.code == code


def test_a_full_reading_says_so() -> None:
    with pytest.raises(ContourError) as error:
        edit(desk(reading("rim", *[12.0] * 200)), op="add-take", id="rim", take={"value": 12.0})
    assert error.value.problem.code == "flood"


def test_derived_values_know_how_well_they_are_known() -> None:
    span = reading("span", 21.00, 21.02, 21.01, measures="span", over=7)
    job = desk(
        span,
        reading("rim_d", 60.00, 60.02),
        reading("hub_d", 38.00, 38.01),
        values=(
            value("lead", "span / 7"),
            value("lead_2", "span.each"),
            value("web", "(rim_d - hub_d) / 2"),
            value("half", "web / 2"),
            value("typed", "3 mm"),
            value("turns", "span / lead", "number"),
        ),
    )
    u = value_uncertainties(job, {})
    facts = all_readings(job)
    assert u["lead"] == pytest.approx(facts["span"].u / 7) and u["lead_2"] == pytest.approx(u["lead"])  # type: ignore[operator]
    assert u["half"] == pytest.approx(u["web"] / 2)
    # What both share goes in part: less than if the two had nothing in common.
    assert u["web"] < 0.5 * np.hypot(facts["rim_d"].u, facts["hub_d"].u)  # type: ignore[arg-type]
    # A span over a share of itself is a plain number, however badly the span is known.
    assert u["turns"] == pytest.approx(0, abs=1e-9)
    assert "typed" not in u
    assert rests_on(job, "half + 1 mm") == {"rim_d", "hub_d"}


def test_rings_and_unknown_names_leave_no_uncertainty() -> None:
    job = desk(
        reading("rim", 12.0, 12.1), values=(value("a", "b + rim"), value("b", "a - rim"), value("c", "rim + gone"))
    )
    assert value_uncertainties(job, {}) == {}


def plane(id: str, height: float) -> tuple[Step, StepState]:
    facts = {
        "kind": "plane",
        "origin": [0, 0, height],
        "axis": [0, 0, 1.0],
        "middle": [3, 4, height],
        "u": 0.002,
        "facets": 900,
        "rms": 0.02,
    }
    return _step(id, region_facts(**facts))


def bore(id: str, diameter: float, x: float = 0.0) -> tuple[Step, StepState]:
    facts = {
        "kind": "cylinder",
        "origin": [x, 0, 5.0],
        "axis": [0, 0, 1.0],
        "diameter": diameter,
        "u": 0.003,
        "facets": 900,
        "rms": 0.02,
    }
    return _step(id, region_facts(**facts))


def _step(id: str, facts: RegionFacts) -> tuple[Step, StepState]:
    step = Step(id=id, kind="region", name=id, params={})
    return step, StepState(id=id, kind="region", name=id, status="ok", facts=facts)


def test_readings_are_held_against_what_they_are_tied_to() -> None:
    rows = [plane("bottom", 0), plane("top", 12.0), bore("eye", 20.0), bore("other_eye", 8.0, 45.0)]
    shifted = [
        reading("thick", 12.06, 12.07, feature=Feature(regions=("bottom", "top")), measures="outside"),
        reading("eye_d", 20.06, 20.05, feature=Feature(regions=("eye",)), measures="inside"),
        reading("apart", 45.06, 45.07, feature=Feature(regions=("eye", "other_eye"))),
        reading("loose", 3.0),
        reading("odd", 3.0, feature=Feature(regions=("eye", "top"))),
    ]
    job = desk(*shifted, steps=tuple(s for s, _ in rows))
    facts = desk_facts(job, BuildResult(steps=tuple(s for _, s in rows)))
    assert {a.reading: a.scan for a in facts.against} == {
        "thick": 12.0,
        "eye_d": pytest.approx(20.0),
        "apart": pytest.approx(45.0),
    }
    (doubt,) = facts.sessions
    assert doubt.check.suspected and doubt.check.shift == pytest.approx(0.06, abs=0.01)
    assert set(doubt.readings) == {"thick", "eye_d", "apart"}
    assert facts.scale is not None and facts.scale.pairs == 3


def test_a_session_with_too_few_ties_says_nothing() -> None:
    rows = [bore("eye", 20.0)]
    job = desk(reading("eye_d", 20.2, feature=Feature(regions=("eye",))), steps=tuple(s for s, _ in rows))
    facts = desk_facts(job, BuildResult(steps=tuple(s for _, s in rows)))
    assert facts.sessions == () and facts.scale is None and len(facts.against) == 1


def test_standards_near_a_bore_and_a_shaft() -> None:
    job = desk(
        reading("eye_d", 25.012, 25.010, measures="inside"), reading("pin_d", 24.985, 24.988, measures="outside")
    )
    facts = all_readings(job)
    labels = {r.name: [s.label for s in standards_near(job, r, facts[r.id])] for r in job.readings}
    assert "25 H6" in labels["eye_d"] and any(n.startswith("drill") for n in labels["eye_d"])
    assert any(n.startswith(("25 g", "25 h")) for n in labels["pin_d"]) and not any(
        "drill" in n for n in labels["pin_d"]
    )
    near = standards_near(job, job.readings[0], facts["eye_d"])
    assert all(s.away is not None for s in near)


def test_sizes_of_several_sources_stand_side_by_side() -> None:
    rows = [bore("eye", 20.03)]
    by_hand = reading("eye_d", 20.02, 20.03, 20.02, feature=Feature(regions=("eye",)), measures="inside")
    stated = Reading(
        id="eye_drawn", name="eye_drawn", takes=(Take(value=20),), source="drawing", tolerance_mm=0.1, same_as="eye_d"
    )
    photo = Reading(
        id="eye_photo", name="eye_photo", takes=(Take(value=20.4),), source="photo", u_mm=0.03, same_as="eye_drawn"
    )
    alone = reading("loose", 3.0, same_as="gone")
    job = desk(by_hand, stated, photo, alone, steps=tuple(s for s, _ in rows))
    (size,) = desk_facts(job, BuildResult(steps=tuple(s for _, s in rows))).sizes
    assert [f.source for f in size.figures[:1]] == ["drawing"]
    assert {f.source for f in size.figures[1:]} == {"caliper", "photo", "scan"}
    assert not size.agree and "eye_photo" in size.between and size.out_of_tolerance == ("eye_photo",)
    job = edit(job, op="set-reading", id="eye_drawn", unlink=True)
    size, other = desk_facts(job, BuildResult(steps=tuple(s for _, s in rows))).sizes
    assert {f.source for f in size.figures} == {"caliper", "scan"} and size.agree
    assert {f.name for f in other.figures} == {"eye_drawn", "eye_photo"}
    assert not edit(job, op="set-reading", id="eye_d", same_as="eye_d").readings[0].same_as


def test_a_reading_keeps_the_unit_its_takes_share() -> None:
    job = desk(reading("rim", 12.0))
    job = edit(job, op="set-reading", id="slot", name="slot", takes=[{"value": 0.375, "unit": "inch"}])
    assert {k: f.unit for k, f in all_readings(job).items()} == {"rim": "mm", "slot": "inch"}
    job = edit(job, op="add-take", id="slot", take={"value": 9.53})
    assert all_readings(job)["slot"].unit is None
