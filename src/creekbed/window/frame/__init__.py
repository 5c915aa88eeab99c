"""The frame round all pages."""
