"""Facets: welding, neighbours, health, noise, slicing and the nearest-point index."""
