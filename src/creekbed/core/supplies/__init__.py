"""Consumption of supplies."""
