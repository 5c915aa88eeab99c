"""Creekbed: the bench companion for instrument-hire workshops."""

__version__ = "0.1.0"
