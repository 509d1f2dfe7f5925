"""Usable Contour's core: from scan facets and readings to a checked, editable solid."""

__version__ = "0.1.0"
