"""Home: what is in hand, what runs, what leaves with which departure."""
