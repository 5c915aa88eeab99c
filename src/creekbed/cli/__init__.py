"""The same use cases from a shell: one file for each group of commands."""
