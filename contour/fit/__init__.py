"""Surfaces and outlines fitted to facets."""
