"""Frames and motions that everything above stands on."""
