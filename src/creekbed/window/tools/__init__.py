"""Tools of the bench: each opens from the step that needs it, filled in, and alone."""
