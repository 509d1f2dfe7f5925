"""Threads: walls that wind about an axis, found in a scan and measured."""
