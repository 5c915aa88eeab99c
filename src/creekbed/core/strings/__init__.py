"""Tension, pitch, settling."""
