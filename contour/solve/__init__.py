"""Equations in many unknowns: solved near where they start, their rank and freedom, and what contradicts what."""
