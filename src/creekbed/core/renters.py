"""What may be known of the next renter."""

RENTERS = {"": "not known", "young_child": "a young child", "beginner": "a beginner", "same": "the same renter again"}
"""Key → words."""
