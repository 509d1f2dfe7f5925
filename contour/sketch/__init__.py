"""Sketches: entities on a plane with permanent ids, and the closed profiles they make."""
