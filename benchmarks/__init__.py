"""Side-by-side measurements: figures in one run, ratios rather than absolute times. Never asserted by tests."""
