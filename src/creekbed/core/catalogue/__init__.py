"""Families, parts, materials, agents, procedures, schools: typed models and the TOML they read."""
