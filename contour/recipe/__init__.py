"""Leaf package: values, references, problems, outcomes, the step registry and the recipe file."""
