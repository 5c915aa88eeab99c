"""Alembic's scripts, from the first version on."""
