"""What hangs on the bench: drivers over standard libraries, and simulated devices that speak the same way."""
