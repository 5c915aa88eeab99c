"""Families, parts, materials, agents, procedures, policies: typed models and the TOML they read."""
