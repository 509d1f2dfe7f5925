"""Readings and their uncertainty."""
