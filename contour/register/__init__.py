"""Where a scan lies: fine alignment, best fit from any pose, datums, symmetry."""
