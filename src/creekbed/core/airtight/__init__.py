"""Whether a joint holds air: the pressure-decay test, and which pad it is by playing."""
