"""Construction geometry: planes, axes and points made from others, with what their sources' uncertainty makes of them."""
