"""An axis in space."""

from __future__ import annotations

from contour.products.place import place_kind

__all__ = ["KIND"]

KIND = place_kind("axis")
