"""Stock."""
