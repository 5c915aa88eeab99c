"""The reference: families, procedures, cautions and numbers."""
