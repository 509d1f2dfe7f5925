"""Whole-scan segmentation: which facets belong to one surface, and what it is."""
