"""Meshes that were modelled, not scanned: vertices lie on their surfaces to float precision, facets are as few as the chord error asks."""

from contour.fit.modelled.mixed import mixed_regions
from contour.fit.modelled.nature import Nature, nature_of, precision_of
from contour.fit.modelled.regions import exact_regions

__all__ = ["Nature", "exact_regions", "mixed_regions", "nature_of", "precision_of"]
