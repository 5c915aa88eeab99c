"""An instrument comes back: booking in, contents, condition, photographs, acclimatisation."""
