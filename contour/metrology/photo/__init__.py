"""Measuring on photographs: straightening, edges, scale, repeats. Pixels are (x, y), x to the right, y down, centres at whole numbers."""
