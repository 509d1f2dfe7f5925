"""Names as formulas write them."""

from __future__ import annotations

import re

from contour.recipe.formula import RESERVED

__all__ = ["formula_name", "slug"]


def slug(name: str) -> str:
    """A step's name as formulas write it.

    >>> slug("Base plate (2nd)")
    'base_plate_2nd'
    """
    text = re.sub(r"\W+", "_", name.lower()).strip("_")
    return f"_{text}" if not text or text[0].isdigit() else text


def formula_name(name: str) -> str:
    """A name that formulas can hold."""
    if not re.fullmatch(r"[^\W\d]\w*", name) or name in RESERVED:
        raise ValueError("a name needs letters, digits and _ only, a letter first, and must not be a unit or function")
    return name
