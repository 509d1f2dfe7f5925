"""Answers about a job that change nothing."""
