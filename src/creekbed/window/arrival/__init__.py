"""Booking in."""
