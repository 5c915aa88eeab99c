"""One script for each revision."""
