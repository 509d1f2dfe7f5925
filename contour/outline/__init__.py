"""Sections and shadows of scans explained by lines, arcs, ellipses and free pieces."""
