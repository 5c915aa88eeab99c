"""Mixes, contact times, what may touch what."""
