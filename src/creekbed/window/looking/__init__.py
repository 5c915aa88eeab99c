"""Other ways to an answer of a check than typing it: photograph, leak test, playing, slide, valves."""
