"""Flat drawings as files: DXF and SVG in and out."""
