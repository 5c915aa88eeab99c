"""Open formats in: read with limits, checked, and given on as plain values."""
