import statistics

import pytest
from hypothesis import given
from hypothesis import strategies as st

from contour.metrology.reading import all_readings, combined, outliers, reading_facts
from contour.recipe.evidence.reading import Instrument, Reading, Session, Take
from contour.recipe.recipe import Recipe

TOOL = Instrument(id="tool", name="caliper", resolution_mm=0.01, limit_mm=0.02)
SESSION = Session(id="day", name="day", instrument="tool", zero_mm=0.03)


def reading(*takes: tuple[float, str]) -> Reading:
    return Reading(id="r", name="rim", takes=tuple(Take(value=v, unit=u) for v, u in takes))  # type: ignore[arg-type]


def test_no_takes_say_nothing_and_one_has_no_spread():
    assert reading_facts(reading()) is None
    one = reading_facts(reading((12.0, "mm")))
    assert one is not None
    assert (one.mean, one.u, one.n, one.spread) == (12.0, None, 1, 0.0)


def test_units_may_differ_from_take_to_take():
    facts = reading_facts(reading((12.7, "mm"), (0.5, "inch"), (1.27, "cm")))
    assert facts is not None
    assert facts.mean == pytest.approx(12.7)
    assert facts.u == pytest.approx(0.0, abs=1e-12)


def test_an_angle_stays_an_angle():
    facts = reading_facts(reading((30.0, "deg"), (31.0, "deg")))
    assert facts is not None
    assert (facts.dimension, facts.mean, facts.u) == ("angle", 30.5, pytest.approx(0.5))


@given(st.lists(st.floats(0.1, 500), min_size=2, max_size=30))
def test_mean_and_uncertainty_agree_with_the_statistics_module(values):
    facts = reading_facts(reading(*((v, "mm") for v in values)))
    assert facts is not None
    assert facts.mean == pytest.approx(statistics.fmean(values))
    assert facts.u == pytest.approx(statistics.stdev(values) / len(values) ** 0.5, rel=1e-6, abs=1e-9)
    assert facts.spread == pytest.approx(max(values) - min(values))


def measured(*values: float, **more: object) -> Reading:
    return Reading(
        id=str(more.pop("id", "r")),
        name=str(more.pop("name", "rim")),
        takes=tuple(Take(value=v, session="day") for v in values),
        **more,  # type: ignore[arg-type]
    )


def test_the_guide_s_own_worked_budget():
    """Three takes of a caliper: s / sqrt(3), 0.01 / sqrt(12), 0.02 / sqrt(3), each worked out by hand."""
    mean, s, type_a, u = combined([25.02, 25.04, 25.03], resolution=0.01, limit=0.02)
    assert (mean, s) == (pytest.approx(25.03), pytest.approx(0.01))
    assert type_a == pytest.approx(0.0057735, abs=1e-7)
    assert u == pytest.approx((0.0057735**2 + 0.0028868**2 + 0.0115470**2) ** 0.5, abs=1e-6)


def test_a_session_s_zero_is_taken_off_and_its_instrument_counts():
    facts = reading_facts(measured(12.05, 12.07, 12.06), sessions=[SESSION], instruments=[TOOL])
    assert facts is not None
    assert facts.mean == pytest.approx(12.03)
    assert facts.u == pytest.approx((0.01**2 / 3 + 0.01**2 / 12 + 0.02**2 / 3) ** 0.5)
    assert facts.U95 == pytest.approx(2 * facts.u) and facts.instrument == "caliper"


def test_one_take_of_a_known_instrument_is_not_without_uncertainty():
    facts = reading_facts(measured(12.0), sessions=[SESSION], instruments=[TOOL])
    assert facts is not None and facts.s is None
    assert facts.u == pytest.approx((0.01**2 / 12 + 0.02**2 / 3) ** 0.5)


def test_a_struck_take_is_kept_and_does_not_count():
    takes = (Take(value=12.0), Take(value=12.02), Take(value=13.4, struck="jaws on a burr"))
    facts = reading_facts(Reading(id="r", name="rim", takes=takes))
    assert facts is not None and (facts.n, facts.mean) == (2, pytest.approx(12.01))
    all_struck = Reading(id="r", name="rim", takes=(Take(value=1.0, struck="no"),))
    assert reading_facts(all_struck) is None


def test_few_takes_borrow_the_spread_of_the_instrument_s_other_readings():
    many = [measured(*(20 + k + d for d in (0, 0.02, -0.02, 0.01)), id=f"r{k}", name=f"r{k}") for k in range(4)]
    lucky = measured(12.0, 12.0, id="lucky", name="lucky")
    recipe = Recipe(name="x", evidence=(*many, lucky), instruments=(TOOL,), sessions=(SESSION,))
    facts = all_readings(recipe)["lucky"]
    spread = statistics.stdev([0, 0.02, -0.02, 0.01])
    pooled = (4 * 3 * spread**2 / (4 * 3 + 1)) ** 0.5
    assert facts.s == 0 and facts.pooled == 5
    assert facts.type_a == pytest.approx(pooled / 2**0.5)


def test_ways_of_measuring_are_compared_before_they_are_pooled():
    takes = [Take(value=v, method="jaws") for v in (8.00, 8.01, 8.02)]
    takes += [Take(value=v, method="depth rod") for v in (8.20, 8.21, 8.19)]
    facts = reading_facts(Reading(id="r", name="depth", takes=tuple(takes)))
    assert facts is not None and not facts.agree
    jaws, rod = facts.methods
    # 0.19 apart, each mean known to 0.01 / sqrt(3).
    assert rod.apart == pytest.approx(0.19 / (0.01 * (2 / 3) ** 0.5), rel=1e-6) and jaws.apart == pytest.approx(
        -rod.apart
    )
    one_way = reading_facts(Reading(id="r", name="depth", takes=tuple(takes[:3])))
    assert one_way is not None and one_way.agree and one_way.methods[0].apart is None


def test_a_take_that_stands_apart_is_pointed_out():
    assert outliers([12.01, 12.02, 12.01, 12.90, 12.00], resolution=0.01) == (3,)
    assert outliers([12.01, 12.01, 12.01, 12.02], resolution=0.01) == ()
    assert outliers([12.01, 12.5], resolution=0.01) == ()


def test_what_a_drawing_states_is_its_uncertainty():
    facts = reading_facts(
        Reading(id="r", name="rim", takes=(Take(value=40, method="drawing"),), source="drawing", tolerance_mm=0.1)
    )
    assert facts is not None and facts.u == pytest.approx(0.1 / 3**0.5)


def test_a_span_says_what_one_gap_is():
    facts = reading_facts(Reading(id="r", name="span", takes=(Take(value=21.0),), measures="span", over=7))
    assert facts is not None and facts.each == pytest.approx(3.0)
