"""One job: case, checks, steps, release."""
