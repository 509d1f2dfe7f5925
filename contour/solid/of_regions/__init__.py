"""A solid of a mesh's regions: every region's surface, trimmed by its neighbours along the borders that the mesh has between them."""

from contour.solid.of_regions.build import OpenPlace, RegionSolid, solid_of_regions

__all__ = ["OpenPlace", "RegionSolid", "solid_of_regions"]
