"""Checks, geometry, verdicts."""
