"""Ways to answer a check other than typing: photograph, leak test, playing, slide, valves."""
