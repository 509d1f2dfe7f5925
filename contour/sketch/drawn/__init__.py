"""Drawings: entities, constraints and dimensions on a plane, and where they settle."""
