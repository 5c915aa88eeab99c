"""Planning: the problem, plans, how they are made and improved, and their reasons."""
