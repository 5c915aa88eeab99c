"""Stock, mixes, and parts on their way."""
