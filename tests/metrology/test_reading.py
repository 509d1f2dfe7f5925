import statistics

import pytest
from hypothesis import given
from hypothesis import strategies as st

from contour.metrology.reading import reading_facts
from contour.recipe.file import Reading, Take


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
