"""The job as it stands, and doing its steps."""
