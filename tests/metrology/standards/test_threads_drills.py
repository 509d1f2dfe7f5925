"""Against printed figures of ISO 724, ISO 965-2, ISO 273 and ASME B1.1."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from contour.metrology.standards.drills import drills, nearest_drills, preferred_near, preferred_numbers
from contour.metrology.standards.threads import nearest_threads, threads
from contour.recipe.problem import ContourError

BY_NAME = {t.designation: t for t in threads()}


# ISO 724:1993, table 1: pitch diameter, minor diameter; ISO 965-2: 6g limits of the major diameter.
@pytest.mark.parametrize(
    ("name", "pitch_diameter", "minor", "low", "high"),
    [
        ("M6x1", 5.350, 4.917, 5.794, 5.974),
        ("M8x1.25", 7.188, 6.647, 7.760, 7.972),
        ("M10x1.5", 9.026, 8.376, 9.732, 9.968),
        ("M12x1.75", 10.863, 10.106, 11.701, 11.966),
        ("M16x2", 14.701, 13.835, 15.682, 15.962),
        ("M20x2.5", 18.376, 17.294, 19.623, 19.958),
        ("M24x3", 22.051, 20.752, 23.577, 23.952),
        ("M30x3.5", 27.727, 26.211, 29.522, 29.947),
        ("M3x0.5", 2.675, 2.459, 2.874, 2.980),
        ("M30x2", 28.701, 27.835, 29.682, 29.962),
    ],
)
def test_metric_diameters(name: str, pitch_diameter: float, minor: float, low: float, high: float) -> None:
    t = BY_NAME[name]
    assert t.pitch_diameter == pytest.approx(pitch_diameter, abs=6e-4)
    assert t.minor == pytest.approx(minor, abs=6e-4)
    # The standard rounds its tolerances to the R40 series: up to 4 % of some 0.3 mm.
    assert t.made_outside == pytest.approx((low, high), abs=0.012)


@pytest.mark.parametrize(
    ("name", "major", "per_inch", "drill"),
    [
        ("1/4-20 UNC", 0.25, 20, "no. 7"),
        ("#10-32 UNF", 0.19, 32, "no. 21"),
        ("1/2-13 UNC", 0.5, 13, "27/64 inch"),
        ("3/8-16 UNC", 0.375, 16, "5/16 inch"),
        ("1-8 UNC", 1.0, 8, "7/8 inch"),
        ("1-1/2-12 UNF", 1.5, 12, "1-27/64 inch"),
        ("#4-40 UNC", 0.112, 40, "no. 44"),
        ("2-4.5 UNC", 2.0, 4.5, "1-25/32 inch"),
    ],
)
def test_unified_threads(name: str, major: float, per_inch: float, drill: str) -> None:
    t = BY_NAME[name]
    assert t.major == pytest.approx(25.4 * major) and t.per_inch == pytest.approx(per_inch)
    assert t.tap_drill.name == drill


def test_tap_drills_and_clearance_of_the_metric_series() -> None:
    """ISO 2306 tap drills; ISO 273 medium series."""
    wanted = {
        "M3x0.5": 2.5,
        "M4x0.7": 3.3,
        "M5x0.8": 4.2,
        "M6x1": 5.0,
        "M8x1.25": 6.8,
        "M10x1.5": 8.5,
        "M12x1.75": 10.2,
        "M16x2": 14.0,
    }
    for name, drill in wanted.items():
        assert BY_NAME[name].tap_drill.diameter == pytest.approx(drill, abs=0.051), name
    assert BY_NAME["M8x1.25"].clearance == (8.4, 9, 10) and BY_NAME["M8x1"].clearance == (8.4, 9, 10)


def test_every_thread_is_found_again_from_what_a_caliper_says() -> None:
    """Made to 6g, worn a little, pitch over several turns within half a percent: the right one comes first."""
    rng = np.random.default_rng(4)
    missed = []
    for t in threads():
        if t.major > 70 or t.major < 3 or "UN" in t.series[-2:]:  # the constant-pitch inch series shadow each other
            continue
        low, high = t.made_outside
        found = nearest_threads(major=rng.uniform(low, high), pitch=t.pitch * (1 + rng.uniform(-0.004, 0.004)))
        if found[0].thread.designation != t.designation:
            missed.append((t.designation, found[0].thread.designation))
    assert len(missed) <= 3, missed


def test_differences_are_measured_less_nominal() -> None:
    first = nearest_threads(major=11.85, pitch=1.74)[0]
    assert first.thread.designation == "M12x1.75"
    assert first.difference == pytest.approx(-0.15) and first.pitch_difference == pytest.approx(-0.01)


def test_a_nut_is_found_by_the_bore_between_its_crests() -> None:
    assert nearest_threads(minor=10.2, pitch=1.75)[0].thread.designation == "M12x1.75"
    assert nearest_threads(major=12.1, pitch=1.75, inside=True)[0].thread.designation == "M12x1.75"


@pytest.mark.parametrize(
    "given", [{"major": 0, "pitch": 1}, {"major": 8, "pitch": -1}, {"major": 8, "minor": 7, "pitch": 1}, {"pitch": 1}]
)
def test_nonsense_is_refused(given: dict[str, float]) -> None:
    with pytest.raises(ContourError) as error:
        nearest_threads(**given)  # type: ignore[arg-type]
    assert error.value.problem.code == "bad-params"


def test_preferred_numbers_are_the_geometric_series() -> None:
    for series in (5, 10, 20, 40):
        terms = preferred_numbers(series, 1, 9.99)
        exact = 10 ** (np.arange(series) / series)
        assert np.abs(np.array(terms) / exact - 1).max() < 0.0127  # ISO 3: the rounded terms differ by at most 1.26 %
    assert preferred_near(31.4) == (31.5, "R10")
    assert preferred_near(118.0) == (118.0, "R40")


def test_drills_come_in_order_and_by_name() -> None:
    all_of_them = drills()
    assert all(a.diameter <= b.diameter for a, b in pairwise(all_of_them))
    assert nearest_drills(6.35, system="inch")[0].name in ("1/4 inch", "E")
    assert nearest_drills(8.52, system="metric")[0].name == "8.5 mm"
