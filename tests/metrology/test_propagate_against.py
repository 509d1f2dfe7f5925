"""Propagation against Monte Carlo; shifts and scales against planted ones."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

import numpy as np
import pytest

from contour.metrology.against import Pair, print_correction, scale_check, zero_check
from contour.metrology.propagate import SHARED, Input, propagated
from contour.recipe.problem import ContourError

Formula = Callable[[Mapping[str, float]], float]
FORMULAS: dict[str, Formula] = {
    "half a difference": lambda v: (v["a"] - v["b"]) / 2,
    "a share": lambda v: v["a"] / 7,
    "a sum": lambda v: v["a"] + v["b"] + v["c"],
    "a product": lambda v: v["a"] * v["b"] / v["c"],
    "a root": lambda v: math.sqrt(v["a"] ** 2 - v["b"] ** 2),
    "the same twice": lambda v: v["a"] - v["a"] / 2 + v["b"],
    "the greater": lambda v: max(v["a"], v["b"]) - v["c"],
}
INPUTS = {
    "a": Input(60.0, 0.02, 0.03, "caliper"),
    "b": Input(38.0, 0.01, 0.03, "caliper"),
    "c": Input(12.0, 0.015, 0.0),
}


def drawn(rng: np.random.Generator, inputs: Mapping[str, Input]) -> dict[str, float]:
    """Own parts independent; shared parts of a group correlated by SHARED."""
    common = rng.normal()
    out = {}
    for name, i in inputs.items():
        mixed = math.sqrt(SHARED) * common + math.sqrt(1 - SHARED) * rng.normal()
        out[name] = i.value + i.own * rng.normal() + i.shared * mixed
    return out


@pytest.mark.parametrize("name", FORMULAS)
def test_agrees_with_monte_carlo_within_five_percent(name: str) -> None:
    f = FORMULAS[name]
    rng = np.random.default_rng(3)
    values = np.array([f(drawn(rng, INPUTS)) for _ in range(20_000)])
    value, u = propagated(f, INPUTS)
    assert value == pytest.approx(values.mean(), abs=4 * values.std() / math.sqrt(len(values)) + 1e-4)
    assert u == pytest.approx(values.std(), rel=0.05)


def test_a_shared_error_cancels_in_part_and_adds_up_in_part() -> None:
    pair = {"a": Input(10, 0, 0.02, "tool"), "b": Input(6, 0, 0.02, "tool")}
    _, apart = propagated(lambda v: v["a"] - v["b"], pair)
    _, together = propagated(lambda v: v["a"] + v["b"], pair)
    assert apart == pytest.approx(0.02 * math.sqrt(2 - 2 * SHARED))
    assert together == pytest.approx(0.02 * math.sqrt(2 + 2 * SHARED))


def pairs(
    rng: np.random.Generator, *, count: int, shift: float = 0.0, scale: float = 0.0, u: float = 0.006
) -> list[Pair]:
    sizes = rng.uniform(8, 120, count)
    return [
        Pair(f"r{k}", float(s + shift + rng.normal(0, u)), u, float(s * (1 + scale) + rng.normal(0, u)), u)
        for k, s in enumerate(sizes)
    ]


def test_a_forgotten_zero_is_suspected_and_a_true_one_is_not() -> None:
    rng = np.random.default_rng(8)
    found = sum(
        zero_check(pairs(rng, count=5, shift=0.05), resolution_mm=0.01, limit_mm=0.02).suspected for _ in range(300)
    )
    false = sum(zero_check(pairs(rng, count=5), resolution_mm=0.01, limit_mm=0.02).suspected for _ in range(300))
    assert found >= 270
    assert false <= 15


def test_a_scale_of_the_scan_is_not_taken_for_a_zero() -> None:
    rng = np.random.default_rng(9)
    wrong = sum(zero_check(pairs(rng, count=6, scale=0.003), resolution_mm=0.01).suspected for _ in range(200))
    assert wrong <= 10


def test_the_scale_of_a_scan_is_found_from_four_readings() -> None:
    rng = np.random.default_rng(10)
    inside = 0
    for _ in range(300):
        check = scale_check(pairs(rng, count=4, scale=0.003))
        inside += abs(check.scale - 0.003) <= 2 * check.u
        assert check.significant
        assert check.factor == pytest.approx(1 / (1 + check.scale))
    assert inside >= 0.9 * 300


def test_a_made_part_gives_a_scale_and_offsets_of_outside_and_inside() -> None:
    sizes = [(10.0, False), (40.0, False), (80.0, False), (12.0, True), (30.0, True)]
    made = [
        Pair(f"s{k}", 0.998 * s + (-0.18 if hole else 0.12), 0.01, s, 0.0, hole) for k, (s, hole) in enumerate(sizes)
    ]
    found = print_correction(made)
    assert found.scale == pytest.approx(0.998, abs=1e-6)
    assert (found.outside, found.inside) == (pytest.approx(0.12, abs=1e-5), pytest.approx(-0.18, abs=1e-5))
    assert found.rms < 1e-6 and found.u_outside is not None and found.u_outside > 0


def test_too_little_is_said_and_not_guessed() -> None:
    few = pairs(np.random.default_rng(1), count=2)
    with pytest.raises(ContourError) as error:
        zero_check(few, resolution_mm=0.01)
    assert error.value.problem.code == "too-few-points"
    with pytest.raises(ContourError):
        scale_check(few[:1])
    with pytest.raises(ContourError):
        print_correction([])
