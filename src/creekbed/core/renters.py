"""What may be known of the next renter."""

RENTERS = {
    "": "not known",
    "young_child": "a young child",
    "beginner": "a beginner",
    "same": "the same renter again",
    "new_stock": "nobody yet: new stock, to be commissioned",
}
"""Key → words."""
