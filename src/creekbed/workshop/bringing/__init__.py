"""Lists of a shop, brought from files: read, understood row by row, shown, then taken over at once or not at all."""
