"""Deviation of a scan from bodies, and what the scan never saw."""
