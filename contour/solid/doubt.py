"""Whether a file's unit is to be believed: inches written as millimetres, or the other way, cost a part."""

from __future__ import annotations

from contour.recipe.formula import LengthUnit

__all__ = ["doubted_unit"]

_INCH = 25.4
_NEAR = 1.6  # how far two sizes of one part may be apart
_SMALL_MM, _LARGE_MM = 4.0, 4000.0  # beyond, with nothing to compare to, a part is unlikely


def doubted_unit(largest_mm: float, unit_mm: float, like_mm: float | None) -> LengthUnit | None:
    """The unit that a file more likely is in than the one it says (`unit_mm`), none when that is likely enough.

    largest_mm: its largest extent as the file has it · like_mm: that of the part's scan, where there is one.

    >>> doubted_unit(4.7, 1.0, 120.0), doubted_unit(120.0, 1.0, 120.0), doubted_unit(3.0, 1.0, None)
    ('inch', None, 'inch')
    """
    if largest_mm <= 0:
        return None
    other: LengthUnit = "inch" if unit_mm == 1.0 else "mm"
    if unit_mm not in (1.0, _INCH):
        return None
    factor = _INCH if other == "inch" else 1 / _INCH
    if like_mm:
        ratio = like_mm / (largest_mm * factor)
        return other if 1 / _NEAR < ratio < _NEAR else None
    if unit_mm == 1.0:
        return other if largest_mm < _SMALL_MM else None
    return other if largest_mm > _LARGE_MM else None
