"""Typed models of the catalogue, one file for each part of it."""
