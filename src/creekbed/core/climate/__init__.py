"""Moist air and acclimatising."""
