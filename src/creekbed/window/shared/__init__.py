"""Widgets, theme and helpers that several pages share."""
