"""Values as they were likely stated: in round millimetres, in inches, in half degrees."""

from __future__ import annotations

__all__ = ["is_round", "stated"]

_EXACT_MM = 2e-6
_METRIC, _INCH = (0.1, 0.05, 0.01), (1 / 64, 0.005)  # steps that lengths are stated in, the usual one first


def is_round(value: float, *, angle: bool = False) -> bool:
    """mm, or degrees."""
    if angle:
        return abs(value - round(2 * value) / 2) < 1e-6
    return any(_round(v, steps) is not None for v, steps in ((value, _METRIC), (value / 25.4, _INCH)))


def stated(mm: float, system: str = "mm") -> str:
    """A length as it was likely stated: in round millimetres, in inches where only these are round, or where the whole part is.

    >>> stated(12.0), stated(9.525), stated(19.05), stated(12.7, "inch"), stated(3.1234567)
    ('12 mm', '0.375 inch', '0.75 inch', '0.5 inch', '3.1234567 mm')
    """
    ways = [(mm, _METRIC[:1], "mm"), (mm / 25.4, _INCH[:1], "inch"), (mm, _METRIC, "mm"), (mm / 25.4, _INCH, "inch")]
    if system == "inch":
        ways = [ways[1], ways[3], ways[0], ways[2]]
    for value, steps, unit in ways:
        if (near := _round(value, steps)) is not None:
            return f"{near:.10g} {unit}"
    return f"{mm:.9g} mm"


def _round(value: float, steps: tuple[float, ...]) -> float | None:
    near = (round(value / step) * step for step in steps)
    return next((float(round(n, 10)) for n in near if n > 0 and abs(n - value) <= _EXACT_MM), None)
