"""The job's steps, built from family, findings and policy."""
