"""A solid put together from the regions of a modelled mesh: a face over each, trimmed by its neighbours."""

from contour.solid.of_regions.build import OpenPlace, RegionSolid, solid_of_regions
from contour.solid.of_regions.covers import Covers, covers_of
from contour.solid.of_regions.patches import Known, Sheet, sheet_of

__all__ = ["Covers", "Known", "OpenPlace", "RegionSolid", "Sheet", "covers_of", "sheet_of", "solid_of_regions"]
